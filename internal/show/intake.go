package show

import (
	"context"
	"strings"

	"ebbe.example/ebbe/internal/store"
)

// IntakeView is the person's own intake address. What is forwarded to it
// becomes a follow-up; what is sent to a time at its domain comes back then.
type IntakeView struct {
	Address string   `json:"address" doc:"Empty before there is one"`
	Times   []string `json:"times" doc:"Examples of addresses that carry a time"`
}

// IntakeName is the local part that makes a follow-up.
const IntakeName = "follow"

func intakeView(tx *store.Tx) (IntakeView, error) {
	out := IntakeView{Times: []string{}}
	p, err := tx.InboxSettings()
	if err != nil || p.Intake == "" {
		return out, err
	}
	accounts, err := tx.Accounts()
	if err != nil || len(accounts) == 0 {
		return out, err
	}
	_, domain, _ := strings.Cut(accounts[0].Address, "@")
	host := p.Intake + "." + domain
	out.Address = IntakeName + "@" + host
	for _, t := range []string{"fri-1400", "tomorrow", "3d", "next-week"} {
		out.Times = append(out.Times, t+"@"+host)
	}
	return out, nil
}

// Intake gives the intake address.
func (a *Show) Intake(ctx context.Context, who store.Who) (IntakeView, error) {
	return read(ctx, a, who, intakeView)
}
