package icontheme

import (
	"context"
	"errors"
	"fmt"
	"hash/fnv"
	"io/fs"
	"path"
	"slices"
	"strings"
)

// Index is a chain of themes read once, ready for many lookups. It does not
// notice later changes of the tree; [Index.Stamp] tells of them. It is safe for concurrent use.
type Index struct {
	chain    []chained // in the order programs search them
	unthemed map[string]unthemed
	problems []Problem
	watched  []string // what it was read from, there or not
}

// Problem is a theme in the chain that programs have to do without.
type Problem struct {
	Theme string
	Err   error
}

// Config says where an [Index] looks. FS paths are slash-separated and
// relative, as io/fs wants them.
type Config struct {
	FS    fs.FS
	Bases []string // base folders, in order
	Theme string   // the theme asked for; may be ""
	Also  []string // themes a toolkit adds before the fallback theme
}

type chained struct {
	theme  *Theme
	folder []located
}

// located is a directory of the theme that exists under one base folder, with
// the names of the icons in it.
type located struct {
	Directory
	path  string
	icons map[string]suffix
}

type unthemed struct {
	svg, other  string
	otherSuffix suffix
}

// suffix is a set of file name endings, ordered by preference.
type suffix uint8

const (
	xpm suffix = 1 << iota
	svg
	png
	symbolicPNG
)

var endings = []struct {
	suffix suffix
	text   string
}{{symbolicPNG, ".symbolic.png"}, {png, ".png"}, {svg, ".svg"}, {xpm, ".xpm"}}

func splitName(file string) (name string, s suffix) {
	for _, e := range endings {
		if base, ok := strings.CutSuffix(file, e.text); ok {
			return base, e.suffix
		}
	}
	return "", 0
}

// NewIndex reads the theme, everything it inherits, the toolkit's additional
// themes and the fallback theme, depth first and each once, so that a cycle in
// Inherits ends. A theme that cannot be read is left out and named in
// [Index.Problems]; programs do the same.
//
// Like GTK it looks for the directories of a theme also below the folders of
// the themes that were read before it.
func NewIndex(c Config) *Index {
	b := builder{Config: c, index: &Index{unthemed: map[string]unthemed{}}, seen: map[string]bool{}, scanned: map[string]map[string]suffix{}}
	if c.Theme != "" {
		b.insert(c.Theme)
	}
	for _, name := range c.Also {
		b.insert(name)
	}
	b.insert(Fallback)
	b.findUnthemed()
	return b.index
}

type builder struct {
	Config
	index   *Index
	seen    map[string]bool
	folders []string // existing theme folders so far, the newest first
	scanned map[string]map[string]suffix
	looked  int // for folders
	files   int // in them
}

// What an index is made of at most. The largest packs look for some thousands of folders.
const (
	maxLooked = 100_000
	maxFiles  = 1_000_000
)

// full tells whether no more is read.
func (b *builder) full() bool { return b.looked > maxLooked || b.files > maxFiles }

var errWork = errors.New("with those before it it has more folders and files than are looked through")

func (b *builder) insert(name string) {
	if b.seen[name] {
		return
	}
	// GTK puts each folder it comes to before those it had: so of the same
	// directory the one below the last base folder is read first, and those
	// of the themes before come after. Among equals the last one wins.
	for _, base := range b.Bases {
		dir := path.Join(base, name)
		b.index.watched = append(b.index.watched, dir, path.Join(dir, "index.theme"))
		if fi, err := fs.Stat(b.FS, dir); err == nil && fi.IsDir() {
			b.folders = slices.Insert(b.folders, 0, dir)
		}
	}

	theme, _, err := Find(b.FS, b.Bases, name)
	if err != nil {
		b.index.problems = append(b.index.problems, Problem{name, err})
		return
	}
	b.seen[name] = true
	c := chained{theme: theme}
	for _, d := range theme.Directories {
		for _, folder := range b.folders {
			if b.looked++; b.full() {
				b.index.problems = append(b.index.problems, Problem{name, errWork})
				b.index.chain = append(b.index.chain, c)
				return
			}
			dir := path.Join(folder, d.Path)
			icons, known := b.scanned[dir]
			if !known {
				b.index.watched = append(b.index.watched, dir)
				var err error
				if icons, err = scan(b.FS, dir); errors.Is(err, context.Canceled) || errors.Is(err, context.DeadlineExceeded) {
					b.looked = maxLooked // nobody waits for it
				}
				b.scanned[dir] = icons
				b.files += len(icons)
			}
			if len(icons) > 0 {
				c.folder = append(c.folder, located{d, dir, icons})
			}
		}
	}
	b.index.chain = append(b.index.chain, c)
	for _, parent := range theme.Inherits {
		if b.full() {
			return
		}
		b.insert(parent)
	}
}

