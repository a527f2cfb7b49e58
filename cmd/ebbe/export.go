package main

import (
	"archive/zip"
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

func exportCommand(file *string) *cobra.Command {
	var what show.Exporting
	var person, format string
	cmd := &cobra.Command{
		Use: "export PATH", Short: "Write letters to files", Args: cobra.ExactArgs(1),
		Long: `Export writes letters byte for byte: all of them, those of a --label, or those of the conversations that a
--search finds. PATH is a new mbox file (quoted as mboxrd), or a new folder for --format maildir and eml; “-” is the
standard output (an mbox, or a zip of the folder).

A letter that has come more than once is written once, as it came first; with --copies each copy is written as it
came. A file or folder is there under its name only once it is whole.`,
		RunE: func(cmd *cobra.Command, args []string) error {
			if !slices.Contains([]string{"mbox", "maildir", "eml"}, format) {
				return &exit{usageCode, fmt.Errorf("there is no format %q; take mbox, maildir or eml", format)}
			}
			return forPerson(*file, person, func(ctx context.Context, a *app.App, who store.Who) error {
				e, err := a.PrepareExport(ctx, who, what)
				if err != nil {
					return err
				}
				said := cmd.OutOrStdout()
				folders := e.Files
				if format == "maildir" {
					folders = e.Maildir
				}
				switch {
				case args[0] == "-":
					said = cmd.ErrOrStderr()
					err = toOutput(cmd.OutOrStdout(), func(w io.Writer) error {
						if format == "mbox" {
							return e.Mbox(ctx, w)
						}
						return app.InZip(w, func(f show.Folder) error { return folders(ctx, f) })
					})
				case format == "mbox":
					err = newFile(args[0], func(w io.Writer) error { return e.Mbox(ctx, w) })
				default:
					err = newFolder(args[0], func(f show.Folder) error { return folders(ctx, f) })
				}
				if err != nil {
					return err
				}
				fmt.Fprintf(said, "Wrote %s.\n", counted(len(e.Letters), "letter"))
				switch n := e.LeftOut(); {
				case n == 1:
					fmt.Fprintln(said, "1 further copy of them, which came another way, is left out; --copies writes it too.")
				case n > 1:
					fmt.Fprintf(said, "%d further copies of them, which came other ways, are left out; --copies writes them too.\n", n)
				}
				return nil
			})
		},
	}
	cmd.Flags().StringVar(&format, "format", "mbox", "mbox, maildir or eml")
	cmd.Flags().StringVar(&what.Label, "label", "", "only letters of conversations with this label")
	cmd.Flags().StringVar(&what.Search, "search", "", "only letters of conversations that this search finds")
	cmd.Flags().BoolVar(&what.Copies, "copies", false, "every copy of a letter that has come, as it came")
	cmd.MarkFlagsMutuallyExclusive("label", "search")
	personFlag(cmd, &person)
	return cmd
}

func toOutput(out io.Writer, write func(io.Writer) error) error {
	w := bufio.NewWriterSize(out, 1<<20)
	return errors.Join(write(w), w.Flush())
}

func archiveCommand(file *string) *cobra.Command {
	var person string
	cmd := &cobra.Command{
		Use: "archive FILE", Short: "Write everything of a person to one zip: letters, and all of Ebbe's own state as JSON", Args: cobra.ExactArgs(1),
		Long: `Archive writes everything of a person to one zip; “-” is the standard output. An original that can't be read is left
out and named, and the process ends with 5 then.`,
		RunE: func(cmd *cobra.Command, args []string) error {
			return forPerson(*file, person, func(ctx context.Context, a *app.App, who store.Who) error {
				var end app.End
				write := func(w io.Writer) (err error) {
					end, err = a.Archive(ctx, who, w)
					return err
				}
				said := cmd.OutOrStdout()
				var err error
				if args[0] == "-" {
					said = cmd.ErrOrStderr()
					err = toOutput(cmd.OutOrStdout(), write)
				} else {
					err = newFile(args[0], write)
				}
				if err != nil {
					return err
				}
				fmt.Fprintf(said, "Wrote %s. Restore it with: ebbe --db NEW.db restore %s\n", args[0], args[0])
				for _, m := range end.Missing {
					fmt.Fprintf(said, "Not in it, for its original can't be read (%s): %s\n", m.Reason, strings.Join(m.Letters, "; "))
				}
				if len(end.Missing) > 0 {
					return &exit{partCode, fmt.Errorf("the archive is whole but for %s", counted(len(end.Missing), "original"))}
				}
				return nil
			})
		},
	}
	personFlag(cmd, &person)
	return cmd
}

func restoreCommand(file *string) *cobra.Command {
	return &cobra.Command{
		Use: "restore FILE", Short: "Fill a new database (--db) with an archive", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if _, err := os.Stat(*file); err == nil {
				return fmt.Errorf("%s is there already; name a new database with --db. Nothing was written", *file)
			}
			z, err := zip.OpenReader(args[0])
			if err != nil {
				return fmt.Errorf("%s is cut off, or no archive of Ebbe's (%w)", args[0], err)
			}
			defer z.Close()
			if err := makeFolder(*file); err != nil {
				return err
			}
			// Half a database is never left behind.
			part := *file + ".part"
			removeDatabase(part)
			m, end, err := app.Restore(cmd.Context(), &z.Reader, part)
			if err != nil {
				removeDatabase(part)
				return err
			}
			if err := os.Rename(part, *file); err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "Restored the Ebbe of %s, archived on %s, into %s, and checked it.\n", m.Name, m.MadeAt.Format("2 January 2006 15:04"), *file)
			if len(end.Missing) > 0 {
				return &exit{partCode, fmt.Errorf("the originals of %s were not in the archive; a few words stand in their place", counted(len(end.Missing), "letter"))}
			}
			return nil
		},
	}
}

func removeDatabase(file string) {
	for _, end := range []string{"", "-wal", "-shm"} {
		_ = os.Remove(file + end) // what is not there need not go
	}
}

// newFile writes a file that must not be there yet, whole or not at all: it
// has its name only once it is whole.
func newFile(path string, write func(io.Writer) error) error {
	if err := mustBeNew(path); err != nil {
		return err
	}
	part := path + ".part"
	f, err := os.OpenFile(part, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return fmt.Errorf("nothing was written: %w", err)
	}
	w := bufio.NewWriterSize(f, 1<<20)
	if err := errors.Join(write(w), w.Flush(), f.Sync(), f.Close()); err != nil {
		return errors.Join(err, os.Remove(part))
	}
	return os.Rename(part, path)
}

func mustBeNew(path string) error {
	if _, err := os.Lstat(path); err == nil {
		return fmt.Errorf("%s is there already; nothing was written", path)
	}
	return nil
}

// folder is a folder on disk that files are written into.
type folder string

func (f folder) Make(name string) error { return os.MkdirAll(filepath.Join(string(f), name), 0o700) }

func (f folder) Write(name string, at time.Time, content []byte) error {
	path := filepath.Join(string(f), filepath.FromSlash(name))
	if err := os.WriteFile(path, content, 0o600); err != nil {
		return err
	}
	return os.Chtimes(path, at, at)
}

func newFolder(path string, write func(show.Folder) error) error {
	if err := mustBeNew(path); err != nil {
		return err
	}
	part := path + ".part"
	if err := os.Mkdir(part, 0o700); err != nil {
		return fmt.Errorf("nothing was written: %w", err)
	}
	if err := write(folder(part)); err != nil {
		return errors.Join(err, os.RemoveAll(part))
	}
	return os.Rename(part, path)
}
