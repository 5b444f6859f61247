package truth

import (
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/demo/demotest"
	"ivelt/store"
)

// toolkits are the programs that print what GTK makes of its settings files
// (Debian: libgtk-3-bin, libgtk-4-bin).
var toolkits = []struct{ surface, program, debian, folder string }{
	{"gtk3", "gtk-query-settings", "libgtk-3-bin", "gtk-3.0"},
	{"gtk4", "gtk4-query-settings", "libgtk-4-bin", "gtk-4.0"},
}

// settingOf is which setting of the toolkits a facet is, and how its value is
// printed: a text in quotes, or a number or TRUE or FALSE as it is.
var settingOf = map[string]*regexp.Regexp{
	desk.FacetWidgets:     regexp.MustCompile(`(?m)^\s*gtk-theme-name: (".*")$`),
	desk.FacetIcons:       regexp.MustCompile(`(?m)^\s*gtk-icon-theme-name: (".*")$`),
	desk.FacetPointer:     regexp.MustCompile(`(?m)^\s*gtk-cursor-theme-name: (".*")$`),
	desk.FacetPointerSize: regexp.MustCompile(`(?m)^\s*gtk-cursor-theme-size: (.*)$`),
	desk.FacetDark:        regexp.MustCompile(`(?m)^\s*gtk-application-prefer-dark-theme: (.*)$`),
	desk.FacetButtons:     regexp.MustCompile(`(?m)^\s*gtk-decoration-layout: (".*")$`),
	desk.FacetFont:        regexp.MustCompile(`(?m)^\s*gtk-font-name: (".*")$`),
	desk.FacetMotion:      regexp.MustCompile(`(?m)^\s*gtk-enable-animations: (.*)$`),
}

// shown asks a toolkit which theme, icons and pointers it uses in a home. What
// it has no value for is "".
func shown(t *testing.T, program, debian, display, home string, configDirs ...string) map[string]string {
	t.Helper()
	c := tool(t, program, debian)
	c.Env = []string{
		"PATH=" + os.Getenv("PATH"), "HOME=" + home, "DISPLAY=" + display, "GDK_BACKEND=x11", "GDK_DEBUG=gl-disable", "LANG=C.UTF-8", "NO_AT_BRIDGE=1",
		"GSETTINGS_BACKEND=memory", "XDG_CONFIG_DIRS=" + strings.Join(configDirs, ":"), "XDG_RUNTIME_DIR=" + t.TempDir(),
	}
	text, out := output(t, c), map[string]string{}
	for facet, setting := range settingOf {
		if m := setting.FindStringSubmatch(text); m != nil {
			value, err := m[1], error(nil)
			if strings.HasPrefix(value, `"`) {
				value, err = strconv.Unquote(value) // printed by g_strescape
			}
			require.NoError(t, err)
			switch facet {
			case desk.FacetDark:
				value = map[string]string{"TRUE": "dark", "FALSE": "light"}[value]
			case desk.FacetMotion:
				value = map[string]string{"TRUE": "full", "FALSE": "less"}[value]
			}
			out[facet] = value
		}
	}
	require.Contains(t, out, desk.FacetIcons, "%s prints no icon theme", program)
	return out
}

func reads(t *testing.T, d *desk.Desk, surface, facet string) reading.Reading {
	t.Helper()
	s, ok := d.Surface(surface)
	require.True(t, ok)
	f, ok := s.Facet(facet)
	require.True(t, ok)
	return reading.Of(d, s, f)
}

// TestReadingsAgreeWithGTK makes homes with settings files as messy as people
// leave them, and as broken, and compares readings with what GTK says.
func TestReadingsAgreeWithGTK(t *testing.T) {
	t.Parallel()
	screen := display(t)
	for _, kit := range toolkits {
		n := 0
		for seed := range 28 * *times {
			r := rand.New(rand.NewPCG(seed, 11))
			home, one, two := t.TempDir(), t.TempDir(), t.TempDir()
			for i, dir := range []string{filepath.Join(home, ".config"), one, two} {
				if r.IntN(3) < 2-min(i, 1) {
					write(t, filepath.Join(dir, kit.folder, "settings.ini"), messy(r))
				}
			}
			themesIn(t, home, "Reef", "Skerry")
			d, err := desk.Open("t", home, "/", "")
			require.NoError(t, err)
			d.Env = map[string]string{"XDG_CONFIG_DIRS": one + ":" + two}
			d.SetSurfaces(desk.Builtin())
			theirs := shown(t, kit.program, kit.debian, screen, home, one, two)
			for facet := range settingOf {
				ours := reads(t, d, kit.surface, facet).Value
				if !same(kit.surface+" x11", facet, theirs[facet], ours) {
					b, _ := os.ReadFile(filepath.Join(home, ".config", kit.folder, "settings.ini"))
					t.Errorf("seed %d, %s, %s: GTK %q, Ivelt %q\n%s", seed, kit.surface, facet, theirs[facet], ours, b)
				}
				n++
			}
		}
		t.Logf("%s: %d readings  as the toolkit reads", kit.surface, n)
	}
}

