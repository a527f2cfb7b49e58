package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"ebbe.example/ebbe/internal/api"
	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/demo"
	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/postoffice"
	"ebbe.example/ebbe/internal/webui"
)

type serving struct {
	listen, smtp string
}

func (o *serving) flags(cmd *cobra.Command) {
	cmd.Flags().StringVar(&o.listen, "listen", "127.0.0.1:8600", "the address to serve at")
	cmd.Flags().StringVar(&o.smtp, "smtp", "127.0.0.1:8625", "the loopback address of the post office that stands in for the mail service")
}

func serveCommand(file *string) *cobra.Command {
	var o serving
	cmd := &cobra.Command{
		Use: "serve", Short: "Serve Ebbe", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx, stop := untilStopped()
			defer stop()
			a, err := openApp(ctx, *file, false)
			if err != nil {
				return err
			}
			return o.serve(ctx, cmd.OutOrStdout(), a, nil)
		},
	}
	o.flags(cmd)
	return cmd
}

func demoCommand(file *string) *cobra.Command {
	var o serving
	var fresh bool
	cmd := &cobra.Command{
		Use: "demo", Short: "Serve Ebbe with the demo world", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx, stop := untilStopped()
			defer stop()
			if !cmd.Flags().Changed("db") {
				*file = "var/demo.db"
			}
			if fresh {
				for _, end := range []string{"", "-wal", "-shm"} {
					if err := os.Remove(*file + end); err != nil && !errors.Is(err, os.ErrNotExist) {
						return err
					}
				}
			}
			if err := makeFolder(*file); err != nil {
				return err
			}
			if err := demo.Fill(ctx, *file, cmd.OutOrStdout()); err != nil {
				return fmt.Errorf("fill the demo world: %w", err)
			}
			a, err := openApp(ctx, *file, true)
			if err != nil {
				return err
			}
			return o.serve(ctx, cmd.OutOrStdout(), a, demo.New(a))
		},
	}
	o.flags(cmd)
	cmd.Flags().BoolVar(&fresh, "fresh", false, "forget what was done in the demo and start it anew")
	return cmd
}

func makeFolder(file string) error { return os.MkdirAll(filepath.Dir(file), 0o755) }

// serve runs everything until ctx ends: the page and its API, the post office,
// and the scheduler.
func (o *serving) serve(ctx context.Context, out io.Writer, a *app.App, d *demo.Demo) (err error) {
	defer func() { err = errors.Join(err, a.Store.Close()) }()
	web, err := net.Listen("tcp", o.listen)
	if err != nil {
		return err
	}
	mail, err := net.Listen("tcp", o.smtp)
	if err != nil {
		return err
	}
	office := &postoffice.Office{App: a, Log: a.Log}
	config := api.Config{App: a, Page: webui.Files(), Log: a.Log}
	if d != nil {
		office.Correspondent = demo.Correspondents{}
		config.Demo = d
		d.Office = mail.Addr().String()
	}
	a.Post = office
	if err := a.ResumeImports(ctx); err != nil {
		return err
	}
	defer a.StopImports()
	a.Sender = post.Relay{Addr: mail.Addr().String(), Timeout: sendTimeout}
	office.Start(mail)

	server := &http.Server{Handler: api.New(config), ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	server.BaseContext = func(net.Listener) context.Context { return ctx }
	due := make(chan struct{})
	go func() {
		defer close(due)
		a.Run(ctx)
	}()
	go func() {
		<-ctx.Done()
		_ = server.Close() // open streams of changes would hold up a shutdown
		_ = office.Stop()
	}()
	fmt.Fprintf(out, "Ebbe is at http://%s\nThe post office takes letters at smtp://%s\n", web.Addr(), mail.Addr())
	err = server.Serve(web)
	cancel()
	<-due
	if errors.Is(err, http.ErrServerClosed) {
		return nil
	}
	return err
}
