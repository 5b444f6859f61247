package truth

import (
	"bytes"
	"flag"
	"fmt"
	"image"
	"image/draw"
	"image/png"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/judge"
	"ivelt/core/preview"
	"ivelt/demo"
)

// painting draws controls where both toolkits place them (Debian: libgtk-3-dev,
// libgtk-4-dev, xvfb, chromium).
type painting struct {
	programs map[string]string // by toolkit
	screen   string
}

func newPainting(t *testing.T) painting {
	return painting{map[string]string{"gtk3": build(t, "paint3", "gtk+-3.0", "libgtk-3-dev"), "gtk4": build(t, "paint4", "gtk4", "libgtk-4-dev")}, displayOf(t, "1280x1400")}
}

// under draws a theme that is in a home, and returns by control at how many points
// of a grid both have the same colour, and the two pictures.
func (p painting) under(t *testing.T, home, theme, icons string, kit int) (map[string]score, [2]image.Image) {
	surface := toolkits[kit].surface
	write(t, filepath.Join(home, ".config", toolkits[kit].folder, "settings.ini"), fmt.Sprintf("[Settings]\ngtk-theme-name=%s\ngtk-icon-theme-name=%s\ngtk-font-name=DejaVu Sans 10\ngtk-enable-animations=0\n", theme, icons))
	file := filepath.Join(t.TempDir(), "theirs.png")
	c := exec.CommandContext(t.Context(), p.programs[surface], file)
	c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "DISPLAY=" + p.screen, "GDK_BACKEND=x11", "GDK_DEBUG=gl-disable", "GSK_RENDERER=cairo", "LANG=C.UTF-8", "NO_AT_BRIDGE=1", "GTK_A11Y=none", "GSETTINGS_BACKEND=memory"}
	var controls []preview.Placed
	for _, line := range lines(output(t, c)) {
		var p preview.Placed
		_, err := fmt.Sscan(line, &p.Name, &p.X, &p.Y, &p.W, &p.H)
		require.NoError(t, err)
		controls = append(controls, p)
	}
	theirs := picture(t, file)
	d, err := desk.Open("paint-"+theme+surface, home, "/", "")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	ours := raster(t, preview.Sheet(d, preview.Worn(t.Context(), d), surface, theirs.Bounds().Dx(), theirs.Bounds().Dy(), controls))
	out := map[string]score{}
	for _, p := range controls {
		n := out[p.Name]
		for i := range 9 {
			for j := range 9 {
				x, y := int(p.X+(p.W-1)*float64(i)/8), int(p.Y+(p.H-1)*float64(j)/8)
				if side := i == 4 && j%8 == 0 || j == 4 && i%8 == 0; !side && !even(theirs, x, y) {
					continue // where two colours meet, each mixes them its own way
				}
				n.all++
				if near(theirs.At(x, y), ours.At(x, y), 4) {
					n.same++
				}
			}
		}
		out[p.Name] = n
	}
	p.focus(t, d, surface, theme, theirs, controls)
	p.states(t, d, surface, theme, theirs, controls)
	if *pictures != "" {
		keepPicture(t, filepath.Join(*pictures, surface+"-"+theme+"-theirs.png"), theirs)
		keepPicture(t, filepath.Join(*pictures, surface+"-"+theme+"-ours.png"), ours)
	}
	return out, [2]image.Image{theirs, ours}
}

// focus holds what the judge says of an entry that gets the keyboard against what changes in
// the toolkit's own pixels: nothing, too little to be seen well, or enough.
func (p painting) focus(t *testing.T, d *desk.Desk, surface, theme string, theirs image.Image, controls []preview.Placed) {
	cut := func(name string) *image.RGBA {
		i := slices.IndexFunc(controls, func(c preview.Placed) bool { return c.Name == name })
		im := image.NewRGBA(image.Rect(0, 0, int(controls[i].W)+20, int(controls[i].H)+20))
		draw.Draw(im, im.Bounds(), theirs, image.Pt(int(controls[i].X)-10, int(controls[i].Y)-10), draw.Src)
		return im
	}
	seen, _, _ := judge.Changed(cut("entry"), cut("entry:focus"))
	said := judge.Focus(d, preview.Worn(t.Context(), d), surface)
	assert.InEpsilon(t, seen, said, 0.1, "%s, %s: what shows where the keyboard is", surface, theme)
}

// grounds are controls by what the judge calls the text on them, with the part of the control
// in whose middle that would stand.
var grounds = []struct {
	what, control string
	from, to      float64 // of its height
}{
	{"buttons", "button", 0, 1}, {"a pressed button", "button:active", 0, 1}, {"disabled buttons", "button:disabled", 0, 1},
	{"the default button", "button.suggested-action", 0, 1}, {"delete buttons", "button.destructive-action", 0, 1},
	{"typed text", "entry", 0, 1}, {"text in lists", "list", 0, 0.5}, {"the selected row", "list", 0.5, 1},
}

// states holds what the judge says that text stands on, as it is, pressed, chosen and off,
// against the toolkit's own pixels: by how well the ink of that text stands out from either.
func (p painting) states(t *testing.T, d *desk.Desk, surface, theme string, theirs image.Image, controls []preview.Placed) {
	texts := judge.Texts(d, preview.Worn(t.Context(), d), surface)
	for _, g := range grounds {
		i := slices.IndexFunc(controls, func(c preview.Placed) bool { return c.Name == g.control })
		c := controls[i]
		seen := judge.Middle(theirs, image.Rect(int(c.X), int(c.Y+g.from*c.H), int(c.X+c.W), int(c.Y+g.to*c.H)))
		on := texts[g.what]
		said, is := colour.Contrast(on.Ink, on.Ground), colour.Contrast(on.Ink, seen)
		assert.InEpsilon(t, is, said, 0.1, "%s, %s: %s in %s on %s, which is %s", surface, theme, g.what, on.Ink.Hex(), on.Ground.Hex(), seen.Hex())
	}
}