// themesIn puts themes in a home: GTK falls back to its own, in its setting too,
// for one that it does not find.
func themesIn(t *testing.T, home string, names ...string) {
	t.Helper()
	for _, name := range names {
		for _, kit := range toolkits {
			write(t, filepath.Join(home, ".themes", name, kit.folder, "gtk.css"), "")
		}
	}
}

func messy(r *rand.Rand) string {
	pick := func(options ...string) string { return options[r.IntN(len(options))] }
	end := pick("\n", "\n", "\r\n")
	var b strings.Builder
	line := func(s string) { b.WriteString(s + end) }
	if r.IntN(12) == 0 {
		b.WriteString("\ufeff")
	}
	for range r.IntN(3) {
		line(pick("# a comment", "", "   ", "  # another"))
	}
	line(pick("[Settings]", "[Settings]", "[Settings]", "[Settings]  ", "[settings]", " [Settings]"))
	for range 1 + r.IntN(9) {
		line(pick(
			"gtk-icon-theme-name=Alpha", "gtk-icon-theme-name = Beta", "  gtk-icon-theme-name=Gamma", "gtk-icon-theme-name=Delta  ",
			`gtk-icon-theme-name="Quoted"`, "gtk-icon-theme-name=Two Words", `gtk-icon-theme-name=Tab\tbed`, "gtk-icon-theme-name=",
			"gtk-theme-name=Reef", " gtk-theme-name = Skerry ", "gtk-cursor-theme-name=Gull", "gtk-cursor-theme-name=", "#gtk-icon-theme-name=Off", "gtk-icon-theme-name\t=\tEta", "Gtk-Icon-Theme-Name=Loud", "gtk-icon-theme-name[de]=Deutsch",
			"gtk-font-name=Sans 10", "gtk-font-name=  Go Mono, Bold 12.5", "gtk-font-name=", "x-mine=yes", "", "# note", "[Other]", "[Settings]",
			"gtk-cursor-theme-size=24", "gtk-cursor-theme-size = 48 ", "gtk-cursor-theme-size=big", "gtk-cursor-theme-size=-3", "gtk-cursor-theme-size=", "gtk-cursor-theme-size=32px", "gtk-cursor-theme-size=+16",
			"gtk-cursor-theme-size=0x20", "gtk-cursor-theme-size=128", "gtk-cursor-theme-size=129", "gtk-cursor-theme-size=99999999999",
			"gtk-application-prefer-dark-theme=1", "gtk-application-prefer-dark-theme=true ", "gtk-application-prefer-dark-theme=0", "gtk-application-prefer-dark-theme=TRUE", "gtk-application-prefer-dark-theme=yes", "gtk-application-prefer-dark-theme=",
			"gtk-xft-rgba=bgr", "gtk-xft-rgba=none", "gtk-xft-antialias=0", "gtk-xft-hintstyle=hintfull", "gtk-enable-animations=0", "gtk-enable-animations = true", "gtk-enable-animations=no", "gtk-decoration-layout=close:menu", "gtk-decoration-layout =:minimize,close",
		))
	}
	if r.IntN(10) == 0 {
		line(pick("just words", "[unfinished", "=value", "key before = [x", "[]"))
	}
	s := b.String()
	if r.IntN(3) == 0 {
		s = strings.TrimSuffix(s, end)
	}
	return s
}

func write(t *testing.T, name, text string) {
	t.Helper()
	require.NoError(t, os.MkdirAll(filepath.Dir(name), 0o755))
	require.NoError(t, os.WriteFile(name, []byte(text), 0o644))
}