func scan(fsys fs.FS, dir string) (map[string]suffix, error) {
	entries, err := fs.ReadDir(fsys, dir)
	if err != nil {
		return nil, err
	}
	icons := make(map[string]suffix, len(entries))
	for _, e := range entries {
		if name, s := splitName(e.Name()); s != 0 {
			icons[name] |= s
		}
	}
	return icons, nil
}

// Stamp tells whether what the index was read from has changed since: then it
// is another one.
func (x *Index) Stamp(fsys fs.FS) string {
	h := fnv.New128a()
	for _, name := range x.watched {
		if info, err := fs.Stat(fsys, name); err == nil {
			fmt.Fprintln(h, name, info.ModTime().UnixNano(), info.Size())
		}
	}
	return string(h.Sum(nil))
}

func (b *builder) findUnthemed() {
	b.index.watched = append(b.index.watched, b.Bases...)
	for _, base := range b.Bases {
		entries, err := fs.ReadDir(b.FS, base)
		if err != nil {
			continue
		}
		for _, e := range entries {
			name, s := splitName(e.Name())
			if s == 0 {
				continue
			}
			u := b.index.unthemed[name]
			file := path.Join(base, e.Name())
			switch {
			case s == svg && u.svg == "":
				u.svg = file
			case s != svg && s > u.otherSuffix:
				u.other, u.otherSuffix = file, s
			}
			b.index.unthemed[name] = u
		}
	}
}

// Len is how many icons there are in the folders of all themes.
func (x *Index) Len() (n int) {
	for _, c := range x.chain {
		for _, l := range c.folder {
			n += len(l.icons)
		}
	}
	return n + len(x.unthemed)
}

// Chain returns the themes in the order they are searched.
func (x *Index) Chain() []*Theme {
	out := make([]*Theme, len(x.chain))
	for i, c := range x.chain {
		out[i] = c.theme
	}
	return out
}

// Problems returns the themes of the chain that could not be used, in order.
func (x *Index) Problems() []Problem { return x.problems }

// Names returns the names of all icons that some theme of the chain has, in no
// order; themes further down the chain than depth are left out (depth 1 is the
// first theme alone, 0 is all).
func (x *Index) Names(depth int) []string {
	seen := map[string]bool{}
	for i, c := range x.chain {
		if depth > 0 && i >= depth {
			break
		}
		for _, l := range c.folder {
			for name := range l.icons {
				seen[name] = true
			}
		}
	}
	out := make([]string, 0, len(seen))
	for name := range seen {
		out = append(out, name)
	}
	return out
}

// Sample chooses up to n names of the first theme's own icons, evenly among all by their
// order; those drawn in one colour are left out unless there are no others.
func (x *Index) Sample(n int) []string {
	all := x.Names(1)
	if coloured := slices.DeleteFunc(slices.Clone(all), func(s string) bool { return strings.HasSuffix(s, "-symbolic") }); len(coloured) > 0 {
		all = coloured
	}
	slices.Sort(all)
	n = min(n, len(all))
	out := make([]string, n)
	for i := range out {
		out[i] = all[i*len(all)/n]
	}
	return out
}

// Icon is where a lookup ended.
type Icon struct {
	Path  string // of the picture file, as io/fs wants it
	Theme string // the folder name of the theme that had it; "" if unthemed
	Size  int    // nominal size of its directory in px; 0 if unthemed
	Scale int
	// Shown is how large a program of GTK 3 shows it that forces no size, px: a directory of
	// one size is not scaled (gtkicontheme.c of 3.24, icon_info_ensure_scale_and_pixbuf). What
	// is asked for if it is unthemed.
	Shown int
	// Off is how far what is asked for is from what its directory is for, px; 0 if it fits.
	Off int
}

// Lookup finds name for a square of size px at the given scale, as GTK 3's
// gtk_icon_theme_lookup_icon_for_scale does with no flags (read in GTK 3.24's
// gtkicontheme.c and checked against the library). ok is false if no theme of
// the chain and no base folder has it.
func (x *Index) Lookup(name string, size, scale int) (icon Icon, ok bool) {
	// GTK searches symbolic names through the whole chain a first time; with
	// a single name that pass and the general one are the same.
	for _, c := range x.chain {
		if icon, ok := c.lookup(name, size, scale); ok {
			return icon, true
		}
	}
	return x.lookupUnthemed(name, size*scale)
}

