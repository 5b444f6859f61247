package judge

import (
	"context"
	"image"
	"io/fs"
	"math"
	"path"
	"slices"
	"time"

	"golang.org/x/image/draw"

	"ivelt/core/backdrop"
	"ivelt/core/cache"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// scenery is one picture that may be behind everything, as it lies on the desk.
type scenery struct {
	path string
	im   image.Image
	w, h float64 // of the picture itself, px
	on   string  // the monitor that it is on, "" for all that have none of their own
}

// drawnAt is how large a picture without a size of its own is drawn, px; triedAt
// if it is only tried.
const (
	drawnAt, triedAt = 640, 320
	tried, heldAt    = 16, 2 // times smaller are screens for what is only tried, and for what is held
)

// scenery are the pictures of the backdrop of a look: one, or all of a folder that
// is shown in turn.
func (j *judging) scenery() []*scenery {
	if j.looked {
		return j.behind
	}
	j.looked = true
	for _, s := range j.d.Surfaces() {
		if s.Kind == "login" {
			continue
		}
		if file := j.look.Of(desk.FacetBackdrop, s.ID); file != "" {
			j.behind = sceneryOf(j.look.Context(), j.d, file, drawnAt)
			for i, m := range j.d.Monitors() {
				if own := j.look.OnMonitor(j.d, s.ID, i); own != file {
					for _, p := range sceneryOf(j.look.Context(), j.d, own, drawnAt) {
						p.on = m.Name
						j.behind = append(j.behind, p)
					}
				}
			}
			break
		}
	}
	return j.behind
}

func sceneryOf(ctx context.Context, d *desk.Desk, file string, size int) []*scenery {
	files := reading.Slides(d.Tree(), desk.Name(file))
	if files == nil {
		files = []string{desk.Name(file)}
	}
	var out []*scenery
	for _, name := range files {
		if p := knownOf(ctx, d, name, size); p.im != nil {
			out = append(out, &scenery{desk.Path(name), p.im, p.w, p.h, ""})
		}
	}
	return out
}

// ofPicture is the key of a picture that was looked at.
type ofPicture struct {
	file string
	size int // it was drawn at, if it has none of its own
}

type knownPicture struct {
	size  int64
	stamp time.Time
	im    image.Image
	w, h  float64        // px, of the picture itself
	made  *backdrop.Made // what it was made of, nil for what was not made here
}

const maxWide = 1600 // px of a picture that is kept: more tells nothing

// pictureOf reads a picture of a desk, anew only if it changed; nil if it is none.
func pictureOf(ctx context.Context, d *desk.Desk, name string, size int) image.Image {
	return knownOf(ctx, d, name, size).im
}

func knownOf(ctx context.Context, d *desk.Desk, name string, size int) knownPicture {
	info, err := fs.Stat(d.Tree(), name)
	if err != nil {
		return knownPicture{}
	}
	holds := func(was knownPicture) bool { return was.size == info.Size() && was.stamp.Equal(info.ModTime()) }
	return cache.Of(d.Cache, ofPicture{d.HostPath(desk.Path(name)), size}, holds, func() cache.Made[knownPicture] {
		known := knownPicture{size: info.Size(), stamp: info.ModTime()}
		known.look(ctx, d, name, size)
		bytes := 0
		if known.im != nil {
			bytes = 4 * known.im.Bounds().Dx() * known.im.Bounds().Dy()
		}
		return cache.Made[knownPicture]{Value: known, Bytes: bytes, Brief: ctx.Err() != nil}
	})
}

// look reads a picture, no larger than there is something to see, and tells its own size.
func (p *knownPicture) look(ctx context.Context, d *desk.Desk, name string, size int) {
	raw, err := fs.ReadFile(d.Tree(), name)
	if err != nil {
		return
	}
	im := imagefile.Scene(ctx, raw, size)
	if p.w, p.h = imagefile.Size(raw); (p.w < 1 || p.h < 1) && im != nil {
		p.w, p.h = float64(im.Bounds().Dx()), float64(im.Bounds().Dy())
	}
	if made, ok := backdrop.MadeOf(imagefile.Note(raw)); ok {
		p.made = &made
	}
	most := 2 * size
	if size == drawnAt {
		most = maxWide
	}
	if im != nil && im.Bounds().Dx() > most {
		less := image.NewRGBA(image.Rect(0, 0, most, max(im.Bounds().Dy()*most/im.Bounds().Dx(), 1)))
		draw.ApproxBiLinear.Scale(less, less.Rect, im, im.Bounds(), draw.Src, nil)
		im = less
	}
	p.im = im
}

// madeOf holds a backdrop that was made of another picture against that one as it is now. One that is
// not there any more, or cannot be read, tells nothing.
func (j *judging) madeOf(s desk.Surface) []Verdict {
	file := j.look.Of(desk.FacetBackdrop, s.ID)
	if file == "" || s.Kind == "login" {
		return nil
	}
	made := knownOf(j.look.Context(), j.d, desk.Name(file), drawnAt).made
	if made == nil || !j.changed(*made) {
		return nil
	}
	return []Verdict{{
		Surface: s.ID, Facet: desk.FacetBackdrop, Code: MadeOfOther,
		Says:     say.Of("judge/made-of-changed-picture", path.Base(file), made.File),
		Remedies: []Fix{{Again: file, Says: say.Of("judge/make-it-again")}},
	}}
}

// changed reports whether the picture that one was made of is another by now.
func (j *judging) changed(made backdrop.Made) bool {
	name := desk.Name(made.File)
	info, err := fs.Stat(j.d.Tree(), name)
	if err != nil || !info.Mode().IsRegular() || info.Size() > preview.MaxBackdrop {
		return false
	}
	type asked struct{ file, sum string }
	type answer struct {
		size    int64
		stamp   time.Time
		changed bool
	}
	holds := func(was answer) bool { return was.size == info.Size() && was.stamp.Equal(info.ModTime()) }
	return cache.Of(j.d.Cache, asked{j.d.HostPath(made.File), made.Sum}, holds, func() cache.Made[answer] {
		raw, err := fs.ReadFile(j.d.Tree(), name)
		return cache.Made[answer]{Value: answer{info.Size(), info.ModTime(), err == nil && made.Changed(raw)}, Bytes: 200, Brief: err != nil}
	}).changed
}

// screen is a part of a monitor with a picture on it as it is told to lie there, k times smaller; crop
// is the part of the picture that stands for it, empty for all.
func (j *judging) screen(p *scenery, m desk.Monitor, crop image.Rectangle, k float64, at image.Rectangle, blur, saturation float64) *image.RGBA {
	w, h := max(int(float64(m.Width)/k), 1), max(int(float64(m.Height)/k), 1)
	mode, cut, ground := preview.Lies(j.d, j.look)
	if mode == backdrop.Fill && cut == backdrop.Middle || !crop.Empty() {
		part := p.im.Bounds()
		if !crop.Empty() {
			part = crop
		}
		return Strip(p.im, filling(part, m.Width, m.Height), w, h, at, blur, saturation)
	}
	laid := backdrop.Across(mode, p.w, p.h, desk.Places(j.monitors()), cut)[slices.Index(j.monitors(), m)]
	sharp := image.NewRGBA(reachOf(at, w, h, blur))
	backdrop.Paint(sharp, p.im, laid.Smaller(1/k), ground)
	return through(sharp, at, blur, saturation)
}

// monitors are those of the desk, or one as it is pictured if none is known.
func (j *judging) monitors() []desk.Monitor {
	if all := j.d.Monitors(); len(all) > 0 {
		return all
	}
	return []desk.Monitor{{Name: "the screen", Width: preview.Scenes[0].Width, Height: preview.Scenes[0].Height}}
}

// filling is the part of a picture that fills a screen: as much of it as has the
// screen's shape, its middle.
func filling(of image.Rectangle, w, h int) image.Rectangle {
	k := min(float64(of.Dx())/float64(w), float64(of.Dy())/float64(h))
	cw, ch := float64(w)*k, float64(h)*k
	x, y := float64(of.Min.X)+(float64(of.Dx())-cw)/2, float64(of.Min.Y)+(float64(of.Dy())-ch)/2
	return image.Rect(int(math.Round(x)), int(math.Round(y)), int(math.Round(x+cw)), int(math.Round(y+ch)))
}

// sampled are colours of a strip, evenly spread, maxSampled of them at most.
func sampled(im *image.RGBA) []colour.Colour {
	step := max(int(math.Sqrt(float64(im.Rect.Dx()*im.Rect.Dy())/maxSampled)), 1)
	var out []colour.Colour
	for y := im.Rect.Min.Y + step/2; y < im.Rect.Max.Y; y += step {
		for x := im.Rect.Min.X + step/2; x < im.Rect.Max.X; x += step {
			o := im.PixOffset(x, y)
			out = append(out, colour.Of8(im.Pix[o], im.Pix[o+1], im.Pix[o+2]))
		}
	}
	return out
}

const maxSampled = 1000

// middle is the mean colour of a picture.
func middle(im image.Image) colour.Colour {
	one := image.NewRGBA(image.Rect(0, 0, 1, 1))
	draw.ApproxBiLinear.Scale(one, one.Rect, small(im), image.Rect(0, 0, 16, 16), draw.Src, nil)
	return colour.Of8(one.Pix[0], one.Pix[1], one.Pix[2])
}

func small(im image.Image) *image.RGBA {
	out := image.NewRGBA(image.Rect(0, 0, 16, 16))
	draw.ApproxBiLinear.Scale(out, out.Rect, im, im.Bounds(), draw.Src, nil)
	return out
}
