package pointerset

import (
	"context"
	"errors"
	"hash/maphash"
	"image"
	"io/fs"
	"math"
	"path"
	"slices"
	"strings"

	"ivelt/core/curfile"
	"ivelt/core/say"
	"ivelt/core/xcursor"
)

// Format is one of the two families of formats.
type Format string

const (
	XCursor Format = "xcursor"
	Cur     Format = "cur" // with .ani for what moves
)

// Errors of [Convert].
var (
	ErrNone   = errors.New("there is no pointer in it that can be converted")
	ErrWanted = errors.New("that size cannot be made")
)

// What a set may have.
const (
	maxShapes   = 400
	maxSetBytes = 256 << 20 // of the files that are converted
	maxMade     = 8 << 20   // pixels of one pointer
	maxSetMade  = 96 << 20  // of all
	maxChecked  = 12 << 20  // of pictures that are decoded to see whether they are whole
	maxScaled   = 128 << 20 // that sizes are made from, or of these if they are more
	minSize     = 8         // px
	maxSize     = 512
)

// Usual are the sizes that a set has after it was converted, besides its own, px: what desktops
// ask for at the scales 1, 1⅓, 2 and 2⅔ (common practice, no source).
var Usual = []int{24, 32, 48, 64}

// Options say what is made. The zero value makes a set for X in its own sizes and the usual ones.
type Options struct {
	As     Format
	Sizes  []int     // px; none for its own and the usual ones
	Scales []float64 // that each size is made for; none for 1
}

// Valid is nil if such sets can be made. Errors wrap [ErrWanted].
func (o Options) Valid() error {
	for _, s := range o.Sizes {
		if s < minSize || s > maxSize {
			return say.Errorf("%w: %d px; from %d to %d", ErrWanted, s, minSize, maxSize)
		}
	}
	for _, f := range o.Scales {
		if !(f >= 0.5 && f <= 8) {
			return say.Errorf("%w: scale %g; from 0.5 to 8", ErrWanted, f)
		}
	}
	if len(o.Sizes)*max(len(o.Scales), 1) > 32 || len(o.Scales) > 8 {
		return say.Errorf("%w: more than 32 sizes", ErrWanted)
	}
	return nil
}

// most is the largest size that is made, px.
func (f Format) most() int {
	if f == Cur {
		return curfile.MaxWritten
	}
	return maxSize
}

