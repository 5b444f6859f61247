package iconbench

import (
	"cmp"
	"context"
	"crypto/sha256"
	"io"
	"io/fs"
	"path"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"unicode"

	"ivelt/core/cache"
	"ivelt/core/regular"
)

// Shown is a picture that a pack shows, and how it stands to the others.
type Shown struct {
	Path  string   `json:"path"`
	Theme string   `json:"theme"` // the pack that has it
	Keys  []string `json:"keys"`  // of what it is shown for, see [Want.KeyOf]; none for one of the pack that nothing asks for
	Title string   `json:"title"` // of the first of them
	Oddness
}

// How many pictures of a pack are compared, and how many of them that nothing on the desk asks for.
const (
	maxShown  = 1500
	leastKin  = 300
	maxIcon   = 4 << 20 // bytes of one picture
	ofTheRest = 600
)

// OutOfPlace compares the pictures that are shown for what a desk asks with each other and with
// others of the pack, and tells how each stands to them, what is least like them first. What is
// drawn in one colour is left out. tell is told how many of how many are measured; nil for nobody.
func (b *Bench) OutOfPlace(ctx context.Context, c *Coverage, tell func(done, all int)) ([]Shown, error) {
	shown := b.shown(c)
	looks, err := b.looks(ctx, shown, tell)
	if err != nil {
		return nil, err
	}
	var seen []Shown
	var of []Look
	for i, l := range looks {
		if l != nil {
			seen, of = append(seen, shown[i]), append(of, *l)
		}
	}
	for i, o := range Odd(of) {
		seen[i].Oddness = o
	}
	slices.SortStableFunc(seen, func(a, b Shown) int { return cmp.Compare(b.Score, a.Score) })
	if ctx.Err() == nil {
		cache.Of(b.Desk.Cache, b.compared(), func([]Shown) bool { return false }, func() cache.Made[[]Shown] {
			return cache.Made[[]Shown]{Value: seen, Bytes: 400 * len(seen)}
		})
	}
	return seen, ctx.Err()
}

// ofPack is the key of what is out of place in a pack as it is now.
type ofPack struct{ where, pack, stamp string }

func (b *Bench) compared() ofPack {
	return ofPack{b.Desk.Where(), b.Pack, b.Icons.Stamp(b.Tree)}
}

// Compared is what [Bench.OutOfPlace] told of the pack as it is now; false if it was not asked.
func (b *Bench) Compared() ([]Shown, bool) {
	known := true
	of := cache.Of(b.Desk.Cache, b.compared(), cache.Always, func() cache.Made[[]Shown] {
		known = false
		return cache.Made[[]Shown]{Brief: true}
	})
	return of, known && b.Desk.Cache != nil
}

// shown are the pictures that are compared, each once: those that are shown, then others of the
// pack.
func (b *Bench) shown(c *Coverage) (out []Shown) {
	at := map[string]int{}
	for _, it := range c.Items {
		a := it.Main()
		if a.Path == "" || it.Group == OneColour || strings.HasSuffix(a.Name, "-symbolic") || a.State == Fixed {
			continue
		}
		same := b.Same(a.Path)
		i, has := at[same]
		if !has {
			if len(out) >= maxShown {
				continue
			}
			i, at[same] = len(out), len(out)
			out = append(out, Shown{Path: a.Path, Theme: a.Theme, Title: it.Title})
		}
		out[i].Keys = append(out[i].Keys, it.KeyOf())
	}
	if len(out) >= leastKin {
		return out
	}
	for _, name := range b.Icons.Sample(ofTheRest) {
		icon, ok := b.Icons.Lookup(name, shownAt, 1)
		if !ok || icon.Theme != b.Pack && icon.Theme != b.Below || strings.HasSuffix(name, "-symbolic") {
			continue
		}
		if same := b.Same(icon.Path); at[same] == 0 && (len(out) == 0 || same != b.Same(out[0].Path)) {
			at[same] = len(out)
			out = append(out, Shown{Path: icon.Path, Theme: icon.Theme, Title: name})
		}
	}
	return out
}

// sum is the key of a look: the checksum of its picture.
type sum [sha256.Size]byte

// lookBytes is what a look takes, about.
const lookBytes = 3000

// KindOf is the kind of icon that a path tells of: the folder that is none of a size.
func KindOf(file string) string {
	for dir := path.Dir(file); dir != "."; dir = path.Dir(dir) {
		if name := path.Base(dir); strings.IndexFunc(name, unicode.IsDigit) < 0 && name != "scalable" && name != "symbolic" {
			return name
		}
	}
	return ""
}

// looks measures pictures on all processors: nil for those that cannot be read. A picture that was
// measured before is not again.
func (b *Bench) looks(ctx context.Context, of []Shown, tell func(done, all int)) ([]*Look, error) {
	type picture struct {
		at  int
		raw []byte
	}
	out := make([]*Look, len(of))
	todo := make(chan picture)
	var done atomic.Int64
	var workers sync.WaitGroup
	for range min(runtime.GOMAXPROCS(0), len(of)) {
		workers.Go(func() {
			for p := range todo {
				if l := b.look(ctx, p.raw); l != nil {
					own := *l
					own.Kind = KindOf(of[p.at].Path)
					out[p.at] = &own
				}
				if n := int(done.Add(1)); tell != nil && n%20 == 0 {
					tell(n, len(of))
				}
			}
		})
	}
	for i, s := range of {
		if ctx.Err() != nil {
			break
		}
		if raw, err := readIcon(b.Tree, s.Path); err == nil {
			todo <- picture{i, raw}
		}
	}
	close(todo)
	workers.Wait()
	return out, ctx.Err()
}

// look measures a picture, nil for what cannot be read.
func (b *Bench) look(ctx context.Context, raw []byte) *Look {
	return cache.Of(b.Desk.Cache, sum(sha256.Sum256(raw)), cache.Always, func() cache.Made[*Look] {
		l, ok := LookOf(ctx, raw)
		if !ok {
			return cache.Made[*Look]{Brief: ctx.Err() != nil, Bytes: 1}
		}
		return cache.Made[*Look]{Value: &l, Bytes: lookBytes}
	})
}

// Read reads a picture of the tree, of a sane size.
func (b *Bench) Read(name string) ([]byte, error) { return readIcon(b.Tree, name) }

// readIcon reads a picture that is a file of a sane size.
func readIcon(fsys fs.FS, name string) ([]byte, error) {
	info, err := fs.Stat(fsys, name)
	if err != nil {
		return nil, err
	}
	if !info.Mode().IsRegular() || info.Size() > maxIcon {
		return nil, &fs.PathError{Op: "read", Path: name, Err: regular.ErrSize}
	}
	f, err := fsys.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, maxIcon))
}
