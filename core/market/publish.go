package market

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"iter"
	"math/bits"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"time"

	"github.com/klauspost/compress/zstd"
	"golang.org/x/sync/errgroup"

	"ivelt/core/say"
)

// Folders of a market in shards.
const (
	shardsFolder = "shards"
	deltasFolder = "deltas"
	maxWritten   = 256 // shards that Ivelt writes
)

// Published is what [Publish] did.
type Published struct {
	Manifest
	Put, Gone int  // entries that are new or other than before, and that are gone
	Same      bool // nothing is: the index stays as it is
}

// ErrTwice: two entries of a market have one ID.
var ErrTwice = errors.New("two entries have the same id")

// Publish writes the index of a market in shards into a folder, from all its entries in any
// order, with what changed since the index that is there; signed, if there is a secret. Of
// 1,000,000 entries no more are held in memory than some shards have.
func Publish(ctx context.Context, dir, name, about string, entries iter.Seq2[Entry, error], secret *Secret, now time.Time) (Published, error) {
	old, err := published(dir)
	if err != nil {
		return Published{}, err
	}
	s, err := spill(ctx, entries)
	if err != nil {
		return Published{}, err
	}
	defer os.RemoveAll(s.dir)
	w := writer{dir: dir, old: old, spilled: s, n: shardsFor(s.total, len(old.Shards))}
	for _, sub := range []string{shardsFolder, deltasFolder} {
		if err := os.MkdirAll(filepath.Join(dir, sub), 0o755); err != nil {
			return Published{}, err
		}
	}
	return w.publish(ctx, name, about, secret, now)
}

// published is the index in shards that is in a folder, the zero value if there is none.
func published(dir string) (Manifest, error) {
	b, err := os.ReadFile(filepath.Join(dir, IndexFile))
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return Manifest{}, nil
	case err != nil:
		return Manifest{}, err
	case !IsSharded(b):
		return Manifest{}, nil // one of the older format, which it takes the place of
	}
	return ReadManifest(b)
}

// shardsFor is how many shards entries come in: as many as before, unless those would be very
// large or small.
func shardsFor(entries, before int) int {
	if before > 0 && before <= maxWritten && entries <= before*perShard*2 && (before == 1 || entries >= before*perShard/4) {
		return before
	}
	n := 1
	for n < maxWritten && n*perShard < entries {
		n *= 2
	}
	return n
}

// spilled are entries as lines of JSON, in a file for each of the most shards there may be.
type spilled struct {
	dir   string
	total int
}

func (s spilled) file(bucket int) string { return filepath.Join(s.dir, fmt.Sprintf("%02x", bucket)) }

func spill(ctx context.Context, entries iter.Seq2[Entry, error]) (s spilled, err error) {
	if s.dir, err = os.MkdirTemp("", "ivelt-market-"); err != nil {
		return s, err
	}
	var files [maxWritten]*os.File
	var to [maxWritten]*bufio.Writer
	defer func() {
		for i, f := range files {
			if f != nil {
				err = errors.Join(err, to[i].Flush(), f.Close())
			}
		}
		if err != nil {
			err = errors.Join(err, os.RemoveAll(s.dir))
		}
	}()
	for e, err := range entries {
		if err != nil {
			return s, err
		}
		if s.total%1024 == 0 && ctx.Err() != nil {
			return s, ctx.Err()
		}
		if !e.usable() {
			return s, say.Errorf("%w: the entry %q has no id, no name or no version", ErrDamaged, cmp.Or(e.ID, e.Name))
		}
		line, err := json.Marshal(e)
		if err != nil {
			return s, err
		}
		if len(line) >= maxValue {
			return s, say.Errorf("%w: the entry %q", ErrTooLarge, e.ID)
		}
		i := ShardOf(e.ID, maxWritten)
		if files[i] == nil {
			if files[i], err = os.Create(s.file(i)); err != nil {
				return s, err
			}
			to[i] = bufio.NewWriterSize(files[i], 16<<10)
		}
		if _, err := to[i].Write(append(line, '\n')); err != nil {
			return s, err
		}
		s.total++
	}
	return s, nil
}

// writer writes the shards of one market.
type writer struct {
	dir     string
	old     Manifest
	spilled spilled
	n       int // shards
}

// row is an entry's line, with its ID.
type row struct {
	id   string
	line []byte
}

func rowsOf(b []byte) ([]row, error) {
	var out []row
	for line := range bytes.Lines(b) {
		line = bytes.TrimSuffix(line, []byte("\n"))
		var head struct {
			ID string `json:"id"`
		}
		if err := json.Unmarshal(line, &head); err != nil {
			return nil, err
		}
		out = append(out, row{head.ID, line})
	}
	slices.SortFunc(out, func(a, b row) int { return strings.Compare(a.id, b.id) })
	return out, nil
}

