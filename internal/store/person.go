package store

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"ebbe.example/ebbe/internal/core/autoanswer"
	"ebbe.example/ebbe/internal/core/backlog"
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/kinds"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/core/writing"
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
	// SortedOut are the kinds that are sorted out of the inbox (JSON), "" for the usual ones.
	SortedOut string
	// LearnJunk tells that letters are put into Junk that are like what lies there.
	LearnJunk bool
	// ComeUp are the kinds of the Shallows that have come up, with when (JSON); "" for none.
	ComeUp string
	// Proposed are the rules that were proposed and answered, with when (JSON); "" for none.
	Proposed string
	// Backlog is the plan of the backlog that is gone through (JSON); "" for none.
	Backlog string
	// Feed is the secret part of the address of the person's calendar.
	Feed string
	// PlanID is the delivery plan in force; 0 for none. HoldingNote and Notifications
	// are JSON, "" for the usual.
	PlanID        int64
	HoldingNote   string
	Notifications string `gorm:"column:notices"`
}

// Object names the person in changes.
func (p Person) Object() change.Object { return kinds.Person.Of(p.ID) }

// Sorts are the kinds that are sorted out of the inbox. What can't be read leaves the usual ones.
func (p Person) Sorts() sorting.Sorted {
	var out sorting.Sorted
	if p.SortedOut == "" || json.Unmarshal([]byte(p.SortedOut), &out) != nil {
		return sorting.Usual()
	}
	return out
}

// Up are the kinds of the Shallows that have come up.
// BacklogPlan is the backlog that is gone through; ok is false for none.
func (p Person) BacklogPlan() (plan backlog.Plan, ok bool) {
	return plan, p.Backlog != "" && json.Unmarshal([]byte(p.Backlog), &plan) == nil && plan.N > 0
}

// Answered are the rules that were proposed and answered.
func (p Person) Answered() []rule.Answered { return rule.ReadAnswered(p.Proposed) }

func (p Person) Up() sorting.Up { return sorting.ReadUp(p.ComeUp) }

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

// People lists everybody. A system query: it is how sign-in finds its person.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	rows, err := gorm.G[personRow](s.reader).Order("id").Find(ctx)
	out := make([]Person, len(rows))
	for i, r := range rows {
		out[i] = r.Person
	}
	return out, err
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
		n, err := gorm.G[personRow](tx.db).Count(ctx, "*")
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
		row := personRow{Person: p, MadeAt: stamp{at}}
		if err := gorm.G[personRow](tx.db).Select("name", "sign_in", "password", "zone", "made_at").Create(ctx, &row); err != nil {
			return err
		}
		p.ID = row.ID
		for i, a := range accounts {
			a.Position = i
			if _, err := tx.at(p.ID).AddAccount(a, true); err != nil {
				return err
			}
		}
		return nil
	})
	return Own(p.ID), err
}

// Person is whose days, weeks and words apply (see Who.Settings).
func (tx *Tx) Person() (Person, error) {
	return tx.person(tx.who.Settings())
}

// InboxSettings are those of the inbox itself, whoever acts: its plan of delivery, its
// holding note, its intake address.
func (tx *Tx) InboxSettings() (Person, error) {
	return tx.person(tx.who.Inbox)
}

func (tx *Tx) person(id int64) (Person, error) {
	if p, ok := tx.people[id]; ok {
		return p, nil
	}
	row, err := gorm.G[personRow](tx.db).Where("id = ?", id).Take(tx.ctx())
	if err == nil {
		if tx.people == nil {
			tx.people = map[int64]Person{}
		}
		tx.people[id] = row.Person
	}
	return row.Person, err
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
	// Markdown tells that letters from it are written as Markdown; others are plain.
	Markdown  bool  `json:"markdown" doc:"Letters from it are written as Markdown"`
	SizeLimit int64 `json:"sizeLimit" doc:"How large a letter may be, in bytes as it is sent"`
	// More are signatures beside the usual one, SendAs addresses beside the account's own.
	More   []letter.Signature `json:"more" gorm:"-" doc:"Signatures beside the usual one"`
	SendAs []letter.Address   `json:"sendAs" gorm:"-" doc:"Addresses to send as, beside the account's own"`
	// Away answers what comes while one is away; nil for no absence.
	Away *autoanswer.Absence `json:"-" gorm:"-"`
}

// account is the account of a row; what of it can't be read is left out.
func (r accountRow) account() Account {
	a := r.Account
	a.More, a.SendAs, a.Away = r.Signatures.V, r.SendAs.V, r.Away.V
	if a.More == nil {
		a.More = []letter.Signature{}
	}
	if a.SendAs == nil {
		a.SendAs = []letter.Address{}
	}
	return a
}

// Writes tells whether letters may be written from an address with the account: its own, or one
// to send as; and under which name.
func (a Account) Writes(email string) (letter.Address, bool) {
	for _, own := range append([]letter.Address{{Name: a.Name, Email: a.Address}}, a.SendAs...) {
		if strings.EqualFold(own.Email, email) {
			return letter.Address{Name: cmp.Or(own.Name, a.Name), Email: own.Email}, true
		}
	}
	return letter.Address{}, false
}

// Object names the account in changes.
func (a Account) Object() change.Object { return kinds.Account.Of(a.ID) }

