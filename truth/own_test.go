package truth

import (
	"math/rand/v2"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
)

// TestProgramsWithTheirOwnSheet makes persons' sheets that name colours, in every
// session, and compares what a program shows that pins the platform's sheet,
// before and after a plan (Debian: libadwaita-1-dev).
func TestProgramsWithTheirOwnSheet(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	program := build(t, "own4", "libadwaita-1", "libadwaita-1-dev")
	n, written := 20**times, 0
	for seed := range n {
		r := rand.New(rand.NewPCG(seed, 66))
		pick := func(options ...string) string { return options[r.IntN(len(options))] }
		s := h.seat(t, r, "gtk-4.0")
		delete(s.env, "GTK_THEME") // makes it wear a theme after all
		sheet := ""
		for range r.IntN(6) {
			sheet += pick("@define-color accent_bg_color #c01c28;", "@define-color accent_bg_color\trgb(1, 2,3) ;", "@define-color mine #26a269;\n@define-color accent_bg_color @mine;", "/* @define-color accent_bg_color red; */", "label { color: red; }",
				"@define-color accent_bg_color mix(#000000, #ffffff, 0.5);", "@define-color accent_color #ff0000;", "window { background-color: @accent_bg_color; }") + pick("\n", " ", "\r\n")
		}
		if r.IntN(5) > 0 {
			s.put(t, ".config/gtk-4.0/gtk.css", sheet)
		}
		compare := func(when string) {
			c := exec.CommandContext(t.Context(), program)
			c.Env = append(s.environ(), "ADW_DISABLE_PORTAL=1")
			out := strings.Split(output(t, c), "\n")
			d := s.desk(t)
			for i, facet := range []string{desk.FacetAccent, desk.FacetDark, desk.FacetIcons, desk.FacetFont} {
				if r := reads(t, d, "gtk4-own", facet); !same("gtk4 own sheet", facet, out[i], r.Value) {
					t.Errorf("seed %d %s, %s: the program %q, Ivelt %q from %v\n%v\n%s", seed, when, facet, out[i], r.Value, r.Source, s.env, strings.Join(s.said, "\n"))
				}
			}
		}
		compare("as it is")
		d := s.desk(t)
		d.SetWritable(true)
		want := map[string]string{desk.FacetAccent: pick("#2f7f8c", "#b4553d"), desk.FacetDark: pick("dark", "light")}
		o := outfit.Outfit{Name: "x"}
		for facet, value := range want {
			o = o.With(facet, value)
		}
		if blocked := dress(t, d, []string{"gtk4-own"}, o, filepath.Join(t.TempDir(), "journal")); len(blocked) > 0 {
			continue
		}
		compare("after a plan")
		for facet, value := range want {
			require.Equal(t, value, reads(t, s.desk(t), "gtk4-own", facet).Value, "seed %d", seed)
		}
		written++
	}
	require.GreaterOrEqual(t, written, 10)
	t.Logf("homes of seeds 0 to %d, written in %d", n-1, written)
}
