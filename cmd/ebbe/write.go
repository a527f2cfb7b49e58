package main

import (
	"context"
	"crypto/rand"
	"fmt"
	"io"
	"mime"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

func writeCommand(file *string) *cobra.Command {
	var person, from, subject string
	var files []string
	cmd := &cobra.Command{
		Use: "write [ADDRESS]...", Short: "Begin a letter, with files",
		Long: `Write begins a letter and keeps it among the drafts, with the files that --attach names; nothing is sent. What
stands on the standard input is its text, with “--text -”. It says where the letter is gone on with.`,
	}
	var text string
	cmd.Flags().StringVar(&subject, "subject", "", "its subject")
	cmd.Flags().StringVar(&text, "text", "", "its text; - for the standard input")
	cmd.Flags().StringVar(&from, "from", "", "the address it goes from; the first account’s if none is named")
	cmd.Flags().StringArrayVar(&files, "attach", nil, "a file that goes along; may be given several times")
	personFlag(cmd, &person)
	cmd.RunE = func(cmd *cobra.Command, to []string) error {
		if text == "-" {
			all, err := io.ReadAll(cmd.InOrStdin())
			if err != nil {
				return err
			}
			text = string(all)
		}
		for _, one := range to {
			if _, err := letter.CheckAddress(one); err != nil {
				return err
			}
		}
		return forPerson(*file, person, func(ctx context.Context, a *app.App, who store.Who) error {
			accounts, err := a.Accounts(ctx, who)
			if err != nil {
				return err
			}
			account := accounts[0].Account
			if from != "" {
				if account, err = accountOf(ctx, a, who, from); err != nil {
					return err
				}
			}
			draft := rand.Text()
			w := show.Writing{Kind: "new", From: letter.Address{Email: account.Address}.Key(), To: append([]string{}, to...), Subject: subject, Text: text + "\n" + letter.SignatureBlock(account.Signature), Markdown: account.Markdown}
			for _, path := range files {
				f, err := attachFile(ctx, a, who, draft, path)
				if err != nil {
					return err
				}
				w.Files = append(w.Files, f)
			}
			if _, err := a.SaveDraft(ctx, who, draft, 0, w); err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "A letter is begun, with %d files. Go on with it at /write?draft=%s, or among the drafts.\n", len(w.Files), draft)
			return nil
		})
	}
	return cmd
}

// attachFile brings a file of this machine to a draft.
func attachFile(ctx context.Context, a *app.App, who store.Who, draft, path string) (show.AttachedFile, error) {
	f, err := os.Open(path)
	if err != nil {
		return show.AttachedFile{}, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return show.AttachedFile{}, err
	}
	if !info.Mode().IsRegular() {
		return show.AttachedFile{}, fmt.Errorf("%s is no file", path)
	}
	made := show.AttachedFile{ID: rand.Text(), Name: filepath.Base(path), Size: info.Size(), ContentType: mime.TypeByExtension(filepath.Ext(path))}
	begun, err := a.BeginFile(ctx, who, draft, made)
	if err != nil {
		return made, err
	}
	got, err := a.FillFile(ctx, who, made.ID, 0, f)
	if err == nil && got.Came != made.Size {
		err = fmt.Errorf("%s changed while it was read: %d of %d bytes came", path, got.Came, made.Size)
	}
	return begun.AttachedFile, err
}
