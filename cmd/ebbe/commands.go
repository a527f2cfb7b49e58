package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"regexp"
	"syscall"

	"github.com/spf13/cobra"

	"ebbe.example/ebbe/internal/api"
	"ebbe.example/ebbe/internal/running"
	"ebbe.example/ebbe/internal/store"
	"ebbe.example/ebbe/internal/vault"
)

// logFormat is how is logged, text or JSON.
var logFormat = "text"

func root() *cobra.Command {
	var file, settings string
	cmd := &cobra.Command{
		Use: "ebbe", Short: "Bring the inbox to zero every day", SilenceUsage: true, SilenceErrors: true, Version: version,
	}
	cmd.SetVersionTemplate("ebbe {{.Version}}\n")
	cmd.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return &exit{usageCode, err} })
	cmd.PersistentPreRunE = func(cmd *cobra.Command, _ []string) error { return settle(cmd, settings) }
	cmd.PersistentFlags().StringVar(&settings, "config", "", "a file of settings in TOML, each named as its flag; EBBE_CONFIG says the same")
	cmd.PersistentFlags().StringVar(&logFormat, "log", "text", "how is logged: text or json")
	cmd.PersistentFlags().StringVar(&file, "db", "var/ebbe.db", "the database file")
	cmd.AddCommand(serveCommand(&file), demoCommand(&file), importCommand(&file), exportCommand(&file), archiveCommand(&file), restoreCommand(&file), backupCommand(&file), checkCommand(&file), accountCommand(&file), writeCommand(&file), healthyCommand(), apiCommand(), readFilesCommand())
	return cmd
}

// logger writes to the standard error, as text or as JSON. Whatever looks like an address
// is left out: a log is read by others than letters are.
func logger(format string) *slog.Logger {
	options := &slog.HandlerOptions{ReplaceAttr: func(_ []string, a slog.Attr) slog.Attr {
		switch v := a.Value.Any().(type) {
		case string:
			a.Value = slog.StringValue(withoutAddresses(v))
		case error:
			a.Value = slog.StringValue(withoutAddresses(v.Error()))
		}
		return a
	}}
	if format == "json" {
		return slog.New(slog.NewJSONHandler(os.Stderr, options))
	}
	return slog.New(slog.NewTextHandler(os.Stderr, options))
}

var addressLike = regexp.MustCompile(`[^\s<>"',;:()]+@[^\s<>"',;:()]+`)

func withoutAddresses(text string) string {
	return addressLike.ReplaceAllString(text, "(an address)")
}

// untilStopped is a context that ends when the process is asked to stop.
func untilStopped() (context.Context, context.CancelFunc) {
	return signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
}

// openApp opens the database, making it if it is missing, and makes an App on
// the real clock, or on the demo's.
// optionsOf are those of an Ebbe over a database.
func optionsOf(file string, isDemo bool) running.Options {
	return running.Options{File: file, Demo: isDemo, Log: logger(logFormat), Key: os.Getenv(vault.KeyVariable), Hook: crashHook(os.Getenv(crashVariable)), ReadFiles: readFiles()}
}

// crashVariable names a point at which the process kills itself, for tests
// of what survives.
const crashVariable = "EBBE_CRASH_AT"

func crashHook(point string) func(string) {
	if point == "" {
		return nil
	}
	return func(here string) {
		if here == point {
			_ = syscall.Kill(os.Getpid(), syscall.SIGKILL)
			select {} // die here, not a few steps on
		}
	}
}

func checkCommand(file *string) *cobra.Command {
	return &cobra.Command{
		Use: "check", Short: "Verify a database: the file, and all that must hold in it", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return withStore(*file, func(s *store.Store) error {
				problems, err := s.Check(cmd.Context())
				if err != nil {
					return err
				}
				for _, p := range problems {
					fmt.Fprintln(cmd.OutOrStdout(), "-", p)
				}
				if len(problems) > 0 {
					return errors.New("the database is not sound")
				}
				fmt.Fprintln(cmd.OutOrStdout(), "Sound.")
				return nil
			})
		},
	}
}

// mustBeThere refuses a database that is not there: only what serves or
// restores makes one, so that a slip of the pen does not.
func mustBeThere(file string) error {
	info, err := os.Stat(file)
	switch {
	case errors.Is(err, os.ErrNotExist):
		return fmt.Errorf("there is no database %s; name it with --db", file)
	case err != nil:
		return err
	case info.IsDir():
		return fmt.Errorf("%s is a folder, not a database", file)
	}
	return nil
}

// withStore opens a database that must be there already.
func withStore(file string, fn func(*store.Store) error) error {
	if err := mustBeThere(file); err != nil {
		return err
	}
	s, err := store.Open(file)
	if err != nil {
		return err
	}
	return errors.Join(fn(s), s.Close())
}

func apiCommand() *cobra.Command {
	var tables bool
	cmd := &cobra.Command{
		Use: "api", Short: "Print the description of the API (OpenAPI 3.1)", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			print := api.Describe
			if tables {
				print = api.Tables
			}
			text, err := print()
			if err != nil {
				return err
			}
			_, err = cmd.OutOrStdout().Write(text)
			return err
		},
	}
	cmd.Flags().BoolVar(&tables, "tables", false, "print what the page knows of decisions and places instead, as TypeScript")
	return cmd
}
