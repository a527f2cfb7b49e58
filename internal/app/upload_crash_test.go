package app_test

import (
	"bytes"
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// largeFile comes in three pieces, none of them like another.
func largeFile() (show.AttachedFile, []byte) {
	content := make([]byte, 11<<20)
	for i := range content {
		content[i] = byte(i>>12 ^ i)
	}
	return show.AttachedFile{ID: "crash-file", Name: "plan.pdf", Size: int64(len(content)), ContentType: "application/pdf"}, content
}

// uploading writes a letter and attaches a file, as a page that tries again does: from
// where the server says that it broke off.
func uploading(a *app.App, _ *clockwork.FakeClock, who store.Who) error {
	ctx := context.Background()
	f, content := largeFile()
	if _, err := a.SaveDraft(ctx, who, "crash-draft", 0, uploaded(f)); err != nil {
		return err
	}
	begun, err := a.BeginFile(ctx, who, "crash-draft", f)
	if err != nil {
		return err
	}
	_, err = a.FillFile(ctx, who, f.ID, begun.Came, bytes.NewReader(content[begun.Came:]))
	return err
}

func uploaded(f show.AttachedFile) show.Writing {
	return show.Writing{Kind: "new", From: "ines@norrholm.example", To: []string{"eva@x.example"}, Subject: "The plan", Text: "Here it is.\n", Files: []show.AttachedFile{f}}
}

// Killed in the middle of an upload: the draft and what had come are there, the page goes on
// from there, and the file leaves byte for byte.
func TestKilledInAnUpload(t *testing.T) {
	const piece = 4 << 20
	for point, came := range map[string][3]int64{
		"file.before-commit": {0, piece, 2 * piece},
		"file.after-commit":  {piece, 2 * piece, 11 << 20},
	} {
		for n, came := range came {
			t.Run(fmt.Sprint(point, "-", n+1), func(t *testing.T) {
				t.Parallel()
				a, file, who := newCrashed(t)
				require.NoError(t, a.Store.Close())
				killIn(t, "upload", file, point, n+1)

				a, clock := openCrashed(t, file)
				outside := &keeper{}
				a.Sender = outside
				drafts, err := a.Drafts(t.Context(), who)
				require.NoError(t, err)
				require.Len(t, drafts, 1)
				there, err := a.Files(t.Context(), who, "crash-draft")
				require.NoError(t, err)
				require.Len(t, there, 1)
				assert.Equal(t, came, there[0].Came, "whole pieces")

				require.NoError(t, uploading(a, clock, who))
				f, content := largeFile()
				_, err = a.Send(t.Context(), who, app.Sending{Command: "crash-send", Draft: "crash-draft", Writing: uploaded(f)})
				require.NoError(t, err)
				clock.Advance(time.Minute)
				_, err = a.RunDue(t.Context())
				require.NoError(t, err)
				require.Len(t, outside.sent, 1)
				got := letter.Parse(outside.sent[0]).Attachments()
				require.Len(t, got, 1)
				assert.True(t, bytes.Equal(content, got[0].Content), "nothing lost or doubled")
				problems, err := a.Store.Check(t.Context())
				require.NoError(t, err)
				assert.Empty(t, problems)
				require.NoError(t, a.Store.Close())
			})
		}
	}
}
