// Package taste measures how a piece looks, from its own files, so that pieces
// can be found by what they are like: lightness, colour, contrast, roundness and
// density (docs/taste.md gives the formulas; the choice of them is our own).
package taste

import (
	"cmp"
	"context"
	"image"
	"io/fs"
	"math"
	"path"
	"regexp"
	"slices"
	"strings"

	"golang.org/x/image/draw"

	"ivelt/core/colour"
	"ivelt/core/icontheme"
	"ivelt/core/imagefile"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/regular"
	"ivelt/core/xcursor"
)

// Of measures a piece of a parcel. ok is false for a kind that has no colours
// of its own, or if nothing of it could be read; and once ctx has ended.
func Of(ctx context.Context, fsys fs.FS, pc parcel.Piece) (looks market.Looks, ok bool) {
	return OfShade(ctx, fsys, pc, false)
}

// OfShade is [Of] of a piece as it is worn dark, where it has a form for that.
func OfShade(ctx context.Context, fsys fs.FS, pc parcel.Piece, dark bool) (looks market.Looks, ok bool) {
	fsys = regular.Until(ctx, fsys)
	s := sample{ctx: ctx}
	switch pc.Kind {
	case parcel.Icons:
		s.icons(fsys, pc)
	case parcel.Pointer:
		s.pointers(fsys, pc)
	case parcel.Backdrop, parcel.Style:
		for _, name := range pc.Only[:min(len(pc.Only), maxFiles)] {
			s.file(fsys, name, 128)
		}
	case parcel.Theme:
		looks, ok = ofTheme(ctx, fsys, pc, dark)
		return looks, ok && ctx.Err() == nil
	case parcel.Palette:
		looks, ok = ofPalette(fsys, pc)
		return looks, ok && ctx.Err() == nil
	}
	looks, ok = s.looks()
	if pc.Kind == parcel.Pointer {
		looks.Roundness = market.Shapeless // an arrow is neither
	}
	return looks, ok && ctx.Err() == nil
}

// OfPicture measures any picture, to find pieces that go with it.
func OfPicture(im image.Image) (market.Looks, bool) {
	var s sample
	s.add(small(im, 128))
	return s.looks()
}

// sample gathers what is seen of a piece.
type sample struct {
	ctx        context.Context
	bins       map[[3]int8]*bin
	n          float64 // opaque pixels
	l, c       float64 // sums of lightness and chroma
	luminances []float64
	corners    float64 // sums over the pictures, 0–1 each
	filled     float64
	pictures   float64
}

// bin is the pixels whose colours are about the same.
type bin struct{ n, l, a, b float64 }

const (
	maxRead  = 8 << 20 // bytes of one picture
	maxFiles = 24      // pictures of a piece that is many
)

func (s *sample) file(fsys fs.FS, name string, size int) bool {
	f, err := fsys.Open(name)
	if err != nil {
		return false
	}
	defer f.Close()
	if fi, err := f.Stat(); err != nil || fi.Size() > maxRead {
		return false
	}
	raw, err := fs.ReadFile(fsys, name)
	if err != nil {
		return false
	}
	im := imagefile.Raster(s.ctx, raw, min(size, 48))
	if im == nil {
		return false
	}
	s.add(small(im, size))
	return true
}

func small(im image.Image, size int) image.Image {
	w, h := im.Bounds().Dx(), im.Bounds().Dy()
	if w <= size && h <= size || w == 0 || h == 0 {
		return im
	}
	k := float64(size) / float64(max(w, h))
	out := image.NewNRGBA(image.Rect(0, 0, max(1, int(float64(w)*k)), max(1, int(float64(h)*k))))
	draw.ApproxBiLinear.Scale(out, out.Bounds(), im, im.Bounds(), draw.Src, nil)
	return out
}

// add takes in a picture's pixels. Those mostly seen through count nothing.
func (s *sample) add(im image.Image) {
	r := im.Bounds()
	opaque := image.NewAlpha(image.Rect(0, 0, r.Dx(), r.Dy()))
	box := image.Rectangle{}
	n := 0
	for y := range r.Dy() {
		for x := range r.Dx() {
			cr, cg, cb, ca := im.At(r.Min.X+x, r.Min.Y+y).RGBA()
			if ca < 0x8000 {
				continue
			}
			opaque.Pix[y*opaque.Stride+x] = 255
			box = box.Union(image.Rect(x, y, x+1, y+1))
			n++
			s.pixel(colour.Colour{R: float64(cr) / float64(ca), G: float64(cg) / float64(ca), B: float64(cb) / float64(ca)}, 1)
		}
	}
	if n == 0 {
		return
	}
	s.pictures++
	s.filled += float64(n) / float64(r.Dx()*r.Dy())
	s.corners += emptyCorners(opaque, box)
}

