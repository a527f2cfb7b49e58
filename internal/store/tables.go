package store

import (
	"fmt"
	"slices"
)

// table is a table of the schema, and what is to be known of it beside its
// columns. Archive and check are made from these; a test holds them to the schema.
type table struct {
	name string
	// owner is the column of whose a row is; empty where rows are nobody's.
	owner string
	// archived tells that an archive holds it. What is not is made anew or, such as
	// sessions, not the person's.
	archived bool
	refs     []reference
	blob     string // a column of bytes, which JSON carries in base64
}

// reference is a column that names a row of another table of the same owner; 0
// and NULL name none.
type reference struct {
	column, to string
	// but is the condition under which what it names may be gone; empty for never.
	but string
}

// outlives is the condition of what stays when a purge takes away what it
// belongs to.
const outlives = "1"

// tables are all tables; those of an archive in the order in which they can be
// filled.
var tables = []table{
	{name: "people", owner: "id", archived: true, refs: []reference{{"plan_id", "plans", ""}, {"spot_id", "spots", ""}}},
	{name: "plans", owner: "owner", archived: true},
	{name: "plan_history", owner: "owner", archived: true, refs: []reference{{"plan_id", "plans", ""}}},
	{name: "let_through", owner: "owner", archived: true},
	{name: "spots", owner: "owner", archived: true},
	{name: "stages", owner: "owner", archived: true},
	{name: "kept_filters", owner: "owner", archived: true},
	{name: "series", owner: "owner", archived: true},
	{name: "appointments", owner: "owner", archived: true, refs: []reference{{"conversation_id", "conversations", outlives}, {"series_id", "series", ""}}},
	{name: "accounts", owner: "owner", archived: true, refs: []reference{{"plan_id", "plans", "f.plan_id < 0"}}},
	{name: "own_addresses", owner: "owner", archived: true, refs: []reference{{"account_id", "accounts", ""}}},
	{name: "conversations", owner: "owner", archived: true},
	{name: "conversation_redirects", owner: "owner", archived: true, refs: []reference{{"to_id", "conversations", outlives}}},
	{name: "conversation_accounts", owner: "owner", archived: true, refs: []reference{{"conversation_id", "conversations", ""}, {"account_id", "accounts", ""}}},
	{name: "conversation_persons", owner: "owner", archived: true, refs: []reference{{"conversation_id", "conversations", ""}}},
	{name: "conversation_labels", owner: "owner", archived: true, refs: []reference{{"conversation_id", "conversations", ""}}},
	{name: "letters", owner: "owner", archived: true, blob: "sha", refs: []reference{{"conversation_id", "conversations", ""}}},
	{name: "letter_ids", owner: "owner", archived: true, refs: []reference{{"letter_id", "letters", ""}}},
	{name: "arrivals", owner: "owner", archived: true, blob: "sha", refs: []reference{{"letter_id", "letters", ""}, {"account_id", "accounts", ""}}},
	{name: "personal_marks", owner: "owner", archived: true, refs: []reference{{"conversation_id", "conversations", ""}}},
	{name: "place_history", owner: "owner", archived: true, refs: []reference{{"journal_id", "journal", ""}, {"conversation_id", "conversations", outlives}}},
	{name: "returns", owner: "owner", archived: true, refs: []reference{{"conversation_id", "conversations", ""}, {"spot_id", "spots", ""}}},
	{name: "followups", owner: "owner", archived: true, refs: []reference{{"stage_id", "stages", ""}}},
	{name: "followup_letters", owner: "owner", archived: true, refs: []reference{{"followup_id", "followups", ""}, {"letter_id", "letters", "f.purged = 1"}}},
	{name: "waiting_links", owner: "owner", archived: true, refs: []reference{{"followup_id", "followups", ""}}},
	{name: "reminders", owner: "owner", archived: true, refs: []reference{{"followup_id", "followups", ""}}},
	{name: "expectations", owner: "owner", archived: true, refs: []reference{{"conversation_id", "conversations", "f.alive = 0"}, {"followup_id", "followups", ""}}},
	{name: "drafts", owner: "owner", archived: true, refs: []reference{{"conversation_id", "conversations", outlives}}},
	{name: "outbox", owner: "owner", archived: true, blob: "sha", refs: []reference{{"account_id", "accounts", ""}, {"conversation_id", "conversations", outlives}}},
	{name: "holds", owner: "owner", archived: true, refs: []reference{{"account_id", "accounts", ""}}},
	{name: "journal", owner: "owner", archived: true, refs: []reference{{"undo_of", "journal", ""}, {"undone_by", "journal", ""}}},
	{name: "changes", owner: "owner", archived: true, refs: []reference{{"journal_id", "journal", ""}}},
	{name: "field_versions", owner: "owner", archived: true},
	{name: "known_people", owner: "owner", archived: true},
	{name: "senders", owner: "owner", archived: true},
	{name: "imports", owner: "owner", archived: true, refs: []reference{{"journal_id", "journal", ""}}},
	{name: "import_troubles", owner: "owner", archived: true, refs: []reference{{"import_id", "imports", ""}, {"letter_id", "letters", outlives}}},
	{name: "blobs", owner: "owner"},
	{name: "blob_pieces", owner: "owner"},
	{name: "prepared", owner: "owner", refs: []reference{{"letter_id", "letters", ""}}},
	{name: "stuck", owner: "owner"},
	{name: "tallies", owner: "owner"},
	{name: "facts"},
	{name: "post_bag"},
	{name: "sessions"},
	{name: "migrations"},
}

// ArchivedTables are the tables of an archive, in the order in which they can
// be filled.
func ArchivedTables() (names []string) {
	for _, t := range tables {
		if t.archived {
			names = append(names, t.name)
		}
	}
	return names
}

// tableOf is a table by its name.
func tableOf(name string) table {
	return tables[slices.IndexFunc(tables, func(t table) bool { return t.name == name })]
}

// strayReferences lists what names rows that are not there or are somebody
// else's, and what belongs to nobody.
func (tx *Tx) strayReferences() (wrong []string, err error) {
	for _, t := range tables {
		for _, r := range t.refs {
			but := r.but
			if but == "" {
				but = "0"
			}
			n, err := tx.firstID(fmt.Sprintf("SELECT count(*) FROM %s f LEFT JOIN %s t ON t.id = f.%s WHERE f.%s <> 0 AND (t.id IS NULL AND NOT (%s) OR t.owner <> f.%s)",
				t.name, r.to, r.column, r.column, but, t.owner))
			if err != nil {
				return wrong, err
			}
			if n > 0 {
				wrong = append(wrong, fmt.Sprintf("the %s of %d rows of %s is not there, or somebody else's", r.column, n, t.name))
			}
		}
		if t.owner != "owner" {
			continue
		}
		n, err := tx.firstID("SELECT count(*) FROM " + t.name + " WHERE owner NOT IN (SELECT id FROM people)")
		if err != nil {
			return wrong, err
		}
		if n > 0 {
			wrong = append(wrong, fmt.Sprintf("%d rows of %s belong to nobody", n, t.name))
		}
	}
	return wrong, nil
}