// sizes are those that a pointer is made in, ascending.
func (o Options) sizes(own []int) []int {
	of := o.Sizes
	if len(of) == 0 {
		of = slices.Clone(own)
		if len(o.Scales) == 0 {
			of = append(of, Usual...)
		}
	}
	scales := o.Scales
	if len(scales) == 0 {
		scales = []float64{1}
	}
	most := o.As.most()
	var out []int
	for _, s := range of {
		for _, f := range scales {
			if made := int(math.Round(float64(s) * f)); made >= minSize && made <= most || made < minSize && slices.Contains(own, made) {
				out = append(out, made)
			}
		}
	}
	if len(out) == 0 {
		out = []int{most}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Entry is a file of a set that was converted.
type Entry struct {
	Name string
	Size int64                  // bytes; of a set for X
	Make func() ([]byte, error) // makes it; nil for the others
	Link string                 // where a link leads
	Copy string                 // the file of the source that it is a copy of
}

// Pointer is one that is converted.
type Pointer struct {
	Role  *Role
	File  string // of the source
	Sizes []int  // of its own, px
	Made  []int  // that are made from those
	Steps int    // 1 for a still one

	open  func() (*moving, error)
	sizes []int // px
	bytes int64 // of the file for X
}

// Making are the sizes that it will have, px.
func (p *Pointer) Making() []int { return slices.Clone(p.sizes) }

// Left is a file that is not converted.
type Left struct {
	File string
	Why  say.Message
}

// Wanted reports whether a file is left out for what is wrong with it, and not because no program
// would ask for it.
func (l Left) Wanted() bool {
	return l.Why.Code != "pointers/no-counterpart" && l.Why.Code != "pointers/nobody-asks"
}

// Set is a set that was looked at and can be converted.
type Set struct {
	As       Format
	Pointers []*Pointer
	Left     []Left
	Others   []string // files that are no pointers
	Lost     []say.Message

	fsys  fs.FS
	root  string
	o     Options
	tells lost
}

// Convert looks at a set at a name of a file system: a folder of .cur and .ani files, or, to be
// made such, one with a folder "cursors". What is made is read again from there. Errors wrap
// [ErrNone] or [ErrWanted].
func Convert(ctx context.Context, fsys fs.FS, root string, o Options) (*Set, error) {
	return NewBudget().Convert(ctx, fsys, root, o)
}

// Convert is the same within a budget.
func (left *Budget) Convert(ctx context.Context, fsys fs.FS, root string, o Options) (*Set, error) {
	if err := o.Valid(); err != nil {
		return nil, err
	}
	if o.As != Cur {
		o.As = XCursor
	}
	s := &Set{As: o.As, fsys: fsys, root: root, o: o}
	look := s.files
	if o.As == Cur {
		look = s.shapes
	}
	if err := look(ctx, &reader{fsys, left}); err != nil {
		return nil, err
	}
	if len(s.Pointers) == 0 {
		if len(s.Left) > 0 {
			return nil, say.Errorf("%w: %s: %s", ErrNone, path.Base(s.Left[0].File), s.Left[0].Why)
		}
		return nil, ErrNone
	}
	slices.SortStableFunc(s.Pointers, byRole)
	s.Lost = s.tells.said(s)
	return s, nil
}

// IsFile reports whether a file of that name is taken for a pointer of the other family.
func IsFile(name string) bool {
	ext := strings.ToLower(path.Ext(name))
	return ext == ".cur" || ext == ".ani"
}

// Budget is what looking at sets, and making them, may cost together. Each set that is looked at
// takes of it.
type Budget struct {
	bytes                      int64
	each, made, checks, scaled int // pixels
}

// NewBudget is one for one set that somebody wants.
func NewBudget() *Budget { return &Budget{maxSetBytes, maxMade, maxSetMade, maxChecked, maxScaled} }

// SmallBudget is one for all sets of a parcel that nobody has asked for yet.
func SmallBudget() *Budget {
	return &Budget{maxSetBytes / 4, maxMade / 4, maxSetMade / 2, maxChecked / 2, maxScaled / 24}
}

// reader reads the files of a set, and no more than a set may have.
type reader struct {
	fsys fs.FS
	left *Budget
}

func (r *reader) read(name string) ([]byte, error) {
	info, err := fs.Stat(r.fsys, name)
	switch {
	case err != nil:
		return nil, err
	case !info.Mode().IsRegular():
		return nil, errors.New("it is no file")
	case info.Size() > curfile.MaxFile:
		return nil, say.Errorf("it is larger than %d MB", curfile.MaxFile>>20)
	}
	if r.left.bytes -= info.Size(); r.left.bytes < 0 {
		return nil, say.Errorf("with the others it would be more than %d MB", maxSetBytes>>20)
	}
	return fs.ReadFile(r.fsys, name)
}

// files looks at a folder of .cur and .ani files.
func (s *Set) files(ctx context.Context, r *reader) error {
	list, err := fs.ReadDir(s.fsys, s.root)
	if err != nil {
		return err
	}
	var files []string
	for _, e := range list {
		switch {
		case e.IsDir():
		case !IsFile(e.Name()):
			s.Others = append(s.Others, e.Name())
		case len(files) < maxShapes:
			files = append(files, e.Name())
		}
	}
	taken, left := byName(files)
	for _, l := range left {
		why := say.Of("pointers/not-known-which")
		if l.role != nil {
			why = say.Of("pointers/another-is-taken", l.role.Title)
		}
		s.Left = append(s.Left, Left{l.file, why})
	}
	for _, n := range taken {
		if err := ctx.Err(); err != nil {
			return err
		}
		if len(n.role.Names) == 0 {
			s.Left = append(s.Left, Left{n.file, say.Of("pointers/nobody-asks", n.role.Title)})
			continue
		}
		s.add(ctx, r, n.role, n.file, func(r *reader) (*moving, error) {
			b, err := r.read(path.Join(s.root, n.file))
			if err != nil {
				return nil, err
			}
			p, err := curfile.Read(b)
			if err != nil {
				return nil, err
			}
			return fromCur(p), nil
		})
	}
	return nil
}

// shapes looks at a folder of Xcursor files. One that is the picture which another lends it
// anyway is left out, and so is what nobody asks for.
func (s *Set) shapes(ctx context.Context, r *reader) error {
	folder := path.Join(s.root, "cursors")
	list, err := fs.ReadDir(s.fsys, folder)
	if err != nil {
		return err
	}
	s.Others = s.beside()
	seed := maphash.MakeSeed()
	sums, known := map[string]uint64{}, map[uint64]bool{}
	for _, e := range list[:min(len(list), maxShapes)] {
		if err := ctx.Err(); err != nil {
			return err
		}
		if b, err := r.read(path.Join(folder, e.Name())); err == nil {
			sums[e.Name()] = maphash.Bytes(seed, b)
		}
	}
	var of = map[string]string{} // the file of a role
	for _, role := range Roles {
		for _, name := range role.Names {
			if _, ok := sums[name]; ok && of[role.Name] == "" {
				of[role.Name] = name
			}
		}
	}
	r.left.bytes = maxSetBytes // they are read again
	for _, role := range Roles {
		name, ok := of[role.Name]
		if !ok {
			continue
		}
		known[sums[name]] = true
		if lender := of[role.Lent]; lender != "" && sums[lender] == sums[name] {
			continue
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		s.add(ctx, r, role, name, func(r *reader) (*moving, error) {
			b, err := r.read(path.Join(folder, name))
			if err != nil {
				return nil, err
			}
			f, err := xcursor.Parse(b)
			if err != nil {
				return nil, err
			}
			return fromX(f), nil
		})
	}
	for _, e := range list[:min(len(list), maxShapes)] {
		if sum, ok := sums[e.Name()]; ok && !known[sum] {
			known[sum] = true
			s.Left = append(s.Left, Left{e.Name(), say.Of("pointers/no-counterpart")})
		}
	}
	return nil
}

// beside are the files that lie beside the folder of shapes.
func (s *Set) beside() (out []string) {
	list, err := fs.ReadDir(s.fsys, s.root)
	if err != nil {
		return nil
	}
	for _, e := range list {
		if !e.IsDir() && e.Name() != "index.theme" && e.Name() != "cursor.theme" && e.Name() != RecipeFile {
			out = append(out, e.Name())
		}
	}
	return out
}

// add takes a file for a role, if it can be read.
func (s *Set) add(ctx context.Context, r *reader, role *Role, file string, open func(r *reader) (*moving, error)) {
	m, err := open(r)
	if err == nil {
		err = s.convertible(ctx, r.left, role, file, m)
	}
	if err != nil {
		s.Left = append(s.Left, Left{file, say.Of("pointers/cannot-be-read", err)})
		return
	}
	s.Pointers[len(s.Pointers)-1].open = func() (*moving, error) { return open(&reader{s.fsys, NewBudget()}) }
}

// convertible adds a pointer if what is made of it is not too much.
func (s *Set) convertible(ctx context.Context, left *Budget, role *Role, file string, m *moving) error {
	p := &Pointer{Role: role, File: file, Sizes: m.sizes, Steps: len(m.steps)}
	pixels, scaled := 0, 0
	var pictures []image.Point
	sizes := s.o.sizes(m.sizes)
	own := slices.DeleteFunc(slices.Clone(m.sizes), func(size int) bool { return size > maxSize })
	if len(own) < len(m.sizes) {
		s.tells.tooLarge = append(s.tells.tooLarge, m.sizes[len(own):]...)
	}
	for _, size := range sizes {
		if !m.own(size) {
			scaled += m.work(size)
		}
	}
	if scaled > left.scaled {
		scaled, sizes = 0, own // what is left is too little to make others
		s.tells.unmade++
	}
	for _, size := range sizes {
		if e := m.extentIn(0, size); s.As == Cur && max(e.X, e.Y) > curfile.MaxWritten {
			s.tells.tooLarge = append(s.tells.tooLarge, size)
			continue
		}
		p.sizes = append(p.sizes, size)
		if !m.own(size) {
			p.Made = append(p.Made, size)
		}
		for step := range m.steps {
			e := m.extentIn(step, size)
			pictures = append(pictures, e)
			if pixels += e.X * e.Y; pixels > min(left.each, left.made) {
				return say.Errorf("%d pictures in a row, in so many sizes, are too much", len(m.steps))
			}
		}
	}
	if len(p.sizes) == 0 {
		return say.Errorf("it has no size that is not too large")
	}
	if err := m.check(ctx, &left.checks); err != nil {
		return err
	}
	left.made, left.scaled = left.made-pixels, left.scaled-scaled
	p.bytes = xcursor.EncodedSize(pictures)
	s.Pointers = append(s.Pointers, p)
	s.tells.pointer(s.As, p, m)
	return nil
}
