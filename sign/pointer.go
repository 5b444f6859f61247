package sign

import (
	"context"
	"crypto/sha256"
	"fmt"
	"image"
	"io/fs"
	"path"
	"regexp"
	"slices"
	"strings"
	"time"

	"ivelt/core/paint"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/core/xcursor"
)

// pointersAtSize draws the shapes of a pointer set at their usual size, one
// pixel for one, on light and on dark ground.
func pointersAtSize(fsys fs.FS, pc parcel.Piece) []byte {
	const width, height, cell, usual = 720, 48, 30, 24
	var b strings.Builder
	n := 0
	for _, names := range preview.Shapes {
		f := preview.PointerOf(fsys, pc, names)
		if f == nil {
			continue
		}
		im := f.Frames(f.Best(usual))[0]
		w, h := im.Rect.Dx(), im.Rect.Dy()
		uri := paint.PNG(f.Picture(im))
		for half := range 2 {
			fmt.Fprintf(&b, `<image x="%d" y="%d" width="%d" height="%d" href="%s"/>`, half*width/2+n*cell+(cell-w)/2, (height-h)/2, w, h, uri)
		}
		n++
	}
	if n == 0 {
		return nil
	}
	return fmt.Appendf(nil, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d"><rect width="%d" height="%d" fill="#fafaf7"/><rect x="%d" width="%d" height="%d" fill="#23252b"/>%s</svg>`,
		width, height, width, height, width/2, height, width/2, width/2, height, b.String())
}

// What is drawn of a pointer set with every shape, at most.
const (
	maxEvery      = 240
	maxEveryBytes = 64 << 20 // that are read for it
)

// shapeOf is one shape of a set, with the shortest of the names it goes by.
type shapeOf struct {
	name  string
	names int
	file  *xcursor.File
}

// everyShape lists the different shapes of a set, by name. What has the same contents is
// one: most of a set are other names of the same.
func everyShape(ctx context.Context, fsys fs.FS, pc parcel.Piece) (out []shapeOf) {
	entries, err := fs.ReadDir(fsys, path.Join(pc.Root, "cursors"))
	if err != nil {
		return nil
	}
	at, room := map[[sha256.Size]byte]int{}, maxEveryBytes
	for _, e := range entries {
		if ctx.Err() != nil || room <= 0 || len(out) >= maxEvery {
			break
		}
		raw, err := fs.ReadFile(fsys, path.Join(pc.Root, "cursors", e.Name()))
		if err != nil {
			continue
		}
		room -= len(raw)
		sum := sha256.Sum256(raw)
		if i, known := at[sum]; known {
			out[i].names++
			if plain(e.Name()) && (!plain(out[i].name) || len(e.Name()) < len(out[i].name)) {
				out[i].name = e.Name()
			}
			continue
		}
		if f, err := xcursor.Parse(raw); err == nil && len(f.Images) > 0 {
			at[sum] = len(out)
			out = append(out, shapeOf{e.Name(), 1, f})
		}
	}
	slices.SortFunc(out, func(a, b shapeOf) int { return strings.Compare(a.name, b.name) })
	return out
}

// plain tells a name from the sums by which old programs ask for shapes.
func plain(name string) bool { return !sumName.MatchString(name) }

var sumName = regexp.MustCompile(`^[0-9a-f]{24,}$`)

// everyPointer draws every shape of a set with its name.
func everyPointer(ctx context.Context, fsys fs.FS, pc parcel.Piece) []byte {
	const width, across, high, usual = 768, 8, 72, 32
	shapes := everyShape(ctx, fsys, pc)
	if len(shapes) == 0 {
		return nil
	}
	height := (len(shapes)+across-1)/across*high + 8
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d" font-family="Hanken Grotesk, sans-serif" font-size="11"><rect width="%d" height="%d" fill="#e9e9e4"/>`, width, height, width, height, width, height)
	for i, shape := range shapes {
		x, y := i%across*(width/across), i/across*high+6
		im := shape.file.Frames(shape.file.Best(usual))[0]
		w, h := float64(im.Rect.Dx()), float64(im.Rect.Dy())
		k := min(1, 44/max(w, h, 1))
		fmt.Fprintf(&b, `<image x="%.1f" y="%.1f" width="%.1f" height="%.1f" href="%s"/><text x="%d" y="%d" text-anchor="middle" fill="#3a3d44">%s</text>`,
			float64(x)+(float64(width/across)-w*k)/2, float64(y)+(48-h*k)/2, w*k, h*k, paint.PNG(shape.file.Picture(im)), x+width/across/2, y+61, paint.Escape(preview.Shorten(shape.name, 15)))
	}
	b.WriteString("</svg>")
	return []byte(b.String())
}

