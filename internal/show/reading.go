package show

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"time"

	"ebbe.example/ebbe/internal/core/findings"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/writing"
	"ebbe.example/ebbe/internal/store"
)

// Conversation is one conversation with its letters.
type Conversation struct {
	Row
	Action       string         `json:"action" doc:"The ask as the title of a follow-up"`
	Due          string         `json:"due,omitempty" doc:"By when the ask wants it, as a phrase"`
	LetterList   []Letter       `json:"letterList"`
	FollowUpList []FollowUp     `json:"followUpList"`
	WaitingList  []Waiting      `json:"waitingList"`
	Outbox       []OutgoingView `json:"outbox"`
	// Answer and AnswerAll are the sender and recipients of an answer to the
	// newest letter from somebody else.
	Answer    Answering   `json:"answer"`
	AnswerAll Answering   `json:"answerAll"`
	Drafts    []DraftView `json:"drafts"`
	// Sorted is how its newest letter from somebody else is sorted.
	Sorted Sorted `json:"sorted"`
	// Foretold is the decision that is likely taken on it; nil where that is not sure.
	Foretold *Foretold `json:"foretold,omitempty"`
	// Routines are what the routines would do with it.
	Routines []RoutineFor `json:"routines"`
	// Own is what the person added for themselves.
	Own Notes `json:"own" doc:"What the person added for themselves; it is never sent"`
}

// Sorted is of what kind a letter is, and why.
type Sorted struct {
	Kind sorting.Kind `json:"kind" enum:"person,receipts,notices,reading,meetings,copies,away,junk"`
	Why  string       `json:"why" doc:"Empty where nothing says that it is anything but a person’s"`
	List bool         `json:"list" doc:"It came by a list"`
}

// Notes are what a person added to a conversation for themselves.
type Notes struct {
	// Title is the working title; empty where it is called by its subject.
	Title   string     `json:"title"`
	Subject string     `json:"subject" doc:"What the others call it"`
	Note    string     `json:"note"`
	HTML    string     `json:"html" doc:"The note as it is shown, made safe"`
	Files   []KeptFile `json:"files"`
}

// Answering says from whom and to whom an answer goes.
type Answering struct {
	Letter  int64    `json:"letter"`
	From    string   `json:"from"`
	To      []string `json:"to"`
	Cc      []string `json:"cc"`
	Subject string   `json:"subject"`
	Forward string   `json:"forward" doc:"The subject when it is handed on"`
}

// Letter is a letter in a conversation. Folded ones carry no text until they
// are opened.
type Letter struct {
	ID        int64            `json:"id"`
	From      letter.Address   `json:"from"`
	To        []letter.Address `json:"to"`
	Cc        []letter.Address `json:"cc"`
	Subject   string           `json:"subject"`
	Date      time.Time        `json:"date"`
	InAt      time.Time        `json:"inAt"`
	Own       bool             `json:"own"`
	Automatic letter.Automatic `json:"automatic,omitempty"`
	Snippet   string           `json:"snippet"`
	// Folded is why it is folded among the others: it is not wanted.
	Folded string `json:"folded,omitempty"`
	Damage string `json:"damage,omitempty"`
	Twin   bool   `json:"twin,omitempty" doc:"Another letter has the same Message-ID"`
	HTML   bool   `json:"html"`
	Parts  []Part `json:"parts"`
	// Report is what it reports on a letter of mine.
	Report *letter.Reported `json:"report,omitempty"`
	// ReadReceipt is how the sender's wish to be told that it was read stands.
	ReadReceipt string `json:"receipt,omitempty" enum:"asked,sent,declined"`
	Body        *Body  `json:"body,omitempty"`
	// Outcomes say for whom an own letter was accepted, refused, or goes again;
	// empty where all is well.
	Outcomes []sending.Outcome `json:"outcomes,omitempty"`
	// Progress says how far an own letter has come for each recipient, where something told.
	Progress []sending.Progress `json:"progress,omitempty"`
}

