package app

import (
	"archive/zip"
	"io"
	"time"

	"ebbe.example/ebbe/internal/show"
)

// Zipped is a Folder in a zip.
type Zipped struct{ *zip.Writer }

// Make makes a folder in the zip.
func (z Zipped) Make(name string) error {
	_, err := z.Create(name + "/")
	return err
}

func (z Zipped) Write(name string, at time.Time, content []byte) error {
	w, err := z.CreateHeader(&zip.FileHeader{Name: name, Modified: at, Method: zip.Deflate})
	if err != nil {
		return err
	}
	_, err = w.Write(content)
	return err
}

// InZip writes a folder as a zip.
func InZip(w io.Writer, write func(show.Folder) error) error {
	z := zip.NewWriter(w)
	if err := write(Zipped{z}); err != nil {
		return err
	}
	return z.Close()
}