func pointerTag(b *strings.Builder, fsys fs.FS, pc parcel.Piece) bool {
	n := 0
	for _, names := range preview.Shapes {
		if f := preview.PointerOf(fsys, pc, names); f != nil {
			pointerShape(b, f, n)
			n++
		}
	}
	return n > 0
}

// pointerShape draws one shape in its cell; a moving one moves.
func pointerShape(b *strings.Builder, f *xcursor.File, n int) {
	const cell = 64
	frames := f.Frames(f.Best(32))
	if len(frames) > 60 {
		frames = frames[:60]
	}
	var steps []step
	for _, im := range frames {
		steps = append(steps, step{f.Picture(im), im.Delay})
	}
	play(b, steps, n%6*cell, n/6*cell, cell)
}

// step is one picture of a moving shape, and how long it is shown.
type step struct {
	image.Image
	delay time.Duration
}

// play draws the pictures of a shape in the middle of a square, one after the other. Those larger
// than it are left out.
func play(b *strings.Builder, frames []step, left, top, cell int) {
	total := 0.0
	for _, im := range frames {
		total += max(im.delay.Seconds(), 0.01)
	}
	at := 0.0
	for i, im := range frames {
		w, h := im.Bounds().Dx(), im.Bounds().Dy()
		if w > cell || h > cell {
			continue
		}
		fmt.Fprintf(b, `<image x="%d" y="%d" width="%d" height="%d" href="%s"`, left+(cell-w)/2, top+(cell-h)/2, w, h, paint.PNG(im))
		if len(frames) == 1 {
			b.WriteString("/>")
			continue
		}
		first, last := at/total, (at+max(im.delay.Seconds(), 0.01))/total
		at += max(im.delay.Seconds(), 0.01)
		shown := "hidden"
		if i == 0 {
			shown = "visible"
		}
		fmt.Fprintf(b, ` visibility="%s"><animate attributeName="visibility" calcMode="discrete" dur="%.2fs" repeatCount="indefinite" values="hidden;visible;hidden" keyTimes="0;%.4f;%.4f"/></image>`, shown, total, first, min(last, 1))
	}
}

// Sizes draws a pointer in all its sizes, side by side at their real size on grounds, on a light and a
// dark one if none are given, each with a mark at its hot spot; a moving one moves.
func Sizes(frames []xcursor.Frame, grounds ...string) []byte {
	if len(grounds) == 0 {
		grounds = []string{"#fafaf7", "#23252b"}
	}
	const gap, high, wide = 12, 80, 480
	bySize, order := map[int][]xcursor.Frame{}, []int{}
	for _, f := range frames {
		if b := f.Picture.Bounds(); b.Dx() > 2*high || b.Dy() > 2*high {
			continue // it would not leave room for others
		}
		if bySize[f.Size] == nil {
			order = append(order, f.Size)
		}
		bySize[f.Size] = append(bySize[f.Size], f)
	}
	width, tall := gap, high
	for _, s := range order {
		b := bySize[s][0].Picture.Bounds()
		width, tall = width+b.Dx()+gap, max(tall, b.Dy()+16)
	}
	n := len(grounds)
	right, below := width, 0 // where the next ground is: beside the one before, if there is room
	if n*width > wide {
		right, below = 0, tall
	}
	var b strings.Builder
	for i, ground := range grounds {
		fmt.Fprintf(&b, `<rect x="%d" y="%d" width="%d" height="%d" fill="%s"/>`, i*right, i*below, width, tall, ground)
		x := i*right + gap
		for _, size := range order {
			of := bySize[size]
			side := max(of[0].Picture.Bounds().Dx(), of[0].Picture.Bounds().Dy())
			var steps []step
			for _, f := range of {
				steps = append(steps, step{f.Picture, time.Duration(f.Delay) * time.Millisecond})
			}
			top := i*below + (tall-side)/2
			play(&b, steps, x, top, side)
			hx := float64(x+(side-of[0].Picture.Bounds().Dx())/2+of[0].HotX) + 0.5
			hy := float64(top+(side-of[0].Picture.Bounds().Dy())/2+of[0].HotY) + 0.5
			for _, line := range []struct{ colour, width string }{{ground, "3"}, {"#d0406a", "1"}} {
				fmt.Fprintf(&b, `<path d="M%g %gh8M%g %gv8" stroke="%s" stroke-width="%s" fill="none"/>`, hx-4, hy, hx, hy-4, line.colour, line.width)
			}
			x += of[0].Picture.Bounds().Dx() + gap
		}
	}
	return fmt.Appendf(nil, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d">%s</svg>`, width+(n-1)*right, tall+(n-1)*below, width+(n-1)*right, tall+(n-1)*below, b.String())
}