func (s *sample) pixel(c colour.Colour, weight float64) {
	if s.bins == nil {
		s.bins = map[[3]int8]*bin{}
	}
	l, a, b := c.Lab()
	key := [3]int8{int8(l * 10), int8(math.Floor(a * 20)), int8(math.Floor(b * 20))}
	at := s.bins[key]
	if at == nil {
		at = &bin{}
		s.bins[key] = at
	}
	at.n, at.l, at.a, at.b = at.n+weight, at.l+weight*l, at.a+weight*a, at.b+weight*b
	s.n, s.l, s.c = s.n+weight, s.l+weight*l, s.c+weight*math.Hypot(a, b)
	s.luminances = append(s.luminances, c.Luminance())
}

// body takes in a shape by what fills it: a pixel counts by the third power of how far it
// is from the edge. A pointer's outline is as large as the rest of it, and of the other
// shade, so that it is seen on any ground.
func (s *sample) body(im image.Image) {
	r := im.Bounds()
	w, h := r.Dx(), r.Dy()
	if w == 0 || h == 0 || w*h > maxBody {
		return
	}
	opaque := image.NewAlpha(image.Rect(0, 0, w, h))
	depth := make([]float64, w*h) // px to the nearest that is seen through, side by side or across
	box, n := image.Rectangle{}, 0
	for y := range h {
		for x := range w {
			if _, _, _, a := im.At(r.Min.X+x, r.Min.Y+y).RGBA(); a >= 0x8000 {
				opaque.Pix[y*opaque.Stride+x] = 255
				depth[y*w+x] = float64(w + h)
				box, n = box.Union(image.Rect(x, y, x+1, y+1)), n+1
			}
		}
	}
	if n == 0 {
		return
	}
	at := func(x, y int) float64 {
		if x < 0 || y < 0 || x >= w || y >= h {
			return 0
		}
		return depth[y*w+x]
	}
	for y := range h {
		for x := range w {
			depth[y*w+x] = min(at(x, y), 1+min(at(x-1, y), at(x, y-1)), 1.4+min(at(x-1, y-1), at(x+1, y-1)))
		}
	}
	for y := h - 1; y >= 0; y-- {
		for x := w - 1; x >= 0; x-- {
			depth[y*w+x] = min(at(x, y), 1+min(at(x+1, y), at(x, y+1)), 1.4+min(at(x-1, y+1), at(x+1, y+1)))
			if d := depth[y*w+x]; d > 0 {
				cr, cg, cb, ca := im.At(r.Min.X+x, r.Min.Y+y).RGBA()
				s.pixel(colour.Colour{R: float64(cr) / float64(ca), G: float64(cg) / float64(ca), B: float64(cb) / float64(ca)}, d*d*d)
			}
		}
	}
	s.pictures++
	s.filled += float64(n) / float64(w*h)
	s.corners += emptyCorners(opaque, box)
}

// maxBody bounds a shape that is measured, px; pointers have at most a few hundred a side.
const maxBody = 1 << 20

// emptyCorners is how much of the four corners of a shape's box, each a
// seventh of its sides, is empty: nothing for a square, all for a disc.
func emptyCorners(a *image.Alpha, box image.Rectangle) float64 {
	w, h := max(1, box.Dx()/7), max(1, box.Dy()/7)
	empty, all := 0, 0
	for _, c := range []image.Point{box.Min, {box.Max.X - w, box.Min.Y}, {box.Min.X, box.Max.Y - h}, {box.Max.X - w, box.Max.Y - h}} {
		for y := c.Y; y < c.Y+h; y++ {
			for x := c.X; x < c.X+w; x++ {
				all++
				if a.AlphaAt(x, y).A == 0 {
					empty++
				}
			}
		}
	}
	return float64(empty) / float64(all)
}

func (s *sample) looks() (market.Looks, bool) {
	if s.n == 0 {
		return market.Looks{}, false
	}
	out := market.Looks{Lightness: s.l / s.n, Chroma: min(s.c/s.n, 1), Colours: s.colours()}
	out.Hue = s.hue()
	slices.Sort(s.luminances)
	at := func(share float64) float64 { return s.luminances[int(share*float64(len(s.luminances)-1))] }
	out.Contrast = (at(0.95) + 0.05) / (at(0.05) + 0.05)
	if s.pictures > 0 {
		out.Roundness, out.Density = s.corners/s.pictures, s.filled/s.pictures
	}
	if s.filled == s.pictures { // what fills its box has no outline
		out.Roundness = market.Shapeless
	}
	return round(out), true
}

// round leaves the digits that mean something.
func round(l market.Looks) market.Looks {
	for _, f := range []*float64{&l.Lightness, &l.Chroma, &l.Contrast, &l.Roundness, &l.Density} {
		*f = math.Round(*f*1000) / 1000
	}
	l.Hue = math.Mod(math.Round(l.Hue*10)/10, 360)
	return l
}

// mostOfIt is the share of all colour that the strongest stretch of hues has to have for a
// piece to be of that hue.
const mostOfIt = 0.54

