package truth

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/icontheme"
	"ivelt/demo"
)

type question struct {
	name        string
	size, scale int
}

// gtkLookup asks GTK 3 (Debian: libgtk-3-dev, librsvg2-common).
func gtkLookup(t *testing.T, program, theme string, bases []string, ask []question) []string {
	t.Helper()
	var in strings.Builder
	for _, q := range ask {
		fmt.Fprintf(&in, "%s %d %d\n", q.name, q.size, q.scale)
	}
	c := exec.CommandContext(t.Context(), program, append([]string{theme}, bases...)...)
	c.Stdin = strings.NewReader(in.String())
	// The warnings of GTK about odd themes go nowhere.
	out, err := c.Output()
	require.NoError(t, err)
	answers := lines(string(out))
	require.Len(t, answers, len(ask))
	return answers
}

// agree compares every answer and returns how many there were.
func agree(t *testing.T, program, theme string, bases []string, names []string) int {
	t.Helper()
	var ask []question
	for _, name := range names {
		for _, size := range []int{16, 22, 24, 32, 48, 64, 128, 256} {
			for _, scale := range []int{1, 2} {
				ask = append(ask, question{name, size, scale})
			}
		}
	}
	x := ourIndex(bases, theme)
	wrong := 0
	for i, theirs := range gtkLookup(t, program, theme, bases, ask) {
		ours := "-"
		if icon, ok := x.Lookup(ask[i].name, ask[i].size, ask[i].scale); ok {
			ours = "/" + icon.Path
		}
		if ours != theirs {
			if wrong++; wrong <= 5 {
				t.Errorf("%s, %v:\n GTK   %s\n Ivelt %s", theme, ask[i], theirs, ours)
			}
		}
	}
	require.Zero(t, wrong, "%s: lookups that differ from GTK's", theme)
	return len(ask)
}

// alsoOf returns the themes the surface's toolkit adds to any chain.
func alsoOf(surface string) []string {
	for _, s := range desk.Builtin() {
		if f, ok := s.Facet(desk.FacetIcons); ok && s.ID == surface {
			return f.Lookup.Also
		}
	}
	return nil
}

func ourIndex(bases []string, theme string) *icontheme.Index {
	var names []string
	for _, b := range bases {
		names = append(names, strings.TrimPrefix(b, "/"))
	}
	return icontheme.NewIndex(icontheme.Config{FS: os.DirFS("/"), Bases: names, Theme: theme, Also: alsoOf("gtk3")})
}

func TestIconLookupAgreesWithGTK(t *testing.T) {
	t.Parallel()
	program := build(t, "iconlookup", "gtk+-3.0", "libgtk-3-dev")
	packs := t.TempDir()
	require.NoError(t, demo.WritePacks(packs, "Wrack", "Shingle", "Shingle-Coral", "Glasswort"))
	total := 0
	for _, c := range []struct {
		theme string
		bases []string
	}{
		{"hicolor", []string{"/usr/share/icons", "/usr/share/pixmaps"}}, // Debian: hicolor-icon-theme
		{"Tango", []string{"/usr/share/icons", "/usr/share/pixmaps"}},   // Debian: tango-icon-theme
		{"Wrack", []string{packs, "/usr/share/icons"}},
		{"Shingle", []string{packs, "/usr/share/icons"}},
		{"Shingle-Coral", []string{packs, "/usr/share/icons"}},
		{"Glasswort", []string{packs, "/usr/share/icons"}},
	} {
		names := ourIndex(c.bases, c.theme).Names(0)
		require.NotEmpty(t, names)
		slices.Sort(names)
		n := agree(t, program, c.theme, c.bases, append(names, "there-is-none", "there-is-none-symbolic"))
		t.Logf("%-14s %6d lookups agree with GTK 3", c.theme, n)
		total += n
	}
	t.Logf("%-14s %6d lookups agree with GTK 3", "together", total)
}

