package api_test

import (
	"crypto/rand"
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// do sends a command and requires it to be taken.
func (s *server) do(path string, body map[string]any) (out app.Decided) {
	s.t.Helper()
	if body["command"] == nil {
		body["command"] = rand.Text()
	}
	answer := s.call("POST", path, body, &out)
	require.Equal(s.t, http.StatusOK, answer.StatusCode, "%s %v", path, body)
	return out
}

// refused sends what is refused, and gives the reason that the person reads.
func (s *server) refused(method, path string, body map[string]any) string {
	s.t.Helper()
	if body["command"] == nil {
		body["command"] = rand.Text()
	}
	var trouble struct{ Detail string }
	answer := s.call(method, path, body, &trouble)
	require.GreaterOrEqual(s.t, answer.StatusCode, 400, "%s %v", path, body)
	require.Less(s.t, answer.StatusCode, 500, "%s %v", path, body)
	return trouble.Detail
}

func (s *server) delivery() (out show.DeliveryView) {
	s.t.Helper()
	require.Equal(s.t, http.StatusOK, s.call("GET", "/api/delivery", nil, &out).StatusCode)
	return out
}

// letter sends in a letter of its own.
func (s *server) letter(n int, from, subject string) {
	s.t.Helper()
	raw := fmt.Sprintf("From: %s\r\nTo: ines@norrholm.example\r\nDate: %s\r\nSubject: %s\r\nMessage-ID: <%d@freight.example>\r\n\r\nHello.\r\n", from, time.Now().Format(time.RFC1123Z), subject, n)
	require.NoError(s.t, s.mail(raw, "ines@norrholm.example"))
}

func TestHoldingAndLettingInByHTTP(t *testing.T) {
	s := serve(t)
	s.setUp()
	hold := map[string]any{"command": rand.Text()}
	first := s.do("/api/hold", hold)
	assert.Equal(t, first, s.do("/api/hold", hold), "the same command is carried out once")
	s.letter(1, "bram@freight.example", "Crate")
	s.letter(2, "eva@freight.example", "Van")
	v := s.delivery()
	assert.Equal(t, []any{false, 2}, []any{v.Gate.Open, v.Held})
	assert.Equal(t, "That has passed. Name a time that is still to come.", s.refused("POST", "/api/hold", map[string]any{"until": "2020-01-01"}), "and the hold before goes on")
	assert.False(t, s.delivery().Gate.Open)

	in := s.do("/api/let-in", map[string]any{"open": true})
	assert.Equal(t, "2 letters let in", in.Title)
	v = s.delivery()
	assert.Equal(t, []any{true, 0}, []any{v.Gate.Open, v.Held})
	s.do("/api/undo", map[string]any{"entry": in.Entry})
	v = s.delivery()
	assert.Equal(t, []any{false, 2}, []any{v.Gate.Open, v.Held})
}

func TestPlansByHTTP(t *testing.T) {
	s := serve(t)
	s.setUp()
	good := "mon-fri 8:30, 13:00; quiet 17:30-8:30\nsat, sun quiet"
	s.do("/api/plan", map[string]any{"text": good})
	inForce := s.delivery().Plan.Text
	for body, says := range map[string]string{
		"mon closed 9-11, 10-12": "overlap",
		"mon closed 9-9":         "empty",
		"daily quiet":            "The plan before stays in force.",
		"8:30":                   "“8:30”",
	} {
		assert.Contains(t, s.refused("POST", "/api/plan", map[string]any{"text": body}), says)
	}
	assert.Equal(t, inForce, s.delivery().Plan.Text)

	var preview show.PlanPreview
	s.call("POST", "/api/plan/preview", map[string]any{"text": "daily 10; closed 9-11:30"}, &preview)
	assert.Len(t, preview.Moved, 7)
	assert.Empty(t, preview.Problem)
	s.call("POST", "/api/plan/preview", map[string]any{"text": "daily quiet"}, &preview)
	assert.Contains(t, preview.Problem, "never let anything in", "a draft may be wrong, and says so")

	removed := s.do("/api/plan", map[string]any{})
	assert.True(t, s.delivery().Gate.Open, "mail flows")
	s.do("/api/undo", map[string]any{"entry": removed.Entry})
	assert.Equal(t, inForce, s.delivery().Plan.Text)

	var examples []show.ExamplePlan
	s.call("GET", "/api/plan/examples", nil, &examples)
	require.Len(t, examples, 3)
	for _, e := range examples {
		var preview show.PlanPreview
		s.call("POST", "/api/plan/preview", map[string]any{"plan": e.Plan}, &preview)
		assert.Empty(t, preview.Problem, e.Name)
		assert.Equal(t, e.Text, preview.Text, e.Name)
	}
}

func TestLettingThroughByHTTP(t *testing.T) {
	s := serve(t)
	s.setUp()
	s.do("/api/hold", map[string]any{})
	s.letter(1, "bram@freight.example", "Crate")
	s.letter(2, "eva@norrholm.example", "Van")
	for _, body := range []map[string]any{
		{"kind": "sender", "value": "nobody", "until": ""},
		{"kind": "domain", "value": "", "until": ""},
		{"kind": "words", "value": "…", "until": ""},
		{"kind": "weather", "value": "rain", "until": ""},
		{"kind": "sender", "value": "a@b.example", "until": "soonish"},
	} {
		assert.NotEmpty(t, s.refused("POST", "/api/through", body))
	}
	assert.Empty(t, s.delivery().Through)

	entry := map[string]any{"kind": "domain", "value": "Freight.example", "until": "in 3 weeks"}
	var preview app.ThroughPreview
	s.call("POST", "/api/through/preview", entry, &preview)
	assert.Equal(t, []int{1, 2, 1}, []int{preview.Matched, preview.Of, preview.Held})
	s.do("/api/through", entry)
	list := s.delivery().Through
	require.Len(t, list, 1)
	assert.Equal(t, "@freight.example", list[0].Words)
	assert.NotEmpty(t, list[0].Until)
	s.do(fmt.Sprintf("/api/through/%d/let-in", list[0].ID), map[string]any{})
	assert.Equal(t, 1, s.delivery().Held)
	s.letter(3, "bram@freight.example", "Second crate")
	assert.Equal(t, 1, s.delivery().Held, "it came through")
	s.do(fmt.Sprintf("/api/through/%d/end", list[0].ID), map[string]any{})
	s.letter(4, "bram@freight.example", "Third crate")
	assert.Equal(t, 2, s.delivery().Held)
	assert.NotEmpty(t, s.refused("POST", fmt.Sprintf("/api/through/%d/end", list[0].ID), map[string]any{}), "it has ended")
}

func TestTheHoldingNoteAndNoticesByHTTP(t *testing.T) {
	s := serve(t)
	s.setUp()
	note := map[string]any{"causes": []string{"hold"}, "text": "", "days": 1, "contact": "Bram"}
	assert.Contains(t, s.refused("POST", "/api/holding-note", note), "text")
	note["text"] = "Your letter waits until {next round}. Else ask {other contact}."
	delete(note, "command")
	var preview struct{ Text string }
	require.Equal(t, http.StatusOK, s.call("POST", "/api/holding-note/preview", note, &preview).StatusCode)
	assert.Contains(t, preview.Text, "Else ask Bram.")
	assert.NotContains(t, preview.Text, "{")
	s.do("/api/holding-note", note)

	quiet := map[string]any{"browser": false, "sound": false}
	s.do("/api/notifications", map[string]any{"through": map[string]any{"browser": false, "sound": false, "count": true}, "reminders": quiet, "rounds": quiet, "mentions": quiet, "count": true})
	n := s.delivery().Notifications
	assert.Equal(t, []bool{true, false, true, false}, []bool{n.Through.Count, n.Through.Browser, n.Count, n.Rounds.Any()})
}

// Nobody holds, plans or lets in for somebody else.
func TestDeliveryOfSomebodyElse(t *testing.T) {
	s := serve(t)
	s.setUp()
	other, err := s.app.Store.AddPerson(t.Context(), store.Person{Name: "Eve", SignIn: "eve", Zone: "UTC"}, []store.Account{{Address: "eve@norrholm.example"}}, time.Now())
	require.NoError(t, err)
	_, err = s.app.AddThrough(t.Context(), other, rand.Text(), app.ThroughFields{Kind: "sender", Value: "bram@freight.example"})
	require.NoError(t, err)
	theirs, err := s.app.Delivery(t.Context(), other, 0)
	require.NoError(t, err)
	require.Len(t, theirs.Accounts, 1)
	account, entry := theirs.Accounts[0].ID, theirs.Through[0].ID
	for path, body := range map[string]map[string]any{
		"/api/hold":         {"account": account},
		"/api/let-in":       {"account": account},
		"/api/plan":         {"account": account, "text": "daily 9"},
		"/api/plan/preview": {"account": account, "text": "daily 9"},
		fmt.Sprintf("/api/through/%d/end", entry):    {},
		fmt.Sprintf("/api/through/%d/let-in", entry): {},
	} {
		assert.NotEmpty(t, s.refused("POST", path, body), path)
	}
	assert.GreaterOrEqual(t, s.call("GET", fmt.Sprintf("/api/delivery?account=%d", account), nil, nil).StatusCode, 400)
	after, err := s.app.Delivery(t.Context(), other, 0)
	require.NoError(t, err)
	assert.Equal(t, []any{true, 1}, []any{after.Gate.Open, len(after.Through)})
}
