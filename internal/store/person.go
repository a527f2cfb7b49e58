package store

import (
	"context"
	"time"

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
}

// Calendar is how the person's days and weeks run.
func (p Person) Calendar() when.Calendar {
	zone, err := time.LoadLocation(p.Zone)
	if err != nil {
		zone = time.UTC
	}
	c := when.Calendar{
		Zone: zone, WeekStart: time.Weekday(p.WeekStart), DayTurn: when.Minute(p.DayTurn),
		DayStart: when.Minute(p.DayStart), DayEnd: when.Minute(p.DayEnd),
	}
	for d := range c.Workdays {
		c.Workdays[d] = p.Workdays&(1<<d) != 0
	}
	return c
}

const personColumns = "id, name, sign_in, password, zone, week_start, day_turn, day_start, day_end, workdays"

// People lists everybody. A system query: it is how sign-in finds its person.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	return all[Person](s.reader.WithContext(ctx).Raw("SELECT " + personColumns + " FROM people ORDER BY id"))
}

// AddPerson makes a person with one account for each address, the first one
// the usual one.
func (s *Store) AddPerson(ctx context.Context, p Person, accounts []Account, at time.Time) (int64, error) {
	err := s.Write(ctx, 0, func(tx *Tx) error {
		id, err := tx.insertReturning("INSERT INTO people (name, sign_in, password, zone, made_at) VALUES (?, ?, ?, ?, ?)",
			p.Name, p.SignIn, p.Password, p.Zone, millis(at))
		if err != nil {
			return err
		}
		p.ID = id
		for i, a := range accounts {
			account, err := tx.insertReturning("INSERT INTO accounts (owner, address, name, label, signature, position) VALUES (?, ?, ?, ?, ?, ?)",
				id, a.Address, a.Name, a.Label, a.Signature, i)
			if err != nil {
				return err
			}
			if err := tx.exec("INSERT INTO own_addresses (owner, address, account_id) VALUES (?, ?, ?)", id, letter.Address{Email: a.Address}.Key(), account); err != nil {
				return err
			}
		}
		return nil
	})
	return p.ID, err
}

// Person is the owner.
func (tx *Tx) Person() (Person, error) {
	return one[Person](tx.db.Raw("SELECT "+personColumns+" FROM people WHERE id = ?", tx.owner))
}

// Account is an address of the owner's, with its signature.
type Account struct {
	ID        int64  `json:"id"`
	Address   string `json:"address"`
	Name      string `json:"name"`
	Label     string `json:"label" doc:"What the person calls it"`
	Signature string `json:"signature"`
	Position  int    `json:"position"`
}

// Accounts lists the owner's accounts in their order.
func (tx *Tx) Accounts() ([]Account, error) {
	return all[Account](tx.db.Raw("SELECT id, address, name, label, signature, position FROM accounts WHERE owner = ? ORDER BY position, id", tx.owner))
}

// OwnAddresses gives, for each own address key, its account.
func (tx *Tx) OwnAddresses() (map[string]int64, error) {
	rows, err := all[struct {
		Address   string
		AccountID int64
	}](tx.db.Raw("SELECT address, account_id FROM own_addresses WHERE owner = ?", tx.owner))
	out := make(map[string]int64, len(rows))
	for _, r := range rows {
		out[r.Address] = r.AccountID
	}
	return out, err
}

// OwnersOf gives the owners of an address. A system query: it is how incoming
// mail finds whose it is.
func (s *Store) OwnersOf(ctx context.Context, address string) ([]int64, error) {
	return all[int64](s.reader.WithContext(ctx).Raw("SELECT owner FROM own_addresses WHERE address = ?", letter.Address{Email: address}.Key()))
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
		ORDER BY sent * 3 + received DESC, last_at DESC LIMIT ?`, tx.owner, like, like, "% "+like, tx.owner, most))
}

// SetPassword replaces a person's password; the hash is argon2id.
func (s *Store) SetPassword(ctx context.Context, person int64, hash string) error {
	return s.writer.WithContext(ctx).Exec("UPDATE people SET password = ? WHERE id = ?", hash, person).Error
}
