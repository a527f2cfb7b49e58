package show

import (
	"context"
	"time"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/review"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// DeliveryView is all there is to see of delivery, for an account or for all.
type DeliveryView struct {
	Gate          GateView       `json:"gate"`
	Held          int            `json:"held"`
	Plan          PlanView       `json:"plan"`
	Accounts      []PlanAccount  `json:"accounts"`
	Next          []NextDelivery `json:"next"`
	Early         int            `json:"early" doc:"How often mail was let in early this week"`
	Past          []PastPlan     `json:"past" doc:"The last plans, the newest first"`
	Through       []ThroughView  `json:"through"`
	Note          delivery.Note  `json:"note"`
	Noted         []store.Noted  `json:"noted" doc:"Who got a holding note, and when"`
	Notifications Notifications  `json:"notifications"`
	// Let are the letters that were let through in the last week.
	Let []store.LetThrough `json:"let"`
}

// PlanView is a plan with its text and what is to be said of it.
type PlanView struct {
	Plan  delivery.Plan    `json:"plan"`
	Text  string           `json:"text"`
	Moved []delivery.Moved `json:"moved" doc:"Rounds that come later, since they lie in held time"`
	// Own tells that the account has its own plan, not the common one.
	Own bool `json:"own,omitempty"`
}

// PlanAccount is an account as far as planning goes.
type PlanAccount struct {
	ID    int64  `json:"id"`
	Label string `json:"label"`
	Own   bool   `json:"own" doc:"It has its own plan"`
}

// PastPlan is a plan that was in force, or is.
type PastPlan struct {
	ID      int64         `json:"id"`
	Words   string        `json:"words" doc:"When it was made"`
	Text    string        `json:"text"`
	Plan    delivery.Plan `json:"plan"`
	InForce bool          `json:"inForce"`
}

// NextDelivery is a delivery to come.
type NextDelivery struct {
	At    time.Time `json:"at"`
	Words string    `json:"words"`
	// Waiting are the letters that wait for it, Expected how many more are
	// likely to come by then.
	Waiting  int     `json:"waiting"`
	Expected float64 `json:"expected"`
}

func planView(p delivery.Plan) PlanView {
	p = p.Tidy()
	return PlanView{Plan: p, Text: p.String(), Moved: OrEmpty(p.MovedRounds())}
}

// commonPlan is the plan of the inbox in force.
func commonPlan(tx *store.Tx) (delivery.Plan, error) {
	p, err := tx.InboxSettings()
	if err != nil || p.PlanID == 0 {
		return delivery.Plan{}, err
	}
	now, err := tx.Plans(1, p.PlanID)
	if err != nil || len(now) == 0 {
		return delivery.Plan{}, err
	}
	return now[0].Value, nil
}

// Delivery shows delivery for an account, or the common plan (0).
func (a *Show) Delivery(ctx context.Context, who store.Who, account int64) (DeliveryView, error) {
	return read(ctx, a, who, func(tx *store.Tx) (out DeliveryView, err error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		g, err := gate.For(tx, account)
		if err != nil {
			return out, err
		}
		if out.Gate, err = v.gate(tx); err != nil {
			return out, err
		}
		var shown []int64 // all
		if account != 0 {
			out.Gate, shown = v.gateView(g, account), []int64{account}
		}
		if out.Held, err = tx.CountHeld(shown); err != nil {
			return out, err
		}
		inbox, err := tx.InboxSettings()
		if err != nil {
			return out, err
		}
		out.Note, out.Notifications, out.Accounts, out.Past = HoldingNote(inbox), notifications(v.Person), []PlanAccount{}, []PastPlan{}
		inForce := inbox.PlanID
		accounts, err := tx.Accounts()
		if err != nil {
			return out, err
		}
		own := false
		for _, one := range accounts {
			out.Accounts = append(out.Accounts, PlanAccount{one.ID, one.Label, one.PlanID >= 0})
			if one.ID == account && one.PlanID >= 0 {
				inForce, own = one.PlanID, true
			}
		}
		plans, err := tx.Plans(12)
		if err != nil {
			return out, err
		}
		out.Plan = planView(delivery.Plan{})
		for _, p := range plans {
			out.Past = append(out.Past, PastPlan{p.ID, v.short(p.MadeAt), p.Value.String(), p.Value, p.ID == inForce})
		}
		if now, err := tx.Plans(1, inForce); err == nil && len(now) > 0 {
			out.Plan = planView(now[0].Value)
		}
		out.Plan.Own = own
		gate, o := g.Of(account)
		if out.Next, err = v.deliveries(tx, gate, o, g.Under(account)); err != nil {
			return out, err
		}
		early, err := tx.EarlyOpenings(v.Cal.Begins(v.Cal.WeekEnd(v.Cal.Today(v.Now)).Add(-6)))
		if err != nil {
			return out, err
		}
		out.Early = int(early)
		list, err := tx.Throughs(v.Now)
		if err != nil {
			return out, err
		}
		out.Through = []ThroughView{}
		for _, t := range list {
			out.Through = append(out.Through, v.through(t))
		}
		noted, err := tx.NotesSent(50)
		if err != nil {
			return out, err
		}
		out.Noted = OrEmpty(noted)
		let, err := tx.LetThroughSince(v.Now.AddDate(0, 0, -7), 50)
		out.Let = OrEmpty(let)
		return out, err
	})
}

// deliveries are the next five, with what waits for some accounts (all, if
// nil) and what is expected for them by then.
func (v Viewer) deliveries(tx *store.Tx, gate *delivery.Gate, o delivery.OneOff, accounts []int64) ([]NextDelivery, error) {
	in, _, err := v.flows(tx)
	if err != nil {
		return nil, err
	}
	share, err := tx.ShareOf(accounts, v.Cal.Begins(v.Cal.Today(v.Now).Add(-7*review.Weeks)))
	if err != nil {
		return nil, err
	}
	held, err := tx.CountHeld(accounts)
	if err != nil {
		return nil, err
	}
	out, from := []NextDelivery{}, v.Now
	for _, at := range gate.Deliveries(v.Now, o, 5) {
		d := NextDelivery{At: at, Words: v.short(at), Waiting: held}
		held = 0
		if !gate.HasRounds() {
			// Where mail flows in between, only what comes in held time waits.
			for from.Before(at) && gate.State(from, o).Open {
				from = from.Add(review.Quarter)
			}
		}
		d.Expected = share * in.Between(from, at, v.Cal.Today(v.Now), v.Cal.Zone)
		from = at
		out = append(out, d)
	}
	return out, nil
}

// PlanDraft is a plan as it is edited: as values, or as text.
type PlanDraft struct {
	Plan *delivery.Plan
	Text *string
}

// Read understands the draft, whether it is text or a plan.
func (d PlanDraft) Read() (delivery.Plan, error) {
	if d.Text != nil {
		p, err := delivery.ReadPlan(*d.Text)
		if err != nil {
			return p, work.Invalid("text", "%s", say.Sentence(err))
		}
		return p, nil
	}
	if d.Plan == nil {
		return delivery.Plan{}.Tidy(), nil
	}
	return d.Plan.Tidy(), nil
}

// PlanPreview is what a draft would do.
type PlanPreview struct {
	PlanView
	Problem string         `json:"problem,omitempty" doc:"Why it can’t be put in force"`
	Gate    string         `json:"gate" doc:"How delivery would stand now, in words"`
	Next    []NextDelivery `json:"next"`
	Replay  ReplayView     `json:"replay"`
}

// PreviewPlan shows a draft with its effects before it is put in force.
func (a *Show) PreviewPlan(ctx context.Context, who store.Who, account int64, draft PlanDraft) (PlanPreview, error) {
	return read(ctx, a, who, func(tx *store.Tx) (out PlanPreview, err error) {
		v, err := a.Viewer(tx)
		if err != nil {
			return out, err
		}
		p, err := draft.Read()
		if err != nil {
			return out, err
		}
		out.PlanView, out.Next = planView(p), []NextDelivery{}
		g, err := gate.For(tx, account)
		if err != nil {
			return out, err
		}
		_, o := g.Of(account)
		gate := delivery.NewGate(p, v.Cal)
		if err := p.Check(v.Cal); err != nil {
			out.Problem = say.Sentence(err)
		} else if out.Next, err = v.deliveries(tx, gate, o, g.Under(account)); err != nil {
			return out, err
		}
		s := gate.State(v.Now, o)
		out.Gate = stateInWords(s, v)
		out.Replay, err = v.replay(tx, gate, g.Under(account))
		return out, err
	})
}

func stateInWords(s delivery.State, v Viewer) string {
	switch {
	case s.Open && s.Until.IsZero():
		return "Open now."
	case s.Open:
		return "Open now, until " + v.short(s.Until) + "."
	case s.Next.IsZero():
		return "Held now, until you let it in."
	}
	return "Held now, until " + v.short(s.Next) + "."
}
