package post

import "time"

// Mailbox is the letters of a person on a mail server, signed in. Its methods are called
// one at a time; those from Standings to Flag are about the folder that was opened last.
type Mailbox interface {
	// Folders lists the folders of the person.
	Folders() ([]Listed, error)
	// Create makes a folder, if it isn't there.
	Create(name string) error
	// Open opens a folder.
	Open(name string) (Opened, error)
	// Standings lists its letters, those marked as deleted left out; since a ModSeq
	// only those that have changed, where that is not 0.
	Standings(since uint64) ([]Standing, error)
	// UIDs lists its letters, those marked as deleted left out.
	UIDs() ([]uint32, error)
	// Find lists its letters with a Message-ID.
	Find(messageID string) ([]uint32, error)
	// Fetch gives letters, one after the other as they come, until each fails.
	// Those that are gone are left out.
	Fetch(uids []uint32, each func(Message) error) error
	// Move moves letters to another folder, and gives their new UIDs where they
	// are known.
	Move(uids []uint32, to string) (map[uint32]uint32, error)
	// Flag sets and clears flags of letters.
	Flag(uids []uint32, set, clear []string) error
	// Purge takes letters away, where that can be said of them alone; else they stay
	// marked as deleted.
	Purge(uids []uint32) error
	// Append puts a letter into a folder and gives its UID; 0 where that isn't known.
	Append(folder string, raw []byte, flags []string, at time.Time) (uint32, error)
	// Wait waits until something happens in the folder, until woken, or for a while; it
	// tells whether it was woken, and nothing else.
	Wait(wake <-chan struct{}, atMost time.Duration) (woken bool, err error)
	// Refused tells whether an error is the answer that something won't be done,
	// with the words of the server; what is no answer may be tried again.
	Refused(err error) (string, bool)
	Close() error
}

// Listed is a folder of a mail server.
type Listed struct {
	// Name is its whole path, with Delimiter between the parts; 0 where the
	// server knows no folders within folders.
	Name      string
	Delimiter rune
	// Uses are its attributes for special uses, such as \Archive (RFC 6154).
	Uses []string
	// NoLetters tells that it can't be opened.
	NoLetters bool
}

// Opened is a folder as it stands when it is opened.
type Opened struct {
	// Validity tells whether UIDs mean what they did (RFC 9051, 2.3.1.1), Next is the
	// one that the next letter gets.
	Validity, Next uint32
	Count          int
	// ModSeq rises with every change (RFC 7162); 0 where the server doesn't say.
	ModSeq uint64
	// Keeps are the flags that it keeps for good, with spaces between; “\*” for any.
	Keeps string
}

// Standing is a letter of a folder, with its flags as the server writes them.
type Standing struct {
	UID   uint32
	Flags []string
}

// Message is a letter as it is fetched.
type Message struct {
	UID   uint32
	At    time.Time // when the server got it
	Flags []string
	Raw   []byte
	// Err is why its bytes can't be taken; the others come all the same.
	Err error
}
