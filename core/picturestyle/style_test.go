package picturestyle_test

import (
	"bytes"
	"fmt"
	"image/color"
	"math/rand/v2"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/picturestyle"
	"ivelt/core/svgraster"
)

var asked = []string{"button", "button-over", "field", "tick-on"}

func drawing(body string) []byte {
	return []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 100" width="200" height="100">` + body + `</svg>`)
}

// TestElementsAreStretched: colours at places of a painted control, worked out by hand: edges
// keep their width however large the control is, and strokes are stretched with the middle.
func TestElementsAreStretched(t *testing.T) {
	red, blue, green := color.RGBA{255, 0, 0, 255}, color.RGBA{0, 0, 255, 255}, color.RGBA{0, 128, 0, 255}
	s, err := picturestyle.Read(t.Context(), drawing(`<g transform="translate(50 10)" fill="red">
		<g id="button" data-edges="4 6"><rect width="40" height="20"/><rect x="6" y="4" width="28" height="12" fill="blue"/><path d="M20 4v12" stroke="green" stroke-width="2"/></g></g>
		<rect id="field" x="100" width="10" height="10" fill="blue"/>`), asked)
	require.NoError(t, err)
	e, ok := s.Element("button")
	require.True(t, ok)
	require.Equal(t, svgraster.Box{X: 50, Y: 10, W: 40, H: 20}, e.Box)
	for _, size := range [][2]int{{40, 20}, {120, 30}, {300, 9}, {20, 200}} {
		for _, k := range []int{1, 2} {
			w, h := size[0], size[1]
			im, err := s.Paint(t.Context(), "button", w, h, k)
			require.NoError(t, err)
			require.Equal(t, [2]int{w * k, h * k}, [2]int{im.Rect.Dx(), im.Rect.Dy()})
			at := func(x, y int) color.RGBA { return im.RGBAAt(x*k, y*k) }
			for _, c := range []struct {
				x, y int
				want color.RGBA
			}{{0, 0, red}, {5, 4, red}, {6, 3, red}, {6, 4, blue}, {w - 7, h - 5, blue}, {w - 6, h - 5, red}, {w - 1, h - 1, red}, {w / 2, h / 2, green}} {
				if w < 40 && c.want == green { // as wide as the stroke has room for
					continue
				}
				got := at(c.x, c.y)
				require.InDeltaSlice(t, []uint8{c.want.R, c.want.G, c.want.B, c.want.A}, []uint8{got.R, got.G, got.B, got.A}, 2, "%d, %d of %d × %d at %d", c.x, c.y, w, h, k)
			}
			if w == 300 { // 28 become 288, and the stroke's 2 with them
				require.Equal(t, green, at(w/2-9, 4))
				require.Equal(t, blue, at(w/2-12, 4))
			}
		}
	}
	im, err := s.Paint(t.Context(), "tick-on", 5, 5, 1)
	require.NoError(t, err)
	require.Equal(t, color.RGBA{}, im.RGBAAt(2, 2), "nothing is drawn of what is not there")
	_, err = s.Paint(t.Context(), "field", 5000, 5, 1)
	require.Error(t, err)
	im, err = s.Paint(t.Context(), "field", 30, 3, 1)
	require.NoError(t, err)
	require.Equal(t, blue, im.RGBAAt(29, 2))
}

