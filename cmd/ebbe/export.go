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
	"time"

	"github.com/spf13/cobra"

	"ebbe.example/ebbe/internal/app"
)

func exportCommand(file *string) *cobra.Command {
	var what app.Exporting
	var person, format string
	cmd := &cobra.Command{
		Use: "export PATH", Short: "Write letters to files", Args: cobra.ExactArgs(1),
		Long: "Export writes letters byte for byte: all of them, those of a --label, or those of the conversations that a\\n" +
			"--search finds. PATH is a new mbox file (quoted as mboxrd), or a new folder for --format maildir and eml.",
		RunE: func(cmd *cobra.Command, args []string) error {
			return forPerson(*file, person, func(ctx context.Context, a *app.App, owner int64) error {
				e, err := a.PrepareExport(ctx, owner, what)
				if err != nil {
					return err
				}
				switch format {
				case "mbox":
					err = newFile(args[0], func(w io.Writer) error { return e.Mbox(ctx, w) })
				case "maildir":
					err = newFolder(args[0], func(f app.Folder) error { return e.Maildir(ctx, f) })
				case "eml":
					err = newFolder(args[0], func(f app.Folder) error { return e.Files(ctx, f) })
				default:
					err = fmt.Errorf("there is no format %q; take mbox, maildir or eml", format)
				}
				if err == nil {
					fmt.Fprintf(cmd.OutOrStdout(), "Wrote %d letters to %s.\n", len(e.Letters), args[0])
				}
				return err
			})
		},
	}
	cmd.Flags().StringVar(&format, "format", "mbox", "mbox, maildir or eml")
	cmd.Flags().StringVar(&what.Label, "label", "", "only letters of conversations with this label")
	cmd.Flags().StringVar(&what.Search, "search", "", "only letters of conversations that this search finds")
	cmd.MarkFlagsMutuallyExclusive("label", "search")
	personFlag(cmd, &person)
	return cmd
}

func archiveCommand(file *string) *cobra.Command {
	var person string
	cmd := &cobra.Command{
		Use: "archive FILE", Short: "Write everything of a person to one zip: letters, and all of Ebbe's own state as JSON", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return forPerson(*file, person, func(ctx context.Context, a *app.App, owner int64) error {
				if err := newFile(args[0], func(w io.Writer) error { return a.Archive(ctx, owner, w) }); err != nil {
					return err
				}
				fmt.Fprintf(cmd.OutOrStdout(), "Wrote %s. Restore it with: ebbe --db NEW.db restore %s\n", args[0], args[0])
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
				return fmt.Errorf("%s: %w", args[0], app.ErrNoArchive)
			}
			defer z.Close()
			if err := makeFolder(*file); err != nil {
				return err
			}
			// Half a database is never left behind.
			part := *file + ".part"
			removeDatabase(part)
			m, err := app.Restore(cmd.Context(), &z.Reader, part)
			if err != nil {
				removeDatabase(part)
				return err
			}
			if err := os.Rename(part, *file); err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "Restored the Ebbe of %s, archived on %s, into %s.\n", m.Name, m.MadeAt.Format("2 January 2006 15:04"), *file)
			return nil
		},
	}
}

func removeDatabase(file string) {
	for _, end := range []string{"", "-wal", "-shm"} {
		_ = os.Remove(file + end) // what is not there need not go
	}
}

// newFile writes a file that must not be there yet, whole or not at all.
func newFile(path string, write func(io.Writer) error) error {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return fmt.Errorf("nothing was written: %w", err)
	}
	w := bufio.NewWriterSize(f, 1<<20)
	err = errors.Join(write(w), w.Flush(), f.Close())
	if err != nil {
		return errors.Join(err, os.Remove(path))
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

func newFolder(path string, write func(app.Folder) error) error {
	if err := os.Mkdir(path, 0o700); err != nil {
		return fmt.Errorf("nothing was written: %w", err)
	}
	return write(folder(path))
}
