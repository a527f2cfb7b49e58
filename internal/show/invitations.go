package show

import (
	"context"
	"errors"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
)

// InvitationView is the appointment in a letter, and how it stands.
type InvitationView struct {
	Kind        string        `json:"kind" enum:"invitation,answer,cancelled,event"`
	Title       string        `json:"title"`
	Words       string        `json:"words"`
	Place       string        `json:"place,omitempty"`
	Organizer   string        `json:"organizer,omitempty"`
	Reply       meeting.Reply `json:"reply,omitempty" doc:"What the person has said"`
	Answer      string        `json:"answer,omitempty" doc:"What the letter says to one's own invitation"`
	Appointment int64         `json:"appointment,omitempty"`
	Clash       string        `json:"clash,omitempty"`
	Old         bool          `json:"old,omitempty" doc:"A newer invitation has come since"`
	Recurs      string        `json:"recurs,omitempty" doc:"How it recurs, in words"`
	Next        []string      `json:"next,omitempty" doc:"The next times of a series, in words"`
	OneOf       string        `json:"oneOf,omitempty" doc:"Which one of a series is meant, in words; empty for all of it"`
	Zone        string        `json:"zone,omitempty" doc:"A zone that is not known: its times were read as one’s own"`
	Moved       bool          `json:"moved,omitempty" doc:"It was moved since one answered"`
}

// invitation reads the appointment in a letter; nil if there is none.
func (v Viewer) invitation(tx *store.Tx, l letter.Letter) (*InvitationView, error) {
	text := l.Calendar()
	if text == "" {
		return nil, nil
	}
	method, events, _, err := meeting.Parse(text, v.Cal)
	if err != nil {
		return nil, nil //nolint:nilerr // an attachment like any other
	}
	e := events[0]
	out := &InvitationView{Kind: "event", Title: e.Title, Place: e.Place, Organizer: e.Organizer.Display(), Recurs: say.RecursInWords(e.Series), Zone: e.UnknownZone}
	known, err := tx.AppointmentByUID(e.UID, e.Recurrence, v.Now)
	switch {
	case !e.Start.UTC.IsZero():
		out.Words = v.SpanWords(e.Start, e.End)
	case err == nil: // a message that names no time
		out.Title, out.Place, out.Words = known.Title, known.Place, v.SpanWords(known.Start, known.End)
	}
	if !e.Recurrence.IsZero() {
		out.OneOf = v.short(e.Recurrence)
		if e.Following {
			out.OneOf += " and all after it"
		}
	}
	if e.Series != nil {
		from := v.Now
		if e.Start.UTC.After(from) {
			from = e.Start.UTC
		}
		for _, at := range e.Series.Starts(v.Cal, from, from.Add(meeting.Reach), 3) {
			out.Next = append(out.Next, v.short(at))
		}
	}
	if err == nil {
		out.Moved = known.Reply == meeting.NoReply && !known.Mine && known.Sequence > 0 && known.Sequence == e.Sequence
		out.Appointment, out.Reply, out.Old = known.ID, known.Reply, known.Sequence > e.Sequence
	} else if !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	switch method {
	case meeting.Request:
		out.Kind = "invitation"
	case meeting.Cancel:
		out.Kind = "cancelled"
	case meeting.Answer, meeting.Counter:
		out.Kind = "answer"
		if len(e.Attendees) > 0 {
			out.Answer = e.Attendees[0].Display() + ": " + string(e.Attendees[0].Reply)
		}
		if method == meeting.Counter {
			out.Answer = l.From.Display() + " proposes " + out.Words
		}
		return out, nil
	}
	out.Clash, err = v.clash(tx, e, out.Appointment)
	return out, err
}

// RepliesView are the answers to one's own invitations that stand in the inbox.
type RepliesView struct {
	Accepted  int          `json:"accepted"`
	Declined  int          `json:"declined"`
	Tentative int          `json:"tentative"`
	On        []store.Seen `json:"on"`
}

// maxReplies bounds how many answers are looked through at once.
const maxReplies = 500

// Replies sums up the answers to invitations in the inbox, to be cleared at
// once: they are counted on their appointments already.
func (a *Show) Replies(ctx context.Context, who store.Who) (RepliesView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (RepliesView, error) {
		out := RepliesView{On: []store.Seen{}}
		ids, err := tx.InboxReplies(maxReplies)
		if err != nil || len(ids) == 0 {
			return out, err
		}
		rows, err := tx.Conversations(ids)
		if err != nil {
			return out, err
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		last := make([]int64, len(rows))
		for i, r := range rows {
			last[i] = r.LastLetter
		}
		originals, err := tx.OriginalsOf(last)
		if err != nil {
			return out, err
		}
		for _, r := range rows {
			_, events, _, err := meeting.Parse(letter.Parse(originals[r.LastLetter]).Calendar(), v.Cal)
			if err != nil || len(events[0].Attendees) != 1 {
				continue
			}
			switch events[0].Attendees[0].Reply {
			case meeting.Accepted:
				out.Accepted++
			case meeting.Declined:
				out.Declined++
			case meeting.Tentative:
				out.Tentative++
			case meeting.NoReply:
				continue
			}
			out.On = append(out.On, r.Seen())
		}
		return out, nil
	})
}

// Feed gives the person's appointments and dues as a calendar, to whoever
// knows the secret; ErrNotFound for anybody else.
func (a *Show) Feed(ctx context.Context, secret string) (string, error) {
	owner, err := a.source.FeedOwner(ctx, secret)
	if err != nil {
		return "", err
	}
	if owner == 0 {
		return "", store.ErrNotFound
	}
	return read(ctx, a, store.Own(owner), func(tx *store.Tx) (string, error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return "", err
		}
		list, err := tx.AppointmentsBetween(v.Now.AddDate(0, -3, 0), v.Now.AddDate(2, 0, 0), maxListed)
		if err != nil {
			return "", err
		}
		var events []meeting.Event
		for _, one := range list {
			if one.Reply != meeting.Declined {
				one.Attendees = nil // those invited are nobody else's business
				events = append(events, one.Event)
			}
		}
		return meeting.Write("", events, v.Cal, v.Now), nil
	})
}

// FeedView is where other calendars read the person's appointments.
type FeedView struct {
	Path string `json:"path" doc:"Below Ebbe's own address; empty where there is none"`
}

// FeedAddress gives the address of the calendar.
func (a *Show) FeedAddress(ctx context.Context, who store.Who) (FeedView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (FeedView, error) {
		p, err := tx.Person()
		if err != nil || p.Feed == "" {
			return FeedView{}, err
		}
		return FeedView{Path: "/feed/" + p.Feed + ".ics"}, nil
	})
}
