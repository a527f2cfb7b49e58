package show

import (
	"context"
	"encoding/json"

	"ebbe.example/ebbe/internal/core/delivery"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/gate"
	"ebbe.example/ebbe/internal/say"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/work"
)

// HoldingNote is the person's note, or the usual one, which is off.
func HoldingNote(p store.Person) delivery.Note {
	n := delivery.UsualNote
	if p.HoldingNote != "" {
		_ = json.Unmarshal([]byte(p.HoldingNote), &n) // what can't be read leaves the usual one
	}
	n.Causes = OrEmpty(n.Causes)
	return n
}

// NotePreview is the note as its receiver reads it.
func (a *Show) NotePreview(ctx context.Context, who store.Who, n delivery.Note) (string, error) {
	return read(ctx, a, who, func(tx *store.Tx) (string, error) {
		if err := n.Check(); err != nil {
			return "", work.Invalid("note", "%s", say.Sentence(err))
		}
		accounts, err := tx.Accounts()
		if err != nil || len(accounts) == 0 {
			return "", err
		}
		g, err := gate.Of(tx)
		if err != nil {
			return "", err
		}
		next := say.NextInWords(g.State(0, a.now()).Next, g.Cal)
		return "From: " + letter.Address{Name: accounts[0].Name, Email: accounts[0].Address}.Display() + "\nSubject: Auto: (their subject)\n\n" + n.Fill(next), nil
	})
}
