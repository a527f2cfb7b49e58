package filled_test

import (
	"database/sql"
	"fmt"
	"slices"
	"strings"
	"testing"

	_ "github.com/mattn/go-sqlite3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/filled"
	"ebbe.example/ebbe/internal/store"
)

// free are the columns that say something by themselves: any value is as good
// as another, so nothing can tell that one is wrong. Of every other column
// “ebbe check” must notice it.
var free = map[string]string{
	"accounts":               "colour label name position shape signature size_limit",
	"appointments":           "alive cancelled conversation_id end_at free id made_at mine notes place recurrence_at remind remind_state reply sequence title uid",
	"arrivals":               "id in_at received_at return_path source",
	"changes":                "id version_before",
	"conversation_labels":    "label",
	"conversation_redirects": "from_id to_id",
	"conversations":          "apart bare_subject decided priority put_offs queue_at quiet",
	"drafts":                 "alive conversation_id id kind number updated_at",
	"expectations":           "all_of away away_until id late offered since start_id",
	"facts":                  "name value",
	"followup_letters":       "ask date purged sender subject",
	"followups":              "alive assignee context estimate flag made_at notes project title uid",
	"holds":                  "alive ended_at everything from_at id opens",
	"import_troubles":        "id letter_id name subject what",
	"imports":                "added command_id damaged done ended_at inbox_since items known made_at name passed path quoting size spooled state trouble",
	"journal":                "actor asked at cause command_id kind recorded_at title undoable",
	"kept_filters":           "alive id name",
	"kept_files":             "alive added_at conversation_id id",
	"receiver_groups":        "alive id name",
	"templates":              "alive markdown name subject text",
	"known_people":           "email last_at name received sent",
	"let_through":            "alive id key_person kind made_at value",
	"attachments":            "content_type draft made_at name",
	"corrections":            "alive id kind made_at scope took took_at value",
	"lessons":                "at facts id letter_id list outcome particulars sender",
	"letters":                "due files_read in_at junk kind_why receipt sorted_in",
	"contacts":               "alive id name emails phones org note",
	"savings":                "alive id letter_id part path saved_as tries next_at",
	"kept_searches":          "alive id name query within",
	"labels":                 "alive colour id name shape",
	"purged":                 "letters quarter",
	"erased":                 "identity",
	"migrations":             "id",
	"outbox":                 "auto_kind auto_to conversation_id draft id later made_at message_id notify send_at sender subject tries trouble",
	"personal_marks":         "seen star",
	"people":                 "backlog day_end day_start day_turn deliver_at delivery_seq evening feed intake look_at look_count look_day made_at month_first name password proposed send_delay share sign_in sorted_out surface_at come_up learn_junk week_start workdays zone",
	"place_history":          "id",
	"plan_history":           "at id",
	"plans":                  "made_at",
	"reminders":              "alive id",
	"returns":                "waits",
	"prepared":               "sender",
	"senders":                "email id pictures",
	"series":                 "alive extend_at kept_until uid",
	"sittings":               "alive began_at ended_at heap id letters skipped until_at",
	"rules":                  "alive conditions made_at name off people position said steps stop until",
	"routines":               "alive id key name position steps",
	"spots":                  "alive name",
	"stages":                 "alive colour most name position shape",
	"tallies":                "came",
	"waiting_links":          "message_id",
}

// Whatever single column of a database is altered, the check says so, unless
// nothing follows from it.
func TestCheckNoticesWhateverIsAltered(t *testing.T) {
	path := filled.Newest(t)
	s, err := store.Open(path)
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	problems, err := s.Check(t.Context())
	require.NoError(t, err)
	require.Empty(t, problems)

	db, err := sql.Open("sqlite3", "file:"+path+"?_busy_timeout=10000&_foreign_keys=off")
	require.NoError(t, err)
	defer func() { require.NoError(t, db.Close()) }()
	db.SetMaxOpenConns(1)
	exec := func(statement string) {
		t.Helper()
		_, err := db.Exec(statement)
		require.NoError(t, err, statement)
	}
	altered := 0
	for _, c := range columns(t, db) {
		exec("DROP TABLE IF EXISTS temp.kept; CREATE TEMP TABLE kept AS SELECT * FROM " + c.table)
		change := map[string]string{"INTEGER": " + 1000000", "TEXT": " || 'x'", "BLOB": " || x'00'"}[c.kind]
		result, err := db.Exec("UPDATE " + c.table + " SET " + c.name + " = " + c.name + change + " WHERE " + c.name + " IS NOT NULL")
		if err != nil {
			continue // the schema itself refuses it
		}
		if n, err := result.RowsAffected(); err != nil || n == 0 {
			continue
		}
		altered++
		problems, err := s.Check(t.Context())
		noticed := err != nil || len(problems) > 0
		assert.Equal(t, !slices.Contains(strings.Fields(free[c.table]), c.name), noticed, "%s.%s", c.table, c.name)
		exec(fmt.Sprintf("DELETE FROM %[1]s; INSERT INTO %[1]s SELECT * FROM temp.kept", c.table))
	}
	assert.Greater(t, altered, 200)
}

// Every table has rows, so that the test above says something of it; but for
// these, which hold what comes and goes.
func TestEveryTableIsFilled(t *testing.T) {
	path := filled.Newest(t)
	s, err := store.Open(path)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	db, err := sql.Open("sqlite3", "file:"+path)
	require.NoError(t, err)
	defer func() { require.NoError(t, db.Close()) }()
	seen := map[string]bool{}
	for _, c := range columns(t, db) {
		seen[c.table] = true
	}
	for table := range seen {
		var rows int
		require.NoError(t, db.QueryRow("SELECT count(*) FROM "+table).Scan(&rows))
		empty := slices.Contains([]string{"blob_pieces", "post_bag", "remote_drafts", "remote_folders", "remote_keywords", "remote_letters", "remote_tasks", "remotes", "sessions", "stuck"}, table)
		assert.Equal(t, empty, rows == 0, table)
	}
}

type column struct{ table, name, kind string }

func columns(t *testing.T, db *sql.DB) (out []column) {
	t.Helper()
	rows, err := db.Query(`SELECT m.name, c.name, c.type FROM sqlite_schema m, pragma_table_info(m.name) c
		WHERE m.type = 'table' AND m.name NOT LIKE 'letters_text%' AND m.name NOT LIKE 'notes_text%' AND m.name NOT LIKE 'sqlite%' ORDER BY 1, 2`)
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var c column
		require.NoError(t, rows.Scan(&c.table, &c.name, &c.kind))
		out = append(out, c)
	}
	require.NoError(t, rows.Err())
	return out
}