// TestOddThemesAgreeWithGTK makes themes with everything that makers get wrong
// or the specification leaves open, over two base folders.
func TestOddThemesAgreeWithGTK(t *testing.T) {
	t.Parallel()
	program := build(t, "iconlookup", "gtk+-3.0", "libgtk-3-dev")
	total := 0
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 7))
		a, b := filepath.Join(t.TempDir(), "a"), filepath.Join(t.TempDir(), "b")
		for _, theme := range []string{"One", "Two", "Three", "hicolor"} {
			oddTheme(t, r, []string{a, b}, theme)
		}
		n := agree(t, program, "One", []string{a, b}, oddNames)
		if t.Failed() {
			t.Fatalf("seed %d", seed)
		}
		total += n
	}
	t.Logf("%d lookups in 60 odd theme chains (seeds 0 to 59) agree with GTK 3", total)
}

var oddNames = []string{"leaf", "stone", "stone-symbolic", "leaf-symbolic", "shell", "absent", "loose"}

func oddTheme(t *testing.T, r *rand.Rand, bases []string, theme string) {
	pick := func(options ...string) string { return options[r.IntN(len(options))] }
	dirs := map[string]string{}
	for range 1 + r.IntN(6) {
		size := []int{8, 16, 22, 24, 32, 48, 64, 96, 256}[r.IntN(9)]
		scale := 1 + r.IntN(2)*r.IntN(3)
		dir := fmt.Sprintf("%s/%d@%d", pick("apps", "places"), size, scale)
		s := fmt.Sprintf("Size=%d\n", size)
		if r.IntN(15) == 0 {
			s = ""
		}
		if scale != 1 || r.IntN(4) == 0 {
			s += fmt.Sprintf("Scale=%d\n", scale)
		}
		switch r.IntN(5) {
		case 0:
			s += "Type=Fixed\n"
		case 1, 2:
			s += fmt.Sprintf("Type=Scalable\nMinSize=%d\nMaxSize=%d\n", max(1, size-r.IntN(40)), size+r.IntN(300))
		case 3:
			s += fmt.Sprintf("Type=Threshold\nThreshold=%d\n", r.IntN(20))
		case 4:
			s += pick("", "Type=Sideways\n", "Threshold=many\n", "MinSize=4\n")
		}
		dirs[dir] = s
	}
	listed := slices.Sorted(maps.Keys(dirs))
	r.Shuffle(len(listed), func(i, j int) { listed[i], listed[j] = listed[j], listed[i] })
	cut := len(listed)
	if r.IntN(3) == 0 {
		cut = r.IntN(len(listed) + 1)
	}
	index := "[Icon Theme]\nName=" + theme + "\n"
	if cut > 0 || r.IntN(2) == 0 {
		index += "Directories=" + strings.Join(listed[:cut], pick(",", ",", ",", ", ")) + pick("", ",") + "\n"
	}
	if cut < len(listed) {
		index += "ScaledDirectories=" + strings.Join(listed[cut:], ",") + "\n"
	}
	index += pick("", "Inherits=Two\n", "Inherits=Two,Three\n", "Inherits=Three,Two,hicolor\n", "Inherits=One\n", "Inherits=Nowhere,Three\n", "Inherits= Two\n")
	ordered := slices.Sorted(maps.Keys(dirs))
	for _, dir := range ordered {
		index += pick("\n", "# about it\n") + "[" + dir + "]\n" + dirs[dir]
	}
	if r.IntN(10) == 0 {
		index += "this is no key file\n"
	}
	for i, base := range bases {
		put := func(name, text string) {
			p := filepath.Join(base, theme, name)
			require.NoError(t, os.MkdirAll(filepath.Dir(p), 0o755))
			require.NoError(t, os.WriteFile(p, []byte(text), 0o644))
		}
		if i == 0 && r.IntN(4) > 0 || i == 1 && r.IntN(2) == 0 {
			put("index.theme", index)
		}
		for _, dir := range ordered {
			for _, name := range oddNames[:5] {
				for range r.IntN(3) {
					put(dir+"/"+name+pick(".png", ".svg", ".xpm", ".symbolic.png", ".PNG", ".txt"), "x")
				}
			}
		}
		if r.IntN(3) == 0 {
			require.NoError(t, os.WriteFile(filepath.Join(base, "loose"+pick(".png", ".svg", ".xpm")), []byte("x"), 0o644))
		}
	}
}
