package store

import "fmt"

// reference is a column that names a row of another table; 0 and NULL name
// none.
type reference struct {
	table, column, to string
	// but is the condition under which what it names may be gone; "" for never.
	but string
}

// outlives is the condition of what stays when a purge takes away what it
// belongs to.
const outlives = "1"

// references are all columns that name rows of other tables of the same person.
var references = []reference{
	{"accounts", "plan_id", "plans", "f.plan_id < 0"}, {"appointments", "conversation_id", "conversations", outlives}, {"appointments", "series_id", "series", ""},
	{"arrivals", "letter_id", "letters", ""}, {"arrivals", "account_id", "accounts", ""}, {"changes", "journal_id", "journal", ""},
	{"conversation_accounts", "conversation_id", "conversations", ""}, {"conversation_accounts", "account_id", "accounts", ""},
	{"conversation_labels", "conversation_id", "conversations", ""}, {"conversation_persons", "conversation_id", "conversations", ""},
	{"conversation_redirects", "to_id", "conversations", outlives}, {"drafts", "conversation_id", "conversations", outlives},
	{"expectations", "conversation_id", "conversations", "f.alive = 0"}, {"expectations", "followup_id", "followups", ""},
	{"followup_letters", "followup_id", "followups", ""}, {"followup_letters", "letter_id", "letters", "f.purged = 1"}, {"followups", "stage_id", "stages", ""},
	{"holds", "account_id", "accounts", ""}, {"import_troubles", "import_id", "imports", ""}, {"import_troubles", "letter_id", "letters", outlives},
	{"imports", "journal_id", "journal", ""}, {"journal", "undo_of", "journal", ""}, {"journal", "undone_by", "journal", ""},
	{"letter_ids", "letter_id", "letters", ""}, {"letters", "conversation_id", "conversations", ""}, {"outbox", "account_id", "accounts", ""},
	{"personal_marks", "conversation_id", "conversations", ""}, {"outbox", "conversation_id", "conversations", outlives}, {"own_addresses", "account_id", "accounts", ""}, {"people", "plan_id", "plans", ""},
	{"people", "spot_id", "spots", ""}, {"place_history", "journal_id", "journal", ""}, {"place_history", "conversation_id", "conversations", outlives},
	{"plan_history", "plan_id", "plans", ""}, {"prepared", "letter_id", "letters", ""}, {"reminders", "followup_id", "followups", ""},
	{"returns", "conversation_id", "conversations", ""}, {"returns", "spot_id", "spots", ""}, {"waiting_links", "followup_id", "followups", ""},
}

// owned are the tables whose rows belong to a person.
var owned = []string{
	"accounts", "appointments", "arrivals", "blobs", "changes", "conversation_accounts", "conversation_labels", "conversation_persons", "conversation_redirects",
	"conversations", "drafts", "expectations", "field_versions", "followup_letters", "followups", "holds", "import_troubles", "imports", "journal", "kept_filters",
	"known_people", "let_through", "letter_ids", "letters", "outbox", "own_addresses", "personal_marks", "place_history", "plan_history", "plans", "prepared", "reminders", "returns",
	"senders", "series", "spots", "stages", "stuck", "tallies", "waiting_links",
}

// strayReferences lists what names rows that are not there or are somebody
// else's, and what belongs to nobody.
func (tx *Tx) strayReferences() (wrong []string, err error) {
	for _, r := range references {
		owner := "f.owner"
		if r.table == "people" {
			owner = "f.id"
		}
		but := r.but
		if but == "" {
			but = "0"
		}
		n, err := tx.firstID(fmt.Sprintf("SELECT count(*) FROM %s f LEFT JOIN %s t ON t.id = f.%s WHERE f.%s <> 0 AND (t.id IS NULL AND NOT (%s) OR t.owner <> %s)",
			r.table, r.to, r.column, r.column, but, owner))
		if err != nil {
			return wrong, err
		}
		if n > 0 {
			wrong = append(wrong, fmt.Sprintf("the %s of %d rows of %s is not there, or somebody else's", r.column, n, r.table))
		}
	}
	for _, table := range owned {
		n, err := tx.firstID("SELECT count(*) FROM " + table + " WHERE owner NOT IN (SELECT id FROM people)")
		if err != nil {
			return wrong, err
		}
		if n > 0 {
			wrong = append(wrong, fmt.Sprintf("%d rows of %s belong to nobody", n, table))
		}
	}
	return wrong, nil
}
