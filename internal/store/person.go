package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
)

// Person is somebody who uses Ebbe. Minutes are minutes after midnight;
// Workdays has one bit a weekday, Sunday the lowest.
type Person struct {
	ID        int64
	Name      string
	SignIn    string
	Password  string // argon2id, or "" in the demo
	Zone      string
	WeekStart int
	DayTurn   int
	DayStart  int
	DayEnd    int
	Workdays  int
	// Evening is 0 for the usual one; NamedTimes is a JSON list of when.Named,
	// "" for the usual ones.
	Evening    int
	MonthFirst bool
	NamedTimes string
	// Share of the free time that is planned with, in percent.
	Share int
	// SendDelay is how long a letter waits before it leaves, in seconds.
	SendDelay int
	// SpotID is where the person is; 0 for nowhere in particular.
	SpotID int64
	// LookDay is the day of the week on which LookCount someday letters come up.
	LookDay, LookCount int
	// Weights of the order of follow-ups (JSON), "" for the usual ones; Intake is
	// the secret part of the intake address, "" before there is one.
	Weights, Intake string
	// Feed is the secret part of the address of the person's calendar.
	Feed string
	// PlanID is the delivery plan in force; 0 for none. HoldingNote and Notices
	// are JSON, "" for the usual.
	PlanID               int64
	HoldingNote, Notices string
}

// Object names the person in changes.
func (p Person) Object() change.Object { return kinds.Person.Of(p.ID) }

// Calendar is how the person's days and weeks run.
func (p Person) Calendar() when.Calendar {
	zone, err := time.LoadLocation(p.Zone)
	if err != nil {
		zone = time.UTC
	}
	c := when.Calendar{
		Zone: zone, WeekStart: time.Weekday(p.WeekStart), DayTurn: when.Minute(p.DayTurn),
		DayStart: when.Minute(p.DayStart), DayEnd: when.Minute(p.DayEnd), Evening: when.Minute(p.Evening), MonthFirst: p.MonthFirst, Named: when.UsualTimes,
	}
	if p.NamedTimes != "" {
		var named []when.Named
		if json.Unmarshal([]byte(p.NamedTimes), &named) == nil {
			c.Named = named
		}
	}
	for d := range c.Workdays {
		c.Workdays[d] = p.Workdays&(1<<d) != 0
	}
	return c
}

const personColumns = "id, name, sign_in, password, zone, week_start, day_turn, day_start, day_end, workdays, evening, month_first, named_times, share, send_delay, spot_id, look_day, look_count, weights, intake, feed, plan_id, holding_note, notices"

// People lists everybody. A system query: it is how sign-in finds its person.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	return all[Person](s.reader.WithContext(ctx).Raw("SELECT " + personColumns + " FROM people ORDER BY id"))
}

// AddPerson makes a person with one account for each address, the first one
// the usual one, and gives them at their own inbox.
func (s *Store) AddPerson(ctx context.Context, p Person, accounts []Account, at time.Time) (Who, error) {
	return s.addPerson(ctx, p, accounts, at, false)
}

// ErrNotFirst is returned where there is somebody already.
var ErrNotFirst = errors.New("there is an owner already")

// AddFirstPerson makes the owner of a new Ebbe, once.
func (s *Store) AddFirstPerson(ctx context.Context, p Person, accounts []Account, at time.Time) (Who, error) {
	return s.addPerson(ctx, p, accounts, at, true)
}

func (s *Store) addPerson(ctx context.Context, p Person, accounts []Account, at time.Time, first bool) (Who, error) {
	err := s.Write(ctx, Who{}, func(tx *Tx) error {
		n, err := tx.firstID("SELECT count(*) FROM people")
		if err == nil && first && n > 0 {
			err = ErrNotFirst
		}
		if err != nil {
			return err
		}
		for _, a := range accounts {
			if taken, err := tx.AddressTaken(letter.Address{Email: a.Address}.Key()); err != nil || taken {
				return errors.Join(err, fmt.Errorf("%s belongs to somebody already", a.Address))
			}
		}
		id, err := tx.insertReturning("INSERT INTO people (name, sign_in, password, zone, made_at) VALUES (?, ?, ?, ?, ?)",
			p.Name, p.SignIn, p.Password, p.Zone, millis(at))
		if err != nil {
			return err
		}
		p.ID = id
		for i, a := range accounts {
			a.Position = i
			if _, err := (&Tx{db: tx.db, who: Nobody(id)}).AddAccount(a, true); err != nil {
				return err
			}
		}
		return nil
	})
	return Own(p.ID), err
}

