// Package pointerbench measures a pointer set closely: which pointers programs find in it, whether
// their hot spots are where the hand expects them, how they move, how sharp they are at the sizes
// that are in use, and whether they can be found on any ground.
package pointerbench

import (
	"context"
	_ "embed"
	"errors"
	"hash/maphash"
	"image"
	"io/fs"
	"path"
	"slices"
	"strings"
	"time"

	"ivelt/core/colour"
	"ivelt/core/pointerset"
	"ivelt/core/recolour"
	"ivelt/core/say"
	"ivelt/core/xcursor"
)

// Bounds of a set.
const (
	maxNames  = 2000
	maxBytes  = 256 << 20 // that are read
	maxFile   = 64 << 20
	maxPixels = 48 << 20 // that are looked at
)

// ErrNone: there is no pointer in a set.
var ErrNone = errors.New("there is no pointer in it")

// xFont are the names of X's own cursor font (cursorfont.h of the X11 headers, all glyphs).
//
//go:embed xfont.txt
var xFont string

// FontNames are the names of X's own cursor font.
func FontNames() []string { return strings.Fields(xFont) }

// State is how a set has what a program asks for.
type State string

const (
	There   State = "there"   // a picture of its own
	Lent    State = "lent"    // the picture of another role, by a link or a copy
	Other   State = "other"   // a picture of a set that it inherits
	Damaged State = "damaged" // its file cannot be read, and programs show none of the set
	Missing State = "missing" // programs show another pointer
)

// Role is a role and how the set has it.
type Role struct {
	*pointerset.Role
	State State    `json:"state"`
	File  string   `json:"file"`  // the file that is shown, "" if it is missing
	From  string   `json:"from"`  // the role whose picture is lent
	Lacks []string `json:"lacks"` // names of the role that lead nowhere, of one that is there
	Other []Shown  `json:"other"` // toolkits that show something else, of one that is there
}

// Shown is what a toolkit shows for a role.
type Shown struct {
	pointerset.Asking
	File string `json:"file"` // "" for none of the set
}

// Size is one size of a shape.
type Size struct {
	Nominal  int             `json:"nominal"` // px
	Width    int             `json:"width"`   // px
	Height   int             `json:"height"`  // px
	HotX     int             `json:"hot_x"`   // px
	HotY     int             `json:"hot_y"`   // px
	Ink      image.Rectangle `json:"ink"`     // of what is not transparent, nor a shadow
	Frames   int             `json:"frames"`
	Turn     time.Duration   `json:"turn"`     // of all frames
	Expected image.Point     `json:"expected"` // the place nearest to the hot spot where it is expected, if Tip is not -1
	Tip      float64         `json:"tip"`      // px between the hot spot and where it is expected; -1 if that is not known
	Jump     float64         `json:"jump"`     // how much more differs between the last picture and the first than else; 1 for no more
	Spare    int             `json:"spare"`    // of one that jumps: so many of the last pictures left out, and it does not; 0 if that is no way
}

// Shape is one picture, or one that moves, with all its names.
type Shape struct {
	File  string   `json:"file"`
	Set   string   `json:"set"`   // the set that it is inherited from, "" for its own
	Names []string `json:"names"` // that lead to it, its own too
	Twin  string   `json:"twin"`  // another file with the same contents, "" for none
	Sizes []Size   `json:"sizes"`
	Wrong string   `json:"wrong"` // why it cannot be read
}

// Scaled is what a size that is asked for becomes.
type Scaled struct {
	Asked   int     `json:"asked"`   // px
	Nearest int     `json:"nearest"` // px
	Edge    float64 `json:"edge"`    // how many px an edge is wide when Nearest is scaled to Asked; drawn for it, about 1
}

// Finding is something wrong with a set.
type Finding struct {
	Code  string      `json:"code"`
	File  string      `json:"file,omitempty"`
	Says  say.Message `json:"-"`
	Text  string      `json:"text"`
	Grave bool        `json:"grave"` // it is seen, or felt, in daily work
}

// Report is what was measured of a set.
type Report struct {
	Roles    []Role        `json:"roles"`
	Shapes   []Shape       `json:"shapes"`
	Sizes    []int         `json:"sizes"` // nominal, of the arrow, px
	Scaled   []Scaled      `json:"scaled"`
	FontHas  int           `json:"font_has"` // names of X's own font that lead somewhere
	FontAll  int           `json:"font_all"` // and how many there are
	Links    int           `json:"links"`    // names that are links
	Broken   []string      `json:"broken"`   // links that lead nowhere, where no set that is inherited has the name
	Inside   colour.Colour `json:"inside"`
	Outline  colour.Colour `json:"outline"`
	Contrast float64       `json:"contrast"` // between the two; 0 if that is not known
	Findings []Finding     `json:"findings"`
}

// Options of [Measure].
type Options struct {
	Asked []int // sizes that are in use, px
	// Inherited are the names of further sets that programs look in, in their order, see [Chain].
	Inherited []string
}