var pictures = flag.String("pictures", "", "folder that the pictures of controls are kept in")

func keepPicture(t *testing.T, file string, im image.Image) {
	f, err := os.Create(file)
	require.NoError(t, err)
	require.NoError(t, png.Encode(f, im))
	require.NoError(t, f.Close())
}

// together is the sum of scores.
func together(all map[string]score) (sum score) {
	for _, n := range all {
		sum = score{sum.same + n.same, sum.all + n.all}
	}
	return sum
}

// weak lists the controls that agree in less than 95 of a hundred points.
func weak(all map[string]score) string {
	var out []string
	for _, name := range slices.Sorted(maps.Keys(all)) {
		if n := all[name]; n.same*100 < n.all*95 {
			out = append(out, fmt.Sprintf("%s %d/%d", name, n.same, n.all))
		}
	}
	return strings.Join(out, ", ")
}

// TestControlsLookAsGTKPaintsThem draws controls under the demo's themes, and
// compares colours at points of a grid in each.
func TestControlsLookAsGTKPaintsThem(t *testing.T) {
	t.Parallel()
	p := newPainting(t)
	for i, kit := range toolkits {
		for _, theme := range []string{"Reedbed", "Saltpan", "Groyne", "Reedbed-Dark-Compact"} {
			home := t.TempDir()
			require.NoError(t, demo.WriteThemes(filepath.Join(home, ".themes")))
			controls, _ := p.under(t, home, theme, "hicolor", i)
			sum := together(controls)
			t.Logf("%s, %s: %s points within 4/255 of the toolkit's colour; less in %s", kit.surface, theme, sum, weak(controls))
			// GTK 4's cairo renderer, the one that needs no graphics card, leaves
			// blurs of 3 px and less out.
			least := map[string]int{"gtk3": 99, "gtk4": 97}[kit.surface]
			assert.GreaterOrEqual(t, 100*sum.same, least*sum.all, "%s, %s", kit.surface, theme)
		}
	}
}

// TestRealControlsLookAsGTKPaintsThem does so under real makers' themes.
func TestRealControlsLookAsGTKPaintsThem(t *testing.T) {
	t.Parallel()
	p := newPainting(t)
	parts := map[string]*score{"worked": {}, "held out": {}}
	themes := realThemes(t, "index.theme")
	icons := ""
	for _, of := range realPacks(t) {
		if of.name == "adwaita-icon-theme" {
			icons = filepath.Join(of.root, "usr/share/icons")
		}
	}
	for i, kit := range toolkits {
		n := map[string]int{}
		for _, theme := range themes {
			if theme.sheetOf(i+3) == "" {
				continue
			}
			if n[theme.part()]++; n[theme.part()]%2 == 0 && !*all {
				continue
			}
			home := wear(t, theme)
			require.NoError(t, os.Symlink(icons, filepath.Join(home, ".icons")))
			controls, _ := p.under(t, home, theme.name, "Adwaita", i)
			sum := together(controls)
			scored(kit.surface, theme, "painted", sum.same, sum.all)
			part := parts[theme.part()]
			part.same, part.all = part.same+sum.same, part.all+sum.all
			if !theme.held {
				t.Logf("%s, %s: %s; less in %s", kit.surface, theme.name, sum, weak(controls))
				assert.GreaterOrEqual(t, 100*sum.same, 98*sum.all, "%s, %s", kit.surface, theme.name)
			}
		}
	}
	assert.GreaterOrEqual(t, 100*parts["held out"].same, 95*parts["held out"].all, "held out: %s", *parts["held out"])
}

// even reports whether a point lies in a place of one colour, or of a slow
// change from one to another.
func even(im image.Image, x, y int) bool {
	for dx := -1; dx <= 1; dx++ {
		for dy := -1; dy <= 1; dy++ {
			if !near(im.At(x, y), im.At(x+dx, y+dy), 24) {
				return false
			}
		}
	}
	return true
}

func near(a, b interface {
	RGBA() (r, g, b, a uint32)
}, by int) bool {
	r1, g1, b1, _ := a.RGBA()
	r2, g2, b2, _ := b.RGBA()
	for _, d := range []int{int(r1>>8) - int(r2>>8), int(g1>>8) - int(g2>>8), int(b1>>8) - int(b2>>8)} {
		if max(d, -d) > by {
			return false
		}
	}
	return true
}

func picture(t *testing.T, file string) image.Image {
	t.Helper()
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	im, err := png.Decode(bytes.NewReader(b))
	require.NoError(t, err)
	return im
}

// raster turns a picture into pixels with Debian's Chromium.
func raster(t *testing.T, svg []byte) image.Image {
	t.Helper()
	w, h, ok := preview.Size(svg)
	require.True(t, ok)
	dir := t.TempDir()
	write(t, filepath.Join(dir, "a.svg"), string(svg))
	c := tool(t, "chromium-headless-shell", "chromium-headless-shell", "--no-sandbox", "--disable-gpu", "--hide-scrollbars", fmt.Sprintf("--window-size=%d,%d", w, h),
		"--user-data-dir="+filepath.Join(dir, "profile"), "--screenshot="+filepath.Join(dir, "a.png"), "file://"+filepath.Join(dir, "a.svg"))
	require.NoError(t, c.Run())
	return picture(t, filepath.Join(dir, "a.png"))
}
