package main

import (
	"fmt"
	"os"
	"strings"

	"github.com/knadh/koanf/parsers/toml/v2"
	"github.com/knadh/koanf/providers/env/v2"
	"github.com/knadh/koanf/providers/file"
	"github.com/knadh/koanf/v2"
	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
)

// Every flag can also be set by the environment (EBBE_LISTEN for --listen,
// EBBE_SMTP_ANYWHERE for --smtp-anywhere) and by a file in TOML (listen = "…"). What is
// said on the command line comes first, then the environment, then the file.

const settingsPrefix = "EBBE_"

// ours are variables of the environment that are no flags.
var ours = []string{crashVariable, "EBBE_KEY", "EBBE_CONFIG"}

// settle sets the flags of a command that the command line leaves open.
func settle(cmd *cobra.Command, path string) error {
	k := koanf.New(".")
	if path == "" {
		path = os.Getenv("EBBE_CONFIG")
	}
	if path != "" {
		if err := k.Load(file.Provider(path), toml.Parser()); err != nil {
			return &exit{usageCode, fmt.Errorf("read the settings of %s: %w", path, err)}
		}
		for _, key := range k.Keys() {
			if !known(cmd.Root(), key) {
				return &exit{usageCode, fmt.Errorf("%s sets “%s”, and there is no such setting", path, key)}
			}
		}
	}
	environment := env.Provider(".", env.Opt{Prefix: settingsPrefix, TransformFunc: func(name, value string) (string, any) {
		for _, o := range ours {
			if name == o {
				return "", nil
			}
		}
		return strings.ReplaceAll(strings.ToLower(strings.TrimPrefix(name, settingsPrefix)), "_", "-"), value
	}})
	if err := k.Load(environment, nil); err != nil {
		return err
	}
	var err error
	cmd.Flags().VisitAll(func(f *pflag.Flag) {
		if err != nil || f.Changed || !k.Exists(f.Name) {
			return
		}
		value := k.String(f.Name)
		if list := k.Strings(f.Name); len(list) > 0 {
			value = strings.Join(list, ",")
		}
		if set := cmd.Flags().Set(f.Name, value); set != nil {
			err = &exit{usageCode, fmt.Errorf("the setting “%s” can’t be %q: %w", f.Name, value, set)}
		}
	})
	return err
}

// known tells whether some command has a flag of a name.
func known(cmd *cobra.Command, name string) bool {
	if cmd.Flags().Lookup(name) != nil || cmd.PersistentFlags().Lookup(name) != nil {
		return true
	}
	for _, c := range cmd.Commands() {
		if known(c, name) {
			return true
		}
	}
	return false
}