// Measure looks at the set whose folder "cursors" lies at a name of a file system. Errors wrap
// [ErrNone], or are those of the context.
func Measure(ctx context.Context, fsys fs.FS, root string, o Options) (*Report, error) {
	b := &bench{fsys: fsys, bytes: maxBytes, pixels: maxPixels, report: &Report{}, at: map[string]int{}, bySum: map[uint64]int{}, seed: maphash.MakeSeed()}
	if err := b.read(ctx, path.Join(root, "cursors"), ""); err != nil {
		return nil, err
	}
	for _, set := range o.Inherited {
		if err := b.read(ctx, path.Join(set, "cursors"), path.Base(set)); err != nil && !errors.Is(err, ErrNone) {
			return nil, err
		}
	}
	if len(b.report.Shapes) == 0 {
		return nil, ErrNone
	}
	b.report.Broken = slices.DeleteFunc(b.report.Broken, func(name string) bool { _, found := b.at[name]; return found })
	b.roles()
	if err := b.shapes(ctx); err != nil {
		return nil, err
	}
	b.arrow(o.Asked)
	b.find()
	return b.report, nil
}

type bench struct {
	fsys   fs.FS
	seed   maphash.Seed
	bySum  map[uint64]int
	bytes  int64
	pixels int
	report *Report
	at     map[string]int // the shape of a name
	files  []*xcursor.File
	from   []string // the name of each shape's file in the file system
}

// read sorts the names of a folder by what they lead to; set is what it is inherited from.
func (b *bench) read(ctx context.Context, folder, set string) error {
	list, err := fs.ReadDir(b.fsys, folder)
	if err != nil {
		return errors.Join(ErrNone, err)
	}
	byFile := map[string]int{}
	for _, e := range list[:min(len(list), maxNames)] {
		if err := ctx.Err(); err != nil {
			return err
		}
		name := e.Name()
		if _, has := b.at[name]; has {
			continue // programs find the other first
		}
		file, link := leadsTo(b.fsys, folder, name)
		if link && set == "" {
			b.report.Links++
		}
		info, err := fs.Stat(b.fsys, path.Join(folder, name))
		if err != nil {
			if !slices.Contains(b.report.Broken, name) {
				b.report.Broken = append(b.report.Broken, name)
			}
			continue
		}
		if !info.Mode().IsRegular() {
			continue
		}
		if i, ok := byFile[file]; ok {
			b.report.Shapes[i].Names = append(b.report.Shapes[i].Names, name)
			b.at[name] = i
			continue
		}
		if b.bytes -= info.Size(); b.bytes < 0 || info.Size() > maxFile {
			continue
		}
		raw, err := fs.ReadFile(b.fsys, path.Join(folder, name))
		if err != nil || !xcursor.IsXcursor(raw) && !pointerset.IsName(name) && !slices.Contains(FontNames(), name) {
			continue
		}
		i := len(b.report.Shapes)
		byFile[file], b.at[name] = i, i
		s := Shape{File: file, Set: set, Names: []string{name}}
		sum := maphash.Bytes(b.seed, raw)
		if j, ok := b.bySum[sum]; ok {
			s.Twin = b.report.Shapes[j].File
		} else {
			b.bySum[sum] = i
		}
		f, err := xcursor.Parse(raw)
		if err != nil {
			s.Wrong = err.Error()
		}
		b.report.Shapes, b.files, b.from = append(b.report.Shapes, s), append(b.files, f), append(b.from, path.Join(folder, name))
	}
	return nil
}

// leadsTo is the file that a name of the folder leads to, by its links as far as they stay in it.
func leadsTo(fsys fs.FS, folder, name string) (file string, link bool) {
	file = name
	for range 10 {
		to, err := fs.ReadLink(fsys, path.Join(folder, file))
		if err != nil {
			return file, link
		}
		link = true
		to = path.Clean(to)
		if strings.Contains(to, "/") || to == ".." {
			return file, true
		}
		file = to
	}
	return file, link
}

// roles tells of each role whether the set has it.
func (b *bench) roles() {
	shape := func(r *pointerset.Role) (int, bool) {
		for _, n := range r.Names {
			if i, ok := b.at[n]; ok {
				return i, true
			}
		}
		return 0, false
	}
	owner := map[int]string{} // the role that a shape is of
	for _, r := range pointerset.Roles {
		if len(r.Names) == 0 {
			continue
		}
		i, ok := shape(r)
		if !ok {
			b.report.Roles = append(b.report.Roles, Role{Role: r, State: Missing})
			continue
		}
		of := Role{Role: r, State: There, File: b.report.Shapes[i].File}
		for _, n := range r.Names {
			if _, ok := b.at[n]; !ok {
				of.Lacks = append(of.Lacks, n)
			}
		}
		if b.report.Shapes[i].Wrong != "" {
			of.State = Damaged
			b.report.Roles = append(b.report.Roles, of)
			continue
		}
		i = b.first(i)
		if b.report.Shapes[i].Set != "" {
			of.State, of.From = Other, b.report.Shapes[i].Set
		} else if first, taken := owner[i]; taken {
			of.State, of.From = Lent, first
		} else {
			owner[i] = r.Name
		}
		of.Other = b.shownFor(r, i)
		b.report.Roles = append(b.report.Roles, of)
	}
	for _, name := range FontNames() {
		b.report.FontAll++
		if _, ok := b.at[name]; ok {
			b.report.FontHas++
		}
	}
}

