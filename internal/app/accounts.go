package app

import (
	"context"
	"slices"
	"strings"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// AccountFields are the fields of an account that can be set; nil leaves one.
type AccountFields struct {
	Name, Label, Signature, Colour, Shape *string
	Position                              *int
	// Markdown tells whether letters are written as such; SizeLimit is how large one may be,
	// in bytes as it is sent.
	Markdown  *bool
	SizeLimit *int64
	// More are all signatures beside the usual one, SendAs all addresses beside the account's own.
	More   *[]letter.Signature
	SendAs *[]string
	// Alive lays an account aside, or takes it up again.
	Alive *bool
}

// maxSignature bounds a signature, in characters.
const maxSignature = 4000

// NewAccount makes an account for an address of the owner's.
func (a *App) NewAccount(ctx context.Context, who store.Who, command, address string, f AccountFields) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "account", Title: "New account " + address}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		checked, err := letter.CheckAddress(address)
		if err != nil {
			return Decided{}, work.Invalid("address", "%v. No account was made.", err)
		}
		accounts, err := s.Accounts()
		if err != nil {
			return Decided{}, err
		}
		if slices.ContainsFunc(accounts, func(x store.Account) bool { return strings.EqualFold(x.Address, checked.Email) }) {
			return Decided{}, work.Invalid("address", "%s is one of your accounts already.", checked.Email)
		}
		if taken, err := s.AddressTaken(checked.Key()); err != nil || taken {
			if taken {
				err = work.Invalid("address", "%s belongs to somebody else here. No account was made.", checked.Email)
			}
			return Decided{}, err
		}
		made := store.Account{Address: checked.Email, Name: accounts[0].Name, Label: checked.Email, Position: len(accounts)}
		if f.Name != nil && strings.TrimSpace(*f.Name) != "" {
			made.Name = strings.TrimSpace(*f.Name)
		}
		id, err := s.AddAccount(made, false)
		if err != nil {
			return Decided{}, err
		}
		var changes change.List
		kinds.Account.Alive.Set(&changes, id, false, true)
		if err := s.Change(changes); err != nil {
			return Decided{}, err
		}
		return Decided{Entry: s.ID, Title: s.Title}, s.editAccount(id, f)
	})
}

// EditAccount changes an account.
func (a *App) EditAccount(ctx context.Context, who store.Who, command string, id int64, f AccountFields) (Decided, error) {
	cmd := work.Command{ID: command, Who: who, Actor: work.ByPerson, Kind: "account"}
	return run(ctx, a, cmd, func(s *step) (Decided, error) {
		err := s.editAccount(id, f)
		return Decided{Entry: s.ID, Title: s.Title}, err
	})
}

func (s *step) editAccount(id int64, f AccountFields) error {
	account, alive, err := s.Account(id)
	if err != nil {
		return work.Gone("That account is no longer there.")
	}
	if s.Title == "" {
		s.Title = "Changed the account " + account.Address
	}
	if f.Name != nil && strings.TrimSpace(*f.Name) == "" {
		return work.Invalid("name", "An account needs a name: it stands on the letters that you send.")
	}
	if f.Signature != nil && len([]rune(*f.Signature)) > maxSignature {
		return work.Invalid("signature", "The signature is longer than %d characters. It was not changed.", maxSignature)
	}
	if f.SizeLimit != nil && (*f.SizeLimit < writing.LeastLimit || *f.SizeLimit > writing.MostLimit) {
		return work.Invalid("sizeLimit", "A letter may have from %d to %d MB.", writing.LeastLimit>>20, writing.MostLimit>>20)
	}
	if f.Colour != nil && !slices.Contains(store.Colours, *f.Colour) || f.Shape != nil && !slices.Contains(store.Shapes, *f.Shape) {
		return work.Invalid("colour", "There is no such colour or shape.")
	}
	if f.Alive != nil && !*f.Alive {
		accounts, err := s.Accounts()
		if err != nil {
			return err
		}
		if len(accounts) == 1 {
			return work.Refuse("This is your last account. Ebbe needs one.")
		}
		s.Title = "Laid the account " + account.Address + " aside"
	}
	var changes change.List
	set := func(field change.Field[string], was string, now *string) {
		if now != nil {
			field.Set(&changes, account.ID, was, strings.TrimRight(*now, " \t\n"))
		}
	}
	set(kinds.Account.Name, account.Name, f.Name)
	set(kinds.Account.Label, account.Label, f.Label)
	set(kinds.Account.Signature, account.Signature, f.Signature)
	set(kinds.Account.Colour, account.Colour, f.Colour)
	set(kinds.Account.Shape, account.Shape, f.Shape)
	if f.Markdown != nil {
		kinds.Account.Markdown.Set(&changes, account.ID, account.Markdown, *f.Markdown)
	}
	if f.SizeLimit != nil {
		kinds.Account.SizeLimit.Set(&changes, account.ID, account.SizeLimit, *f.SizeLimit)
	}
	if f.Alive != nil {
		kinds.Account.Alive.Set(&changes, account.ID, alive, *f.Alive)
	}
	if f.More != nil {
		kept, err := signatures(*f.More)
		if err != nil {
			return err
		}
		kinds.Account.Signatures.Set(&changes, account.ID, account.More, kept)
	}
	if f.SendAs != nil {
		kept, err := s.sendAs(account, *f.SendAs)
		if err != nil {
			return err
		}
		kinds.Account.SendAs.Set(&changes, account.ID, account.SendAs, kept)
	}
	if err := s.Change(changes); err != nil || f.Position == nil {
		return err
	}
	return s.moveAccount(id, *f.Position)
}

