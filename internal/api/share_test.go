package api_test

import (
	"bytes"
	"mime/multipart"
	"net/http"
	"net/textproto"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/api"
)

func form(t *testing.T, fields map[string]string, files ...string) (body []byte, kind string) {
	t.Helper()
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	for name, value := range fields {
		require.NoError(t, w.WriteField(name, value))
	}
	for _, f := range files {
		part, err := w.CreatePart(textproto.MIMEHeader{"Content-Disposition": {`form-data; name="files"; filename="` + f + `"`}, "Content-Type": {"image/png"}})
		require.NoError(t, err)
		_, err = part.Write([]byte("of " + f))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return b.Bytes(), w.FormDataContentType()
}

// What another program shares is had by whoever is signed in, under a name that nobody can
// guess, and by nobody else; what other sites send is turned away.
func TestSomethingIsShared(t *testing.T) {
	s := serve(t)
	s.setUp()
	share := func(more ...string) *http.Response {
		body, kind := form(t, map[string]string{"subject": "Picture", "text": "See", "url": "https://a.example"}, "../quince.png", "b.png")
		req, err := http.NewRequest(http.MethodPost, s.url+"/share", bytes.NewReader(body))
		require.NoError(t, err)
		req.Header.Set("Content-Type", kind)
		for i := 0; i+1 < len(more); i += 2 {
			req.Header.Set(more[i], more[i+1])
		}
		client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
		res, err := client.Do(req)
		require.NoError(t, err)
		defer res.Body.Close()
		return res
	}
	assert.Equal(t, http.StatusForbidden, share("Sec-Fetch-Site", "cross-site").StatusCode)
	res := share("Sec-Fetch-Site", "none")
	require.Equal(t, http.StatusSeeOther, res.StatusCode)
	name, ok := strings.CutPrefix(res.Header.Get("Location"), "/write?shared=")
	require.True(t, ok)
	var got api.Shared
	s.call("GET", "/api/shared/"+name, nil, &got)
	assert.Equal(t, []any{"Picture", "See", "https://a.example"}, []any{got.Subject, got.Text, got.URL})
	require.Len(t, got.Files, 2)
	assert.NotContains(t, got.Files[0].Name, "/")
	assert.Equal(t, "image/png", got.Files[1].Type)
	assert.Equal(t, http.StatusOK, s.call("GET", "/api/shared/"+name+"/1", nil, nil).StatusCode)
	assert.Equal(t, http.StatusNotFound, s.call("GET", "/api/shared/"+name+"/2", nil, nil).StatusCode)
	assert.NotEqual(t, http.StatusOK, s.call("GET", "/api/shared/other", nil, nil).StatusCode)
	stranger, err := http.Get(s.url + "/api/shared/" + name)
	require.NoError(t, err)
	defer stranger.Body.Close()
	assert.Equal(t, http.StatusUnauthorized, stranger.StatusCode)
}