// Part is an attachment of a letter.
type Part struct {
	Index int    `json:"index"`
	Name  string `json:"name"`
	Type  string `json:"type"`
	Size  int    `json:"size"`
	// Unread says what keeps its text from being found; "" where nothing does.
	Unread string `json:"unread,omitempty"`
}

// Body is what a letter says.
type Body struct {
	Text    []letter.Fold `json:"text"`
	Blocked int           `json:"blocked" doc:"Remote images left out of its HTML"`
	// Pictures tells that this sender's pictures are loaded.
	Pictures bool           `json:"pictures,omitempty"`
	Spying   letter.Spying  `json:"spying"`
	Seal     letter.Seal    `json:"seal"`
	Inside   []InsideLetter `json:"inside" doc:"Letters that are attached"`
	// ReadReceiptTo are who asks to be told that it was read, where that is not
	// simply the sender.
	ReadReceiptTo []string `json:"receiptTo,omitempty"`
	// Invitation is the appointment that it holds.
	Invitation *InvitationView `json:"invitation,omitempty"`
	// Bill is what it tells of a payment or a parcel.
	Bill *BillView `json:"bill,omitempty"`
	// Found is what one signs in with, numbers to call, and a file that is missing.
	Found []FoundView `json:"found,omitempty"`
	// Posing is the key person whose name its sender has without being known as them.
	Posing *letter.Address `json:"posing,omitempty" doc:"A key person whose name the sender has, at an address that was never written to"`
	// Leave is how the list is left by which it came; nil where nothing says so.
	Leave *Way `json:"leave,omitempty"`
}

// InsideLetter is a letter within a letter.
type InsideLetter struct {
	Part    int              `json:"part" doc:"Its index among the parts of the letter around it"`
	From    letter.Address   `json:"from"`
	To      []letter.Address `json:"to"`
	Subject string           `json:"subject"`
	Date    *time.Time       `json:"date,omitempty"`
	Text    []letter.Fold    `json:"text"`
	Parts   []string         `json:"parts" doc:"What is attached to it"`
	Inside  []InsideLetter   `json:"inside"`
}

func inside(parts []letter.Part, depth int) []InsideLetter {
	out := []InsideLetter{}
	for i, p := range parts {
		if depth == 0 || !letter.IsLetterType(p.ContentType) || p.Content == nil {
			continue
		}
		l := letter.Parse(p.Content)
		in := InsideLetter{Part: i, From: l.From, To: OrEmpty(l.To), Subject: l.Subject, Text: letter.Folds(l.Text), Parts: []string{}, Inside: inside(l.Parts, depth-1)}
		if !l.Date.IsZero() {
			in.Date = &l.Date
		}
		for _, q := range l.Attachments() {
			in.Parts = append(in.Parts, q.Name)
		}
		out = append(out, in)
	}
	return out
}

// OutgoingView is a letter in the outbox.
type OutgoingView struct {
	ID       int64     `json:"id"`
	To       []string  `json:"to"`
	Subject  string    `json:"subject"`
	State    string    `json:"state"`
	LeavesAt time.Time `json:"leavesAt"`
	Trouble  string    `json:"trouble,omitempty"`
	Draft    string    `json:"draft,omitempty"`
	Later    bool      `json:"later,omitempty" doc:"It leaves at a time of its own"`
}