// mostSignatures is how many further signatures, and addresses to send as, an account has.
const mostSignatures = 20

func signatures(typed []letter.Signature) ([]letter.Signature, error) {
	out := []letter.Signature{}
	for _, one := range typed {
		name, err := newName("signature", one.Name, func(name string) bool {
			return slices.ContainsFunc(out, func(o letter.Signature) bool { return strings.EqualFold(o.Name, name) })
		})
		if err != nil {
			return nil, err
		}
		if len([]rune(one.Text)) > maxSignature {
			return nil, work.Invalid("signature", "The signature is longer than %d characters. It was not changed.", maxSignature)
		}
		out = append(out, letter.Signature{Name: name, Text: strings.TrimRight(one.Text, " \t\n")})
	}
	if len(out) > mostSignatures {
		return nil, work.Invalid("signature", "An account has up to %d further signatures.", mostSignatures)
	}
	return out, nil
}

// sendAs checks addresses to send as: they are nobody else's here.
func (s *step) sendAs(account store.Account, typed []string) ([]letter.Address, error) {
	own, err := s.OwnAddresses()
	if err != nil {
		return nil, err
	}
	out := []letter.Address{}
	for _, one := range typed {
		a, err := letter.CheckAddress(one)
		if err != nil {
			return nil, work.Invalid("sendAs", "%v. Nothing was changed.", err)
		}
		at, mine := own[a.Key()]
		if mine && at != account.ID || strings.EqualFold(a.Email, account.Address) {
			return nil, work.Invalid("sendAs", "%s is one of your addresses already.", a.Email)
		}
		if !mine {
			if taken, err := s.AddressTaken(a.Key()); err != nil || taken {
				if taken {
					err = work.Invalid("sendAs", "%s belongs to somebody else here. Nothing was changed.", a.Email)
				}
				return nil, err
			}
		}
		if !slices.ContainsFunc(out, func(o letter.Address) bool { return o.Key() == a.Key() }) {
			out = append(out, a)
		}
		if err := s.ClaimAddress(a, account.ID); err != nil {
			return nil, err
		}
	}
	if len(out) > mostSignatures {
		return nil, work.Invalid("sendAs", "An account has up to %d further addresses.", mostSignatures)
	}
	return out, nil
}

// moveAccount gives an account a place among the others; the first is the
// usual one to write from.
func (s *step) moveAccount(id int64, to int) error {
	accounts, err := s.Accounts()
	if err != nil {
		return err
	}
	at := slices.IndexFunc(accounts, func(a store.Account) bool { return a.ID == id })
	if at < 0 {
		return nil
	}
	moved := accounts[at]
	rest := slices.Delete(slices.Clone(accounts), at, at+1)
	order := slices.Insert(rest, min(max(to, 0), len(rest)), moved)
	var changes change.List
	for i, a := range order {
		kinds.Account.Position.Set(&changes, a.ID, a.Position, i)
	}
	return s.Change(changes)
}
