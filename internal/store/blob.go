package store

import (
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"

	"github.com/klauspost/compress/zstd"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// One encoder and decoder serve all; EncodeAll and DecodeAll may run at once.
var (
	packer, _   = zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest), zstd.WithEncoderConcurrency(1), zstd.WithWindowSize(256<<10))
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

// largeLetter is where a letter is packed through a file, so that it is not in
// memory several times.
const largeLetter = 8 << 20

// Pack compresses the bytes of a letter.
func Pack(raw []byte) Packed {
	sum := sha256.Sum256(raw)
	p := Packed{SHA: sum[:], Size: len(raw)}
	if len(raw) > largeLetter {
		if data, err := packLarge(raw); err == nil {
			p.Data = data
			return p
		}
	}
	p.Data = packer.EncodeAll(raw, make([]byte, 0, min(len(raw)/2+64, 1<<20)))
	return p
}

func packLarge(raw []byte) ([]byte, error) {
	f, err := os.CreateTemp("", "ebbe-pack-*")
	if err != nil {
		return nil, err
	}
	defer f.Close()
	if err := os.Remove(f.Name()); err != nil { // it goes with this process
		return nil, err
	}
	w, err := zstd.NewWriter(f, zstd.WithEncoderLevel(zstd.SpeedFastest), zstd.WithEncoderConcurrency(1), zstd.WithWindowSize(256<<10))
	if err != nil {
		return nil, err
	}
	_, err = w.Write(raw)
	if err := errors.Join(err, w.Close()); err != nil {
		return nil, err
	}
	size, err := f.Seek(0, io.SeekCurrent)
	if err != nil {
		return nil, err
	}
	data := make([]byte, size)
	_, err = f.ReadAt(data, 0)
	return data, err
}

// pieceSize is how much of a packed letter stands in one row.
const pieceSize = 4 << 20

// By hand: it is called with every letter that comes.
func (tx *Tx) putBlob(p Packed) error {
	if p.Data == nil {
		return nil
	}
	first, rest := p.Data, []byte(nil)
	if len(first) > pieceSize {
		first, rest = first[:pieceSize], first[pieceSize:]
	}
	pieces := (len(rest) + pieceSize - 1) / pieceSize
	if err := tx.exec("INSERT INTO blobs (owner, sha, size, packed, pieces) VALUES (?, ?, ?, ?, ?) ON CONFLICT DO NOTHING", tx.who.Inbox, p.SHA, p.Size, first, pieces); err != nil {
		return err
	}
	n := 0
	for piece := range slices.Chunk(rest, pieceSize) {
		n++
		row := blobPieceRow{Sha: p.SHA, Piece: n, Packed: piece}
		if err := gorm.G[blobPieceRow](tx.db, clause.OnConflict{DoNothing: true}).Create(tx.ctx(), &row); err != nil {
			return err
		}
	}
	return nil
}

// Original gives the bytes of a letter as they arrived first.
func (tx *Tx) Original(letterID int64) ([]byte, error) {
	return tx.unpack(gorm.G[blobRow](tx.db).Where("sha = (?)", gorm.G[letterRow](tx.db).Select("sha").Where("id = ?", letterID)))
}

// errDamaged is returned for what is kept of an original and can't be unpacked.
var errDamaged = errors.New("unpack letter")

// OriginalsOf gives the originals of a few letters at once, by their ids; without those that
// are damaged, which are no matter of the others.
func (tx *Tx) OriginalsOf(letters []int64) (map[int64][]byte, error) {
	rows, err := gorm.G[letterRow](tx.few()).Select("id, sha").Where(inNumbers("id", letters)).Find(tx.ctx())
	if err != nil {
		return nil, err
	}
	blobs, err := gorm.G[blobRow](tx.db).Where("sha IN (?)", gorm.G[letterRow](tx.few()).Select("sha").Where(inNumbers("id", letters))).Find(tx.ctx())
	if err != nil {
		return nil, err
	}
	raw := make(map[string][]byte, len(blobs))
	for _, b := range blobs {
		original, err := tx.unpacked(b)
		if errors.Is(err, errDamaged) {
			continue
		}
		if err != nil {
			return nil, err
		}
		raw[string(b.Sha)] = original
	}
	out := make(map[int64][]byte, len(rows))
	for _, r := range rows {
		if original, ok := raw[string(r.Sha)]; ok {
			out[r.ID] = original
		}
	}
	return out, nil
}

func (tx *Tx) blob(sha []byte) ([]byte, error) {
	return tx.unpack(gorm.G[blobRow](tx.db).Where("sha = ?", sha))
}

func (tx *Tx) unpack(which gorm.ChainInterface[blobRow]) ([]byte, error) {
	b, err := which.Take(tx.ctx())
	if err != nil {
		return nil, err
	}
	return tx.unpacked(b)
}

func (tx *Tx) unpacked(b blobRow) ([]byte, error) {
	packed, err := tx.whole(b.Sha, b.Packed, b.Pieces)
	if err != nil {
		return nil, err
	}
	raw, err := unpacker.DecodeAll(packed, make([]byte, 0, min(b.Size, 1<<28)))
	if err != nil {
		return nil, fmt.Errorf("%w: %w", errDamaged, err)
	}
	return raw, nil
}

// whole puts the pieces of a packed letter together.
func (tx *Tx) whole(sha, first []byte, pieces int) ([]byte, error) {
	if pieces == 0 {
		return first, nil
	}
	those := gorm.G[blobPieceRow](tx.db).Where("sha = ?", sha)
	var rest int
	if err := those.Select("coalesce(sum(length(packed)), 0)").Scan(tx.ctx(), &rest); err != nil {
		return nil, err
	}
	out := append(make([]byte, 0, len(first)+rest), first...)
	rows, err := those.Select("packed").Order("piece").Rows(tx.ctx()) // one piece in memory at a time
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var piece []byte
		if err := rows.Scan(&piece); err != nil {
			return nil, err
		}
		out = append(out, piece...)
	}
	return out, rows.Err()
}