// Open gives a conversation with its letters; the newest is unfolded.
func (a *Show) Open(ctx context.Context, who store.Who, id int64) (Conversation, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Conversation, error) {
		row, err := tx.Conversation(id)
		if err != nil && row.Unreadable == nil { // the rest can be read

			return Conversation{}, err
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return Conversation{}, err
		}
		out := Conversation{Row: v.row(row), Sorted: Sorted{Kind: sorting.Person}, Action: findings.Action(row.Ask, row.Asks, row.Title()), LetterList: []Letter{}, FollowUpList: []FollowUp{}, WaitingList: []Waiting{}, Outbox: []OutgoingView{}, Drafts: []DraftView{}}
		if err := a.judge(tx, v, &out); err != nil {
			return out, err
		}
		routines, err := v.routinesFor(tx, row)
		if err != nil {
			return out, err
		}
		out.Routines = OrEmpty(routines)
		out.Own = Notes{Title: row.WorkingTitle, Subject: row.Subject, Note: row.Note, HTML: writing.Note(row.Note), Files: []KeptFile{}}
		if due, ok := findings.Due(row.Ask, row.LastAt, v.Now, v.Cal); ok && row.Asks {
			out.Due = due.Canonical
		}
		letters, err := tx.LettersIn(row.ID)
		if err != nil {
			return out, err
		}
		for i, l := range letters {
			shown := letterView(l)
			if !l.Own && (!l.Sort.Kind.Refused() || row.Kind.Refused()) {
				out.Sorted = Sorted{cmp.Or(l.Sort.Kind, sorting.Person), l.Sort.Why, l.ListID != ""}
			}
			if l.Sort.Kind.Refused() && !row.Kind.Refused() {
				shown.Folded = l.Sort.Why
			}
			if i == len(letters)-1 || l.ID == row.LastLetter {
				if shown.Body, err = v.body(tx, l); err != nil {
					return out, err
				}
				if bill := shown.Body.Bill; bill != nil && bill.task != "" && !l.Own {
					out.Action, out.Due = bill.task, bill.by
				}
			}
			out.LetterList = append(out.LetterList, shown)
		}
		if err := withOutcomes(tx, out.LetterList, letters); err != nil {
			return out, err
		}
		if err := withProgress(tx, out.LetterList, letters); err != nil {
			return out, err
		}
		if err := a.answers(tx, &out, letters); err != nil {
			return out, err
		}
		return out, a.around(tx, v, &out)
	})
}

// answers computes whom an answer goes to.
func (a *Show) answers(tx *store.Tx, out *Conversation, letters []store.Letter) error {
	if len(letters) == 0 { // one that waits to leave begins it
		none := Answering{To: []string{}, Cc: []string{}}
		out.Answer, out.AnswerAll = none, none
		return nil
	}
	target := letters[len(letters)-1]
	for i := len(letters) - 1; i >= 0; i-- {
		if !letters[i].Own {
			target = letters[i]
			break
		}
	}
	accounts, err := tx.Accounts()
	if err != nil {
		return err
	}
	var own []string
	for _, acc := range accounts {
		own = append(own, letter.Address{Email: acc.Address}.Key())
		for _, as := range acc.SendAs {
			own = append(own, as.Key())
		}
	}
	l := letter.Letter{From: target.From, To: target.Recipients.To, Cc: target.Recipients.Cc, ReplyTo: target.Recipients.ReplyTo}
	make := func(all bool) Answering {
		to := letter.Answer(l, own, all)
		return Answering{
			Letter: target.ID, From: to.From, To: written(to.To), Cc: written(to.Cc),
			Subject: letter.WithPrefix("Re: ", target.Subject), Forward: letter.WithPrefix("Fwd: ", target.Subject),
		}
	}
	out.Answer, out.AnswerAll = make(false), make(true)
	return nil
}

func written(list []letter.Address) []string {
	out := []string{}
	for _, a := range list {
		if a.Name == "" {
			out = append(out, a.Email)
		} else {
			out = append(out, a.Name+" <"+a.Email+">")
		}
	}
	return out
}

