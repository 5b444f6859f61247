package judge_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/judge"
	"ivelt/core/outfit"
	"ivelt/core/preview"
)

const shellSurface = `id = "awning"
title = "Awning"
kind = "shell"
[[facet]]
name = "bar"
default = "Reef"
[facet.lookup]
kind = "theme"
folders = ["~/.themes"]
parts = ["awning"]
file = "bar.css"
[[facet]]
name = "opacity"
default = "100"
[[facet]]
name = "blur"
default = "0"
[[facet]]
name = "effects"
default = "few"
[[facet]]
name = "backdrop"
default = ""
lookup = { kind = "picture", built-in = [""] }
`

const termSurface = `id = "creek"
title = "Creek"
kind = "terminal"
[[facet]]
name = "palette"
default = "mud"
lookup = { kind = "palette", folders = ["~/p"], file = "*.Xresources" }
[[facet]]
name = "ground"
default = "100"
`

func deskWith(t *testing.T, files map[string]string) *desk.Desk {
	home := t.TempDir()
	for name, text := range files {
		file := filepath.Join(home, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	}
	d, err := desk.Open("d", home, t.TempDir(), "/home/me")
	require.NoError(t, err)
	for _, s := range desk.Builtin() {
		if s.ID == "gtk3" {
			d.Surfaces = append(d.Surfaces, s)
		}
	}
	for _, text := range []string{shellSurface, termSurface} {
		s, err := desk.ParseSurface([]byte(text))
		require.NoError(t, err)
		d.Surfaces = append(d.Surfaces, s)
	}
	return d
}

// theme is a style sheet in which everything can be read.
const theme = `window { background-color: #ffffff; color: #101010; } headerbar { background-color: #e0e0e0; } entry { background-color: #ffffff; color: #101010; border: 1px solid #606060; }
entry:focus { border-color: #003366; } row:selected { background-color: #204060; color: #ffffff; } button { background-color: #f0f0f0; color: #101010; } button:active, button.suggested-action { background-color: #204060; color: #ffffff; }
tooltip { background-color: #202020; color: #f0f0f0; } `

const bar = `panel { background-color: #303030; color: #f0f0f0; } notice { background-color: #202020; color: #f0f0f0; } notice button.default { background-color: #e0e0e0; color: #101010; }`

func paint(hex string) string {
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="64" height="64" viewBox="0 0 64 64"><rect width="64" height="64" fill="%s"/></svg>`, hex)
}

func palette(red string) string {
	var b strings.Builder
	b.WriteString("*.background: #101418\n*.foreground: #e8e8e8\n*.color0: #101418\n")
	for i := 1; i < 16; i++ {
		c := "#c0c8d0"
		if i == 1 {
			c = red
		}
		fmt.Fprintf(&b, "*.color%d: %s\n", i, c)
	}
	return b.String()
}

// TestJudgements makes each thing that is not well, sees that it is said where,
// with the contrast that WCAG's formula gives, and that the remedy clears it; and
// that a look with nothing wrong is left in peace.
func TestJudgements(t *testing.T) {
	good := map[string]string{
		".config/gtk-3.0/settings.ini": "[Settings]\ngtk-theme-name=Reef\n", ".themes/Reef/gtk-3.0/gtk.css": theme, ".themes/Reef/gtk-3.0/gtk-dark.css": theme,
		".themes/Reef/awning/bar.css": bar, "p/mud.Xresources": palette("#e0a0a0"), "bright.svg": paint("#f8f8f0"),
	}
	none := outfit.Outfit{}
	d := deskWith(t, good)
	require.Empty(t, judge.Of(d, preview.Draft(d, none)), "nothing is wrong")

	for _, c := range []struct {
		what           string
		files          map[string]string
		wears          outfit.Outfit
		code           judge.Code
		surface, facet string
		says           []string
		ratio          float64 // by the published formula; 0 is not held
		grave          bool
	}{
		{"grey on white", map[string]string{".themes/Reef/gtk-3.0/gtk.css": theme + "row label { color: #777777; } row:selected label { color: #ffffff; }"}, none, judge.LowContrast, "gtk3", desk.FacetWidgets, []string{"Text in lists of GTK 3 programs: 4.4 to 1", "In the dark shade"}, 4.48, false},
		{"a chosen line that cannot be made out", map[string]string{".themes/Reef/gtk-3.0/gtk.css": theme + "row:selected { background-color: #eeeeee; }"}, none, judge.LowContrast, "gtk3", desk.FacetWidgets, []string{"A chosen line", "In the dark shade"}, 0, true},
		{"no telling where the keyboard is", map[string]string{".themes/Reef/gtk-3.0/gtk.css": theme + "entry:focus { border-color: #dddddd; }"}, none, judge.LowFocus, "gtk3", desk.FacetWidgets, []string{"where the keyboard is"}, 0, true},
		{"bright letters on a see-through bar over a bright backdrop", nil, none.With(desk.FacetOpacity, "20").With(desk.FacetBackdrop, "/home/me/bright.svg"), judge.BarOver, "awning", desk.FacetOpacity, []string{"over the worst of the backdrop", "% opaque would do"}, 0, true},
		{"a terminal's red", map[string]string{"p/mud.Xresources": palette("#802020")}, none, judge.TermColour, "creek", desk.FacetPalette, []string{"of the palette mud that cannot be read as text on its ground: red 1.8 to 1", "of the same hue"}, 0, true},
		{"a terminal one sees through", nil, none.With(desk.FacetGround, "20").With(desk.FacetBackdrop, "/home/me/bright.svg"), judge.TermOver, "creek", desk.FacetGround, []string{"lets so much of the backdrop through", "% opaque would do"}, 0, true},
		{"blur", nil, none.With(desk.FacetBlur, "24").With(desk.FacetOpacity, "95"), judge.Costly, "awning", desk.FacetBlur, []string{"24 px, which a slow machine works out anew", "Without blur"}, 0, false},
		{"effects", nil, none.With(desk.FacetEffects, "all"), judge.Costly, "awning", desk.FacetEffects, []string{"moves everything", "A few effects cost little"}, 0, false},
	} {
		files := map[string]string{}
		for name, text := range good {
			files[name] = text
		}
		for name, text := range c.files {
			files[name] = text
		}
		d := deskWith(t, files)
		find := func(o outfit.Outfit) (judge.Verdict, bool) {
			for _, v := range judge.Of(d, preview.Draft(d, o)) {
				if v.Code == c.code && v.Surface == c.surface && v.Facet == c.facet {
					return v, true
				}
			}
			return judge.Verdict{}, false
		}
		v, ok := find(c.wears)
		require.True(t, ok, "%s: %v", c.what, judge.Of(d, preview.Draft(d, c.wears)))
		text := v.Text
		for _, r := range v.Remedies {
			text += " " + r.Text
		}
		for _, says := range c.says {
			require.Contains(t, text, says, c.what)
		}
		if c.ratio > 0 {
			require.InDelta(t, c.ratio, v.Ratio, 0.01, c.what)
		}
		require.Equal(t, c.grave, v.Grave, "%s: %v", c.what, v)
		require.NotEmpty(t, v.Remedies, c.what)
		for _, r := range v.Remedies {
			if r.Facet == "" {
				continue
			}
			_, still := find(c.wears.With(r.Facet, r.Want))
			require.False(t, still, "%s: %s", c.what, r.Text)
		}
	}
}

// TestLargeTextNeedsLess: 24 px, and 18.66 px if it is bold.
func TestLargeTextNeedsLess(t *testing.T) {
	for size, needs := range map[string]float64{"font-size: 14px;": 4.5, "font-size: 19px; font-weight: bold;": 0, "font-size: 19px;": 4.5, "font-size: 25px;": 0} {
		d := deskWith(t, map[string]string{".config/gtk-3.0/settings.ini": "[Settings]\ngtk-theme-name=Reef\n", ".themes/Reef/awning/bar.css": bar, "p/mud.Xresources": palette("#e0a0a0"),
			".themes/Reef/gtk-3.0/gtk.css": theme + "label.title { color: #717171; " + size + " }"}) // 3.7 to 1 on #e0e0e0
		found := 0.0
		for _, v := range judge.Of(d, preview.Draft(d, outfit.Outfit{})) {
			if strings.HasPrefix(v.Text, "Titles") {
				found = v.Needs
			}
		}
		require.Equal(t, needs, found, size)
	}
}
