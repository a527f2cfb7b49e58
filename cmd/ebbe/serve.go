package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/url"
	"os"
	"path/filepath"
	"strings"

	"github.com/gofrs/flock"
	"github.com/spf13/cobra"

	"ebbe.example/ebbe/internal/demo"
	"ebbe.example/ebbe/internal/running"
)

type serving struct {
	listen, smtp   string
	imap, signInAt string
	signIns        string
	smtpAnywhere   bool
	hosts, proxies []string
	public         string
	cert, key      string
	metricsToken   string
	saveTo         string
}

func (o *serving) flags(cmd *cobra.Command) {
	cmd.Flags().StringVar(&o.listen, "listen", "127.0.0.1:8600", "the address to serve at")
	cmd.Flags().StringVar(&o.smtp, "smtp", "127.0.0.1:8625", "the loopback address of the post office that stands in for the mail service")
	cmd.Flags().BoolVar(&o.smtpAnywhere, "smtp-anywhere", false, "let --smtp be an address that other machines reach; whoever reaches it can send letters in")
	cmd.Flags().StringVar(&o.public, "public", "", "the address at which people reach it, such as https://ebbe.norrholm.example; with https cookies are only sent over TLS")
	cmd.Flags().StringVar(&o.cert, "tls-cert", "", "a file with the certificate to serve with")
	cmd.Flags().StringVar(&o.key, "tls-key", "", "the file of its key")
	cmd.Flags().StringVar(&o.metricsToken, "metrics-token", "", "lets whoever has it read /metrics; without, only this machine can")
	cmd.Flags().StringVar(&o.signIns, "sign-ins", "", "a file in TOML that says where people can sign in for their mail servers (OAuth 2), see docs/running.md")
	cmd.Flags().StringVar(&o.saveTo, "save-to", "", "the folder into which rules save what is attached; without, they can't")
	cmd.Flags().StringSliceVar(&o.hosts, "host", nil, "a name by which this server is known, besides localhost and its addresses: that of a proxy before it")
	cmd.Flags().StringSliceVar(&o.proxies, "proxy", nil, "the address of a proxy whose word on who asks is taken")
}

// checkPostOffice refuses a post office that other machines reach, unless that
// is meant: it takes letters from whoever reaches it.
func (o *serving) checkPostOffice() error {
	host, _, err := net.SplitHostPort(o.smtp)
	if err != nil {
		return &exit{usageCode, fmt.Errorf("--smtp: %w", err)}
	}
	ip := net.ParseIP(host)
	if o.smtpAnywhere || host == "localhost" || ip != nil && ip.IsLoopback() {
		return nil
	}
	return &exit{usageCode, fmt.Errorf("--smtp %s is no loopback address: whoever reaches it could send letters in. If that is meant, say --smtp-anywhere", o.smtp)}
}

// lock keeps a second server off the same database.
func lock(file string) (*flock.Flock, error) {
	if err := makeFolder(file); err != nil {
		return nil, err
	}
	l := flock.New(file + ".lock")
	ok, err := l.TryLock()
	if err == nil && !ok {
		err = fmt.Errorf("another Ebbe serves %s already. Stop that one first, or name another database with --db", file)
	}
	return l, err
}

func serveCommand(file *string) *cobra.Command {
	var o serving
	cmd := &cobra.Command{
		Use: "serve", Short: "Serve Ebbe", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx, stop := untilStopped()
			defer stop()
			l, err := o.begin(*file)
			if err != nil {
				return err
			}
			defer l.Unlock()
			return o.serve(ctx, cmd.OutOrStdout(), *file, false)
		},
	}
	o.flags(cmd)
	return cmd
}