// around adds what belongs to a conversation besides its letters.
func (a *Show) around(tx *store.Tx, v Viewer, out *Conversation) error {
	followUps, err := tx.FollowUpsOf(out.ID)
	if err != nil {
		return err
	}
	for _, f := range followUps {
		out.FollowUpList = append(out.FollowUpList, v.followUp(f))
	}
	open, err := tx.OpenFor([]int64{out.ID}, nil)
	if err != nil {
		return err
	}
	if out.WaitingList, err = v.waitings(tx, open); err != nil {
		return err
	}
	files, err := tx.FilesAddedTo(out.ID)
	if err != nil {
		return err
	}
	out.Own.Files = keptFiles(files)
	outbox, err := tx.Outbox()
	if err != nil {
		return err
	}
	drafts, err := tx.Drafts()
	if err != nil {
		return err
	}
	var about []int64
	for _, o := range outbox {
		about = append(about, o.Conversation)
	}
	for _, d := range drafts {
		about = append(about, d.Conversation)
	}
	leads, err := tx.Follows(about)
	for _, o := range outbox {
		if leads[o.Conversation] == out.ID {
			out.Outbox = append(out.Outbox, outgoingView(o))
		}
	}
	for _, d := range drafts {
		if leads[d.Conversation] == out.ID && out.ID != 0 {
			out.Drafts = append(out.Drafts, draftView(d))
		}
	}
	return err
}

func outgoingView(o store.Outgoing) OutgoingView {
	return OutgoingView{ID: o.ID, To: o.Recipients, Subject: o.Subject, State: string(o.State), LeavesAt: o.SendAt, Trouble: o.Trouble, Draft: o.Draft, Later: o.Later && o.State == sending.Waiting}
}

// withOutcomes says of own letters what became of them, unless they were
// accepted for everybody.
func withOutcomes(tx *store.Tx, shown []Letter, letters []store.Letter) error {
	var ids []string
	for _, l := range letters {
		if l.Own {
			ids = append(ids, l.MessageID)
		}
	}
	known, err := tx.Outcomes(ids)
	for i, l := range letters {
		if o := known[l.MessageID]; l.Own && len(sending.Of(o, sending.Accepted)) < len(o) {
			shown[i].Outcomes = o
		}
	}
	return err
}

// withProgress says of own letters how far they have come for each of their recipients, where
// something has told.
func withProgress(tx *store.Tx, shown []Letter, letters []store.Letter) error {
	reports := map[string][]sending.Report{}
	for _, l := range letters {
		if l.Report == nil || l.Own {
			continue
		}
		raw, err := tx.Original(l.ID)
		if err != nil {
			return err
		}
		for _, r := range letter.Parse(raw).Reports {
			reports[r.Original] = append(reports[r.Original], sending.Report{Reported: r, At: l.Date})
		}
	}
	if len(reports) == 0 {
		return nil
	}
	known, err := tx.Outcomes(slices.Collect(maps.Keys(reports)))
	for i, l := range letters {
		if told := reports[l.MessageID]; l.Own && len(told) > 0 {
			shown[i].Progress = sending.Along(known[l.MessageID], told)
		}
	}
	return err
}

func letterView(l store.Letter) Letter {
	out := Letter{
		ID: l.ID, From: l.From, To: OrEmpty(l.Recipients.To), Cc: OrEmpty(l.Recipients.Cc), Subject: l.Subject, Date: l.Date, InAt: l.InAt,
		Own: l.Own, Automatic: l.Automatic, Snippet: l.Ask, Damage: l.Damage, Twin: l.Twin, HTML: l.HTML, Parts: []Part{}, Report: l.Report, ReadReceipt: l.ReadReceipt,
	}
	for i, p := range l.Parts {
		if !p.Inline {
			out.Parts = append(out.Parts, Part{Index: i, Name: p.Name, Type: p.Type, Size: p.Size, Unread: l.UnreadPart(i)})
		}
	}
	return out
}

