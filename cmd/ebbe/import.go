package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"time"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/store"
)

// forPerson runs fn with an App for one person's letters.
func forPerson(file, person string, fn func(ctx context.Context, a *app.App, owner int64) error) error {
	ctx, stop := untilStopped()
	defer stop()
	a, err := openApp(ctx, file, false)
	if err != nil {
		return err
	}
	owner, err := findPerson(ctx, a.Store, person)
	if err == nil {
		err = fn(ctx, a, owner)
	}
	return errors.Join(err, a.Store.Close())
}

func personFlag(cmd *cobra.Command, person *string) {
	cmd.Flags().StringVar(person, "person", "", "whose letters they are, if Ebbe has several people: the name they sign in with")
}

func importCommand(file *string) *cobra.Command {
	var in app.Importing
	var person string
	cmd := &cobra.Command{
		Use: "import PATH", Short: "Take in letters from files", Args: cobra.ExactArgs(1),
		Long: "Import takes in letters: an .eml, an mbox, a Maildir, a folder of any of these, or a zip of them. They go to the\n" +
			"archive; with --inbox-days N, those newer than N days go to the inbox. The same letters again add nothing. An\n" +
			"import that was cut off goes on where it was when it is run again. It can be undone as one in the Journal.",
		RunE: func(cmd *cobra.Command, args []string) error {
			return forPerson(*file, person, func(ctx context.Context, a *app.App, owner int64) error {
				path, err := filepath.Abs(args[0])
				if err != nil {
					return err
				}
				in.Path, in.Name = path, filepath.Base(path)
				in.Command = fmt.Sprintf("%s:%d", path, time.Now().UnixNano())
				return importPath(ctx, cmd.OutOrStdout(), cmd.ErrOrStderr(), a, owner, in)
			})
		},
	}
	cmd.Flags().IntVar(&in.InboxDays, "inbox-days", 0, "letters newer than this many days go to the inbox")
	cmd.Flags().BoolVar(&in.OldQuoting, "mboxo", false, "the mbox files are quoted the old way, which leaves “>From ” alone")
	personFlag(cmd, &person)
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

func importPath(ctx context.Context, out, progress io.Writer, a *app.App, owner int64, in app.Importing) error {
	bar := progressbar.NewOptions64(-1, progressbar.OptionSetWriter(progress), progressbar.OptionShowBytes(true),
		progressbar.OptionSetDescription("Importing"), progressbar.OptionThrottle(100*time.Millisecond), progressbar.OptionClearOnFinish())
	v, err := a.ImportNow(ctx, owner, in, func(v app.ImportView) {
		bar.ChangeMax64(max(v.Size, 1))
		_ = bar.Set64(v.Done) // the bar is only for looking at
	})
	_ = bar.Finish()
	for _, t := range v.Troubles {
		subject := ""
		if t.Subject != "" {
			subject = " (“" + t.Subject + "”)"
		}
		fmt.Fprintf(out, "%s%s: %s\n", t.Name, subject, t.What)
	}
	if v.ID != 0 {
		fmt.Fprintf(out, "Read %d letters: %d new, %d known already, %d damaged.\n", v.Read, v.New, v.Known, v.Damaged)
	}
	if v.Passed > 0 {
		fmt.Fprintf(out, "%d files are no letters and were passed over.\n", v.Passed)
	}
	return err
}