// Person is whose days, weeks and words apply (see Who.Settings).
func (tx *Tx) Person() (Person, error) {
	return one[Person](tx.db.Raw("SELECT "+personColumns+" FROM people WHERE id = ?", tx.who.Settings()))
}

// InboxSettings are those of the inbox itself, whoever acts: its plan of delivery, its
// holding note, its intake address.
func (tx *Tx) InboxSettings() (Person, error) {
	return one[Person](tx.db.Raw("SELECT "+personColumns+" FROM people WHERE id = ?", tx.who.Inbox))
}

// Account is an address of the owner's, with its signature.
type Account struct {
	ID        int64  `json:"id"`
	Address   string `json:"address"`
	Name      string `json:"name"`
	Label     string `json:"label" doc:"What the person calls it"`
	Signature string `json:"signature"`
	// Block is what ends a letter from this account.
	Block    string `json:"block" gorm:"-" doc:"What ends a letter from this account: its signature with a line above"`
	Position int    `json:"position"`
	Colour   string `json:"colour" enum:"tide,kelp,heather,lamp,buoy,deep"`
	Shape    string `json:"shape" enum:"circle,square,hexagon,drop,cross,bar"`
	// PlanID is the account's own delivery plan: 0 where its mail flows, -1 for
	// the common plan.
	PlanID int64 `json:"-"`
}

// Object names the account in changes.
func (a Account) Object() change.Object { return kinds.Account.Of(a.ID) }

// Accounts lists the owner's accounts in their order.
func (tx *Tx) Accounts() ([]Account, error) {
	return all[Account](tx.db.Raw("SELECT id, address, name, label, signature, position, colour, shape, plan_id FROM accounts WHERE owner = ? AND alive = 1 ORDER BY position, id", tx.who.Inbox))
}

// Colours and Shapes by which accounts are told apart, in the order in which
// new ones take them.
var (
	Colours = []string{"tide", "heather", "kelp", "lamp", "buoy", "deep"}
	Shapes  = []string{"circle", "square", "hexagon", "drop", "cross", "bar"}
)

// AddAccount makes an account, alive or to be brought to life by a change. An
// address that was laid aside is taken up again.
func (tx *Tx) AddAccount(a Account, alive bool) (int64, error) {
	if a.Colour == "" {
		a.Colour, a.Shape = Colours[a.Position%len(Colours)], Shapes[a.Position%len(Shapes)]
	}
	key := letter.Address{Email: a.Address}.Key()
	id, err := tx.firstID("SELECT account_id FROM own_addresses WHERE owner = ? AND address = ?", tx.who.Inbox, key)
	if err != nil || id != 0 {
		return id, err
	}
	id, err = tx.insertReturning("INSERT INTO accounts (owner, address, name, label, signature, position, colour, shape, alive) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
		tx.who.Inbox, a.Address, a.Name, a.Label, a.Signature, a.Position, a.Colour, a.Shape, alive)
	if err != nil {
		return 0, err
	}
	return id, tx.exec("INSERT INTO own_addresses (owner, address, account_id) VALUES (?, ?, ?)", tx.who.Inbox, key, id)
}

// Account is one account by its id, alive or not.
func (tx *Tx) Account(id int64) (a Account, alive bool, err error) {
	r, err := one[struct {
		Account
		Alive bool
	}](tx.db.Raw("SELECT id, address, name, label, signature, position, colour, shape, alive FROM accounts WHERE owner = ? AND id = ?", tx.who.Inbox, id))
	return r.Account, r.Alive, err
}

// Sender is what the owner has settled about somebody who writes.
type Sender struct {
	ID       int64
	Pictures bool // their remote pictures are loaded
}

// Object names the sender in changes.
func (s Sender) Object() change.Object { return kinds.Sender.Of(s.ID) }

// Sender is what is settled about an address; the zero Sender if nothing is.
func (tx *Tx) Sender(email string) (Sender, error) {
	s, err := one[Sender](tx.db.Raw("SELECT id, pictures FROM senders WHERE owner = ? AND email = ?", tx.who.Inbox, letter.Address{Email: email}.Key()))
	if errors.Is(err, ErrNotFound) {
		return Sender{}, nil
	}
	return s, err
}

