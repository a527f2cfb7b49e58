package sending

import (
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
)

// Step is how far a letter is known to have come for one recipient.
type Step string

// The steps, in their order: what is further on is what is told.
const (
	StepSent      Step = "sent"      // the mail service has taken it
	StepDelayed   Step = "delayed"   // it is still being tried
	StepRelayed   Step = "relayed"   // it went on to a service that tells no more
	StepExpanded  Step = "expanded"  // it went on to the members of a list
	StepDelivered Step = "delivered" // it is in their mailbox
	StepFailed    Step = "failed"    // it never will be
	StepRead      Step = "read"      // they say that it was shown to them
)

var steps = []Step{StepSent, StepDelayed, StepRelayed, StepExpanded, StepDelivered, StepFailed, StepRead}

// Progress is how far a letter has come for one recipient, and since when.
type Progress struct {
	To     string    `json:"to"`
	Step   Step      `json:"step" enum:"sent,delayed,relayed,expanded,delivered,failed,read"`
	At     time.Time `json:"at"`
	Reason string    `json:"reason,omitempty" doc:"What the mail service says"`
}

// Report is what a report says of one recipient (RFC 3464, RFC 8098), and when it came.
type Report struct {
	letter.Reported
	At time.Time
}

// Along tells how far a letter has come for each of its recipients: by what the mail service
// said when it took it, and by the reports that came since. A report on an address that the
// letter was not sent to, which is where it was passed on to, counts for its only recipient,
// and stands by itself where there are several.
func Along(outcomes []Outcome, reports []Report) []Progress {
	var out []Progress
	for _, o := range outcomes {
		step := map[State]Step{Accepted: StepSent, Refused: StepFailed, Again: StepDelayed}[o.State]
		out = append(out, Progress{o.To, step, o.At, o.Reason})
	}
	to := len(out)
	for _, r := range reports {
		step, ok := stepOf[r.Kind]
		if !ok {
			continue
		}
		i := slices.IndexFunc(out, func(p Progress) bool { return strings.EqualFold(p.To, r.Recipient) })
		if i < 0 && to == 1 {
			i = 0
		}
		if i < 0 {
			out = append(out, Progress{r.Recipient, step, r.At, r.Reason})
			continue
		}
		if was := out[i]; slices.Index(steps, step) > slices.Index(steps, was.Step) {
			out[i] = Progress{was.To, step, r.At, r.Reason}
		}
	}
	return out
}

var stepOf = map[letter.ReportKind]Step{
	letter.Failed: StepFailed, letter.Delayed: StepDelayed, letter.Relayed: StepRelayed, letter.Expanded: StepExpanded, letter.Delivered: StepDelivered,
	letter.WasRead: StepRead,
}
