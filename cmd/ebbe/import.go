package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"iter"
	"os"
	"path/filepath"
	"time"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
)

func importCommand(file *string) *cobra.Command {
	var sinceDays int
	var person string
	cmd := &cobra.Command{
		Use: "import FILE", Short: "Take in letters from an .eml or an mbox file", Args: cobra.ExactArgs(1),
		Long: "Import takes in letters from an .eml or an mbox file. They go to the archive; with --inbox-days N,\n" +
			"those newer than N days go to the inbox. The same file again adds nothing.",
		RunE: func(cmd *cobra.Command, args []string) error {
			ctx, stop := untilStopped()
			defer stop()
			a, err := openApp(ctx, *file, false)
			if err != nil {
				return err
			}
			owner, err := findPerson(ctx, a.Store, person)
			if err == nil {
				err = importFile(ctx, cmd.OutOrStdout(), cmd.ErrOrStderr(), a, owner, args[0], sinceDays)
			}
			return errors.Join(err, a.Store.Close())
		},
	}
	cmd.Flags().IntVar(&sinceDays, "inbox-days", 0, "letters newer than this many days go to the inbox")
	cmd.Flags().StringVar(&person, "person", "", "whose letters they are, if Ebbe has several people: the name they sign in with")
	return cmd
}

func findPerson(ctx context.Context, s *store.Store, name string) (int64, error) {
	people, err := s.People(ctx)
	if err != nil {
		return 0, err
	}
	for _, p := range people {
		if p.SignIn == name || name == "" && len(people) == 1 {
			return p.ID, nil
		}
	}
	switch {
	case len(people) == 0:
		return 0, errors.New("nobody owns this Ebbe yet; run “ebbe serve” and open its page first")
	case name == "":
		return 0, errors.New("there are several people; say whose letters they are with --person")
	}
	return 0, fmt.Errorf("nobody signs in as %q", name)
}

func importFile(ctx context.Context, out, progress io.Writer, a *app.App, owner int64, path string, sinceDays int) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return err
	}
	if info.IsDir() {
		return fmt.Errorf("%s is a folder; name a file", path)
	}
	bar := progressbar.NewOptions64(info.Size(), progressbar.OptionSetWriter(progress), progressbar.OptionShowBytes(true),
		progressbar.OptionSetDescription("Importing"), progressbar.OptionThrottle(100*time.Millisecond), progressbar.OptionClearOnFinish())
	in := app.Importing{Owner: owner, Source: filepath.Base(path), FileTime: info.ModTime()}
	if sinceDays > 0 {
		in.InboxSince = a.Now().AddDate(0, 0, -sinceDays)
	}
	account, err := a.Import(ctx, in, lettersOf(io.TeeReader(f, bar)))
	_ = bar.Finish() // the bar is only for looking at
	for _, d := range account.Damaged {
		fmt.Fprintln(out, "damaged:", d)
	}
	fmt.Fprintf(out, "Read %d letters: %d new, %d known already, %d damaged.\n", account.Read, account.New, account.Known, len(account.Damaged))
	if err != nil {
		return fmt.Errorf("the import stopped early; run it again to go on: %w", err)
	}
	return nil
}

// lettersOf reads a file's letters: many from an mbox, else one.
func lettersOf(r io.Reader) iter.Seq2[[]byte, error] {
	in := bufio.NewReader(r)
	head, _ := in.Peek(5)
	if post.IsMbox(head) {
		return post.Mbox(in)
	}
	return func(yield func([]byte, error) bool) {
		raw, err := io.ReadAll(io.LimitReader(in, post.MaxLetter+1))
		switch {
		case err != nil:
			yield(nil, err)
		case len(raw) > post.MaxLetter:
			yield(nil, post.ErrTooLarge)
		case len(raw) > 0:
			yield(raw, nil)
		}
	}
}