// AddSender makes the row of a sender about whom nothing is settled yet.
func (tx *Tx) AddSender(email string) (Sender, error) {
	id, err := tx.insertReturning("INSERT INTO senders (owner, email) VALUES (?, ?)", tx.who.Inbox, letter.Address{Email: email}.Key())
	return Sender{ID: id}, err
}

// OwnAddresses gives, for each own address key, its account.
func (tx *Tx) OwnAddresses() (map[string]int64, error) {
	rows, err := all[struct {
		Address   string
		AccountID int64
	}](tx.db.Raw("SELECT o.address, o.account_id FROM own_addresses o JOIN accounts a ON a.id = o.account_id WHERE o.owner = ? AND a.alive = 1", tx.who.Inbox))
	out := make(map[string]int64, len(rows))
	for _, r := range rows {
		out[r.Address] = r.AccountID
	}
	return out, err
}

// Mailbox is what an address of incoming mail means here.
type Mailbox struct {
	// Owners are whose it is; none where it leads nowhere.
	Owners []int64
	// Address is the own address that is meant, without a sub-address.
	Address string
	// LaidAside tells that its account takes nothing any more, and Domain that
	// there are accounts at its domain.
	LaidAside, Domain bool
}

// MailboxOf finds whose an address is. A system query: it is how incoming mail
// finds its owner.
func (s *Store) MailboxOf(ctx context.Context, address string) (Mailbox, error) {
	db := s.reader.WithContext(ctx)
	forms := letter.Mailboxes(address)
	out := Mailbox{Address: forms[0]}
	for _, form := range forms {
		found, err := all[struct {
			Owner int64
			Alive bool
		}](db.Raw("SELECT o.owner, a.alive FROM own_addresses o JOIN accounts a ON a.id = o.account_id WHERE o.address = ? ORDER BY o.owner", form))
		if err != nil {
			return out, err
		}
		for _, f := range found {
			if out.LaidAside = !f.Alive; f.Alive {
				out.Owners = append(out.Owners, f.Owner)
			}
		}
		if len(found) > 0 {
			out.Address, out.Domain = form, true
			return out, nil
		}
	}
	_, domain, _ := strings.Cut(forms[0], "@")
	secret, _, _ := strings.Cut(domain, ".") // of an intake address
	var err error
	if out.Owners, err = all[int64](db.Raw("SELECT id FROM people WHERE intake = ? AND intake <> ''", secret)); err != nil || len(out.Owners) > 0 {
		return out, err
	}
	n, err := all[int64](db.Raw(`SELECT 1 FROM own_addresses WHERE address LIKE ? ESCAPE '\' LIMIT 1`, "%"+likePattern("@"+domain)))
	out.Domain = len(n) > 0
	return out, err
}

// AddressTaken tells whether an address is another person's: it belongs to one
// owner. A system query.
func (tx *Tx) AddressTaken(address string) (bool, error) {
	n, err := tx.firstID("SELECT count(*) FROM own_addresses WHERE address = ? AND owner <> ?", address, tx.who.Inbox)
	return n > 0, err
}

// KnownPerson is somebody the owner has written with.
type KnownPerson struct {
	Name  string `json:"name"`
	Email string `json:"email"`
}

// Knows completes a name or an address, best known first.
func (tx *Tx) Knows(typed string, most int) ([]KnownPerson, error) {
	like := likePattern(typed)
	return all[KnownPerson](tx.db.Raw(`SELECT name, email FROM known_people
		WHERE owner = ? AND (email LIKE ? ESCAPE '\' OR name LIKE ? ESCAPE '\' OR name LIKE ? ESCAPE '\')
		  AND email NOT IN (SELECT address FROM own_addresses WHERE owner = ?)
		ORDER BY sent * 3 + received DESC, last_at DESC LIMIT ?`, tx.who.Inbox, like, like, "% "+like, tx.who.Inbox, most))
}

// SetPassword replaces a person's password; the hash is argon2id.
func (s *Store) SetPassword(ctx context.Context, person int64, hash string) error {
	return s.writer.WithContext(ctx).Exec("UPDATE people SET password = ? WHERE id = ?", hash, person).Error
}
