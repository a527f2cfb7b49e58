package api

import (
	"bytes"
	"encoding/json"
	"fmt"

	"github.com/danielgtaylor/huma/v2"

	"ebbe.example/ebbe/internal/core/decide"
)

// decisionKind is a decision that can be commanded by itself; the others go with
// a letter.
type decisionKind decide.Kind

// Schema names those that there are.
func (decisionKind) Schema(huma.Registry) *huma.Schema {
	var kinds []any
	for _, d := range decide.Kinds {
		if !d.Sends() {
			kinds = append(kinds, string(d.Kind))
		}
	}
	return &huma.Schema{Type: huma.TypeString, Enum: kinds}
}

// listedPlace is a place that has a list.
type listedPlace decide.Place

// Schema names those that there are.
func (listedPlace) Schema(huma.Registry) *huma.Schema {
	var places []any
	for _, p := range decide.PlaceTable {
		if p.Listed {
			places = append(places, string(p.Place))
		}
	}
	return &huma.Schema{Type: huma.TypeString, Enum: places}
}

// Tables gives what the page knows of the core's decisions and places, as a module
// of TypeScript. It is kept beside the description of the API, and like that made
// by “make types”.
func Tables() ([]byte, error) {
	type decision struct {
		Kind  decide.Kind  `json:"kind"`
		Name  string       `json:"name"`
		Hint  string       `json:"hint"`
		Key   string       `json:"key"`
		Needs decide.Needs `json:"needs"`
		Deck  bool         `json:"deck"`
	}
	type place struct {
		Place decide.Place `json:"place"`
		Name  string       `json:"name"`
		Where string       `json:"where"`
		Back  string       `json:"back"`
		Hint  string       `json:"hint"`
		Empty string       `json:"empty"`
		View  bool         `json:"view"`
	}
	var decisions []decision
	for _, d := range decide.Kinds {
		decisions = append(decisions, decision{d.Kind, d.Name, d.Hint, d.Key, d.Needs, d.Deck})
	}
	var places []place
	for _, p := range decide.PlaceTable {
		if p.Listed {
			places = append(places, place{p.Place, p.Name, p.Where, p.Back, p.Hint, p.Empty, p.Viewed})
		}
	}
	out := &bytes.Buffer{}
	out.WriteString("// Made by “make types” from the tables of the core; not to be edited.\n")
	for _, table := range []struct {
		name, says string
		rows       any
	}{
		{"decisions", "All decisions; those of the deck first, in their order.", decisions},
		{"places", "The places that have lists, and whether those have views of their own.", places},
	} {
		text, err := json.MarshalIndent(table.rows, "", "  ")
		if err != nil {
			return nil, err
		}
		fmt.Fprintf(out, "\n/** %s */\nexport const %s = %s as const\n", table.says, table.name, text)
	}
	return out.Bytes(), nil
}
