package api_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/alexedwards/argon2id"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/api"
	"ebbe.example/ebbe/internal/filled"
)

// shape is as much of a JSON schema as the description uses.
type shape struct {
	Ref                  string            `json:"$ref"`
	Type                 any               `json:"type"` // a name, or several
	Properties           map[string]*shape `json:"properties"`
	Required             []string          `json:"required"`
	AdditionalProperties any               `json:"additionalProperties"`
	Items                *shape            `json:"items"`
	Enum                 []any             `json:"enum"`
}

// described is the description of the API as a reader of it sees it.
type described struct {
	Paths map[string]map[string]struct {
		Responses map[string]struct {
			Content map[string]struct {
				Schema *shape `json:"schema"`
			} `json:"content"`
		} `json:"responses"`
	} `json:"paths"`
	Components struct {
		Schemas map[string]*shape `json:"schemas"`
	} `json:"components"`
}

func description(t *testing.T) (d described) {
	t.Helper()
	text, err := api.Describe()
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(text, &d))
	return d
}

// differs says where a value is not as described; nil where it is.
func (d described) differs(s *shape, v any, at string) (wrong []string) {
	if name, ok := strings.CutPrefix(s.Ref, "#/components/schemas/"); ok {
		return d.differs(d.Components.Schemas[name], v, at)
	}
	if len(s.Enum) > 0 && v != nil && !slices.Contains(s.Enum, v) {
		wrong = append(wrong, fmt.Sprintf("%s is %v, which is none of %v", at, v, s.Enum))
	}
	types, _ := s.Type.([]any)
	if one, ok := s.Type.(string); ok {
		types = []any{one}
	}
	if len(types) > 0 && !slices.ContainsFunc(types, func(name any) bool { return is(v, name.(string)) }) {
		return append(wrong, fmt.Sprintf("%s is %T, not %v", at, v, types))
	}
	switch v := v.(type) {
	case []any:
		for i, item := range v {
			wrong = append(wrong, d.differs(s.Items, item, fmt.Sprintf("%s[%d]", at, i))...)
		}
	case map[string]any:
		for _, name := range s.Required {
			if _, ok := v[name]; !ok {
				wrong = append(wrong, at+" has no "+name)
			}
		}
		for name, part := range v {
			switch known := s.Properties[name]; {
			case known != nil:
				wrong = append(wrong, d.differs(known, part, at+"."+name)...)
			case s.AdditionalProperties == false:
				wrong = append(wrong, at+"."+name+" is not described")
			}
		}
	}
	return wrong
}

func is(v any, name string) bool {
	switch v := v.(type) {
	case nil:
		return name == "null"
	case bool:
		return name == "boolean"
	case string:
		return name == "string"
	case float64:
		return name == "number" || name == "integer" && v == math.Trunc(v)
	case []any:
		return name == "array"
	}
	return name == "object"
}

// Everything that is read comes as it is described: with what is required, nothing
// that isn't named, and only values that there are.
func TestAnswersAreAsDescribed(t *testing.T) {
	s := serveAt(t, filled.Newest(t))
	hash, err := argon2id.CreateHash(goodPassword, &argon2id.Params{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32})
	require.NoError(t, err)
	require.NoError(t, s.app.Store.SetPassword(context.Background(), 1, hash))
	require.Equal(t, http.StatusOK, s.call("POST", "/api/session", map[string]string{"name": "Ines", "password": goodPassword}, nil).StatusCode)
	assert.Greater(t, s.answersAsDescribed(), 60)
}

// Also where there is nothing yet: an empty list is a list.
func TestAnswersOfNothingAreAsDescribed(t *testing.T) {
	s := serve(t)
	s.setUp()
	assert.Greater(t, s.answersAsDescribed(), 20)
}

// answersAsDescribed reads everything that is described, and tells how much was answered.
func (s *server) answersAsDescribed() int {
	t := s.t
	d := description(t)
	answered := 0
	for path, methods := range d.Paths {
		get, ok := methods["get"]
		if !ok || path == "/api/events" {
			continue
		}
		described := get.Responses["200"].Content["application/json"].Schema
		if described == nil {
			continue // a file
		}
		tried := []string{path}
		if strings.Contains(path, "{") {
			tried = nil
			for id := range 8 {
				tried = append(tried, inPath.ReplaceAllString(path, fmt.Sprint(id+1)))
			}
			for _, place := range []string{"inbox", "later", "archive", "bin", "junk"} {
				tried = append(tried, inPath.ReplaceAllString(path, place))
			}
		}
		for _, at := range tried {
			status, text, _ := s.send("GET", at, "")
			if status != http.StatusOK {
				assert.NotEmpty(t, problem(t, text).Detail, "%s is refused in words", at)
				continue
			}
			answered++
			var value any
			require.NoError(t, json.Unmarshal([]byte(text), &value), at)
			assert.Empty(t, d.differs(described, value, at))
		}
	}
	return answered
}

// What is described can be told from what isn't: the test above would notice.
func TestWhatDiffersIsNoticed(t *testing.T) {
	d := description(t)
	row := &shape{Ref: "#/components/schemas/PersonView"}
	for _, c := range []struct {
		value string
		want  []string
	}{
		{`{"id": 1, "name": "home"}`, nil},
		{`{"id": 1}`, []string{"it has no name"}},
		{`{"id": "1", "name": "home"}`, []string{"it.id is string, not [integer]"}},
		{`{"id": 1.5, "name": "home"}`, []string{"it.id is float64, not [integer]"}},
		{`{"id": 1, "name": "home", "colour": "red"}`, []string{"it.colour is not described"}},
		{`[]`, []string{"it is []interface {}, not [object]"}},
	} {
		var v any
		require.NoError(t, json.Unmarshal([]byte(c.value), &v))
		assert.Equal(t, c.want, d.differs(row, v, "it"), c.value)
	}
}