// shownFor are the toolkits that show something else than a shape for a role: none of the set, or a
// picture that they find by a name of another role. One that has another picture under another name
// of the same role is as its maker wants it.
func (b *bench) shownFor(r *pointerset.Role, shape int) (out []Shown) {
	for _, a := range r.AskedFor() {
		name := ""
		if i := slices.IndexFunc(a.Names, func(n string) bool { _, ok := b.at[n]; return ok }); i >= 0 {
			name = a.Names[i]
		}
		i, ok := b.at[name]
		if ok && (slices.Contains(r.Names, name) || b.first(i) == shape) {
			continue
		}
		shown := Shown{Asking: a}
		if ok {
			shown.File = b.report.Shapes[i].File
		}
		out = append(out, shown)
	}
	return out
}

// first is the first shape that has the contents of another.
func (b *bench) first(i int) int {
	if twin := b.report.Shapes[i].Twin; twin != "" {
		return b.at[twin]
	}
	return i
}

// shapes measures every shape in every size.
func (b *bench) shapes(ctx context.Context) error {
	for i, f := range b.files {
		s := &b.report.Shapes[i]
		if f == nil {
			continue
		}
		var role *pointerset.Role
		for _, n := range s.Names {
			if r := pointerset.RoleOf(n); r != nil && (role == nil || slices.Index(pointerset.Roles, r) < slices.Index(pointerset.Roles, role)) {
				role = r
			}
		}
		nominal := f.Sizes()
		slices.Sort(nominal)
		for _, size := range nominal {
			if err := ctx.Err(); err != nil {
				return err
			}
			frames := f.Frames(size)
			first := frames[0]
			of := Size{Nominal: size, Width: first.Rect.Dx(), Height: first.Rect.Dy(), HotX: first.HotX, HotY: first.HotY, Frames: len(frames), Tip: -1, Jump: 1}
			for _, im := range frames {
				of.Turn += im.Delay
			}
			pixels := first.Rect.Dx() * first.Rect.Dy()
			if b.pixels -= pixels; b.pixels >= 0 {
				picture := f.Picture(first)
				of.Ink = pointerset.Ink(picture)
				for _, at := range expected(picture, of.Ink, role) {
					if d := at.distance(first.HotX, first.HotY); of.Tip < 0 || d < of.Tip {
						of.Tip, of.Expected = d, at.near(first.HotX, first.HotY)
					}
				}
			}
			if size == nominal[len(nominal)-1] && len(frames) > 2 {
				if b.pixels -= pixels * len(frames); b.pixels >= 0 {
					of.Jump, of.Spare = jump(f, frames)
				}
			}
			s.Sizes = append(s.Sizes, of)
		}
	}
	return nil
}

// arrow measures what the whole set is judged by.
func (b *bench) arrow(asked []int) {
	i, ok := b.at["default"]
	if !ok {
		i, ok = b.at["left_ptr"]
	}
	if !ok || b.files[i] == nil {
		return
	}
	f := b.files[i]
	b.report.Sizes = f.Sizes()
	slices.Sort(b.report.Sizes)
	for _, size := range asked {
		near := f.Best(size)
		picture := f.Picture(f.Frames(near)[0])
		if picture.Rect.Dx()*picture.Rect.Dy() > 1<<20 || size < 1 || size > 1024 {
			continue
		}
		b.report.Scaled = append(b.report.Scaled, Scaled{size, near, edge(picture, near, size)})
	}
	raw, err := fs.ReadFile(b.fsys, b.from[i])
	if err != nil {
		return
	}
	if inside, outline, ok := recolour.MainPointer(raw); ok {
		b.report.Inside, b.report.Outline = inside, outline
		b.report.Contrast = colour.Contrast(inside, outline)
	}
}

// spot is where a hot spot is expected: within a box, in px.
type spot struct{ image.Rectangle }

// near is the place in it that is nearest to another.
func (s spot) near(x, y int) image.Point {
	return image.Pt(min(max(x, s.Min.X), s.Max.X), min(max(y, s.Min.Y), s.Max.Y))
}

func (s spot) distance(x, y int) float64 {
	dx := max(s.Min.X-x, x-s.Max.X, 0)
	dy := max(s.Min.Y-y, y-s.Max.Y, 0)
	return float64(max(dx, dy))
}

// Names is how many names lead to a picture.
func (r *Report) Names() (n int) {
	for _, s := range r.Shapes {
		n += len(s.Names)
	}
	return n
}
