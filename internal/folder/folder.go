// Package folder puts files into a folder of this machine, and never one in the place of another.
package folder

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"strings"
)

// Folder is the folder at a path. Nothing is put beyond it, not by links within it either.
type Folder string

// mostAlike bounds how many files may have the same name but for a number.
const mostAlike = 10_000

// Put puts a file at a path below the folder, whole or not at all, and gives the path that it got: where there is
// another one already it gets a number, and where the same one is there, that is it.
func (f Folder) Put(at string, content []byte) (string, error) {
	root, err := os.OpenRoot(string(f))
	if err != nil {
		return "", err
	}
	defer root.Close() //nolint:errcheck // it was opened to be looked at
	if err := root.MkdirAll(path.Dir(at), 0o700); err != nil {
		return "", err
	}
	// One that was broken off is written anew under the same name.
	sum := sha256.Sum256(content)
	begun := path.Join(path.Dir(at), ".ebbe-"+hex.EncodeToString(sum[:12]))
	if err := write(root, begun, content); err != nil {
		return "", errors.Join(err, root.Remove(begun))
	}
	got, err := link(root, begun, at, content)
	return got, errors.Join(err, root.Remove(begun))
}

func write(root *os.Root, name string, content []byte) error {
	file, err := root.OpenFile(name, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	if _, err := file.Write(content); err != nil {
		return errors.Join(err, file.Close())
	}
	return errors.Join(file.Sync(), file.Close())
}

// link gives what was written its name, the first that is free.
func link(root *os.Root, begun, at string, content []byte) (string, error) {
	for n := 1; n <= mostAlike; n++ {
		name := numbered(at, n)
		err := root.Link(begun, name)
		if !errors.Is(err, fs.ErrExist) {
			return name, err
		}
		if info, err := root.Stat(name); err != nil || info.Size() != int64(len(content)) {
			continue
		}
		if there, err := root.ReadFile(name); err == nil && bytes.Equal(there, content) {
			return name, nil
		}
	}
	return "", fmt.Errorf("there are %d files of that name already", mostAlike)
}

func numbered(at string, n int) string {
	if n == 1 {
		return at
	}
	end := path.Ext(at)
	return fmt.Sprintf("%s (%d)%s", strings.TrimSuffix(at, end), n, end)
}