func demoCommand(file *string) *cobra.Command {
	var o serving
	var fresh, late bool
	cmd := &cobra.Command{
		Use: "demo", Short: "Serve Ebbe with the demo world", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx, stop := untilStopped()
			defer stop()
			if !cmd.Flags().Changed("db") {
				*file = "var/demo.db"
			}
			l, err := o.begin(*file)
			if err != nil {
				return err
			}
			defer l.Unlock()
			o.saveTo = cmp.Or(o.saveTo, *file+".files")
			if fresh {
				for _, end := range []string{"", "-wal", "-shm", ".outside", ".signed-in", ".secrets", ".key", ".files"} {
					if err := os.RemoveAll(*file + end); err != nil && !errors.Is(err, os.ErrNotExist) {
						return err
					}
				}
			}
			if err := demo.Fill(ctx, *file, cmd.OutOrStdout()); err != nil {
				return fmt.Errorf("fill the demo world: %w", err)
			}
			if late {
				if err := demo.FillLate(ctx, *file, cmd.OutOrStdout()); err != nil {
					return fmt.Errorf("bring the backlog: %w", err)
				}
			}
			return o.serve(ctx, cmd.OutOrStdout(), *file, true)
		},
	}
	o.flags(cmd)
	cmd.Flags().StringVar(&o.signInAt, "sign-in-at", "127.0.0.1:8644", "the loopback address of what stands in for where one signs in there")
	cmd.Flags().StringVar(&o.imap, "imap", "127.0.0.1:8643", "the loopback address of the mail server that stands in for the one of the private address")
	cmd.Flags().BoolVar(&late, "backlog", false, "with somebody who begins with 6,400 undecided letters")
	cmd.Flags().BoolVar(&fresh, "fresh", false, "forget what was done in the demo and start it anew")
	return cmd
}

// begin checks what was asked for, and takes the database for this process.
func (o *serving) begin(file string) (*flock.Flock, error) {
	if err := o.checkPostOffice(); err != nil {
		return nil, err
	}
	return lock(file)
}

func makeFolder(file string) error { return os.MkdirAll(filepath.Dir(file), 0o755) }

func lower(names []string) []string {
	out := make([]string, len(names))
	for i, n := range names {
		out[i] = strings.ToLower(n)
	}
	return out
}

// reachedAt takes the public address apart.
func (o *serving) reachedAt(options *running.Options) error {
	if (o.cert == "") != (o.key == "") {
		return &exit{usageCode, errors.New("--tls-cert and --tls-key belong together")}
	}
	if o.public == "" {
		return nil
	}
	at, err := url.Parse(o.public)
	if err != nil || at.Host == "" || at.Scheme != "https" && at.Scheme != "http" {
		return &exit{usageCode, fmt.Errorf("--public %s is no address such as https://ebbe.norrholm.example", o.public)}
	}
	options.Hosts = append(options.Hosts, strings.ToLower(at.Hostname()))
	options.Secure = at.Scheme == "https"
	return nil
}

// serve runs everything until ctx ends.
func (o *serving) serve(ctx context.Context, out io.Writer, file string, isDemo bool) error {
	options := optionsOf(file, isDemo)
	options.Web, options.Mail, options.Hosts, options.Proxies = o.listen, o.smtp, lower(o.hosts), o.proxies
	options.Outside, options.SignIn = o.imap, o.signInAt
	options.MetricsToken, options.Cert, options.CertKey = o.metricsToken, o.cert, o.key
	if err := o.reachedAt(&options); err != nil {
		return err
	}
	if options.SaveTo = o.saveTo; o.saveTo != "" {
		if err := os.MkdirAll(o.saveTo, 0o700); err != nil {
			return &exit{usageCode, fmt.Errorf("--save-to: %w", err)}
		}
	}
	providers, err := providersOf(o.signIns)
	if err != nil {
		return err
	}
	options.Providers = providers
	e, err := running.Start(ctx, options)
	if err != nil {
		return err
	}
	scheme := "http"
	if o.cert != "" {
		scheme = "https"
	}
	fmt.Fprintf(out, "Ebbe is at %s://%s\nThe post office takes letters at smtp://%s\n", scheme, e.Web, e.Mail)
	err = e.Wait(ctx)
	return errors.Join(err, e.Stop())
}
