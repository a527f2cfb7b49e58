// Package decide holds the rules of deciding: what each of the seven
// decisions changes on a conversation, and what an arriving letter does to
// one that was decided.
package decide

import (
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
)

// BinDays is how long the bin keeps a conversation.
const BinDays = 30

// Return is why and when a conversation comes back.
type Return struct {
	When  when.Moment `json:"when"`
	SetAt time.Time   `json:"setAt"`
	// Since is when it was first put off in a row of put-offs.
	Since time.Time `json:"since"`
	// If is what else brings it back, or keeps it away; Spot is the place at
	// which the person must be, Who whose answer is meant, as it was typed.
	If   when.Condition `json:"if,omitempty"`
	Spot int64          `json:"spot,omitempty"`
	Who  string         `json:"who,omitempty"`
	// Due is the day by which something in a letter of the Shallows is to be done, as
	// 2006-01-02: for it the letter comes up by itself.
	Due string `json:"due,omitempty"`
}

// Back says why a conversation stands in the inbox again.
type Back struct {
	Reason BackReason `json:"reason"`
	At     time.Time  `json:"at"`
	// PutOff is when it was put away; zero if it never was.
	PutOff time.Time `json:"putOff,omitzero"`
	// Person is who did not answer, or who did.
	Person string `json:"person,omitempty"`
	// Detail says more: why a letter could not be delivered, or the day that it came up for.
	Detail string `json:"detail,omitempty"`
	// Old is the time for which it had been put off: when a letter came first,
	// it is offered again.
	Old *when.Moment `json:"old,omitempty"`
	// Since is when it was first put off in a row of put-offs, and Times how
	// often; zero if it never was.
	Since time.Time `json:"since,omitzero"`
	Times int       `json:"times,omitempty"`
}

// Rank is where in the queue a conversation stands: what came back before what
// is new since it was decided, and that before the rest (nil).
func (b *Back) Rank() int {
	switch {
	case b == nil:
		return 0
	case b.Reason == BackNew:
		return 1
	}
	return 2
}

// Awaited tells whether its owner had put it away to see it again, or has to: everything that brings a
// conversation back but a new letter.
func (b *Back) Awaited() bool { return b != nil && b.Reason != BackNew }

// BackReason is why a conversation came back.
type BackReason string

// The reasons.
const (
	BackTime     BackReason = "time"
	BackFetched  BackReason = "fetched"
	BackAnswer   BackReason = "answer"    // a letter came while it was put off
	BackNew      BackReason = "new"       // a letter came after it was decided
	BackNoAnswer BackReason = "no-answer" // the limit of an expectation passed
	BackFailed   BackReason = "failed"    // a letter of mine could not be delivered
	BackSpot     BackReason = "spot"      // the person is at the place it waited for
	BackNoSpot   BackReason = "no-spot"   // that place was taken off the list
	BackLook     BackReason = "look"      // someday letters are looked through
	BackDue      BackReason = "due"       // a day that was found in a letter of the Shallows is near
)

// State is what the rules need to know of a conversation.
type State struct {
	ID      int64
	Place   Place
	Return  *Return
	Back    *Back
	PutOffs int
	// Last is the newest letter let in; Decided the last one that was seen
	// when the conversation was last decided.
	Last, Decided int64
	// Version names the last change of place or return; 0 before there was one.
	Version int64
	Labels  []string
	// Quiet keeps it in the archive when letters come, unless one is to the
	// person alone.
	Quiet bool
	// Sorted tells that all of its letters are sorted out: none of them would stand in the
	// inbox by itself.
	Sorted bool
	// Note and WorkingTitle are the person's own.
	Note, WorkingTitle string
}

// Decision is a decision to be made on a conversation.
type Decision struct {
	Kind Kind
	At   time.Time
	// Saw is the last letter the person had seen of it.
	Saw int64
	// When is set for PutOff, or when an Answer or Follow up also puts off.
	When *when.Moment
	// If, Spot and Who complete it, as in Return.
	If   when.Condition
	Spot int64
	Who  string
	// Stay leaves the conversation where it is (Answer, Follow up).
	Stay bool
	// Labels are added (File).
	Labels []string
}

