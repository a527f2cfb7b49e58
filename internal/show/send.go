package show

import (
	"context"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// Writing is a letter being written, as the page holds it and a draft keeps it.
type Writing struct {
	// Kind is "answer", "hand-on" or "new"; "again" sends a letter once more
	// that could not be delivered.
	Kind    string   `json:"kind" enum:"answer,hand-on,new,again"`
	From    string   `json:"from" doc:"One of the own addresses"`
	To      []string `json:"to"`
	Cc      []string `json:"cc,omitempty"`
	Bcc     []string `json:"bcc,omitempty" doc:"Who gets it without the others being told"`
	Subject string   `json:"subject" maxLength:"2000"`
	Text    string   `json:"text" maxLength:"5000000"`
	// Quoted stands below the text: what is answered or handed on.
	Quoted string `json:"quoted,omitempty" maxLength:"5000000"`
	// Markdown sends a page beside the text.
	Markdown bool `json:"markdown,omitempty" doc:"The text is Markdown: it goes as a page too"`
	// Files go along, in this order.
	Files []AttachedFile `json:"files,omitempty" maxItems:"300"`
	// Along is how a letter is handed on: with its files, without them, or as a whole
	// letter.
	Along string `json:"along,omitempty" enum:"files,text,letter" doc:"How a letter is handed on: with its files (the usual), without, or as a whole letter"`
	// Fields have to be filled in before it goes.
	Fields []string `json:"fields,omitempty" maxItems:"100" doc:"Names of fields, which stand in braces, that stop sending until they are filled in"`
	// Covered are asks that were ticked off by hand.
	Covered []string `json:"covered,omitempty" maxItems:"100"`
	// Letter is the one that is answered or handed on.
	Letter int64 `json:"letter,omitempty"`
	All    bool  `json:"all,omitempty" doc:"To all recipients"`
	Stay   bool  `json:"stay,omitempty" doc:"Leave the conversation where it is"`
	// Wait is the limit until which an answer is waited for; a phrase.
	Wait string `json:"wait,omitempty"`
	// Later is when it leaves; a phrase, "" for as soon as it may.
	Later string `json:"later,omitempty" maxLength:"200" doc:"When it leaves; a phrase"`
	// Every is how it recurs; a phrase, "" for once.
	Every string `json:"every,omitempty" maxLength:"200" doc:"How it recurs, from when it leaves first; a phrase"`
	// Track is a follow-up that is made with it, in plain words.
	Track string `json:"track,omitempty" maxLength:"2000" doc:"A follow-up that is made with sending, in plain words"`
	// WaitAll waits until all recipients have answered, not only one of them.
	WaitAll bool `json:"waitAll,omitempty"`
	// ReadReceipt asks to be told when it is read.
	ReadReceipt bool `json:"receipt,omitempty"`
	// Notify asks the mail service to tell what becomes of it.
	Notify bool `json:"notify,omitempty" doc:"Ask the mail service to tell what becomes of it (RFC 3461)"`
	// Nudges is the waiting that it reminds somebody of: that goes on until
	// Wait, and no other is begun.
	Nudges int64 `json:"nudges,omitempty"`
	// FollowUp is handed over with it, and waits for whoever gets it.
	FollowUp int64 `json:"followUp,omitempty"`
}

// AttachedFile is a file that goes along with a letter.
type AttachedFile struct {
	ID          string `json:"id" minLength:"8" maxLength:"80"`
	Name        string `json:"name" maxLength:"1000"`
	Size        int64  `json:"size" minimum:"0"`
	ContentType string `json:"type" maxLength:"200"`
}

// Again prepares a letter of mine that a report says could not be delivered,
// to be sent once more.
func (a *Show) Again(ctx context.Context, who store.Who, reportID int64) (Writing, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Writing, error) {
		report, err := tx.Letter(reportID)
		if err != nil || report.Report == nil {
			return Writing{}, store.ErrNotFound
		}
		id, err := tx.OwnLetterByMessageID(report.Report.Original)
		if err != nil || id == 0 {
			return Writing{}, work.Gone("The letter that this reports on is not here.")
		}
		raw, err := tx.Original(id)
		if err != nil {
			return Writing{}, err
		}
		mine := letter.Parse(raw)
		return Writing{Kind: "again", From: mine.From.Key(), To: []string{report.Report.Recipient}, Subject: mine.Subject, Text: mine.Text, Letter: id}, nil
	})
}

// Quote prepares the text that an answer or a forward carries below it.
func Quote(kind string, l letter.Letter, c when.Calendar) string {
	stamp := l.Date.In(c.Zone).Format("Mon 2 Jan 2006, 15:04")
	if kind == "hand-on" {
		return letter.Forwarded(l, stamp)
	}
	return letter.Quote(l, stamp)
}