// hue is that of the colours seen, each counted by its chroma: the strongest
// stretch of 65 degrees wins, so that two hues do not add up to a third. If it is no more
// than about half of all, there is no one hue.
func (s *sample) hue() float64 {
	var by [72]float64 // five degrees each
	all := 0.0
	for _, b := range s.bins {
		h := math.Atan2(b.b, b.a) * 180 / math.Pi
		if h < 0 {
			h += 360
		}
		by[int(h/5)%72] += math.Hypot(b.a, b.b)
		all += math.Hypot(b.a, b.b)
	}
	best, most := 0, -1.0
	for i := range by {
		sum := 0.0
		for d := -6; d <= 6; d++ {
			sum += by[(i+d+72)%72]
		}
		if sum > most+1e-9 {
			best, most = i, sum
		}
	}
	if most < mostOfIt*all {
		return market.Mixed
	}
	x, y := 0.0, 0.0
	for d := -6; d <= 6; d++ {
		w := by[(best+d+72)%72]
		angle := (float64(best+d) + 0.5) * 5 * math.Pi / 180
		x, y = x+w*math.Cos(angle), y+w*math.Sin(angle)
	}
	h := math.Atan2(y, x) * 180 / math.Pi
	if h < 0 {
		h += 360
	}
	return h
}

// colours are the five that are seen most, those with colour before greys, no
// two of them nearly the same.
func (s *sample) colours() []string {
	type one struct {
		c      colour.Colour
		weight float64
		key    [3]int8
	}
	var all []one
	for key, b := range s.bins {
		l, a, bb := b.l/b.n, b.a/b.n, b.b/b.n
		ch := math.Hypot(a, bb)
		h := math.Atan2(bb, a) * 180 / math.Pi
		all = append(all, one{colour.OfLCH(l, ch, h), b.n / s.n * (0.3 + 4*ch), key})
	}
	slices.SortFunc(all, func(a, b one) int {
		return cmp.Or(cmp.Compare(b.weight, a.weight), slices.Compare(a.key[:], b.key[:]))
	})
	var out []string
	var kept []colour.Colour
	for _, o := range all {
		if len(out) == 5 {
			break
		}
		if !slices.ContainsFunc(kept, func(k colour.Colour) bool { return colour.Distance(k, o.c) < 0.1 }) {
			kept, out = append(kept, o.c), append(out, o.c.Hex())
		}
	}
	return out
}

// iconNames are the icons a pack is measured by, as far as it has them.
var iconNames = []string{
	"folder", "user-home", "folder-documents", "folder-music", "text-x-generic", "image-x-generic", "web-browser", "utilities-terminal",
	"system-file-manager", "internet-mail", "computer", "drive-harddisk", "user-trash", "office-calendar", "multimedia-music", "preferences-desktop",
}

// fewIcons are not enough to tell what a pack looks like.
const fewIcons = 4

func (s *sample) icons(fsys fs.FS, pc parcel.Piece) {
	base, theme := path.Split(pc.Root)
	if pc.Root == "." {
		return
	}
	x := icontheme.NewIndex(icontheme.Config{FS: fsys, Bases: []string{path.Clean(base)}, Theme: theme})
	n := 0
	take := func(name string, own bool) {
		if icon, ok := x.Lookup(name, 48, 1); ok && own == (icon.Theme == theme) && s.file(fsys, icon.Path, 48) {
			n++
		}
	}
	for _, name := range iconNames {
		take(name, true)
	}
	if n < fewIcons { // a pack that changes a few of another's is seen as that other
		for _, name := range iconNames {
			take(name, false)
		}
	}
	if n < fewIcons { // it has others, or names them otherwise
		for _, name := range x.Sample(len(iconNames)) {
			if !slices.Contains(iconNames, name) {
				take(name, true)
			}
		}
	}
}

func (s *sample) pointers(fsys fs.FS, pc parcel.Piece) {
	for _, name := range []string{"default", "left_ptr", "pointer", "hand2", "text", "xterm", "move", "fleur", "wait", "watch"} {
		raw, err := fs.ReadFile(fsys, path.Join(pc.Root, "cursors", name))
		if err != nil {
			continue
		}
		f, err := xcursor.Parse(raw)
		if err != nil {
			continue
		}
		if frames := f.Frames(f.Best(48)); len(frames) > 0 {
			s.body(f.Picture(frames[0]))
		}
	}
}

var paletteLine = regexp.MustCompile(`(?m)^[^!\n]*[*.](color\d{1,2}|background|foreground)\s*:\s*(#[0-9a-fA-F]{3,6})\s*$`)

func ofPalette(fsys fs.FS, pc parcel.Piece) (market.Looks, bool) {
	if len(pc.Only) == 0 {
		return market.Looks{}, false
	}
	raw, err := fs.ReadFile(fsys, pc.Only[0])
	if err != nil {
		return market.Looks{}, false
	}
	var s sample
	got := map[string]colour.Colour{}
	for _, m := range paletteLine.FindAllStringSubmatch(strings.ReplaceAll(string(raw), "\r", ""), -1) {
		c, err := colour.Parse(m[2])
		if err != nil {
			continue
		}
		got[m[1]] = c
		s.pixel(c, map[string]float64{"background": 60, "foreground": 8}[m[1]]+1)
	}
	out, ok := s.looks()
	if fg, has := got["foreground"]; has {
		if bg, has := got["background"]; has {
			out.Contrast = colour.Contrast(fg, bg)
		}
	}
	return round(out), ok
}