// Accounts lists the owner's accounts in their order.
func (tx *Tx) Accounts() ([]Account, error) {
	rows, err := gorm.G[accountRow](tx.db).Where("alive").Order("position, id").Find(tx.ctx())
	out := make([]Account, len(rows))
	for i, r := range rows {
		out[i] = r.account()
	}
	return out, err
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
	laid, err := orNone(gorm.G[ownAddressRow](tx.db).Where("address = ?", key).Take(tx.ctx()))
	if err != nil || laid.AccountID != 0 {
		return laid.AccountID, err
	}
	row := accountRow{Account: a, Alive: alive}
	row.PlanID, row.SizeLimit = -1, cmp.Or(a.SizeLimit, writing.UsualLimit)
	if err := gorm.G[accountRow](tx.db).Create(tx.ctx(), &row); err != nil {
		return 0, err
	}
	return row.ID, gorm.G[ownAddressRow](tx.db).Create(tx.ctx(), &ownAddressRow{Address: key, AccountID: row.ID})
}

// Account is one account by its id, alive or not.
func (tx *Tx) Account(id int64) (a Account, alive bool, err error) {
	r, err := gorm.G[accountRow](tx.db).Where("id = ?", id).Take(tx.ctx())
	return r.account(), r.Alive, err
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
	r, err := orNone(gorm.G[senderRow](tx.db).Where("email = ?", letter.Address{Email: email}.Key()).Take(tx.ctx()))
	return Sender{ID: r.ID, Pictures: r.Pictures}, err
}

// AddSender makes the row of a sender about whom nothing is settled yet.
func (tx *Tx) AddSender(email string) (Sender, error) {
	row := senderRow{Email: letter.Address{Email: email}.Key()}
	err := gorm.G[senderRow](tx.db).Create(tx.ctx(), &row)
	return Sender{ID: row.ID}, err
}

// OwnAddresses gives, for each own address key, its account: of those that are not laid aside
// their own, and those to send as.
func (tx *Tx) OwnAddresses() (map[string]int64, error) {
	accounts, err := tx.Accounts()
	out := make(map[string]int64, len(accounts))
	for _, a := range accounts {
		for _, own := range append([]letter.Address{{Email: a.Address}}, a.SendAs...) {
			if _, other := out[own.Key()]; !other {
				out[own.Key()] = a.ID
			}
		}
	}
	return out, err
}

// ClaimAddress makes an address the inbox's own. It stays so when it is no longer written
// from: what came to it was the person's, and nobody else gets it.
func (tx *Tx) ClaimAddress(a letter.Address, account int64) error {
	known, err := orNone(gorm.G[ownAddressRow](tx.db).Where("address = ?", a.Key()).Take(tx.ctx()))
	if err != nil || known.AccountID != 0 {
		return err
	}
	return gorm.G[ownAddressRow](tx.db).Create(tx.ctx(), &ownAddressRow{Address: a.Key(), AccountID: account})
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
	db := everybody(s.reader)
	forms := letter.Mailboxes(address)
	out := Mailbox{Address: forms[0]}
	for _, form := range forms {
		found, err := gorm.G[ownAddressRow](db).Preload("Account", nil).Where("address = ?", form).Order("owner").Find(ctx)
		if err != nil {
			return out, err
		}
		for _, f := range found {
			if out.LaidAside = !f.Account.Alive; f.Account.Alive {
				out.Owners = append(out.Owners, int64(f.Owner))
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
	if out.Owners, err = pluck[int64](ctx, gorm.G[personRow](db).Where("intake = ? AND intake <> ''", secret), "id"); err != nil || len(out.Owners) > 0 {
		return out, err
	}
	n, err := gorm.G[ownAddressRow](db).Where(`address LIKE ? ESCAPE '\'`, "%"+likePattern("@"+domain)).Count(ctx, "*")
	out.Domain = n > 0
	return out, err
}

// AddressTaken tells whether an address is another person's: it belongs to one
// owner. A system query.
func (tx *Tx) AddressTaken(address string) (bool, error) {
	n, err := gorm.G[ownAddressRow](everybody(tx.db)).Where("address = ? AND owner <> ?", address, tx.who.Inbox).Count(tx.ctx(), "*")
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
	return pluck[KnownPerson](tx.ctx(), gorm.G[knownPersonRow](tx.db).
		Where(`email LIKE ? ESCAPE '\' OR name LIKE ? ESCAPE '\' OR name LIKE ? ESCAPE '\'`, like, like, "% "+like).
		Where("email NOT IN (?)", gorm.G[ownAddressRow](tx.db).Select("address")).
		Order("sent * 3 + received DESC, last_at DESC").Limit(most), "name, email")
}

// NamesOf gives the names of those of the addresses that are known by one.
func (tx *Tx) NamesOf(emails []string) (map[string]string, error) {
	list, err := json.Marshal(emails)
	if err != nil {
		return nil, err
	}
	rows, err := gorm.G[knownPersonRow](tx.db).Where("name <> '' AND email IN (SELECT value FROM json_each(?))", string(list)).Find(tx.ctx())
	out := make(map[string]string, len(rows))
	for _, r := range rows {
		out[r.Email] = r.Name
	}
	return out, err
}

// WrittenTo tells whether the owner has ever written to an address, in lower case.
func (tx *Tx) WrittenTo(email string) (bool, error) {
	n, err := gorm.G[knownPersonRow](tx.db).Where("email = ? AND sent > 0", email).Count(tx.ctx(), "*")
	return n > 0, err
}

// SetPassword replaces a person's password; the hash is argon2id.
func (s *Store) SetPassword(ctx context.Context, person int64, hash string) error {
	_, err := gorm.G[personRow](s.writer).Where("id = ?", person).Update(ctx, "password", hash)
	return err
}

// KnownDomains are the domains of all who were written to or heard from.
func (tx *Tx) KnownDomains() ([]string, error) {
	return pluck[string](tx.ctx(), gorm.G[knownPersonRow](tx.db).Where("email LIKE '%@%'"), "DISTINCT substr(email, instr(email, '@') + 1)")
}
