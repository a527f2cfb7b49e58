package store

import (
	"cmp"
	"slices"
	"strings"
)

// AnswerPair is a letter and one's own next letter in its conversation.
type AnswerPair struct{ Asked, Answer int64 }

// mostHits bounds how many letters the words that are looked for may have in all: what stands
// in very many tells little of any.
const mostHits = 800

// AnswersLike lists letters that have some of the rarest of the words of one, each with one's
// own next letter in its conversation, those that have most of them first. not is the
// letter that is looked for others like it.
//
// By hand: full text, ranked.
func (tx *Tx) AnswersLike(words []string, not int64, most int) ([]AnswerPair, error) {
	rare, err := tx.rarest(words)
	if err != nil || len(rare) == 0 {
		return nil, err
	}
	match := `{subject body} : ("` + strings.Join(rare, `" OR "`) + `")`
	return all[AnswerPair](tx.db.Raw(`SELECT l.id AS asked, o.id AS answer FROM letters_text t CROSS JOIN letters l ON l.row_key = t.rowid
		CROSS JOIN letters o ON o.id = (SELECT a.id FROM letters a WHERE a.owner = l.owner AND a.conversation_id = l.conversation_id AND a.own = 1 AND a.received_at >= l.received_at AND a.id <> l.id
			ORDER BY a.received_at, a.id LIMIT 1)
		WHERE t.letters_text MATCH ? AND l.owner = ? AND l.own = 0 AND l.in_at IS NOT NULL AND l.id <> ? ORDER BY t.rank LIMIT ?`, match, tx.who.Inbox, not, most))
}

// rarest are those of the words that the fewest letters have, as many as have few enough
// in all, and the rarest in any case. It knows words and counts, and no letter: all inboxes share them.
//
// By hand: the vocabulary of the full text.
func (tx *Tx) rarest(words []string) ([]string, error) {
	known, err := all[struct {
		Term string
		Doc  int
	}](tx.db.Raw("SELECT term, doc FROM letters_text_words WHERE term IN ?", words))
	if err != nil {
		return nil, err
	}
	slices.SortFunc(known, func(a, b struct {
		Term string
		Doc  int
	}) int {
		return cmp.Or(cmp.Compare(a.Doc, b.Doc), strings.Compare(a.Term, b.Term))
	})
	var out []string
	hits := 0
	for _, k := range known {
		if hits += k.Doc; len(out) > 0 && hits > mostHits {
			break
		}
		out = append(out, k.Term)
	}
	return out, nil
}
