package main

import (
	"fmt"
	"net/http"
	"time"

	"github.com/spf13/cobra"
)

func healthyCommand() *cobra.Command {
	var listen string
	cmd := &cobra.Command{
		Use: "healthy", Short: "Ask an Ebbe that is being served whether it can work", Args: cobra.NoArgs,
		Long: "Healthy asks the Ebbe at --listen, as whatever watches it may do at /healthz. It ends with 0 if all is well.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			client := http.Client{Timeout: 5 * time.Second}
			r, err := http.NewRequestWithContext(cmd.Context(), http.MethodGet, "http://"+listen+"/healthz", http.NoBody)
			if err != nil {
				return err
			}
			answer, err := client.Do(r)
			if err != nil {
				return err
			}
			defer answer.Body.Close()
			if answer.StatusCode != http.StatusOK {
				return fmt.Errorf("it answers with %s", answer.Status)
			}
			fmt.Fprintln(cmd.OutOrStdout(), "ok")
			return nil
		},
	}
	cmd.Flags().StringVar(&listen, "listen", "127.0.0.1:8600", "the address at which it is served")
	return cmd
}
