package learn

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/core/desk"
	"ivelt/core/reading"
)

// bench is a desk with a folder of settings.
func bench(t *testing.T) (*desk.Desk, func(name, text string)) {
	t.Helper()
	home, system := t.TempDir(), t.TempDir()
	d, err := desk.Open("d", home, system, "/home/me")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	return d, func(name, text string) {
		t.Helper()
		at := filepath.Join(home, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
}

func lookAt(t *testing.T, d *desk.Desk, places ...string) *Look {
	t.Helper()
	l, err := At(t.Context(), d, places)
	require.NoError(t, err)
	return l
}

// TestWhatDiffersIsFound in files of every form, with what is written beside it.
func TestWhatDiffersIsFound(t *testing.T) {
	for _, c := range []struct{ name, before, after, format, group, key, from, to string }{
		{"bar.conf", "[Look]\ntheme=A\\tb\nx=1\n", "[Look]\ntheme=C\\td\nx=1\n", "keyfile", "Look", "theme", "A\tb", "C\td"},
		{"bar.conf", "theme=A\n", "theme=C\n", "lines", "", "theme", "A", "C"},
		{"bar.conf", "[Look]\ntheme='A'\n", "[Look]\ntheme='C'\n", "lines", "Look", "theme", "A", "C"},
		{"barrc", "set theme A # mine\n", "set theme C # mine\n", "lines", "", "set theme", "A", "C"},
		{"bar.json", `{"a": {"b": true}}`, "{\n \"a\": {\"b\": false}\n}", "json", "a", "b", "true", "false"},
		{"config", "// of the bar\n{\"a\": 1}", "// of the bar\n{\"a\": 2}", "json", "", "a", "1", "2"},
		{"bar.toml", "[a]\nb = 'x'\n", "[a]\nb = 'y'\n", "toml", "a", "b", "x", "y"},
		{"bar.yml", "a:\n  b: x\n", "a:\n  b: y\n", "yaml", "a", "b", "x", "y"},
		{"bar.rc", "<a><b>x</b></a>", "<a><b>y</b></a>", "xml", "a", "b", "x", "y"},
		{"bar.json", "theme: A", "theme: C", "lines", "", "theme", "A", "C"}, // whatever its name says
		{"bar.conf", "a=1\n", "a=1\ntheme=C\n", "lines", "", "theme", "", "C"},
		{"bar.conf", "a=1\ntheme=A\n", "a=1\n", "lines", "", "theme", "A", ""},
	} {
		d, write := bench(t)
		write(".config/bar/"+c.name, c.before)
		write(".config/bar/other", "y=1\n")
		before := lookAt(t, d, "{config}/bar")
		write(".config/bar/"+c.name, c.after)
		changes, other := lookAt(t, d, "{config}/bar").Since(before)
		require.Len(t, changes, 1, c.after)
		require.Empty(t, other)
		got := changes[0]
		require.Equal(t, []string{"/home/me/.config/bar/" + c.name, c.format, c.group, c.key, c.from, c.to}, []string{got.Path, got.Format, got.Group, got.Key, got.From, got.To})
		require.Equal(t, c.from == "", got.New)
		require.Equal(t, c.to == "", got.Gone)
	}
	d, write := bench(t)
	write(".config/a", "# one\nx=1\n")
	before := lookAt(t, d, "{config}")
	write(".config/a", "# two\nx=1\n")
	changes, other := lookAt(t, d, "{config}").Since(before)
	require.Empty(t, changes)
	require.Equal(t, []string{"/home/me/.config/a"}, other)
}

// TestWhatIsHardlyMeantIsSetApart: times and the places of windows, and what changes
// each time.
func TestWhatIsHardlyMeantIsSetApart(t *testing.T) {
	for _, c := range []struct {
		group, key, from, to string
		noise                bool
	}{
		{"window", "x", "10", "12", true}, {"", "windowWidth", "800", "801", true}, {"State", "geometry", "1,2,3,4", "1,2,3,5", true},
		{"", "last_opened", "a", "b", true}, {"", "run_count", "3", "4", true}, {"", "checked", "1700000000", "1700000100", true},
		{"", "when", "2025-01-02", "2025-01-03T10:00:00Z", true}, {"", "blob", "", strings.Repeat("QUJD", 20), true}, {"", "state", "@ByteArray(x)", "@ByteArray(y)", true},
		{"", "font_size", "11", "12", false}, {"Look", "iconTheme", "A", "B", false}, {"bar", "height", "30", "32", false}, {"", "position", "top", "bottom", false},
		{"", "opacity", "0.9", "0.8", false}, {"", "cursor-size", "24", "48", false}, {"", "background", "/a.png", "/b.png", false}, {"window", "opacity", "1", "0.9", false},
	} {
		got := noiseOf(Change{Group: c.group, Key: c.key, From: c.from, To: c.to})
		require.Equal(t, c.noise, got != "", "%s %s: %s", c.group, c.key, got)
	}
	one, two := Change{Key: "theme", To: "A"}, Change{Key: "tick", To: "7"}
	likely, noise := Sort([]Change{one, two}, map[string]int{two.Place(): 1})
	require.Equal(t, "theme", likely[0].Key)
	require.Equal(t, "it changes every time", noise[0].Noise)
	likely, noise = Sort([]Change{two}, map[string]int{two.Place(): 1})
	require.Len(t, likely, 1, "nothing else changed: it was that one again")
	require.Empty(t, noise)
}

// TestWhatIsNoSettingsFolderIsRefused, and what is in one and is no setting is left.
func TestWhatIsNoSettingsFolderIsRefused(t *testing.T) {
	d, write := bench(t)
	write(".config/bar/cache/x", "a=1")
	write(".config/bar/big", strings.Repeat("a=1\n", 1<<20))
	write(".config/bar/binary", "a=\x00")
	write(".config/bar/fine", "a=1\n")
	require.NoError(t, unix.Mkfifo(d.HostPath("/home/me/.config/bar/pipe"), 0o644))
	require.NoError(t, os.Symlink("/etc/none", d.HostPath("/home/me/.config/bar/gone")))
	require.NoError(t, os.Symlink("../bar", d.HostPath("/home/me/.config/bar/round")))
	l := lookAt(t, d, "~/.config/bar")
	require.Equal(t, 1, l.Values)
	require.Len(t, l.Left, 4, "%v", l.Left)
	for _, places := range [][]string{nil, {"bar"}, {"~/none"}} {
		_, err := At(t.Context(), d, places)
		require.ErrorIs(t, err, ErrFolder)
	}
	for n := range maxFiles + 2 {
		at := d.HostPath("/home/me/many/" + strings.Repeat("d/", n%5))
		require.NoError(t, os.MkdirAll(at, 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(at, strings.Repeat("f", 1+n/250)+string(rune('a'+n%25))+strings.Repeat("g", n%250/25)), nil, 0o644))
	}
	_, err := At(t.Context(), d, []string{"~/many"})
	require.ErrorIs(t, err, ErrFolder)
}

// TestDescriptorsOfWhatWasLearned can be used, and tell of what the program says.
func TestDescriptorsOfWhatWasLearned(t *testing.T) {
	for _, c := range []struct {
		facet, text string
		change      Change
		words       map[string]string
		shows       string
	}{
		{desk.FacetDark, "x = 1\n", Change{Key: "x", From: "0", To: "1"}, map[string]string{"1": "dark", "0": "light"}, "dark"},
		{desk.FacetDark, "x = yes\n", Change{Key: "x", From: "no", To: "yes"}, map[string]string{"yes": "dark"}, "dark"},
		{desk.FacetOpacity, "x 0.85\n", Change{Key: "x", From: "0.9", To: "0.85"}, nil, "85"},
		{desk.FacetOpacity, "x 85\n", Change{Key: "x", From: "90", To: "85"}, nil, "85"},
		{desk.FacetPointerSize, "x: 48\n", Change{Key: "x", From: "24", To: "48"}, nil, "48"},
		{desk.FacetFont, "x = \"Estuary Sans 11\"\n", Change{Key: "x", From: "Sans 10", To: "Estuary Sans 11"}, nil, "Estuary Sans 11"},
		{desk.FacetFontMono, "x Estuary Mono\n", Change{Key: "x", To: "Estuary Mono", New: true}, nil, "Estuary Mono"},
		{desk.FacetAccent, "x #c0ffee\n", Change{Key: "x", From: "#000000", To: "#c0ffee"}, nil, "#c0ffee"},
		{desk.FacetBackdrop, "x = /p.png\n", Change{Key: "x", To: "/p.png"}, nil, "/p.png"},
		{desk.FacetIcons, "x = Shingle\n", Change{Key: "x", From: "own", To: "Shingle"}, nil, "Shingle"},
		{desk.FacetBarEdge, "x = down\n", Change{Key: "x", From: "up", To: "down"}, map[string]string{"down": "bottom", "up": "top"}, "bottom"},
		{desk.FacetNotices, "x = \"a \\\"b\\\"\"\n", Change{Key: "x", From: `c\d`, To: `a "b"`}, nil, `a "b"`},
	} {
		d, write := bench(t)
		write(".config/bar/rc", c.text)
		write(".icons/Shingle/index.theme", "[Icon Theme]\nName=Shingle\nDirectories=16\n[16]\nSize=16\n")
		c.change.Path, c.change.Format = "/home/me/.config/bar/rc", "lines"
		l := Lesson{Change: c.change, Facet: c.facet, Words: c.words}
		require.NoError(t, l.Check())
		b, err := Descriptor(d, About{ID: "bar", Title: `A "bar"`, Kind: "shell", Restart: "program"}, []Lesson{l}, nil)
		require.NoError(t, err, c.facet)
		s, err := desk.ParseSurface(b)
		require.NoError(t, err, "%s", b)
		require.Equal(t, "{config}/bar/rc", s.Facets[0].Sources[0].Path)
		require.Equal(t, c.facet == desk.FacetIcons, s.Facets[0].Lookup.Kind == "icon-theme")
		r := reading.Of(d, s, s.Facets[0])
		require.Equal(t, c.shows, r.Value, "%s", b)
		require.Equal(t, 1, r.Source.Line)

		more, err := Descriptor(d, About{ID: "bar"}, []Lesson{{Change: c.change, Facet: desk.FacetMenuIcon}}, b)
		if strings.HasPrefix(c.change.To, "/") {
			require.NoError(t, err)
			require.True(t, strings.HasPrefix(string(more), string(b)), "what was there keeps its letters")
		} else {
			require.ErrorIs(t, err, ErrLesson, "the picture of a menu is a path")
		}
		_, err = Descriptor(d, About{ID: "bar"}, []Lesson{l}, b)
		require.ErrorIs(t, err, ErrLesson, "it is told already")
	}
	for _, l := range []Lesson{
		{Change: Change{To: "1"}, Facet: desk.FacetDark},
		{Change: Change{To: "1"}, Facet: desk.FacetDark, Words: map[string]string{"1": "green"}},
		{Change: Change{To: "red"}, Facet: desk.FacetAccent}, {Change: Change{To: "much"}, Facet: desk.FacetOpacity},
		{Change: Change{To: "9000"}, Facet: desk.FacetPointerSize}, {Change: Change{To: "x"}, Facet: "tides"}, {Change: Change{From: "x", Gone: true}, Facet: desk.FacetIcons},
	} {
		require.ErrorIs(t, l.Check(), ErrLesson, "%+v", l)
	}
}

// TestGuesses: what a key most likely sets.
func TestGuesses(t *testing.T) {
	d, write := bench(t)
	write(".icons/Shingle/index.theme", "[Icon Theme]\nName=Shingle\nDirectories=16\n[16]\nSize=16\n")
	for _, c := range []struct{ kind, key, to, want string }{
		{"program", "gtk-icon-theme", "X", desk.FacetIcons}, {"program", "cursorSize", "48", desk.FacetPointerSize}, {"program", "cursor_theme", "X", desk.FacetPointer},
		{"program", "font_family", "X", desk.FacetFont}, {"terminal", "font_family", "X", desk.FacetFontMono}, {"terminal", "background_opacity", "0.9", desk.FacetGround},
		{"program", "theme", "Shingle", desk.FacetIcons}, {"shell", "theme", "Tidal", desk.FacetBar}, {"program", "picture", "/p.png", desk.FacetBackdrop}, {"program", "thing", "x", ""},
	} {
		require.Equal(t, c.want, Guess(d, c.kind, Change{Key: c.key, To: c.to}), c.key)
	}
}
