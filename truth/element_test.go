package truth

import (
	"bytes"
	"crypto/sha256"
	"encoding/xml"
	"fmt"
	"image"
	"image/png"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ivelt/core/imagefile"
	"ivelt/core/svgraster"
)

// TestElementsAreThoseOfLibrsvg: elements of real packs' drawings, told by their names, alone: the
// box of what each fills and strokes against what rsvg-convert leaves ink on at eight times the
// size, and the pixels of each stretched over a control of other proportions (Debian:
// librsvg2-bin). It draws them as the only thing that a drawing uses. Elements that have text, which
// Ivelt does not draw, that lie in groups which say something of them, and all of drawings with
// clips, masks, filters or a style sheet are left out and counted; where something is wholly
// see-through, the box has only to hold the ink.
func TestElementsAreThoseOfLibrsvg(t *testing.T) {
	t.Parallel()
	type part struct{ all, boxes, pixels, hard int }
	parts := map[string]*part{"worked": {}, "held out": {}}
	for _, pack := range realPacks(t) {
		if !strings.Contains(pack.name, "icon") {
			continue
		}
		var files []string
		require.NoError(t, filepath.WalkDir(pack.root, func(file string, e fs.DirEntry, err error) error {
			if err == nil && e.Type().IsRegular() && strings.HasSuffix(file, ".svg") {
				files = append(files, file)
			}
			return err
		}))
		rank := func(file string) string {
			sum := sha256.Sum256([]byte("elements " + strings.TrimPrefix(file, pack.root)))
			return string(sum[:])
		}
		slices.SortFunc(files, func(a, b string) int { return strings.Compare(rank(a), rank(b)) })
		most := 2
		if *all {
			most = 60
		}
		n := parts[pack.part()]
		for _, file := range files[:min(len(files), most)] {
			raw, err := os.ReadFile(file)
			require.NoError(t, err)
			g, err := imagefile.Elements(t.Context(), raw)
			if err != nil {
				continue // none that is drawn
			}
			for _, name := range g.Names()[:min(len(g.Names()), 4)] {
				if hard(raw, name) {
					n.hard++
					continue
				}
				box, paints, err := g.Box(t.Context(), name)
				require.NoError(t, err)
				if !paints || box.W > 300 || box.H > 300 {
					continue
				}
				n.all++
				room := svgraster.Box{X: box.X - 2, Y: box.Y - 2, W: box.W + 4, H: box.H + 4}
				ink := inked(asDrawn(t, raw, name, room, int(8*room.W+0.5), int(8*room.H+0.5)))
				far := 0.0
				for i, have := range []float64{16, 16, 8*box.W + 16, 8*box.H + 16} {
					there := float64([]int{ink.Min.X, ink.Min.Y, ink.Max.X, ink.Max.Y}[i])
					beyond := []float64{have - there, there - have}[i/2]
					if far = max(far, beyond); !clear0.Match(raw) { // else what is clear leaves no ink
						far = max(far, -beyond)
					}
				}
				if far > 2 {
					if !pack.held {
						t.Logf("%s#%s: %.1f px of %v", strings.TrimPrefix(file, pack.root), name, far, box)
					}
					continue
				}
				n.boxes++
				want := asDrawn(t, raw, name, box, 120, 40)
				ours := image.NewRGBA(image.Rect(0, 0, 120, 40))
				require.NoError(t, g.Paint(t.Context(), ours, name, svgraster.Cell{From: box, Into: ours.Rect}))
				if far := apart(want, ours); far <= 2 {
					n.pixels++
				} else if !pack.held {
					t.Logf("%s#%s: %.1f/255 in the mean", strings.TrimPrefix(file, pack.root), name, far)
				}
			}
		}
	}
	for part, n := range parts {
		t.Logf("%s: of %d elements %d have their box within a quarter of a unit, and %d of those their pixels within 2/255; %d more were left out", part, n.all, n.boxes, n.pixels, n.hard)
		assert.GreaterOrEqual(t, 100*n.boxes, 95*n.all)
		assert.GreaterOrEqual(t, 100*n.pixels, 95*n.boxes)
	}
}

var view = regexp.MustCompile(`\s(viewBox|width|height|preserveAspectRatio)\s*=\s*("[^"]*"|'[^']*')`)

// asDrawn is what librsvg draws of an element alone, of what is in a box of it.
func asDrawn(t *testing.T, raw []byte, name string, box svgraster.Box, w, h int) image.Image {
	t.Helper()
	d := xml.NewDecoder(bytes.NewReader(raw))
	d.Strict = false
	from, to := 0, 0
	for {
		at := int(d.InputOffset())
		token, err := d.RawToken()
		require.NoError(t, err)
		if _, ok := token.(xml.StartElement); ok {
			from, to = at, int(d.InputOffset())
			break
		}
	}
	root := strings.TrimSuffix(string(view.ReplaceAll(raw[from:to], nil)), ">")
	end := bytes.LastIndex(raw, []byte("</"))
	text := fmt.Sprintf(`%s%s viewBox="%g %g %g %g" width="%d" height="%d" preserveAspectRatio="none"><defs>%s</defs><use xmlns:ref="http://www.w3.org/1999/xlink" ref:href="#%s"/>%s`,
		raw[:from], root, box.X, box.Y, box.W, box.H, w, h, raw[to:end], name, raw[end:])
	file := filepath.Join(t.TempDir(), "alone.svg")
	write(t, file, text)
	im, err := png.Decode(strings.NewReader(output(t, tool(t, "rsvg-convert", "librsvg2-bin", file))))
	require.NoError(t, err)
	return im
}

// inked is the box of what is not clear.
func inked(im image.Image) (box image.Rectangle) {
	for y := im.Bounds().Min.Y; y < im.Bounds().Max.Y; y++ {
		for x := im.Bounds().Min.X; x < im.Bounds().Max.X; x++ {
			if _, _, _, a := im.At(x, y).RGBA(); a>>8 > 2 {
				box = box.Union(image.Rect(x, y, x+1, y+1))
			}
		}
	}
	return box
}

var clear0 = regexp.MustCompile(`opacity\s*[:=]\s*["']?(0(\.0*)?|\.0+)\s*[;"']`)

// hard reports whether a drawing cuts anything off or filters it, or
// an element of it has text in it, or lies in a group that says something of it.
func hard(raw []byte, name string) bool {
	if bytes.Contains(raw, []byte("<style")) || bytes.Contains(raw, []byte("<switch")) {
		return true
	}
	d := xml.NewDecoder(bytes.NewReader(raw))
	d.Strict = false
	var told []bool // of what is open
	inside := 0
	for {
		token, err := d.RawToken()
		if err != nil {
			return false
		}
		switch e := token.(type) {
		case xml.StartElement:
			above := len(told) > 0 && told[len(told)-1]
			says := above
			for _, a := range e.Attr {
				for _, cut := range []string{"clip-path", "mask", "filter"} {
					if a.Name.Local == cut || a.Name.Local == "style" && strings.Contains(a.Value, cut+":") {
						return true
					}
				}
				says = says || len(told) > 0 && a.Name.Space == "" && a.Name.Local != "id" && a.Value != "display:inline"
				if a.Name.Local == "id" && a.Value == name {
					if above {
						return true
					}
					inside = len(told) + 1
				}
			}
			told = append(told, says)
			if inside > 0 && (e.Name.Local == "text" || e.Name.Local == "image") {
				return true
			}
		case xml.EndElement:
			if told = told[:max(len(told)-1, 0)]; len(told) < inside {
				inside = 0
			}
		}
	}
}
