package main

import (
	"context"
	"path/filepath"
	"testing"
	"time"
)

func TestProf(t *testing.T) {
	r := &run{ctx: context.Background(), folder: t.TempDir()}
	b := time.Now()
	f, err := r.importFloor(5000)
	t.Log(f, err, time.Since(b))
	x, err := r.importInto(filepath.Join(r.folder, "a.db"), letters(5000), 5000)
	t.Log(x, err)
}
