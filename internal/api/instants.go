package api

import (
	"io"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	v1 "github.com/go-json-experiment/json/v1"
)

// asEver is the JSON of the standard library, but that every instant is written
// in UTC (RFC 3339): one form for all, whichever zone a rule reckoned it in.
var asEver = json.JoinOptions(v1.DefaultOptionsV1(), json.WithMarshalers(
	json.MarshalToFunc(func(to *jsontext.Encoder, t time.Time) error {
		return to.WriteToken(jsontext.String(t.UTC().Format(time.RFC3339Nano)))
	}),
))

func writeJSON(w io.Writer, v any) error { return json.MarshalWrite(w, v, asEver) }

// formats are the forms of bodies: JSON alone.
func formats() map[string]huma.Format {
	form := huma.Format{Marshal: writeJSON, Unmarshal: huma.DefaultJSONFormat.Unmarshal}
	return map[string]huma.Format{"application/json": form, "json": form}
}
