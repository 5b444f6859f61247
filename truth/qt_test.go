package truth

import (
	"fmt"
	"image"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/qtstyle"
	"ivelt/core/svgraster"
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
	n, written := 9**times, 0
	qt, _ := (desk.With(desk.Builtin())).Surface("qt")
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
			drawn, palette, _ := strings.Cut(strings.TrimSpace(string(out)), " ")
			check("qt5", desk.FacetStyle, strings.ToUpper(drawn[:1])+drawn[1:])
			p := qtstyle.Of(false)
			require.Equal(t, fmt.Sprint(p.Window, p.WindowText, p.Base, p.Text, p.Button, p.ButtonText, p.Highlight, p.HighlightedText), palette, "seed %d %s: whatever GTK wears\n%v", seed, when, s.env)
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
		d.SetWritable(true)
		blocked := dress(t, d, []string{"gtk3", "qt"}, o, filepath.Join(t.TempDir(), "journal"))
		s.signIn(t)
		shown := compare("after a plan")
		if len(blocked) == 0 {
			written++
			require.Equal(t, want, shown, "seed %d\n%v\n%s", seed, s.env, profile)
		}
	}
	require.GreaterOrEqual(t, written, 6)
	t.Logf("written in %d homes", written)
	t.Logf("homes of seeds 0 to %d", n-1)
}

// TestQtControlsLookAsQtPaintsThem holds every control, in boxes of many sizes and in all
// its states, against the pixels of Qt's own style, and the colours and sizes that it gives
// (Debian: qtbase5-dev).
func TestQtControlsLookAsQtPaintsThem(t *testing.T) {
	t.Parallel()
	const wide, tall = 1200, 760
	dir := t.TempDir()
	sheet, file := filepath.Join(dir, "sheet5"), filepath.Join(dir, "theirs.png")
	flags := strings.Fields(output(t, tool(t, "pkg-config", "pkg-config, qtbase5-dev", "--cflags", "--libs", "Qt5Widgets")))
	output(t, tool(t, "g++", "g++", append([]string{"-fPIC", "-o", sheet, "reference/sheet5.cpp"}, flags...)...))

	states := map[string][]string{
		"button": {"-", "over", "down", "on", "focus", "default", "default,focus", "off", "off,on"}, "check": {"-", "on", "down", "focus", "on,focus", "off", "on,off"},
		"radio": {"-", "on", "down", "focus", "off", "on,off"}, "entry": {"-", "focus", "off"}, "frame": {"-"}, "combo": {"-", "over", "focus", "off"}, "spin": {"-", "over", "focus", "off"},
		"slider": {"-", "focus", "off"}, "scroll": {"-", "off"}, "progress": {"-", "off"}, "tab": {"-", "chosen"}, "page": {"-"}, "header": {"-", "off"}, "menubar": {"-", "chosen,down"}, "line": {"chosen"},
	}
	bits := map[string]qtstyle.State{"off": qtstyle.Off, "on": qtstyle.On, "over": qtstyle.Over, "down": qtstyle.Down, "focus": qtstyle.Focus, "default": qtstyle.Default, "chosen": qtstyle.Chosen}
	type control struct {
		kind, states string
		is           qtstyle.State
		box          image.Rectangle
	}
	var controls []control
	var lines, svg strings.Builder
	fmt.Fprintf(&svg, `<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d"><rect width="100%%" height="100%%" fill="%s"/>`, wide, tall, qtstyle.Of(false).Window)
	p := &qtstyle.Painter{B: &svg, ID: "q"}
	r := rand.New(rand.NewPCG(5, 15))
	x, y, row := 4, 4, 0
	for _, kind := range qtstyle.Kinds {
		for _, in := range states[kind] {
			for range 2 {
				w, h := 40+r.IntN(90), 18+r.IntN(16)
				switch kind {
				case "check", "radio":
					w, h = 14, 14
				case "frame", "page":
					h += 30
				case "scroll":
					w, h = 14, 90+r.IntN(40)
				case "slider", "progress":
					w += 60
				}
				if x+w+4 > wide {
					x, y, row = 4, y+row+4, 0
				}
				c := control{kind: kind, states: in, box: image.Rect(x, y, x+w, y+h)}
				for _, s := range strings.Split(in, ",") {
					c.is |= bits[s]
				}
				controls = append(controls, c)
				fmt.Fprintf(&lines, "%s %s %d %d %d %d\n", kind, in, x, y, w, h)
				p.Draw(kind, c.is, x, y, w, h)
				x, row = x+w+4, max(row, h)
				require.Less(t, y+row, tall)
			}
		}
		require.NotEmpty(t, states[kind], kind)
	}
	svg.WriteString("</svg>")

	c := exec.CommandContext(t.Context(), sheet, strconv.Itoa(wide), strconv.Itoa(tall), file)
	c.Env = append(os.Environ(), "QT_QPA_PLATFORM=offscreen", "QT_QPA_PLATFORMTHEME=", "QT_STYLE_OVERRIDE=", "XDG_RUNTIME_DIR="+dir)
	c.Stdin = strings.NewReader(lines.String())
	said, err := c.Output()
	require.NoError(t, err)
	ours, err := svgraster.Draw(t.Context(), []byte(svg.String()), wide, tall, svgraster.Options{})
	require.NoError(t, err)
	theirs := picture(t, file)
	if *pictures != "" {
		keepPicture(t, filepath.Join(*pictures, "qt-theirs.png"), theirs)
		keepPicture(t, filepath.Join(*pictures, "qt-ours.png"), ours)
	}

	alike, all := map[string]int{}, map[string]int{}
	for _, c := range controls {
		for y := c.box.Min.Y; y < c.box.Max.Y; y++ {
			for x := c.box.Min.X; x < c.box.Max.X; x++ {
				all[c.kind]++
				if near(theirs.At(x, y), ours.At(x, y), 4) {
					alike[c.kind]++
				}
			}
		}
	}
	sum, of := 0, 0
	for _, kind := range qtstyle.Kinds {
		share := float64(alike[kind]) / float64(all[kind])
		t.Logf("%-8s %6d of %6d pixels %5.1f %%", kind, alike[kind], all[kind], 100*share)
		least := 0.98
		switch kind { // of 14 px: many of their pixels are round edges, which Qt smooths in its own way
		case "check":
			least = 0.9
		case "radio":
			least = 0.55
		}
		require.GreaterOrEqual(t, share, least, kind)
		sum, of = sum+alike[kind], of+all[kind]
	}
	t.Logf("all      %6d of %6d pixels %5.1f %%", sum, of, 100*float64(sum)/float64(of))

	sizes := 0
	for _, line := range strings.Split(strings.TrimSpace(string(said)), "\n") {
		f := strings.Fields(line)
		switch f[0] {
		case "colour":
			on, off := qtstyle.Of(false), qtstyle.Of(true)
			require.Equal(t, f[2:], []string{roleOf(on, f[1]).String(), roleOf(off, f[1]).String()}, f[1])
		case "size":
			w, h := qtstyle.Size(f[1], 90, 17)
			require.Equal(t, f[2:], []string{strconv.Itoa(w), strconv.Itoa(h)}, f[1])
			sizes++
		}
	}
	require.Equal(t, 5, sizes)
}

// roleOf is a colour of a palette by Qt's name for it.
func roleOf(p qtstyle.Palette, role string) qtstyle.Colour {
	return map[string]qtstyle.Colour{
		"window": p.Window, "windowText": p.WindowText, "base": p.Base, "text": p.Text,
		"button": p.Button, "buttonText": p.ButtonText, "highlight": p.Highlight, "highlightedText": p.HighlightedText,
	}[role]
}
