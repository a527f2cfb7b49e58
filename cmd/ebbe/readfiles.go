package main

import (
	"context"
	"os"
	"os/exec"

	"github.com/spf13/cobra"

	"ebbe.example/ebbe/internal/apart"
)

// readFilesName is the command by which Ebbe begins itself to read files.
const readFilesName = "read-files"

func readFilesCommand() *cobra.Command {
	return &cobra.Command{
		Use: readFilesName, Short: "Read the text of files, for an Ebbe that is being served", Args: cobra.NoArgs, Hidden: true,
		Long: "Read-files is begun by an Ebbe that is being served, and reads files apart from it, with bounds of memory.",
		RunE: func(cmd *cobra.Command, _ []string) error { return apart.Serve(cmd.InOrStdin(), cmd.OutOrStdout()) },
	}
}

// readFiles begins that process; nil where this program can't be found.
func readFiles() func() *exec.Cmd {
	self, err := os.Executable()
	if err != nil {
		return nil
	}
	return func() *exec.Cmd { return exec.CommandContext(context.Background(), self, readFilesName) }
}