func (v Viewer) body(tx *store.Tx, row store.Letter) (*Body, error) {
	raw, err := tx.Original(row.ID)
	if err != nil {
		return nil, err
	}
	l := letter.Parse(raw)
	sender, err := tx.Sender(l.From.Email)
	if err != nil {
		return nil, err
	}
	shown := letter.Clean(l.HTML, false, func(string) string { return "" })
	out := &Body{
		Text: letter.Folds(l.Text), Blocked: shown.Blocked, Pictures: sender.Pictures, Spying: shown.Spying, Seal: l.Seal, Inside: inside(l.Parts, letter.NestedDepth),
	}
	if l.ReadReceiptGoesElsewhere() {
		out.ReadReceiptTo = written(l.ReadReceiptTo)
	}
	if out.Invitation, err = v.invitation(tx, l); err != nil {
		return nil, err
	}
	if out.Bill, err = v.bill(tx, l, row.Date); err != nil {
		return nil, err
	}
	if !row.Own {
		out.Found = found(l)
	}
	if out.Leave, err = v.wayOut(tx, l, row); err != nil {
		return nil, err
	}
	out.Posing, err = v.posing(tx, l)
	return out, err
}

// ReadLetter gives one letter with its text.
func (a *Show) ReadLetter(ctx context.Context, who store.Who, id int64) (Letter, error) {
	return read(ctx, a, who, func(tx *store.Tx) (Letter, error) {
		l, err := tx.Letter(id)
		if err != nil {
			return Letter{}, err
		}
		if l.InAt.IsZero() {
			return Letter{}, store.ErrNotFound // held: not to be seen yet
		}
		v, err := a.Viewer(tx)
		if err != nil {
			return Letter{}, err
		}
		out := letterView(l)
		out.Body, err = v.body(tx, l)
		return out, err
	})
}

// Original gives the bytes of a letter as it arrived.
func (a *Show) Original(ctx context.Context, who store.Who, id int64) ([]byte, error) {
	return read(ctx, a, who, func(tx *store.Tx) ([]byte, error) {
		if l, err := tx.Letter(id); err != nil || l.InAt.IsZero() {
			return nil, store.ErrNotFound
		}
		return tx.Original(id)
	})
}

// Page gives a letter's HTML made safe; remote images only if asked for. part
// gives the address of the part with an index.
func (a *Show) Page(ctx context.Context, who store.Who, id int64, remote bool, part func(index int) string) (string, error) {
	raw, err := a.Original(ctx, who, id)
	if err != nil {
		return "", err
	}
	l := letter.Parse(raw)
	at := map[string]int{}
	for i, p := range l.Parts {
		if p.ContentID != "" {
			at[p.ContentID] = i
		}
	}
	return letter.Clean(l.HTML, remote, func(id string) string {
		if i, ok := at[id]; ok {
			return part(i)
		}
		return ""
	}).HTML, nil
}

// PartOf gives one part of a letter.
func (a *Show) PartOf(ctx context.Context, who store.Who, id int64, index int) (letter.Part, error) {
	raw, err := a.Original(ctx, who, id)
	if err != nil {
		return letter.Part{}, err
	}
	part, ok := letter.PartOf(raw, index)
	if !ok {
		return part, store.ErrNotFound
	}
	return part, nil
}

// QuoteOf prepares what an answer or a forward carries below its text.
func (a *Show) QuoteOf(ctx context.Context, who store.Who, id int64, kind string) (string, error) {
	return read(ctx, a, who, func(tx *store.Tx) (string, error) {
		l, err := dated(tx, id)
		if err != nil {
			return "", err
		}
		v, err := a.Viewer(tx)
		return Quote(kind, l, v.Cal), err
	})
}

// dated is a letter that was let in; one that says no date, or none that can be read, has
// that of its coming, as everywhere.
func dated(tx *store.Tx, id int64) (letter.Letter, error) {
	row, err := tx.Letter(id)
	if err != nil || row.InAt.IsZero() {
		return letter.Letter{}, store.ErrNotFound
	}
	raw, err := tx.Original(id)
	l := letter.Parse(raw)
	if l.Date.IsZero() {
		l.Date = row.Date
	}
	return l, err
}
