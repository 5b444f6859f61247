package market

import (
	"bufio"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/bits"
	"runtime"
	"slices"

	"github.com/klauspost/compress/zstd"
	"golang.org/x/sync/errgroup"

	"ivelt/core/say"
	"ivelt/core/shown"
)

// Sharded is the number of the format whose index is a [Manifest].
const Sharded = 2

// Manifest is the index of a market in shards: which files there are, each with its checksum.
// It is signed as a whole.
type Manifest struct {
	Format int    `json:"format"` // [Sharded]
	Name   string `json:"name"`
	About  string `json:"about,omitempty"`
	Serial int64  `json:"serial"` // grows with each that is published
	Date   string `json:"date"`   // RFC 3339, for people
	// Shards have all entries, each the one that [ShardOf] says; how many there are is a
	// power of two.
	Shards []Lot `json:"shards"`
	// Deltas lead from one serial to the next, up to this one; oldest first.
	Deltas []Delta `json:"deltas,omitempty"`
}

// Lot is a file with entries, a line each, compressed (RFC 8878).
type Lot struct {
	File    string `json:"file"`   // below the market's top
	SHA256  string `json:"sha256"` // of the file as it is
	Size    int64  `json:"size"`   // bytes
	Entries int    `json:"entries"`
}

// Delta is what changed from the serial before to Serial.
type Delta struct {
	Serial int64 `json:"serial"`
	Lot
}

// Change is a line of a delta: an entry that is new or other than before, or the ID of one
// that is gone.
type Change struct {
	Put  *Entry `json:"put,omitempty"`
	Gone string `json:"gone,omitempty"`
}

// What is read of a market in shards.
const (
	MaxManifest  = 8 << 20
	MaxShards    = 4096
	MaxLot       = 48 << 20 // compressed
	maxUnpacked  = 96 << 20 // of a lot
	maxWindow    = 8 << 20  // that a lot may ask to be kept for it
	maxDeltas    = 400
	perShard     = 4096 // entries, about, of what Ivelt writes
	deltasOnHand = 40   // that Ivelt writes at most
)

// ErrLot: a file of a market in shards is not the one that its index names.
var ErrLot = errors.New("it is not the file that the index names")

// IsSharded reports whether an index is a [Manifest], by its format.
func IsSharded(b []byte) bool {
	var head struct {
		Format int `json:"format"`
	}
	return len(b) <= MaxManifest && json.Unmarshal(b, &head) == nil && head.Format == Sharded
}

// ReadManifest reads an index of that format.
func ReadManifest(b []byte) (Manifest, error) {
	var m Manifest
	bad := func(format string, args ...any) (Manifest, error) {
		return Manifest{}, say.Errorf("%w: %s", ErrDamaged, fmt.Sprintf(format, args...))
	}
	if len(b) > MaxManifest {
		return Manifest{}, say.Errorf("%w: more than %d MB", ErrTooLarge, MaxManifest>>20)
	}
	if err := json.Unmarshal(b, &m); err != nil {
		return bad("%s", err)
	}
	if m.Format != Sharded {
		return Manifest{}, say.Errorf("%w: %d", ErrFormat, m.Format)
	}
	if m.Serial < 1 {
		return bad("it has no serial number")
	}
	if n := len(m.Shards); n < 1 || n > MaxShards || bits.OnesCount(uint(n)) != 1 {
		return bad("it has %d shards, which is no power of two up to %d", n, MaxShards)
	}
	if len(m.Deltas) > maxDeltas {
		return bad("it has more than %d deltas", maxDeltas)
	}
	lots := append([]Lot(nil), m.Shards...)
	for i, d := range m.Deltas {
		if d.Serial != m.Serial-int64(len(m.Deltas)-1-i) {
			return bad("its deltas do not lead up to %d", m.Serial)
		}
		lots = append(lots, d.Lot)
	}
	for _, p := range lots {
		if !Inside(p.File) || len(p.SHA256) != 2*sha256.Size || p.Size < 1 || p.Size > MaxLot || p.Entries < 0 {
			return bad("%q is no file with entries", p.File)
		}
	}
	m.harmless()
	return m, nil
}

func (m *Manifest) harmless() { m.Name, m.About = shown.Line(m.Name), shown.Line(m.About) }