// Decide computes what a decision changes. A letter let in after the last one
// seen is not covered by it: then the conversation stays in (or comes back to)
// the inbox as new since the decision.
func Decide(s State, d Decision) change.List {
	var out change.List
	place := destination(s, d)
	var back *Back
	var ret *Return
	putOffs := 0
	switch {
	case overlooks(s, d) && s.liesSorted():
		place, ret = Shallows, s.Return
	case Misses(s, d):
		place, back = Inbox, &Back{Reason: BackNew, At: d.At}
	case place == s.Place && d.When == nil: // it stays as it stands
		back, ret, putOffs = s.Back, s.Return, s.PutOffs
	case place == Later:
		since := d.At
		putOffs = s.PutOffs + 1
		if s.Return != nil {
			since = s.Return.Since
			if earlier(*d.When, s.Return.When) {
				putOffs = s.PutOffs // a move to earlier is no putting off
			}
		} else if s.Back != nil && s.PutOffs > 0 && !s.Back.Since.IsZero() {
			since = s.Back.Since
		}
		ret = &Return{When: *d.When, SetAt: d.At, Since: since, If: d.If, Spot: d.Spot, Who: d.Who}
	case d.Kind == ToInbox && s.Place == Later:
		back = s.back(BackFetched, d.At)
		putOffs = s.PutOffs
	}
	Conversation.Place.Set(&out, s.ID, s.Place, place)
	Conversation.Return.Set(&out, s.ID, s.Return, ret)
	Conversation.Back.Set(&out, s.ID, s.Back, back)
	Conversation.PutOffs.Set(&out, s.ID, s.PutOffs, putOffs)
	if d.Saw > s.Decided {
		Conversation.Decided.Set(&out, s.ID, s.Decided, d.Saw)
	}
	for _, label := range d.Labels {
		Conversation.Labels.Field(label).Set(&out, s.ID, has(s.Labels, label), true)
	}
	return out
}

// destination is where a decision sends a conversation, if it covers all of it.
func destination(s State, d Decision) Place {
	switch {
	case d.When != nil:
		return Later
	case d.Stay:
		return s.Place
	}
	return d.Kind.About().To
}

// Misses tells whether a letter that came after the last one seen keeps a
// conversation in the inbox, as new since the decision. One that is sorted out
// keeps it in the Shallows.
func Misses(s State, d Decision) bool { return overlooks(s, d) && !s.liesSorted() }

func overlooks(s State, d Decision) bool {
	place := destination(s, d)
	return s.Last > d.Saw && d.Saw > 0 && place != Inbox && place != Junk
}

// liesSorted tells that it lies in the Shallows, with nothing in it that would not.
func (s State) liesSorted() bool { return s.Place == Shallows && s.Sorted }

// Sort computes what it changes that a conversation is sorted otherwise: undecided, it lies in
// the Shallows if it is sorted out, and stands in the inbox if not. What was decided stays
// where it is.
func Sort(s State, out bool) change.List {
	var changes change.List
	var place Place
	switch {
	case out && s.Place == Inbox:
		place = Shallows
	case !out && s.Place == Shallows:
		place = Inbox
	default:
		return changes
	}
	Conversation.Place.Set(&changes, s.ID, s.Place, place)
	Conversation.Return.Set(&changes, s.ID, s.Return, (*Return)(nil))
	Conversation.Back.Set(&changes, s.ID, s.Back, (*Back)(nil))
	return changes
}

// beforeDue is how many working days before a day that was found what lies in the Shallows comes up.
const beforeDue = 2

// ComesUp computes what it changes that a day was found in a letter of the Shallows by which
// something is to be done: it comes up two working days before, at once where that is past. A
// day that has passed brings nothing up; nor does one that is near what was just sorted out by hand,
// whose owner has seen it.
func ComesUp(s State, due when.Date, byHand bool, at time.Time, c when.Calendar) change.List {
	var changes change.List
	today := c.Today(at)
	if s.Place != Shallows || due.Before(today) || s.Return != nil && s.Return.Due <= due.String() {
		return changes
	}
	day := due
	for range beforeDue {
		for day = day.Add(-1); !c.Works(day); day = day.Add(-1) {
		}
	}
	if byHand && !day.After(today) {
		return changes
	}
	Conversation.Return.Set(&changes, s.ID, s.Return, &Return{When: when.OnDay(day, c), SetAt: at, Since: at, Due: due.String()})
	return changes
}

// Want computes what it changes that what was put away as not wanted is wanted after all:
// it is undecided again.
func Want(s State) change.List {
	var changes change.List
	place := Inbox
	if s.Sorted {
		place = Shallows
	}
	Conversation.Place.Set(&changes, s.ID, s.Place, place)
	return changes
}

// Overtaken tells whether a conversation has been decided otherwise since it was
// seen at a version; nil where that makes no difference.
func Overtaken(s State, saw *int64) bool { return saw != nil && *saw != s.Version }