// shard is one that was made, with what differs from before.
type shard struct {
	lot       Lot
	changes   []byte // lines of a delta
	put, gone int
}

func (w writer) publish(ctx context.Context, name, about string, secret *Secret, now time.Time) (Published, error) {
	made := make([]shard, w.n)
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(runtime.GOMAXPROCS(0))
	for i := range made {
		g.Go(func() (err error) {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			made[i], err = w.shard(ctx, i)
			return err
		})
	}
	if err := g.Wait(); err != nil {
		return Published{}, err
	}
	out := Published{Manifest: Manifest{Format: Sharded, Name: name, About: about, Serial: w.old.Serial + 1, Date: now.UTC().Format(time.RFC3339)}}
	var changes bytes.Buffer
	for _, s := range made {
		out.Shards = append(out.Shards, s.lot)
		changes.Write(s.changes)
		out.Put, out.Gone = out.Put+s.put, out.Gone+s.gone
	}
	if w.old.Serial > 0 && out.Put+out.Gone == 0 && name == w.old.Name && about == w.old.About && len(w.old.Shards) == w.n {
		out.Manifest, out.Same = w.old, true
		return out, w.sign(w.old, secret)
	}
	if all := out.Put + out.Gone; len(w.old.Shards) == w.n && all <= min(2*MaxEntries, out.Entries()/2) {
		d, err := w.put(deltasFolder, fmt.Sprintf("%d", out.Serial), changes.Bytes(), out.Put+out.Gone)
		if err != nil {
			return Published{}, err
		}
		out.Deltas = append(slices.Clone(w.old.Deltas), Delta{out.Serial, d})
		out.Deltas = out.Deltas[max(0, len(out.Deltas)-deltasOnHand):]
	}
	if err := w.sign(out.Manifest, secret); err != nil {
		return Published{}, err
	}
	return out, w.sweep(out.Manifest)
}

// shard makes one shard of the lines that were spilled for it.
func (w writer) shard(ctx context.Context, i int) (shard, error) {
	each := maxWritten / w.n
	var all bytes.Buffer
	for bucket := i * each; bucket < (i+1)*each; bucket++ {
		b, err := os.ReadFile(w.spilled.file(bucket))
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			return shard{}, err
		}
		all.Write(b)
	}
	rows, err := rowsOf(all.Bytes())
	if err != nil {
		return shard{}, err
	}
	for k := 1; k < len(rows); k++ {
		if rows[k].id == rows[k-1].id {
			return shard{}, say.Errorf("%w: %s", ErrTwice, rows[k].id)
		}
	}
	var before []row
	same := len(w.old.Shards) == w.n
	if same {
		if before, err = w.before(ctx, w.old.Shards[i]); err != nil {
			return shard{}, err
		}
	}
	out := shard{}
	out.differ(before, rows)
	if same && out.put+out.gone == 0 {
		out.lot = w.old.Shards[i]
		return out, nil
	}
	var text bytes.Buffer
	for _, r := range rows {
		text.Write(r.line)
		text.WriteByte('\n')
	}
	out.lot, err = w.put(shardsFolder, fmt.Sprintf("%0*x", max(1, (bits.TrailingZeros(uint(w.n))+3)/4), i), text.Bytes(), len(rows))
	return out, err
}

// before are the lines of a shard that was published.
func (w writer) before(ctx context.Context, l Lot) ([]row, error) {
	b, err := os.ReadFile(filepath.Join(w.dir, filepath.FromSlash(l.File)))
	if err != nil {
		return nil, say.Errorf("the index that is there: %w", err)
	}
	var text bytes.Buffer
	if err := l.lines(ctx, b, func(line []byte) error {
		text.Write(line)
		return text.WriteByte('\n')
	}); err != nil {
		return nil, say.Errorf("the index that is there: %w", err)
	}
	return rowsOf(text.Bytes())
}

// differ notes what is new, other or gone; both lists are sorted.
func (s *shard) differ(before, now []row) {
	var out bytes.Buffer
	for len(before) > 0 || len(now) > 0 {
		switch {
		case len(now) == 0 || len(before) > 0 && before[0].id < now[0].id:
			line, _ := json.Marshal(Change{Gone: before[0].id}) // which fails for no text
			out.Write(append(line, '\n'))
			s.gone++
			before = before[1:]
		case len(before) == 0 || now[0].id < before[0].id || !bytes.Equal(before[0].line, now[0].line):
			out.WriteString(`{"put":`)
			out.Write(now[0].line)
			out.WriteString("}\n")
			s.put++
			if len(before) > 0 && before[0].id == now[0].id {
				before = before[1:]
			}
			now = now[1:]
		default:
			before, now = before[1:], now[1:]
		}
	}
	s.changes = out.Bytes()
}

