package api_test

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/api"
	"ebbe.example/ebbe/internal/filled"
)

// Whatever single value of the database breaks, every list can still be read.
func TestOneBrokenValueBreaksNoList(t *testing.T) {
	path := filled.Newest(t)
	s := serveAt(t, path)
	hash, err := argon2id.CreateHash(goodPassword, &argon2id.Params{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32})
	require.NoError(t, err)
	require.NoError(t, s.app.Store.SetPassword(context.Background(), 1, hash))
	require.Equal(t, 200, s.call("POST", "/api/session", map[string]string{"name": "Ines", "password": goodPassword}, nil).StatusCode)

	lists := lists(t)
	works := map[string]bool{}
	for _, path := range lists {
		status, _, _ := s.send("GET", path, "")
		works[path] = status == 200
	}
	db, err := sql.Open("sqlite3", "file:"+path+"?_busy_timeout=10000")
	require.NoError(t, err)
	defer db.Close()
	exec := func(statement string, args ...any) {
		_, err := db.Exec(statement, args...)
		require.NoError(t, err, statement)
	}
	today := time.Now().Add(time.Minute).UnixMilli() // so that the day line shows it
	exec("UPDATE followups SET due_at = ? WHERE due_at IS NOT NULL", today)
	exec("UPDATE returns SET due = ? WHERE due IS NOT NULL", today)
	exec("UPDATE reminders SET at = ?", today)
	exec("UPDATE expectations SET until_at = ? WHERE until_at IS NOT NULL", today)
	tried := 0
	for _, at := range values(t, db) {
		first := " WHERE rowid IN (SELECT rowid FROM " + at.table + " WHERE " + at.holds() + " ORDER BY rowid LIMIT 3)"
		exec("UPDATE " + at.table + " SET " + at.column + " = '{' || " + at.column + first)
		for _, path := range lists {
			if status, text, _ := s.send("GET", path, ""); works[path] {
				assert.Equal(t, 200, status, "%s with a broken %s.%s: %s", path, at.table, at.column, text)
			}
		}
		exec("UPDATE " + at.table + " SET " + at.column + " = substr(" + at.column + ", 2) WHERE " + at.column + " LIKE '{{%' OR " + at.column + " LIKE '{[%'")
		tried++
	}
	assert.Greater(t, tried, 20)
}

// lists are all paths of the description that can be read as they stand.
func lists(t *testing.T) (out []string) {
	t.Helper()
	text, err := api.Describe()
	require.NoError(t, err)
	var described struct {
		Paths map[string]map[string]any `json:"paths"`
	}
	require.NoError(t, json.Unmarshal(text, &described))
	for path, methods := range described.Paths {
		if methods["get"] != nil && !strings.Contains(path, "{") && path != "/api/events" {
			out = append(out, path)
		}
	}
	for _, place := range []string{"inbox", "later", "archive", "bin", "junk"} {
		out = append(out, "/api/places/"+place)
	}
	for id := range 12 {
		out = append(out, fmt.Sprintf("/api/conversations/%d", id+1))
	}
	slices.Sort(out)
	return out
}

type column struct{ table, column string }

func (c column) holds() string {
	return c.column + " LIKE '{%' OR " + c.column + " LIKE '[%'"
}

// values are the columns in which JSON stands.
func values(t *testing.T, db *sql.DB) (out []column) {
	t.Helper()
	rows, err := db.Query(`SELECT m.name, c.name FROM sqlite_master m JOIN pragma_table_info(m.name) c
		WHERE m.type = 'table' AND m.sql NOT LIKE 'CREATE VIRTUAL%' AND c.type = 'TEXT' ORDER BY 1, 2`)
	require.NoError(t, err)
	defer rows.Close()
	var all []column
	for rows.Next() {
		var c column
		require.NoError(t, rows.Scan(&c.table, &c.column))
		all = append(all, c)
	}
	require.NoError(t, rows.Err())
	for _, c := range all {
		var n int
		require.NoError(t, db.QueryRow("SELECT count(*) FROM "+c.table+" WHERE "+c.holds()).Scan(&n))
		if n > 0 {
			out = append(out, c)
		}
	}
	return out
}
