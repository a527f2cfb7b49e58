package main

import (
	"bufio"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"net"
	"os"
	"strconv"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/remote"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/store"
)

func accountCommand(file *string) *cobra.Command {
	var person string
	cmd := &cobra.Command{Use: "account", Short: "Connect accounts with their mail servers"}
	cmd.PersistentFlags().StringVar(&person, "person", "", "whose accounts they are, if Ebbe has several people: the name they sign in with")
	one := func(use, short string, act func(ctx context.Context, a *app.App, who store.Who, account store.Account) (app.Decided, error)) *cobra.Command {
		return &cobra.Command{Use: use, Short: short, Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
			return forPerson(*file, person, func(ctx context.Context, a *app.App, who store.Who) error {
				account, err := accountOf(ctx, a, who, args[0])
				if err != nil {
					return err
				}
				done, err := act(ctx, a, who, account)
				if err == nil {
					fmt.Fprintln(cmd.OutOrStdout(), done.Title)
				}
				return err
			})
		}}
	}
	cmd.AddCommand(addAccountCommand(file, &person), listAccountsCommand(file, &person),
		one("pause ADDRESS", "Leave the mail server of an account alone", func(ctx context.Context, a *app.App, who store.Who, x store.Account) (app.Decided, error) {
			return a.PauseRemote(ctx, who, rand.Text(), x.ID, true)
		}),
		one("resume ADDRESS", "Go on with the mail server of an account", func(ctx context.Context, a *app.App, who store.Who, x store.Account) (app.Decided, error) {
			return a.PauseRemote(ctx, who, rand.Text(), x.ID, false)
		}),
		one("remove ADDRESS", "Part an account from its mail server; all letters stay", func(ctx context.Context, a *app.App, who store.Who, x store.Account) (app.Decided, error) {
			return a.Disconnect(ctx, who, rand.Text(), x.ID)
		}))
	return cmd
}

// accountOf is the account of an address.
func accountOf(ctx context.Context, a *app.App, who store.Who, address string) (store.Account, error) {
	accounts, err := a.Accounts(ctx, who)
	for _, x := range accounts {
		if strings.EqualFold(x.Address, address) {
			return x.Account, err
		}
	}
	return store.Account{}, errors.Join(err, fmt.Errorf("there is no account %s", address))
}

func addAccountCommand(file, person *string) *cobra.Command {
	var login, incoming, outgoing string
	cmd := &cobra.Command{
		Use: "add ADDRESS", Short: "Connect an address with its mail server", Args: cobra.ExactArgs(1),
		Long: `Add connects an address with its mail server; one that Ebbe does not know yet becomes an account. The servers are
found by the domain of the address, or named: --incoming imap.norrholm.example:993 and --outgoing
smtp.norrholm.example:465. Ports 143 and 587 are spoken to by STARTTLS, all others by TLS; in the open only
this machine, with “plain:” before it. The password is asked for, or read from the standard input. An Ebbe that is being
served begins within a minute.`,
		RunE: func(cmd *cobra.Command, args []string) error {
			return forPerson(*file, *person, func(ctx context.Context, a *app.App, who store.Who) error {
				return addAccount(ctx, cmd, a, who, args[0], login, incoming, outgoing)
			})
		},
	}
	cmd.Flags().StringVar(&login, "login", "", "the name at the server, if it is not the address")
	cmd.Flags().StringVar(&incoming, "incoming", "", "where letters are read: name and port of the IMAP server")
	cmd.Flags().StringVar(&outgoing, "outgoing", "", "where letters are sent: name and port of the SMTP server")
	return cmd
}

func addAccount(ctx context.Context, cmd *cobra.Command, a *app.App, who store.Who, address, login, incoming, outgoing string) error {
	found, err := a.FindServers(ctx, address)
	if err != nil {
		return err
	}
	if (incoming == "" || outgoing == "") && found.Foreign != "" {
		return fmt.Errorf("the domain names %s, which is outside it and would get the password. If that is right, name both with --incoming and --outgoing", found.Foreign)
	}
	for _, x := range []struct {
		text string
		into *remote.Server
	}{{incoming, &found.Incoming}, {outgoing, &found.Outgoing}} {
		if x.text == "" {
			continue
		}
		if *x.into, err = serverOf(x.text); err != nil {
			return &exit{usageCode, err}
		}
	}
	password, err := askPassword(cmd, address)
	if err != nil {
		return err
	}
	account, err := accountOf(ctx, a, who, address)
	if err != nil {
		if _, err := a.NewAccount(ctx, who, rand.Text(), address, app.AccountFields{}); err != nil {
			return err
		}
		if account, err = accountOf(ctx, a, who, address); err != nil {
			return err
		}
	}
	if login == "" {
		login = account.Address
	}
	done, err := a.Connect(ctx, who, rand.Text(), app.Connecting{Account: account.ID, Login: login, Password: password, Incoming: found.Incoming, Outgoing: found.Outgoing})
	if err != nil {
		return err
	}
	a.StopSyncing() // whoever serves it goes on
	fmt.Fprintln(cmd.OutOrStdout(), done.Title)
	return nil
}

// serverOf reads a server from a flag.
func serverOf(text string) (remote.Server, error) {
	text, plain := strings.CutPrefix(text, post.Plain+":")
	host, port, err := net.SplitHostPort(text)
	if err != nil {
		return remote.Server{}, fmt.Errorf("%s is no name with a port, such as imap.norrholm.example:993", text)
	}
	n, err := strconv.Atoi(port)
	if err != nil {
		return remote.Server{}, fmt.Errorf("%s is no port", port)
	}
	s := remote.Server{Host: host, Port: n, Security: post.TLS}
	switch {
	case plain:
		s.Security = post.Plain
	case n == 143 || n == 587:
		s.Security = post.StartTLS
	}
	return s, nil
}

// askPassword asks for a password without showing it, or reads the first line of what is
// given.
func askPassword(cmd *cobra.Command, address string) (string, error) {
	if f, ok := cmd.InOrStdin().(*os.File); ok && term.IsTerminal(int(f.Fd())) {
		fmt.Fprintf(cmd.ErrOrStderr(), "Password of %s: ", address)
		text, err := term.ReadPassword(int(f.Fd()))
		fmt.Fprintln(cmd.ErrOrStderr())
		return string(text), err
	}
	line, err := bufio.NewReader(cmd.InOrStdin()).ReadString('\n')
	if errors.Is(err, io.EOF) {
		err = nil
	}
	return strings.TrimRight(line, "\r\n"), err
}

func listAccountsCommand(file, person *string) *cobra.Command {
	return &cobra.Command{
		Use: "list", Short: "List the accounts, and how they stand with their mail servers", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return forPerson(*file, *person, func(ctx context.Context, a *app.App, who store.Who) error {
				accounts, err := a.Accounts(ctx, who)
				if err != nil {
					return err
				}
				remotes, err := a.Remotes(ctx, who)
				if err != nil {
					return err
				}
				for _, x := range accounts {
					how := "not connected"
					for _, r := range remotes {
						if r.Account != x.ID {
							continue
						}
						how = fmt.Sprintf("%s, %d of %d letters", r.Incoming.Host, r.Here, r.There)
						switch {
						case r.Paused:
							how += ", paused"
						case r.Trouble != "":
							how += ". " + r.Trouble
						}
					}
					fmt.Fprintf(cmd.OutOrStdout(), "%s\t%s\n", x.Address, how)
				}
				return nil
			})
		},
	}
}