// TestWhatAStyleLacks: what the engine finds nothing under, and what it does not ask for.
func TestWhatAStyleLacks(t *testing.T) {
	raw := drawing(`<defs><rect id="tick-on" width="4" height="4"/></defs><linearGradient id="shade"/>
		<g id="button"/><g id="buton-over"><rect width="9" height="9"/></g><rect id="field" width="9" height="9" data-edges="5"/>`)
	tree := fstest.MapFS{"s/A.svg": {Data: raw}, "s/A.conf": {Data: []byte("[Style]\nInk=#102030\nGround=red\n")}, "s/B.svg": {Data: []byte("<svg")}}
	s, err := picturestyle.Load(t.Context(), tree, "s/A.svg", asked, bytes.Clone)
	require.NoError(t, err)
	require.Equal(t, []string{"button", "button-over", "tick-on"}, s.Lacks(), "one is empty, one misnamed, one only referred to")
	require.Equal(t, []string{"buton-over"}, s.Others())
	require.Equal(t, []string{"", "buton-over", ""}, []string{s.Meant("button"), s.Meant("button-over"), s.Meant("tick-on")})
	require.Equal(t, []string{"#102030", ""}, []string{s.Ink, s.Ground})
	e, ok := s.Element("field")
	require.True(t, ok)
	require.Equal(t, "data-edges: 5 leaves nothing of 9 × 9", e.Wrong)
	_, err = picturestyle.Load(t.Context(), tree, "s/B.svg", asked, bytes.Clone)
	require.ErrorIs(t, err, svgraster.ErrDrawing)
}

// TestElementsAreEdited: each change is in the drawing, and all else is as it was.
func TestElementsAreEdited(t *testing.T) {
	body := `<g id="button"><path d="M0 0h9v9z" fill='#aaa'/><rect width="9" height="9" style="fill:#bbb; stroke:#111" id="inner"/></g><rect id="tickon" width="4" height="4" fill="#d08a4e"/>`
	for _, c := range []struct {
		change picturestyle.Change
		want   string // "" for an error
	}{
		{picturestyle.Change{Name: "tick-on", From: "tickon"}, strings.Replace(body, `"tickon"`, `"tick-on"`, 1)},
		{picturestyle.Change{Name: "tick-on", From: "tick"}, ""},
		{picturestyle.Change{Name: "button", From: "tickon"}, body}, // it is there by now
		{picturestyle.Change{Name: "field", Like: "button"}, strings.Replace(body, `</g>`, `</g><g id="field"><path d="M0 0h9v9z" fill='#aaa'/><rect width="9" height="9" style="fill:#bbb; stroke:#111"/></g>`, 1)},
		{picturestyle.Change{Name: "tick-on", Like: "tickon", Set: map[string]string{"fill": "#fff"}, Edges: "1 2"}, body + `<rect id="tick-on" width="4" height="4" fill="#fff" data-edges="1 2"/>`},
		{picturestyle.Change{Name: "button", Shape: 2, Set: map[string]string{"fill": "#c0c0c0", "rx": "3"}}, strings.Replace(body, `style="fill:#bbb; stroke:#111" id="inner"`, `style="stroke:#111;fill:#c0c0c0" id="inner" rx="3"`, 1)},
		{picturestyle.Change{Name: "button", Set: map[string]string{"stroke-width": "2"}}, strings.Replace(strings.Replace(body, `'#aaa'/>`, `'#aaa' stroke-width="2"/>`, 1), `; stroke:#111"`, `;stroke:#111;stroke-width:2"`, 1)},
		{picturestyle.Change{Name: "button", Edges: "3 4 5 6"}, strings.Replace(body, `<g id="button">`, `<g id="button" data-edges="3 4 5 6">`, 1)},
		{picturestyle.Change{Name: "button", Shape: 3, Set: map[string]string{"fill": "#fff"}}, ""},
		{picturestyle.Change{Name: "knob", Set: map[string]string{"fill": "#fff"}}, ""},
		{picturestyle.Change{Name: "button", Set: map[string]string{"fill": `#fff"/><script>`}}, ""},
		{picturestyle.Change{Name: "button", Set: map[string]string{"fill": `url(http://x)`}}, ""},
		{picturestyle.Change{Name: "button", Set: map[string]string{"onclick": "x"}}, ""},
		{picturestyle.Change{Name: "button", Edges: "1 2 3"}, ""},
		{picturestyle.Change{Name: "button"}, ""},
	} {
		got, err := picturestyle.Edit(drawing(body), []picturestyle.Change{c.change})
		if c.want == "" {
			require.ErrorIs(t, err, picturestyle.ErrChange, "%+v", c.change)
			continue
		}
		require.NoError(t, err, "%+v", c.change)
		require.Equal(t, string(drawing(c.want)), string(got), "%+v", c.change)
	}
	styled := `<style>rect{fill:red}</style><rect id="tickon" width="4" height="4" fill="#d08a4e"/>`
	got, err := picturestyle.Edit(drawing(styled), []picturestyle.Change{{Name: "tickon", Set: map[string]string{"fill": "blue"}}})
	require.NoError(t, err)
	require.Contains(t, string(got), `style="fill:blue"`, "a sheet counts before an attribute")
	of, err := picturestyle.Shapes(got, "tickon")
	require.NoError(t, err)
	require.Equal(t, []picturestyle.Shape{{Kind: "rect", Says: map[string]string{"fill": "blue", "width": "4", "height": "4"}}}, of)
	for _, bad := range []string{`<!DOCTYPE svg [<!ENTITY st "fill:red">]>` + string(drawing(`<rect id="button" style="&st;"/>`)), string(drawing(`<rect id=button fill="red"/>`)), "<svg>"} {
		_, err := picturestyle.Edit([]byte(bad), []picturestyle.Change{{Name: "button", Set: map[string]string{"fill": "blue"}}})
		require.Error(t, err, bad)
	}
}

