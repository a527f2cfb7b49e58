package app_test

import (
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/filetext"
	"ebbe.example/ebbe/internal/show"
)

// texts reads files at once, but for those that are named to fail.
type texts struct{ fails map[string]error }

func (x texts) Read(_ context.Context, name, contentType string, data []byte) (string, error) {
	if err := x.fails[name]; err != nil {
		return "", err
	}
	return filetext.Read(name, contentType, data)
}

func (texts) Rest() {}

// attaching is the head and the text of a letter with files: name, content, name, content.
func attaching(files ...string) (extra, text string) {
	var b strings.Builder
	b.WriteString("--cut\r\nContent-Type: text/plain\r\n\r\nSee what is attached.\r\n")
	for i := 0; i < len(files); i += 2 {
		fmt.Fprintf(&b, "--cut\r\nContent-Type: application/octet-stream\r\nContent-Disposition: attachment; filename=\"%s\"\r\nContent-Transfer-Encoding: base64\r\n\r\n%s\r\n",
			files[i], base64.StdEncoding.EncodeToString([]byte(files[i+1])))
	}
	return "MIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=cut\r\n", b.String() + "--cut--\r\n"
}

// What stands in files is found once they are read; a file that can't be read is named, and stops nothing.
func TestTheTextOfFilesIsFound(t *testing.T) {
	w := newWorld(t)
	w.app.Texts = texts{map[string]error{"hangs.pdf": errors.New("reading it took too long, or broke off")}}
	extra, text := attaching("walks.csv", "fern walk;Oslo", "hangs.pdf", "%PDF", "broken.docx", "no zip", "photo.jpg", "\xff\xd8")
	w.receive(mail{id: "1@x.example", from: "Bram <bram@x.example>", subject: "Files", extra: extra, text: text})
	w.receive(mail{id: "2@x.example", from: "Bram <bram@x.example>", subject: "None"})
	found := func(q string) int {
		page, err := w.app.Search(w.ctx, w.who, show.Asked{Q: q})
		require.NoError(t, err)
		return len(page.Rows)
	}
	assert.Zero(t, found("oslo"))
	require.NoError(t, w.app.ReadFiles(w.ctx))
	assert.Equal(t, 1, found("oslo"))
	assert.Equal(t, 1, found(`"fern walk" with:walks`), "beside the names")
	assert.Equal(t, 1, found("attached from:bram"), "beside the text")
	w.sound()
	page, err := w.app.Search(w.ctx, w.who, show.Asked{Q: "oslo"})
	require.NoError(t, err)
	lines, err := w.app.SearchLines(w.ctx, w.who, show.Asked{Q: "oslo"}, []int64{page.Rows[0].Letter})
	require.NoError(t, err)
	require.Len(t, lines, 1)
	assert.Equal(t, "In what is attached.", lines[0].Line)

	c, err := w.app.Open(w.ctx, w.who, w.titled(decide.Inbox, "Files").ID)
	require.NoError(t, err)
	says := map[string]string{}
	for _, p := range c.LetterList[0].Parts {
		says[p.Name] = p.Unread
	}
	assert.Equal(t, map[string]string{"walks.csv": "", "hangs.pdf": "reading it took too long, or broke off", "broken.docx": says["broken.docx"], "photo.jpg": ""}, says)
	assert.Contains(t, says["broken.docx"], "it is damaged")

	list, err := w.app.Store.FilesToRead(w.ctx, 10)
	require.NoError(t, err)
	assert.Empty(t, list, "each letter once")
	w.app.Texts = texts{map[string]error{"walks.csv": errors.New("it is read only once")}}
	require.NoError(t, w.app.ReadFiles(w.ctx))
	assert.Equal(t, 1, found("oslo"))
}

// What a reader was stopped in is read at the next start.
func TestReadingFilesIsTakenUpAgain(t *testing.T) {
	w := newWorld(t)
	w.app.Texts = texts{}
	extra, text := attaching("walks.txt", "fern walk")
	w.receive(mail{id: "1@x.example", from: "Bram <bram@x.example>", subject: "Files", extra: extra, text: text})
	ctx, cancel := context.WithCancel(w.ctx)
	cancel()
	require.NoError(t, w.app.ReadFiles(ctx))
	list, err := w.app.Store.FilesToRead(w.ctx, 10)
	require.NoError(t, err)
	assert.Len(t, list, 1)
	require.NoError(t, w.app.ReadFiles(w.ctx))
	page, err := w.app.Search(w.ctx, w.who, show.Asked{Q: "fern"})
	require.NoError(t, err)
	assert.Len(t, page.Rows, 1)
}
