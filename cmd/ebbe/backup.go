package main

import (
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

	"ebbe.example/ebbe/internal/store"
)

func backupCommand(file *string) *cobra.Command {
	var every time.Duration
	var keep int
	cmd := &cobra.Command{
		Use: "backup FILE", Short: "Write a consistent copy of the database, also while it is served", Args: cobra.ExactArgs(1),
		Long: `Backup writes a consistent copy of the database. With --every, FILE is a folder: a copy is written to it at once and
again and again, named by its time, and the oldest beyond --keep are removed. A copy that broke off has another
name and is never taken for a whole one. Passwords of mail servers are in no copy.`,
		RunE: func(cmd *cobra.Command, args []string) error {
			if every != 0 {
				if every < time.Minute || keep < 1 {
					return &exit{usageCode, errors.New("--every is at least a minute, and --keep at least 1")}
				}
				ctx, stop := untilStopped()
				defer stop()
				return withStore(*file, func(s *store.Store) error { return backUp(ctx, cmd.OutOrStdout(), s, args[0], every, keep) })
			}
			if _, err := os.Stat(args[0]); err == nil {
				return fmt.Errorf("%s is there already; nothing was written", args[0])
			}
			return withStore(*file, func(s *store.Store) error {
				if err := s.Backup(cmd.Context(), args[0]); err != nil {
					return err
				}
				fmt.Fprintf(cmd.OutOrStdout(), "Wrote %s. Verify it with: ebbe --db %s check\n", args[0], args[0])
				return nil
			})
		},
	}
	cmd.Flags().DurationVar(&every, "every", 0, "write one again and again, so long apart (24h)")
	cmd.Flags().IntVar(&keep, "keep", 14, "with --every, how many are kept")
	return cmd
}

// copyName is how copies are named, so that their order is that of their times.
const copyName = "ebbe-20060102-150405.db"

// backUp writes copies until ctx ends. One that fails is said, and tried again the next
// time.
func backUp(ctx context.Context, out io.Writer, s *store.Store, folder string, every time.Duration, keep int) error {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return err
	}
	log := logger("text")
	for {
		if path, err := backUpOnce(ctx, s, folder, time.Now(), keep); err != nil {
			log.Error("a backup failed", "reason", err)
		} else {
			fmt.Fprintf(out, "Wrote %s.\n", path)
		}
		select {
		case <-ctx.Done():
			return nil
		case <-time.After(every):
		}
	}
}

// backUpOnce writes one copy, and removes the oldest beyond those that are kept.
func backUpOnce(ctx context.Context, s *store.Store, folder string, at time.Time, keep int) (string, error) {
	path := filepath.Join(folder, at.UTC().Format(copyName))
	part := path + ".part"
	if err := os.RemoveAll(part); err != nil {
		return "", err
	}
	if err := s.Backup(ctx, part); err != nil {
		return "", errors.Join(err, os.RemoveAll(part))
	}
	if err := os.Rename(part, path); err != nil {
		return "", err
	}
	entries, err := os.ReadDir(folder)
	var copies []string
	for _, e := range entries {
		if _, err := time.Parse(copyName, e.Name()); err == nil && !strings.HasSuffix(e.Name(), ".part") {
			copies = append(copies, e.Name())
		}
	}
	slices.Sort(copies)
	for _, old := range copies[:max(0, len(copies)-keep)] {
		err = errors.Join(err, os.Remove(filepath.Join(folder, old)))
	}
	return path, err
}
