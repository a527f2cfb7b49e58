package e2e

import (
	"context"
	"log/slog"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"ebbe.example/ebbe/e2e/browser"
	"ebbe.example/ebbe/internal/running"
	"ebbe.example/ebbe/internal/store"
)

// The first minutes, by keys alone: the owner is made, looks around in a made-up world,
// tries a key and takes it back, throws the world away, and is asked again where their
// letters are.
func TestTheFirstMinutes(t *testing.T) {
	file := filepath.Join(t.TempDir(), "ebbe.db")
	runs, err := running.Start(t.Context(), running.Options{File: file, Web: "127.0.0.1:0", Mail: "127.0.0.1:0", Log: slog.New(slog.DiscardHandler)})
	require.NoError(t, err)
	t.Cleanup(func() {
		require.NoError(t, runs.Stop())
		s, err := store.Open(file)
		require.NoError(t, err)
		problems, err := s.Check(context.Background())
		require.NoError(t, err)
		require.Empty(t, problems)
		require.NoError(t, s.Close())
	})
	p := openPage(t, "http://"+runs.Web, browser.Phone, true)
	p.MustElement("input")
	for _, text := range []string{"Ada Rosen", "ada@rosen.example", "a-long-password"} {
		p.Type(text)
		if text != "a-long-password" {
			p.Press(input.Tab)
		}
	}
	p.Press(input.Enter)
	p.See("Where are your letters")
	p.Press('2')
	p.See("Letters in and out")
	p.MustNavigateBack()
	p.See("Where are your letters")
	p.Press('3')
	p.See("12 letters wait for a decision")
	p.See("These letters are made up")
	p.MustElement("[role=option]") // they come some moments after their count
	p.Press('j', '2')
	p.See("That was one")
	p.Press('u')
	p.See("12 letters wait for a decision")
	p.MustElement("section[aria-label='The first minutes'] button[aria-label^='Put the first minutes away']").MustFocus()
	p.Press(input.Enter)
	p.SeeNot("wait for a decision")
	p.Press('?')
	p.Click("Show the first minutes again")
	p.See("12 letters wait for a decision")
	p.Click("Throw them away")
	p.See("Where are your letters")
	p.Press('1')
	p.See("Password, or app password")
}