// TestGTKShowsWhatWasApplied dresses homes and asks the toolkits, then goes
// back and asks again.
func TestGTKShowsWhatWasApplied(t *testing.T) {
	t.Parallel()
	screen := display(t)
	dir := filepath.Join(t.TempDir(), "world")
	w := demotest.World(t, dir)
	starts := map[string]func(home string){
		"as the demo leaves it": func(string) {},
		"no settings files":     func(home string) { require.NoError(t, os.RemoveAll(filepath.Join(home, ".config/gtk-3.0"))) },
		"another home, empty":   func(home string) { require.NoError(t, os.RemoveAll(filepath.Join(home, ".config"))) },
		"no final line end": func(home string) {
			write(t, filepath.Join(home, ".config/gtk-3.0/settings.ini"), "[Settings]\ngtk-font-name=Sans 9")
			write(t, filepath.Join(home, ".config/gtk-4.0/settings.ini"), "# nothing but this")
		},
		"told twice": func(home string) {
			write(t, filepath.Join(home, ".config/gtk-3.0/settings.ini"), "[Settings]\ngtk-icon-theme-name=A\n[Other]\nk=v\n[Settings]\n gtk-icon-theme-name =B \n")
		},
	}
	for name, start := range starts {
		t.Run(name, func(t *testing.T) {
			start(w.Avocet.Home)
			write(t, filepath.Join(w.Avocet.Home, ".icons/Tern/cursors/default"), "")
			themesIn(t, w.Avocet.Home, "Reef") // GTK sees the home only
			before := map[string]map[string]string{}
			for _, kit := range toolkits {
				before[kit.surface] = shown(t, kit.program, kit.debian, screen, w.Avocet.Home)
			}
			keep := store.Blobs{Dir: t.TempDir()}
			p, err := planning.Dress(t.Context(), w.Avocet, outfit.Outfit{Name: "Foreshore"}.With(desk.FacetIcons, "Foreshore").With(desk.FacetWidgets, "Reef").With(desk.FacetPointer, "Tern").With(desk.FacetPointerSize, "48").With(desk.FacetDark, "dark").With(desk.FacetButtons, "close:menu").With(desk.FacetFont, "Estuary Sans 12").With(desk.FacetMotion, "less"))
			require.NoError(t, err)
			require.NoError(t, apply.Plan(t.Context(), w.Avocet, p, apply.Config{Keep: keep, Journal: filepath.Join(t.TempDir(), "journal")}))
			for _, kit := range toolkits {
				wears := map[string]string{desk.FacetIcons: "Foreshore", desk.FacetWidgets: "Reef", desk.FacetPointer: "Tern", desk.FacetPointerSize: "48", desk.FacetDark: "dark", desk.FacetButtons: "close:menu", desk.FacetFont: "Estuary Sans 12", desk.FacetMotion: "less"}
				require.Equal(t, wears, shown(t, kit.program, kit.debian, screen, w.Avocet.Home), kit.surface)
				for facet, want := range wears {
					same("written: "+kit.surface+" x11", facet, want, reads(t, w.Avocet, kit.surface, facet).Value)
					require.Equal(t, want, reads(t, w.Avocet, kit.surface, facet).Value)
				}
			}
			back, err := planning.Back(w.Avocet, []plan.Plan{p}, keep, planning.Aim{})
			require.NoError(t, err)
			require.NoError(t, apply.Plan(t.Context(), w.Avocet, back.Plan, apply.Config{Keep: keep, Journal: filepath.Join(t.TempDir(), "journal")}))
			for _, kit := range toolkits {
				require.Equal(t, before[kit.surface], shown(t, kit.program, kit.debian, screen, w.Avocet.Home), kit.surface)
			}
		})
	}
}

