// Package webui holds the built interface, as made from ui/ by the Makefile.
package webui

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var built embed.FS

// Files are the built interface.
func Files() fs.FS {
	files, err := fs.Sub(built, "dist")
	if err != nil {
		panic(err) // the folder is part of the program
	}
	return files
}