// Until is the decision that puts a conversation off anew which waits for an
// answer, with another limit for that; nil waits without one.
func Until(s State, limit *when.Moment, at time.Time) Decision {
	d := Decision{Kind: PutOff, At: at, Saw: s.Last, When: limit, If: when.IfSilent}
	if s.Return != nil {
		d.Who = s.Return.Who
	}
	if limit == nil {
		d.When, d.If = &when.Moment{Precision: when.Open}, when.IfAnswered
	}
	return d
}

// often is how many times something may be put off before Ebbe asks.
const often = 2

// Often tells whether a conversation was put off so often already that Ebbe
// asks before the next time.
func Often(s State) bool { return s.PutOffs >= often }

// Asks tells whether a decision would put a conversation off once more that was
// put off often already: then Answer, Hand on, Follow up and Done are offered
// first. A move to an earlier time is no putting off.
func Asks(s State, d Decision) bool {
	if d.When == nil || !Often(s) {
		return false
	}
	return s.Return == nil || !earlier(*d.When, s.Return.When)
}

// back is why a put-off conversation comes back, with what there was to it.
func (s State) back(reason BackReason, at time.Time) *Back {
	b := &Back{Reason: reason, At: at, Times: s.PutOffs}
	if s.Return != nil {
		b.PutOff, b.Since, b.Old = s.Return.SetAt, s.Return.Since, &s.Return.When
	}
	return b
}

func has(list []string, item string) bool {
	for _, l := range list {
		if l == item {
			return true
		}
	}
	return false
}

// Quieten computes what "Quiet this conversation" changes: it stays in the
// archive from now on. One that stands in the inbox goes there.
func Quieten(s State, at time.Time, saw int64, quiet bool) change.List {
	var out change.List
	if quiet && s.Place == Inbox {
		out = Decide(s, Decision{Kind: Done, At: at, Saw: saw})
	}
	Conversation.Quiet.Set(&out, s.ID, s.Quiet, quiet)
	return out
}

// Came is a letter let in, as the rules of arrival see it.
type Came struct {
	At        time.Time
	Own       bool // from one of the owner's own addresses to somebody else
	Automatic letter.Automatic
	From      string
	// Failed is set for a permanent delivery failure of an own letter; Detail
	// says what the mail service says of it.
	Failed bool
	Detail string
	// Quiet is set for a report that needs no decision: that a letter of mine
	// was read, was delivered, or is still being tried.
	Quiet bool
	// Alone tells that the letter is to the person and to nobody else.
	Alone bool
	// Sorted tells that it is sorted out (see the package sorting): it lies in the Shallows.
	Sorted bool
	// Refused is where it lies, if it is not wanted: in the bin or in Junk.
	Refused Place
}

// Arrive computes what letters let in change on the place of their
// conversation, one after the other. From somebody else one brings the
// conversation back from archive, later and the Shallows; from the bin too, unless
// it is list or automatic mail; in junk it stays. One that is sorted out moves only
// what holds nothing else, from the archive to the Shallows. Own letters bring
// nothing back, and one that is not wanted moves nothing.
func Arrive(s State, came ...Came) change.List {
	now := s
	for _, c := range came {
		now = now.after(c)
	}
	var out change.List
	Conversation.PutOffs.Set(&out, s.ID, s.PutOffs, now.PutOffs)
	Conversation.Back.Set(&out, s.ID, s.Back, now.Back) // before it joins the queue, which is then written once
	Conversation.Place.Set(&out, s.ID, s.Place, now.Place)
	Conversation.Return.Set(&out, s.ID, s.Return, now.Return)
	return out
}

// after is the conversation after one more letter.
func (s State) after(c Came) State {
	if c.Own || c.Quiet {
		if s.Place == Nowhere {
			s.Place = Archive
		}
		return s
	}
	if c.Refused != "" {
		if s.Place == Nowhere {
			s.Place = c.Refused
		}
		return s
	}
	if c.Sorted && !c.Failed {
		if s.Place == Nowhere || s.Place == Archive && s.Sorted && !s.Quiet {
			s.Place, s.Back = Shallows, nil
		}
		return s
	}
	s.PutOffs = 0
	switch s.Place {
	case Nowhere:
		s.Place = Inbox
	case Archive, Shallows:
		if s.Quiet && !c.Alone && !c.Failed {
			return s
		}
		s.Place, s.Return = Inbox, nil
		if s.Decided > 0 || c.Failed {
			s.Back = c.back(BackNew)
		}
	case Later:
		back := c.back(BackAnswer)
		if s.Return != nil {
			back.PutOff, back.Old = s.Return.SetAt, &s.Return.When
		}
		s.Place, s.Return, s.Back = Inbox, nil, back
	case Bin:
		if !c.Automatic.Is() || c.Failed {
			s.Place, s.Back = Inbox, c.back(BackNew)
		}
	case Inbox:
		if c.Failed {
			s.Back = c.back(BackFailed)
		}
	case Junk:
	}
	return s
}

