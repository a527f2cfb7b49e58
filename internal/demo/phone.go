package demo

import (
	"context"
	"fmt"
	"net"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/api"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/postoffice/mailstore"
	"ebbe.example/ebbe/internal/store"
)

// Outside is the mail server that stands in for the one of Ines’ private address, with
// the letters that the demo has of it. The phone is a second program there.
type Outside struct {
	Server *mailstore.Server
	Store  *store.Store
	// Incoming and Outgoing are where it is reached.
	Incoming, Outgoing post.Server
	Reach              app.Reach
}

// Address and Password are whose letters it has, and how one signs in.
const (
	OutsidePassword = "lantern"
	inboxThere      = "INBOX"
)

// OutsideAddress is whose letters it has.
var OutsideAddress = private.Email

// foldersOf are the folders of the places, as another program has them.
var foldersOf = map[decide.Place]string{decide.Inbox: inboxThere, decide.Archive: "Archive", decide.Later: "Archive", decide.Bin: "Trash", decide.Junk: "Junk"}

// FillOutside gives the server the letters that the demo has of the private address.
func FillOutside(ctx context.Context, s *store.Store, to *mailstore.Server) error {
	fresh, err := to.AddUser(OutsideAddress, OutsidePassword)
	if err != nil || !fresh {
		return err
	}
	owner, err := s.MailboxOf(ctx, OutsideAddress)
	if err != nil || len(owner.Owners) == 0 {
		return err
	}
	lists := map[string][]mailstore.Letter{}
	err = s.Read(ctx, store.Own(owner.Owners[0]), func(tx *store.Tx) error {
		accounts, err := tx.Accounts()
		if err != nil {
			return err
		}
		i := slices.IndexFunc(accounts, func(a store.Account) bool { return a.Address == OutsideAddress })
		if i < 0 {
			return nil
		}
		for place, folder := range foldersOf {
			all, err := tx.AllIn(place, accounts[i].ID)
			if err != nil {
				return err
			}
			for _, seen := range all {
				if err := outsideLetters(tx, seen.ID, folder, lists); err != nil {
					return err
				}
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	for folder, list := range lists {
		slices.SortFunc(list, func(a, b mailstore.Letter) int { return a.At.Compare(b.At) })
		if err := to.Put(OutsideAddress, folder, list...); err != nil {
			return err
		}
	}
	return nil
}

// outsideLetters collects the letters of a conversation for a folder; own ones were sent.
func outsideLetters(tx *store.Tx, conversation int64, folder string, lists map[string][]mailstore.Letter) error {
	letters, err := tx.LettersIn(conversation)
	if err != nil {
		return err
	}
	for _, l := range letters {
		raw, err := tx.Original(l.ID)
		if err != nil {
			return err
		}
		in := folder
		if l.Own {
			in = "Sent"
		}
		lists[in] = append(lists[in], mailstore.Letter{At: l.ReceivedAt, Flags: []string{`\Seen`}, Raw: raw})
	}
	return nil
}

// Has tells whether letters to an address go there: once its account is connected, all
// come by that way.
func (o *Outside) Has(address string) bool {
	if !o.Server.Has(address) {
		return false
	}
	ctx := context.Background()
	connected, err := o.Store.Connected(ctx)
	for account, who := range connected {
		if err != nil {
			return false
		}
		is := false
		err = o.Store.Read(ctx, who, func(tx *store.Tx) error {
			a, _, err := tx.Account(account)
			is = strings.EqualFold(a.Address, address)
			return err
		})
		if is {
			return true
		}
	}
	return false
}

// Deliver puts a letter into the inbox of an address.
func (o *Outside) Deliver(address string, raw []byte, at time.Time) error {
	return o.Server.Put(address, inboxThere, mailstore.Letter{At: at, Raw: raw})
}

// LookupSRV answers for the domain of the private address as DNS would, and for no other.
func (o *Outside) LookupSRV(_ context.Context, service, _, name string) (string, []*net.SRV, error) {
	_, domain, _ := strings.Cut(OutsideAddress, "@")
	if name != domain {
		return "", nil, &net.DNSError{Err: "no such host", Name: name, IsNotFound: true}
	}
	for s, at := range map[string]post.Server{remote.Incoming[1].Name: o.Incoming, remote.Outgoing[1].Name: o.Outgoing} {
		if s == service {
			return "", []*net.SRV{{Target: at.Host + ".", Port: uint16(at.Port)}}, nil
		}
	}
	return "", nil, &net.DNSError{Err: "no such host", Name: name, IsNotFound: true}
}

// phoneShows bounds how many letters of a folder the phone shows, the newest first.
const phoneShows = 12

// Phone is what the phone shows: the newest letters of each folder.
func (d *Demo) Phone() []api.PhoneLetter {
	out := []api.PhoneLetter{}
	if d.Outside == nil {
		return out
	}
	for _, folder := range d.Outside.Server.FolderNames(OutsideAddress) {
		letters := d.Outside.Server.Letters(OutsideAddress, folder)
		slices.Reverse(letters)
		for _, l := range letters[:min(len(letters), phoneShows)] {
			read := letter.Parse(l.Raw)
			out = append(out, api.PhoneLetter{
				Folder: folder, UID: l.UID, From: read.From.Display(), Subject: read.Subject,
				Read: slices.Contains(l.Flags, `\Seen`), Star: slices.Contains(l.Flags, `\Flagged`),
			})
		}
	}
	return out
}

// OnPhone does something on the phone with a letter: over IMAP, as any other program does.
func (d *Demo) OnPhone(ctx context.Context, folder string, uid uint32, act, to string) error {
	if d.Outside == nil {
		return &app.Problem{Reason: "There is no phone in this demo."}
	}
	box, err := d.Outside.Reach(ctx, d.Outside.Incoming, post.Login{User: OutsideAddress, Password: OutsidePassword})
	if err != nil {
		return err
	}
	defer func() { _ = box.Close() }()
	if _, err := box.Open(folder); err != nil {
		return err
	}
	on := []uint32{uid}
	switch act {
	case "move":
		_, err = box.Move(on, to)
	case "star":
		err = box.Flag(on, []string{`\Flagged`}, nil)
	case "unstar":
		err = box.Flag(on, nil, []string{`\Flagged`})
	case "read":
		err = box.Flag(on, []string{`\Seen`}, nil)
	default:
		err = fmt.Errorf("the phone can’t %q", act)
	}
	if words, refused := box.Refused(err); refused {
		return &app.Problem{Reason: "The mail server refused that: " + words}
	}
	return err
}
