package api

import (
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/sync/semaphore"
	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
	"golang.org/x/time/rate"
)

// doors limits how often a password can be tried: by name and by address, a
// few at once, then one in a while. Both tables are bounded; whoever was not
// seen for longest is forgotten first.
type doors struct {
	names, addresses *lru.Cache[string, *rate.Limiter]
	// hashing bounds how many passwords are compared at once: each takes memory.
	hashing *semaphore.Weighted
	// secret signs the cookies of devices that somebody has signed in on.
	secret []byte
}

const (
	doorsRemembered = 10_000
	triesByName     = 5
	triesByAddress  = 20
	hashingAtOnce   = 1 // one takes all processors
)

func newDoors(secret []byte) *doors {
	names, err := lru.New[string, *rate.Limiter](doorsRemembered)
	if err != nil {
		panic(err) // the size is above zero
	}
	addresses, err := lru.New[string, *rate.Limiter](doorsRemembered)
	if err != nil {
		panic(err)
	}
	return &doors{names: names, addresses: addresses, hashing: semaphore.NewWeighted(hashingAtOnce), secret: secret}
}

// foldName is a name to sign in by in the form in which two are compared.
func foldName(name string) string {
	return cases.Fold().String(norm.NFKC.String(strings.TrimSpace(name)))
}

func (d *doors) allow(name, address string) bool {
	take := func(by *lru.Cache[string, *rate.Limiter], key string, every time.Duration, most int) bool {
		l, ok, _ := by.PeekOrAdd(key, rate.NewLimiter(rate.Every(every), most))
		if !ok {
			l, _ = by.Get(key)
		}
		return l == nil || l.Allow()
	}
	return take(d.addresses, address, time.Second, triesByAddress) && take(d.names, name, 10*time.Second, triesByName)
}

// compare tells whether a password is the one of a hash.
func (d *doors) compare(ctx context.Context, password, hash string) (bool, error) {
	if err := d.hashing.Acquire(ctx, 1); err != nil {
		return false, err
	}
	defer d.hashing.Release(1)
	return argon2id.ComparePasswordAndHash(password, hash)
}

// known makes a cookie by which a device is known that a person has signed in
// on. It opens nothing by itself.
func (d *doors) known(person int64) string {
	name := fmt.Sprintf("%d.%s", person, rand.Text())
	return name + "." + d.sign(name)
}

// knows tells whether the person has signed in on the device before.
func (d *doors) knows(cookie string, person int64) bool {
	i := strings.LastIndexByte(cookie, '.')
	if i < 0 || !strings.HasPrefix(cookie, fmt.Sprintf("%d.", person)) {
		return false
	}
	return hmac.Equal([]byte(cookie[i+1:]), []byte(d.sign(cookie[:i])))
}

func (d *doors) sign(name string) string {
	h := hmac.New(sha256.New, d.secret)
	h.Write([]byte(name))
	return hex.EncodeToString(h.Sum(nil))
}
