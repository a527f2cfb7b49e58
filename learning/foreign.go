package main

import (
	"bufio"
	"bytes"
	"crypto/sha256"
	_ "embed"
	"encoding/hex"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/sorting"
)

// labelled says of what kind letters are that nobody here wrote, by their SHA-256: those in the
// test folders of what Ebbe is made with that have a sender. They were read and
// labelled by hand, and are read in place.
//
//go:embed foreign.txt
var labelled []byte

// foreign are the figures of letters that nobody here wrote.
type foreign struct {
	kinds            map[sorting.Kind]map[sorting.Kind]int
	people, machines share
	missing          int
}

func judgeForeign() (foreign, error) {
	out := foreign{kinds: map[sorting.Kind]map[sorting.Kind]int{}}
	kinds := map[string]sorting.Kind{}
	for lines := bufio.NewScanner(bytes.NewReader(labelled)); lines.Scan(); {
		if sum, kind, ok := strings.Cut(lines.Text(), " "); ok {
			kinds[sum] = sorting.Kind(kind)
		}
	}
	modules, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "all").Output()
	if err != nil {
		return out, err
	}
	for _, module := range strings.Fields(string(modules)) {
		err := filepath.WalkDir(module, func(path string, d fs.DirEntry, err error) error {
			ext := strings.ToLower(filepath.Ext(path))
			if err != nil || d.IsDir() || ext != ".raw" && ext != ".eml" {
				return err
			}
			raw, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			sum := sha256.Sum256(raw)
			name := hex.EncodeToString(sum[:])
			kind, ok := kinds[name]
			if !ok {
				return nil
			}
			delete(kinds, name)
			out.take(letter.Parse(raw), kind)
			return nil
		})
		if err != nil {
			return out, err
		}
	}
	out.missing = len(kinds)
	return out, nil
}

func (f *foreign) take(l letter.Letter, kind sorting.Kind) {
	v := sorting.Judge(see(l, nil, "").facts).Settle(sorting.Usual(), false)
	if f.kinds[kind] == nil {
		f.kinds[kind] = map[sorting.Kind]int{}
	}
	f.kinds[kind][v.Kind]++
	if kind == sorting.Person {
		f.people.add(v.Out)
	} else {
		f.machines.add(v.Out)
	}
}