// back is why the letter brings a conversation back.
func (c Came) back(reason BackReason) *Back {
	if c.Failed {
		reason = BackFailed
	}
	return &Back{Reason: reason, At: c.At, Person: c.From, Detail: c.Detail}
}

// Due computes what the coming of a return's time changes.
func Due(s State, at time.Time) change.List {
	if s.Place == Shallows && s.Return != nil {
		return comeBack(s, &Back{Reason: BackDue, At: at, Detail: s.Return.Due})
	}
	return comeBack(s, s.back(BackTime, at))
}

// LookThrough computes what the weekly look-through changes on a someday letter.
func LookThrough(s State, at time.Time) change.List { return comeBack(s, s.back(BackLook, at)) }

// AtSpot computes what the person's coming to a place changes on a
// conversation that waited for it; gone is set when the place was taken off
// the list instead.
func AtSpot(s State, at time.Time, spot string, gone bool) change.List {
	back := s.back(BackSpot, at)
	if gone {
		back.Reason = BackNoSpot
	}
	back.Detail = spot
	return comeBack(s, back)
}

func comeBack(s State, back *Back) change.List {
	var out change.List
	if s.Place != Later && s.Place != Shallows || s.Return == nil {
		return out
	}
	Conversation.Place.Set(&out, s.ID, s.Place, Inbox)
	Conversation.Return.Set(&out, s.ID, s.Return, (*Return)(nil))
	Conversation.Back.Set(&out, s.ID, s.Back, back)
	return out
}

// Limit computes what happens to the conversation when the limit of an
// expectation passes: it comes back, unless it is junk.
func Limit(s State, at, since time.Time, person string) change.List {
	var out change.List
	if s.Place == Junk || s.Place == Nowhere {
		return out
	}
	Conversation.Place.Set(&out, s.ID, s.Place, Inbox)
	Conversation.Return.Set(&out, s.ID, s.Return, (*Return)(nil))
	back := s.back(BackNoAnswer, at)
	back.PutOff, back.Person = since, person
	Conversation.Back.Set(&out, s.ID, s.Back, back)
	return out
}

// Merge computes what joining other into s changes on s: its place is the
// inbox if either was there, else the earlier return; marks unite.
func Merge(s, other State, at time.Time) change.List {
	var out change.List
	place, ret, back := s.Place, s.Return, s.Back
	switch {
	case s.Place == Inbox || other.Place == Inbox:
		place, ret = Inbox, nil
		if back == nil {
			back = other.Back
		}
	case s.Place == Later && other.Place == Later:
		if other.Return != nil && (ret == nil || earlier(other.Return.When, ret.When)) {
			ret = other.Return
		}
	case other.Place == Later:
		place, ret = Later, other.Return
	case s.Place == Later:
	case s.Place == Shallows:
		place = besideShallows(other)
	case other.Place == Shallows:
		place = besideShallows(s)
	case s.Place == Nowhere, s.Place == Bin && other.Place == Archive:
		place = other.Place
	}
	switch {
	case place != Later && place != Shallows:
		ret = nil
	case ret == nil:
		ret = other.Return
	}
	Conversation.Place.Set(&out, s.ID, s.Place, place)
	Conversation.Return.Set(&out, s.ID, s.Return, ret)
	Conversation.Back.Set(&out, s.ID, s.Back, back)
	Conversation.PutOffs.Set(&out, s.ID, s.PutOffs, max(s.PutOffs, other.PutOffs))
	Conversation.Decided.Set(&out, s.ID, s.Decided, max(s.Decided, other.Decided))
	Conversation.Quiet.Set(&out, s.ID, s.Quiet, s.Quiet && other.Quiet)
	Conversation.Note.Set(&out, s.ID, s.Note, strings.Trim(s.Note+"\n\n"+other.Note, "\n"))
	if s.WorkingTitle == "" {
		Conversation.WorkingTitle.Set(&out, s.ID, "", other.WorkingTitle)
	}
	for _, label := range other.Labels {
		Conversation.Labels.Field(label).Set(&out, s.ID, has(s.Labels, label), true)
	}
	return out
}

// besideShallows is the place of what is joined with a conversation of the Shallows.
// What is sorted out never moves one that holds anything else.
func besideShallows(s State) Place {
	if s.Place == Archive && !s.Sorted || s.Place == Junk {
		return s.Place
	}
	return Shallows
}

func earlier(a, b when.Moment) bool {
	if a.Precision == when.Open || b.Precision == when.Open {
		return a.Precision != when.Open
	}
	return a.UTC.Before(b.UTC)
}