// put writes a file with lines, named after what is in it.
func (w writer) put(folder, name string, text []byte, entries int) (Lot, error) {
	var b bytes.Buffer
	z, err := zstd.NewWriter(&b, zstd.WithEncoderConcurrency(1), zstd.WithEncoderLevel(zstd.SpeedBetterCompression), zstd.WithWindowSize(maxWindow))
	if err != nil {
		return Lot{}, err
	}
	if _, err = z.Write(text); err == nil {
		err = z.Close()
	}
	if err != nil {
		return Lot{}, err
	}
	if b.Len() > MaxLot || len(text) > maxUnpacked {
		return Lot{}, say.Errorf("%w: %s would have %d MB", ErrTooLarge, name, b.Len()>>20)
	}
	sum := sha256.Sum256(b.Bytes())
	hash := hex.EncodeToString(sum[:])
	l := Lot{File: folder + "/" + name + "-" + hash[:12] + ".jsonl.zst", SHA256: hash, Size: int64(b.Len()), Entries: entries}
	return l, writeAnew(filepath.Join(w.dir, filepath.FromSlash(l.File)), b.Bytes())
}

// sign writes the index and its signature. Who reads between the two finds that they do not
// fit, and asks again.
func (w writer) sign(m Manifest, secret *Secret) error {
	b, err := json.Marshal(m)
	if err != nil {
		return err
	}
	b = append(b, '\n')
	at := func(name string) string { return filepath.Join(w.dir, name) }
	if have, err := os.ReadFile(at(IndexFile)); err == nil && bytes.Equal(have, b) && secret == nil {
		return nil
	}
	if secret == nil {
		for _, name := range []string{SignatureFile, KeyFile} {
			if err := os.Remove(at(name)); err != nil && !errors.Is(err, fs.ErrNotExist) {
				return err
			}
		}
		return writeAnew(at(IndexFile), b)
	}
	_, key := secret.Public()
	return errors.Join(
		writeAnew(at(KeyFile), key),
		writeAnew(at(SignatureFile), secret.Sign(b, fmt.Sprintf("serial:%d date:%s", m.Serial, m.Date))),
		writeAnew(at(IndexFile), b),
	)
}

// WriteWhole writes a file of a market that is there as a whole or not at all.
func WriteWhole(at string, from io.Reader) error {
	f, err := os.CreateTemp(filepath.Dir(at), ".ivelt-*")
	if err != nil {
		return err
	}
	_, err = io.Copy(f, from)
	if err = errors.Join(err, f.Chmod(0o644), f.Close()); err == nil {
		err = os.Rename(f.Name(), at)
	}
	if err != nil {
		return errors.Join(err, os.Remove(f.Name()))
	}
	return nil
}

func writeAnew(at string, b []byte) error { return WriteWhole(at, bytes.NewReader(b)) }

// sweep takes away what neither the index nor the one before names: who reads now may still
// ask for what that does.
func (w writer) sweep(now Manifest) error {
	named := map[string]bool{}
	for _, m := range []Manifest{w.old, now} {
		for _, l := range m.Shards {
			named[l.File] = true
		}
		for _, d := range m.Deltas {
			named[d.File] = true
		}
	}
	for _, folder := range []string{shardsFolder, deltasFolder} {
		files, err := os.ReadDir(filepath.Join(w.dir, folder))
		if err != nil {
			return err
		}
		for _, f := range files {
			name := folder + "/" + f.Name()
			if strings.HasSuffix(name, ".jsonl.zst") && !named[name] {
				if err := os.Remove(filepath.Join(w.dir, filepath.FromSlash(name))); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// Entries reads all entries of the market in shards in a folder, one after the other.
func Entries(ctx context.Context, dir string) iter.Seq2[Entry, error] {
	return func(yield func(Entry, error) bool) {
		m, err := published(dir)
		if err != nil {
			yield(Entry{}, err)
			return
		}
		for i, l := range m.Shards {
			b, err := readLot(filepath.Join(dir, filepath.FromSlash(l.File)))
			var all []Entry
			if err == nil {
				all, err = l.Read(ctx, b, i, len(m.Shards))
			}
			if err != nil {
				yield(Entry{}, err)
				return
			}
			for _, e := range all {
				if !yield(e, nil) {
					return
				}
			}
		}
	}
}

func readLot(at string) ([]byte, error) {
	f, err := os.Open(at)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, MaxLot+1))
}