// TestReadingsAgreeWithGTK2 does the same with the resource files of GTK 2
// (Debian: libgtk2.0-dev), and sets each facet from each of them.
func TestReadingsAgreeWithGTK2(t *testing.T) {
	t.Parallel()
	screen := display(t)
	program := build(t, "settings2", "gtk+-2.0", "libgtk2.0-dev")
	facets := []string{desk.FacetWidgets, desk.FacetIcons, desk.FacetPointer, desk.FacetPointerSize, desk.FacetFont}
	asked := func(home string) map[string]string {
		c := exec.CommandContext(t.Context(), program)
		c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "DISPLAY=" + screen, "LANG=C.UTF-8", "NO_AT_BRIDGE=1"}
		text, out := output(t, c), map[string]string{}
		for _, facet := range facets {
			m := settingOf[facet].FindStringSubmatch(text)
			require.NotNil(t, m, facet)
			out[facet] = m[1]
			if v, err := strconv.Unquote(m[1]); err == nil {
				out[facet] = v
			}
		}
		return out
	}
	n := 0
	for seed := range 40 * *times {
		r := rand.New(rand.NewPCG(seed, 12))
		home := t.TempDir()
		themesIn(t, home, "Reef", "Skerry")
		for _, theme := range []string{"Reef", "Skerry"} {
			write(t, filepath.Join(home, ".themes", theme, "gtk-2.0/gtkrc"), "")
		}
		file := messyResource(r)
		write(t, filepath.Join(home, ".gtkrc-2.0"), file)
		write(t, filepath.Join(home, "more.rc"), messyResource(r))
		d, err := desk.Open("t2", home, "/", "")
		require.NoError(t, err)
		d.SetWritable(true)
		d.SetSurfaces(desk.Builtin())
		theirs := asked(home)
		for _, facet := range facets {
			if ours := reads(t, d, "gtk2", facet).Value; !same("gtk2 x11", facet, theirs[facet], ours) {
				t.Errorf("seed %d, %s: GTK 2 %q, Ivelt %q\n%s", seed, facet, theirs[facet], ours, file)
			}
			n++
		}
		want := map[string]string{desk.FacetWidgets: "Skerry", desk.FacetPointerSize: "40", desk.FacetFont: "Sans 13"}
		o := outfit.Outfit{Name: "set"}
		for facet, value := range want {
			o = o.With(facet, value)
		}
		s, _ := d.Surface("gtk2")
		d.SetSurfaces([]desk.Surface{s})
		p, err := planning.Dress(t.Context(), d, o)
		require.NoError(t, err)
		if len(p.Blocked) > 0 {
			continue // a file that GTK 2 itself does not read to its end
		}
		require.NoError(t, apply.Plan(t.Context(), d, p, apply.Config{Keep: store.Blobs{Dir: t.TempDir()}, Journal: filepath.Join(t.TempDir(), "journal")}))
		theirs = asked(home)
		for facet, value := range want {
			same("written: gtk2 x11", facet, value, theirs[facet])
			require.Equal(t, value, theirs[facet], "seed %d, %s after it was set\n%s", seed, facet, file)
			n++
		}
	}
	t.Logf("gtk2: %d readings  as the toolkit reads", n)
}

func messyResource(r *rand.Rand) string {
	pick := func(options ...string) string { return options[r.IntN(len(options))] }
	end := pick("\n", "\n", "\r\n")
	var b strings.Builder
	for range 1 + r.IntN(9) {
		b.WriteString(pick(
			`gtk-theme-name = "Reef"`, `gtk-theme-name="Skerry" # mine`, "gtk-icon-theme-name\t= \"Gull\"", `gtk-icon-theme-name = "Two Words"`, `gtk-icon-theme-name = ""`,
			`gtk-font-name = "Sans 9"`, `gtk-font-name="Go \"Mono\" 12"`, "gtk-font-name =\n\n  \"Sans 11\"", `gtk-cursor-theme-name = "Tern"`, `gtk-cursor-theme-size = 24`,
			`gtk-cursor-theme-size=0x20`, `gtk-cursor-theme-size = 129`, "# gtk-theme-name = \"Off\"", "", "style \"x\" {\n  bg[NORMAL] = \"red\"\n}", `class "GtkWidget" style "y"`,
			`include "more.rc"`, `include "gone.rc"`, "binding \"b\" {\n  bind \"<ctrl>a\" { \"x\" (1) }\n}", `gtk-toolbar-style = GTK_TOOLBAR_BOTH`, `gtk-menu-images = 1`, `gtk-key-theme-name = "Emacs"`,
		) + end)
	}
	s := b.String()
	if r.IntN(3) == 0 {
		s = strings.TrimSuffix(s, end)
	}
	return s
}

// dress puts an outfit on some surfaces of a desk, and returns what kept them
// from following.
func dress(t *testing.T, d *desk.Desk, surfaces []string, o outfit.Outfit, journal string) []plan.Blocked {
	t.Helper()
	only := *d
	only.SetSurfaces(slices.DeleteFunc(slices.Clone(d.Surfaces()), func(s desk.Surface) bool { return !slices.Contains(surfaces, s.ID) }))
	p, err := planning.Dress(t.Context(), &only, o)
	require.NoError(t, err)
	require.NoError(t, apply.Plan(t.Context(), &only, p, apply.Config{Keep: store.Blobs{Dir: t.TempDir()}, Journal: journal}))
	return p.Blocked
}