// Entries are how many there are.
func (m Manifest) Entries() (n int) {
	for _, s := range m.Shards {
		n += s.Entries
	}
	return n
}

// Since are the deltas that lead from a serial to this one; ok is false if they are not all
// there, or are more to fetch than the shards themselves.
func (m Manifest) Since(serial int64) (out []Delta, ok bool) {
	behind := m.Serial - serial
	if serial < 1 || behind < 0 || behind > int64(len(m.Deltas)) {
		return nil, false
	}
	out = m.Deltas[int64(len(m.Deltas))-behind:]
	var size, whole int64
	for _, d := range out {
		size += d.Size
	}
	for _, s := range m.Shards {
		whole += s.Size
	}
	return out, size <= whole
}

// ShardOf says in which of n shards an entry is: by the first bits of the SHA-256 of its ID.
func ShardOf(id string, n int) int {
	sum := sha256.Sum256([]byte(id))
	return int(uint(sum[0])<<8|uint(sum[1])) >> (16 - bits.TrailingZeros(uint(n)))
}

// lines hands on each line of a lot, once all of it was found to be the file that is named.
// b is the file as it came.
func (p Lot) lines(ctx context.Context, b []byte, each func(line []byte) error) error {
	if sum := sha256.Sum256(b); hex.EncodeToString(sum[:]) != p.SHA256 || int64(len(b)) != p.Size {
		return say.Errorf("%s: %w", p.File, ErrLot)
	}
	z, err := zstd.NewReader(bytes.NewReader(b), zstd.WithDecoderConcurrency(1), zstd.WithDecoderMaxWindow(maxWindow), zstd.WithDecoderMaxMemory(maxUnpacked))
	if err != nil {
		return err
	}
	defer z.Close()
	in := bufio.NewScanner(io.LimitReader(z, maxUnpacked))
	in.Buffer(make([]byte, 0, 64<<10), maxValue)
	for n := 0; in.Scan(); n++ {
		if n == MaxEntries*2 {
			return say.Errorf("%s: %w: more than %d entries", p.File, ErrTooLarge, 2*MaxEntries)
		}
		if n%256 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		if err := each(in.Bytes()); err != nil {
			return err
		}
	}
	if err := in.Err(); err != nil {
		return say.Errorf("%s: %w: %w", p.File, ErrDamaged, err)
	}
	return nil
}

// Read reads the entries of a shard, b as it came. Entries that no index may have are left
// out, and those that are of another shard of n.
func (p Lot) Read(ctx context.Context, b []byte, shard, n int) (out []Entry, err error) {
	out = make([]Entry, 0, min(p.Entries, 2*MaxEntries))
	err = p.lines(ctx, b, func(line []byte) error {
		var e Entry
		if err := json.Unmarshal(line, &e); err != nil {
			return say.Errorf("%s: %w: %w", p.File, ErrDamaged, err)
		}
		if e.usable() && ShardOf(e.ID, n) == shard {
			e.harmless()
			out = append(out, e)
		}
		return nil
	})
	return out, err
}

// Read reads a delta, b as it came.
func (d Delta) Read(ctx context.Context, b []byte) ([]Change, error) {
	var lines [][]byte
	if err := d.lines(ctx, b, func(line []byte) error {
		lines = append(lines, bytes.Clone(line))
		return nil
	}); err != nil {
		return nil, err
	}
	out := make([]Change, len(lines))
	g, ctx := errgroup.WithContext(ctx) // somebody waits for this one
	g.SetLimit(runtime.GOMAXPROCS(0))
	const atOnce = 512
	for from := 0; from < len(lines); from += atOnce {
		g.Go(func() error {
			for i := from; i < min(from+atOnce, len(lines)) && ctx.Err() == nil; i++ {
				c := &out[i]
				if err := json.Unmarshal(lines[i], c); err != nil {
					return say.Errorf("%s: %w: %w", d.File, ErrDamaged, err)
				}
				if c.Put != nil && c.Put.usable() {
					c.Put.harmless()
				} else if c.Put != nil {
					*c = Change{}
				}
			}
			return ctx.Err()
		})
	}
	if err := g.Wait(); err != nil {
		return nil, err
	}
	return slices.DeleteFunc(out, func(c Change) bool { return c.Put == nil && c.Gone == "" }), nil
}
