package truth

import (
	"math/rand/v2"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
)

var (
	qtIcons = regexp.MustCompile(`(?m)^\s*Icon theme\s*: (.*),.* from`)
	qtFont  = regexp.MustCompile(`(?m)^\s*System font\s*: "(.*)" ([0-9.]+)`)
	plain   = regexp.MustCompile(`^[A-Z][a-z]+( [0-9.]+)$`)
)

// TestReadingsAgreeWithQt makes homes in which Qt follows GTK 3, and others in
// which it does not, and compares icon theme, font and style (Debian:
// qttools5-dev-tools, qt6-tools-dev-tools, qt5-gtk-platformtheme,
// qt6-gtk-platformtheme, qtbase5-dev).
func TestReadingsAgreeWithQt(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	style := filepath.Join(t.TempDir(), "style5")
	flags := strings.Fields(output(t, tool(t, "pkg-config", "pkg-config, qtbase5-dev", "--cflags", "--libs", "Qt5Widgets")))
	output(t, tool(t, "g++", "g++", append([]string{"-fPIC", "-o", style, "reference/style5.cpp"}, flags...)...))
	programs := []struct{ name, debian string }{{"/usr/lib/qt5/bin/qtdiag", "qttools5-dev-tools"}, {"/usr/lib/qt6/bin/qtdiag6", "qt6-tools-dev-tools"}}
	n, written := 18**times, 0
	qt, _ := (&desk.Desk{Surfaces: desk.Builtin()}).Surface("qt")
	icons, _ := qt.Facet(desk.FacetIcons)
	desktops := icons.Sources[0].When[1].Words // whose programs Qt goes along with
	for seed := range n {
		r := rand.New(rand.NewPCG(seed, 62))
		pick := func(options ...string) string { return options[r.IntN(len(options))] }
		s := h.seat(t, r, "gtk-3.0")
		one := pick(desktops...)
		if s.env["DISPLAY"] == "" { // Qt's program for a display of its own kind is not installed
			s.env["DISPLAY"], s.env["GDK_BACKEND"] = h.display, "x11"
			delete(s.env, "WAYLAND_DISPLAY")
		}
		s.env["XDG_RUNTIME_DIR"] = h.runtime
		for _, key := range []string{"QT_QPA_PLATFORMTHEME", "XDG_CURRENT_DESKTOP", "QT_STYLE_OVERRIDE"} {
			v := map[string]string{
				"QT_QPA_PLATFORMTHEME": pick("", "", "gtk3", "GTK3", "gone"), "XDG_CURRENT_DESKTOP": pick("", "", "Tide", "x-tide:"+strings.ToUpper(one), one),
				"QT_STYLE_OVERRIDE": pick("", "", "windows", "FUSION", "Gone"),
			}[key]
			if v != "" {
				s.env[key] = v
			}
		}
		compare := func(when string) map[string]string {
			d, shown := s.desk(t), map[string]string{}
			check := func(program, facet, theirs string) {
				r := reads(t, d, "qt", facet)
				ours := r.Value
				shown[facet] = theirs
				if facet == desk.FacetFont && !plain.MatchString(ours) && ours != "Sans Serif 9" {
					return // a setting with words for the style, which Qt takes apart
				}
				if !same(program, facet, theirs, ours) {
					t.Errorf("seed %d %s, %s, %s: the program %q, Ivelt %q from %v\n%v\n%s", seed, when, program, facet, theirs, ours, r.Source, s.env, strings.Join(s.said, "\n"))
				}
			}
			for i, p := range programs {
				text := s.ask(t, p.name, p.debian)
				icons := "hicolor"
				if m := qtIcons.FindStringSubmatch(text); m != nil {
					icons = m[1]
				}
				name := "qt" + strconv.Itoa(5+i)
				check(name, desk.FacetIcons, icons)
				m := qtFont.FindStringSubmatch(text)
				require.NotNil(t, m, "%s prints no font", p.name)
				check(name, desk.FacetFont, m[1]+" "+m[2])
			}
			c := exec.CommandContext(t.Context(), style)
			c.Env = s.environ()
			out, err := c.Output()
			require.NoError(t, err)
			drawn := strings.TrimSpace(string(out))
			check("qt5", desk.FacetStyle, strings.ToUpper(drawn[:1])+drawn[1:])
			return shown
		}
		compare("as it is")

		// What a file sets is set there; what nothing sets is set anew.
		h.provider.hold(nil)
		profile := "# mine\n"
		for _, key := range []string{"GTK_THEME", "QT_QPA_PLATFORMTHEME", "QT_STYLE_OVERRIDE"} {
			if v := s.env[key]; v != "" {
				profile += "export " + key + "='" + v + "'\n"
				delete(s.env, key)
			}
		}
		s.put(t, ".profile", profile)
		write(t, filepath.Join(s.home, ".icons/Foreshore/index.theme"), "[Icon Theme]\nName=Foreshore\nDirectories=16\n[16]\nSize=16\n")
		want := map[string]string{desk.FacetIcons: "Foreshore", desk.FacetFont: "Lato 13", desk.FacetStyle: pick("Windows", "Fusion")}
		o := outfit.Outfit{Name: "x"}
		for facet, value := range want {
			o = o.With(facet, value)
		}
		d := s.desk(t)
		d.Writable = true
		blocked := dress(t, d, []string{"gtk3", "qt"}, o, filepath.Join(t.TempDir(), "journal"))
		s.signIn(t)
		shown := compare("after a plan")
		if len(blocked) == 0 {
			written++
			require.Equal(t, want, shown, "seed %d\n%v\n%s", seed, s.env, profile)
		}
	}
	require.GreaterOrEqual(t, written, 10)
	t.Logf("written in %d homes", written)
	t.Logf("homes of seeds 0 to %d", n-1)
}
