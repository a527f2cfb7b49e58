package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/mattn/go-isatty"
	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/running"
	"ebbe.example/ebbe/internal/store"
)

// forPerson runs fn with an App for one person's letters.
func forPerson(file, person string, fn func(ctx context.Context, a *app.App, who store.Who) error) error {
	ctx, stop := untilStopped()
	defer stop()
	if err := mustBeThere(file); err != nil {
		return err
	}
	a, err := running.Open(ctx, optionsOf(file, false))
	if err != nil {
		return err
	}
	who, err := findPerson(ctx, a.Store, person)
	if err == nil {
		err = fn(ctx, a, who)
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
		Long: `Import takes in letters: an .eml, an mbox, a Maildir, a folder of any of these, or a zip of them; with “-” for PATH
what stands on the standard input. They go to the archive; with --inbox-days N, those newer than N days go to the
inbox. The same letters again add nothing. An import that was cut off goes on where it was when it is run again. It
can be undone as one in the Journal.

It ends with
  0  if all was taken in, or was known already
  1  if it failed
  2  if the command's words are off
  3  if it was stopped before its end; what was taken in stays
  4  if there was no letter in it
  5  if some letters are damaged or were left out; they are named`,
		RunE: func(cmd *cobra.Command, args []string) error {
			if in.InboxDays < 0 {
				return &exit{usageCode, errors.New("--inbox-days counts back from today: 0 or more")}
			}
			return forPerson(*file, person, func(ctx context.Context, a *app.App, who store.Who) error {
				path, err := filepath.Abs(args[0])
				if err != nil {
					return err
				}
				in.Name = filepath.Base(path)
				if args[0] == "-" {
					in.Name = "standard input"
					if path, err = spool(cmd.InOrStdin()); err != nil {
						return err
					}
					defer os.Remove(path)
				}
				in.Path = path
				in.Command = fmt.Sprintf("%s:%d", path, time.Now().UnixNano())
				return importPath(ctx, cmd.OutOrStdout(), cmd.ErrOrStderr(), a, who, in)
			})
		},
	}
	cmd.Flags().IntVar(&in.InboxDays, "inbox-days", 0, "letters newer than this many days go to the inbox")
	cmd.Flags().BoolVar(&in.OldQuoting, "mboxo", false, "the mbox files are quoted the old way, which leaves “>From ” alone")
	personFlag(cmd, &person)
	return cmd
}

// spool keeps what comes in a file, since it is looked at more than once.
func spool(r io.Reader) (string, error) {
	f, err := os.CreateTemp("", "ebbe-import-*")
	if err != nil {
		return "", err
	}
	_, err = io.Copy(f, r)
	if err = errors.Join(err, f.Close()); err != nil {
		return "", errors.Join(err, os.Remove(f.Name()))
	}
	return f.Name(), nil
}

func findPerson(ctx context.Context, s *store.Store, name string) (store.Who, error) {
	people, err := s.People(ctx)
	if err != nil {
		return store.Who{}, err
	}
	for _, p := range people {
		if p.SignIn == name || name == "" && len(people) == 1 {
			return store.Own(p.ID), nil
		}
	}
	switch {
	case len(people) == 0:
		return store.Who{}, errors.New("nobody owns this Ebbe yet; run “ebbe serve” and open its page first")
	case name == "":
		return store.Who{}, errors.New("there are several people; say whose letters they are with --person")
	}
	return store.Who{}, fmt.Errorf("nobody signs in as %q", name)
}

func importPath(ctx context.Context, out, progress io.Writer, a *app.App, who store.Who, in app.Importing) error {
	bar := progressbar.NewOptions64(-1, progressbar.OptionSetWriter(progress), progressbar.OptionShowBytes(true), progressbar.OptionSetVisibility(drawn(progress)),
		progressbar.OptionSetDescription("Importing"), progressbar.OptionThrottle(100*time.Millisecond), progressbar.OptionOnCompletion(func() { fmt.Fprintln(progress) }))
	v, err := a.ImportNow(ctx, who, in, func(v app.ImportView) {
		bar.ChangeMax64(max(v.Size, 1))
		_ = bar.Set64(v.Done) // the bar is only for looking at
	})
	if err == nil && v.State == "done" {
		_ = bar.Finish()
	} else {
		_ = bar.Exit()
	}
	for _, t := range v.Troubles {
		subject := ""
		if t.Subject != "" {
			subject = " (“" + t.Subject + "”)"
		}
		fmt.Fprintf(out, "%s%s: %s\n", t.Name, subject, t.What)
	}
	if v.ID != 0 {
		fmt.Fprintf(out, "Read %s: %d new, %d known already, %d damaged or left out.\n", counted(v.Read, "letter"), v.New, v.Known, v.Damaged)
	}
	switch {
	case v.Passed == 1:
		fmt.Fprintln(out, "1 file is no letter and was passed over.")
	case v.Passed > 1:
		fmt.Fprintf(out, "%d files are no letters and were passed over.\n", v.Passed)
	}
	switch {
	case v.State == "stopped" || errors.Is(err, context.Canceled):
		return &exit{stoppedCode, errors.New("the import was stopped; what was taken in stays. Run it again to go on")}
	case err != nil:
		return err
	case v.New+v.Known+v.Damaged == 0:
		return &exit{nothingCode, fmt.Errorf("there is no letter in %s; nothing was taken in", in.Name)}
	case v.Damaged > 0:
		return &exit{partCode, fmt.Errorf("of %s not all could be taken in whole: %d are named above", in.Name, v.Damaged)}
	}
	return nil
}

func counted(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// drawn tells whether a progress bar is drawn: only where somebody looks, and
// not where they asked for none (NO_COLOR).
func drawn(w io.Writer) bool {
	f, ok := w.(*os.File)
	_, plain := os.LookupEnv("NO_COLOR")
	return ok && !plain && isatty.IsTerminal(f.Fd())
}