// TestDrawingsAreEditedWhole: in made-up drawings an edit leaves a drawing that is read, that
// lacks what it lacked before but what it was given, and that a second edit leaves alone.
func TestDrawingsAreEditedWhole(t *testing.T) {
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 1))
		var b strings.Builder
		for i := range 1 + r.IntN(5) {
			quote := []string{`"`, `'`}[r.IntN(2)]
			fmt.Fprintf(&b, "<g%s id=%s%s%s\n>", strings.Repeat(" ", r.IntN(3)), quote, append(asked, "other", "tickon")[r.IntN(6)], quote)
			for range r.IntN(3) {
				fmt.Fprintf(&b, `<rect x="%d" width="%d" height="8" %s />`, 20*i, 1+r.IntN(15), []string{`fill="#aaa"`, `style='fill:#bbb;'`, `id="n` + fmt.Sprint(r.IntN(3)) + `"`, ``}[r.IntN(4)])
			}
			b.WriteString("</g><!-- <g id=\"field\"> -->")
		}
		raw := drawing(b.String())
		s, err := picturestyle.Read(t.Context(), raw, asked)
		require.NoError(t, err)
		for _, name := range s.Names() {
			to := asked[r.IntN(len(asked))]
			c := picturestyle.Change{Name: to, Like: name, Set: map[string]string{"stroke": "#123456"}}
			if name == to {
				c.Like = ""
			}
			once, err := picturestyle.Edit(raw, []picturestyle.Change{c})
			if err != nil {
				require.ErrorContains(t, err, "has 0 shapes", "%s\n%+v", raw, c)
				continue
			}
			after, err := picturestyle.Read(t.Context(), once, asked)
			require.NoError(t, err)
			require.NotContains(t, after.Lacks(), to)
			for _, lacks := range after.Lacks() {
				require.Contains(t, s.Lacks(), lacks)
			}
			again, err := picturestyle.Edit(once, []picturestyle.Change{c})
			require.NoError(t, err)
			require.Equal(t, string(once), string(again))
		}
	}
}

// FuzzParseStyles: no drawing and no change does more than fail.
func FuzzParseStyles(f *testing.F) {
	f.Add(drawing(`<g id="button" data-edges="2"><rect width="9" height="9" style="fill:red"/></g>`), "button", "fill", "blue")
	f.Add([]byte(`<svg><rect id='a'`), "a", "rx", "3")
	f.Fuzz(func(t *testing.T, raw []byte, name, key, value string) {
		s, err := picturestyle.Read(t.Context(), raw, []string{name})
		if err == nil {
			_, _ = s.Paint(t.Context(), name, 20, 10, 1)
		}
		out, err := picturestyle.Edit(raw, []picturestyle.Change{{Name: name, Set: map[string]string{key: value}}})
		if err == nil {
			of, err := picturestyle.Shapes(out, name)
			require.NoError(t, err)
			require.NotEmpty(t, of)
		}
	})
}
