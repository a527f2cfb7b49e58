// Package vault keeps the passwords of mail servers, sealed (NaCl secretbox), in a file
// beside the database. The key is another file that only its owner reads, or comes from
// the environment. So neither a copy of the database nor an archive holds a password.
package vault

import (
	"crypto/rand"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"sync"

	"golang.org/x/crypto/nacl/secretbox"
)

// Vault is such a file. Its methods may be called from anywhere.
type Vault struct {
	path string
	key  [keySize]byte
	mu   sync.Mutex
}

const (
	keySize   = 32
	nonceSize = 24
)

// ErrNone is returned for an account whose password isn't kept, or was sealed with
// another key: it has to be asked for.
var ErrNone = errors.New("the password is not known here")

// KeyVariable names the environment variable that may hold the key, in base64.
const KeyVariable = "EBBE_KEY"

// Open opens the vault of a database. The key is given in base64, or is that of the
// file beside the database, which is made if it is missing.
func Open(database, given string) (*Vault, error) {
	v := &Vault{path: database + ".secrets"}
	key := given
	if key == "" {
		text, err := keyFile(database + ".key")
		if err != nil {
			return nil, err
		}
		key = text
	}
	raw, err := base64.StdEncoding.DecodeString(key)
	if err != nil || len(raw) != keySize {
		return nil, fmt.Errorf("the key of the passwords is not %d bytes in base64", keySize)
	}
	copy(v.key[:], raw)
	return v, nil
}

// keyFile reads a key, and makes one that only its owner can read.
func keyFile(path string) (string, error) {
	about, err := os.Stat(path)
	if err == nil && about.Mode().Perm()&0o077 != 0 {
		return "", fmt.Errorf("%s can be read by others. Let only its owner read it (chmod 600)", path)
	}
	text, err := os.ReadFile(path)
	if err == nil || !errors.Is(err, fs.ErrNotExist) {
		return string(text), err
	}
	raw := make([]byte, keySize)
	_, _ = rand.Read(raw) // it never fails
	made := base64.StdEncoding.EncodeToString(raw)
	return made, write(path, []byte(made))
}

// Get is the password of an account.
func (v *Vault) Get(account int64) (string, error) {
	v.mu.Lock()
	defer v.mu.Unlock()
	all, err := v.read()
	if err != nil {
		return "", err
	}
	sealed := all[name(account)]
	if len(sealed) < nonceSize {
		return "", ErrNone
	}
	open, ok := secretbox.Open(nil, sealed[nonceSize:], (*[nonceSize]byte)(sealed[:nonceSize]), &v.key)
	if !ok {
		return "", ErrNone
	}
	return string(open), nil
}

// Set keeps the password of an account; "" forgets it.
func (v *Vault) Set(account int64, password string) error {
	v.mu.Lock()
	defer v.mu.Unlock()
	all, err := v.read()
	if err != nil {
		return err
	}
	if password == "" {
		delete(all, name(account))
	} else {
		var nonce [nonceSize]byte
		_, _ = rand.Read(nonce[:])
		all[name(account)] = secretbox.Seal(nonce[:], []byte(password), &nonce, &v.key)
	}
	text, err := json.Marshal(all)
	if err != nil {
		return err
	}
	return write(v.path, text)
}

func name(account int64) string { return strconv.FormatInt(account, 10) }

func (v *Vault) read() (map[string][]byte, error) {
	all := map[string][]byte{}
	text, err := os.ReadFile(v.path)
	if errors.Is(err, fs.ErrNotExist) {
		return all, nil
	}
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(text, &all); err != nil {
		return nil, fmt.Errorf("%s can’t be read: %w", v.path, err)
	}
	return all, nil
}

// write writes a file whole or not at all.
func write(path string, text []byte) error {
	f, err := os.CreateTemp(filepath.Dir(path), filepath.Base(path)+".*") // of mode 0600
	if err != nil {
		return err
	}
	_, err = f.Write(text)
	if err = errors.Join(err, f.Sync(), f.Close()); err == nil {
		err = os.Rename(f.Name(), path)
	}
	if err != nil {
		return errors.Join(err, os.Remove(f.Name()))
	}
	return nil
}