// LookupBest returns the first icon found of several names in order of
// preference, trying every name in a theme before going on to the next theme.
// Symbolic names that come first are looked for in all themes before the others are, as GTK does.
func (x *Index) LookupBest(names []string, size, scale int) (icon Icon, name string, ok bool) {
	symbolic := names
	for i, name := range names {
		if !isSymbolic(name) {
			symbolic = names[:i]
			break
		}
	}
	if len(symbolic) > 0 && len(symbolic) < len(names) {
		for _, c := range x.chain {
			for _, name := range symbolic {
				if icon, ok := c.lookup(name, size, scale); ok {
					return icon, name, true
				}
			}
		}
	}
	for _, c := range x.chain {
		for _, name := range names {
			if icon, ok := c.lookup(name, size, scale); ok {
				return icon, name, true
			}
		}
	}
	for _, name := range names {
		if icon, ok := x.lookupUnthemed(name, size*scale); ok {
			return icon, name, true
		}
	}
	return Icon{}, "", false
}

func isSymbolic(name string) bool {
	return strings.HasSuffix(name, "-symbolic") || strings.HasSuffix(name, "-symbolic-ltr") || strings.HasSuffix(name, "-symbolic-rtl")
}

func (x *Index) lookupUnthemed(name string, size int) (Icon, bool) {
	u, ok := x.unthemed[name]
	switch {
	case !ok:
		return Icon{}, false
	case u.svg != "" && u.otherSuffix < png:
		return Icon{Path: u.svg, Shown: size}, true
	}
	return Icon{Path: u.other, Shown: size}, true
}

func (c chained) lookup(name string, size, scale int) (Icon, bool) {
	best, least := -1, 0
	var have suffix
	for i := range c.folder {
		s, ok := c.folder[i].icons[name]
		if !ok {
			continue
		}
		d := c.folder[i].difference(size, scale)
		if best < 0 || closer(&c.folder[i].Directory, d, &c.folder[best].Directory, least, size, scale) {
			best, least, have = i, d, s
		}
	}
	if best < 0 {
		return Icon{}, false
	}
	l := &c.folder[best]
	icon := l.icon(c.theme, name, have, size, scale)
	icon.Off = least
	return icon, true
}

func (l *located) icon(of *Theme, name string, have suffix, size, scale int) Icon {
	shown := l.Size * l.Scale
	if l.Type == Scalable {
		shown = min(max(size*scale, l.MinSize), l.MaxSize*scale)
	}
	return Icon{Path: l.file(name, have), Theme: of.Folder, Size: l.Size, Scale: l.Scale, Shown: shown}
}

func (l *located) file(name string, have suffix) string {
	for _, e := range endings {
		if have&e.suffix != 0 {
			return l.path + "/" + name + e.text
		}
	}
	return ""
}

// difference is how far the directory is from what is asked, in px; 0 fits.
// For a scalable directory GTK compares the unscaled size with the upper
// bound; so does this.
func (d *Directory) difference(size, scale int) int {
	want := size * scale
	lo, hi := d.Size*d.Scale, d.Size*d.Scale
	upper := want
	switch d.Type {
	case Scalable:
		lo, hi, upper = d.MinSize*d.Scale, d.MaxSize*d.Scale, size
	case Threshold:
		lo, hi = (d.Size-d.Allowed)*d.Scale, (d.Size+d.Allowed)*d.Scale
	}
	switch {
	case want < lo:
		return lo - want
	case upper > hi:
		return want - hi
	}
	return 0
}

// closer reports whether a, da px off, beats b, db px off.
func closer(a *Directory, da int, b *Directory, db, size, scale int) bool {
	if da == 0 {
		if db != 0 {
			return true
		}
	} else {
		switch shrinkA, shrinkB := a.Size >= size, b.Size >= size; {
		case shrinkA != shrinkB:
			return shrinkA
		case da != db:
			return da < db
		}
	}
	if fitA, fitB := a.Scale == scale, b.Scale == scale; fitA != fitB {
		return fitA
	}
	if sa, sb := a.Type == Scalable, b.Type == Scalable; sa != sb {
		return sb
	}
	return abs(size*scale-a.Size*a.Scale) <= abs(size*scale-b.Size*b.Scale)
}

func abs(n int) int {
	if n < 0 {
		return -n
	}
	return n
}

// IconName returns the icon's name if a file of that name is an icon.
func IconName(file string) (name string, ok bool) {
	name, s := splitName(file)
	return name, s != 0 && name != ""
}
