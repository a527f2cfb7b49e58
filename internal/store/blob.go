package store

import (
	"crypto/sha256"
	"fmt"

	"github.com/klauspost/compress/zstd"
)

// One encoder and decoder serve all; EncodeAll and DecodeAll may run at once.
var (
	packer, _   = zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedDefault), zstd.WithEncoderConcurrency(1), zstd.WithWindowSize(256<<10))
	unpacker, _ = zstd.NewReader(nil, zstd.WithDecoderConcurrency(1), zstd.WithDecoderMaxMemory(1<<30))
)

// Packed is an original letter made ready to be stored.
type Packed struct {
	SHA  []byte
	Size int
	Data []byte
}

// Kept is the same letter where its bytes are known to be stored.
func (p Packed) Kept() Packed { return Packed{SHA: p.SHA} }

// Pack compresses the bytes of a letter.
func Pack(raw []byte) Packed {
	sum := sha256.Sum256(raw)
	return Packed{SHA: sum[:], Size: len(raw), Data: packer.EncodeAll(raw, make([]byte, 0, min(len(raw)/2+64, 1<<20)))}
}

func (tx *Tx) putBlob(p Packed) error {
	if p.Data == nil {
		return nil
	}
	return tx.exec("INSERT INTO blobs (owner, sha, size, packed) VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING", tx.owner, p.SHA, p.Size, p.Data)
}

// Original gives the bytes of a letter as they arrived first.
func (tx *Tx) Original(letterID int64) ([]byte, error) {
	return tx.unpack("SELECT b.packed FROM blobs b JOIN letters l ON b.owner = l.owner AND b.sha = l.sha WHERE l.owner = ? AND l.id = ?", tx.owner, letterID)
}

func (tx *Tx) blob(sha []byte) ([]byte, error) {
	return tx.unpack("SELECT packed FROM blobs WHERE owner = ? AND sha = ?", tx.owner, sha)
}

func (tx *Tx) unpack(query string, args ...any) ([]byte, error) {
	packed, err := one[struct{ Packed []byte }](tx.db.Raw(query, args...))
	if err != nil {
		return nil, err
	}
	raw, err := unpacker.DecodeAll(packed.Packed, nil)
	if err != nil {
		return nil, fmt.Errorf("unpack letter: %w", err)
	}
	return raw, nil
}
