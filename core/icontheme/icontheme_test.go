package icontheme_test

import (
	"fmt"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/icontheme"
	"ivelt/core/within"
)

func tree(files map[string]string) fstest.MapFS {
	out := fstest.MapFS{}
	for name, text := range files {
		out[name] = &fstest.MapFile{Data: []byte(text)}
	}
	return out
}

func dir(path string, size int, more string) string {
	return fmt.Sprintf("[%s]\nSize=%d\n%s\n", path, size, more)
}

// TestLookupSpecFollowsTheSpecification takes the cases of the pseudocode in
// the Icon Theme Specification 0.13, section "Icon Lookup", one by one.
func TestLookupSpecFollowsTheSpecification(t *testing.T) {
	x := icontheme.NewIndex(icontheme.Config{Bases: []string{"a", "b", "pixmaps"}, Theme: "Child", FS: tree(map[string]string{
		"a/Child/index.theme": "[Icon Theme]\nName=Child\nInherits=Parent\nDirectories=16,22,48,s,32@2\n" +
			dir("16", 16, "Type=Fixed") + dir("22", 22, "Type=Threshold\nThreshold=3") + dir("48", 48, "Type=Fixed") +
			dir("s", 64, "Type=Scalable\nMinSize=60\nMaxSize=200") + dir("32@2", 32, "Scale=2\nType=Fixed"),
		"a/Child/16/leaf.png": "", "a/Child/22/leaf.png": "", "a/Child/48/leaf.png": "", "a/Child/s/leaf.svg": "", "a/Child/32@2/leaf.png": "",
		"a/Child/48/both.svg": "", "a/Child/48/both.png": "", "a/Child/48/both.xpm": "",
		"b/Child/22/only-b.png":   "",
		"a/Child/48/far.png":      "",
		"b/Parent/index.theme":    "[Icon Theme]\nName=Parent\nDirectories=16\n" + dir("16", 16, ""),
		"b/Parent/16/far.png":     "",
		"b/Parent/16/old.png":     "",
		"a/hicolor/index.theme":   "[Icon Theme]\nName=Hicolor\nDirectories=48\n" + dir("48", 48, ""),
		"a/hicolor/48/common.png": "",
		"pixmaps/loose.xpm":       "", "pixmaps/loose.svg": "", "pixmaps/logo.png": "",
	})})
	for _, c := range []struct {
		name        string
		size, scale int
		want        string
	}{
		{"leaf", 16, 1, "a/Child/16/leaf.png"},       // fixed, exact
		{"leaf", 25, 1, "a/Child/22/leaf.png"},       // within the threshold
		{"leaf", 28, 1, "a/Child/22/leaf.png"},       // nothing fits: the least distance
		{"leaf", 100, 1, "a/Child/s/leaf.svg"},       // scalable, in range
		{"leaf", 300, 1, "a/Child/s/leaf.svg"},       // scalable, out of range, still nearest
		{"leaf", 32, 2, "a/Child/32@2/leaf.png"},     // the scale matches
		{"leaf", 24, 2, "a/Child/48/leaf.png"},       // 48 px asked for, 48 px there, another scale
		{"both", 48, 1, "a/Child/48/both.png"},       // png before svg before xpm
		{"only-b", 22, 1, "b/Child/22/only-b.png"},   // the theme goes on in a later base folder
		{"far", 16, 1, "a/Child/48/far.png"},         // the child's wrong size before the parent's right one
		{"old", 256, 1, "b/Parent/16/old.png"},       // inherited
		{"common", 16, 1, "a/hicolor/48/common.png"}, // the fallback theme, though nobody names it
		{"loose", 48, 1, "pixmaps/loose.svg"},        // unthemed
		{"logo", 16, 2, "pixmaps/logo.png"},          // unthemed, whatever the size
		{"absent", 48, 1, ""},                        //
		{"Leaf", 48, 1, ""},                          // names are case-sensitive
		{"leaf.png", 48, 1, ""},                      // without the ending
		{"leaf-symbolic", 16, 1, ""},                 // no generic fallback
	} {
		icon, ok := x.LookupSpec(c.name, c.size, c.scale)
		require.Equal(t, c.want != "", ok, c)
		require.Equal(t, c.want, icon.Path, c)
	}
}

func TestCyclesEnd(t *testing.T) {
	x := icontheme.NewIndex(icontheme.Config{Bases: []string{"i"}, Theme: "A", FS: tree(map[string]string{
		"i/A/index.theme": "[Icon Theme]\nName=A\nInherits=A,B\nDirectories=16\n" + dir("16", 16, ""),
		"i/B/index.theme": "[Icon Theme]\nName=B\nInherits=A,C,B\nDirectories=16\n" + dir("16", 16, ""),
		"i/C/index.theme": "no key file",
		"i/B/16/leaf.png": "",
	})})
	var chain []string
	for _, theme := range x.Chain() {
		chain = append(chain, theme.Folder)
	}
	require.Equal(t, []string{"A", "B"}, chain)
	icon, ok := x.Lookup("leaf", 16, 1)
	require.True(t, ok)
	require.Equal(t, icontheme.Icon{Path: "i/B/16/leaf.png", Theme: "B", Size: 16, Scale: 1, Shown: 16}, icon)
	require.Len(t, x.Problems(), 2, "C is broken, the fallback theme is not there")
	require.ErrorIs(t, x.Problems()[0].Err, icontheme.ErrIndex)
	require.ErrorIs(t, x.Problems()[1].Err, icontheme.ErrNoIndex)
}

// TestHowLargeAnIconIsShown: one of a directory of one size is as large as that, whatever is
// asked for (icon_info_ensure_scale_and_pixbuf of GTK 3.24; held against GTK in truth).
func TestHowLargeAnIconIsShown(t *testing.T) {
	x := icontheme.NewIndex(icontheme.Config{Bases: []string{"a", "loose"}, Theme: "Child", FS: tree(map[string]string{
		"a/Child/index.theme":  "[Icon Theme]\nName=Child\nDirectories=24,22,s\n" + dir("24", 24, "Type=Fixed") + dir("22", 22, "Type=Threshold") + dir("s", 48, "Type=Scalable\nMinSize=32\nMaxSize=64"),
		"a/Child/24/fixed.png": "", "a/Child/22/near.png": "", "a/Child/s/drawn.svg": "", "loose/alone.png": "",
	})})
	for name, want := range map[string]map[int]int{
		"fixed": {16: 24, 24: 24, 48: 24}, "near": {16: 22, 22: 22, 23: 22}, "drawn": {16: 32, 40: 40, 100: 64}, "alone": {16: 16, 48: 48},
	} {
		for size, shown := range want {
			icon, ok := x.Lookup(name, size, 1)
			require.True(t, ok, name)
			require.Equal(t, shown, icon.Shown, "%s at %d", name, size)
		}
	}
}

func TestFindSaysWhyNot(t *testing.T) {
	fsys := tree(map[string]string{
		"a/Odd/index.theme":   "[Icon Theme]\nName=Odd\n",
		"a/Half/index.theme":  "[Icon Theme\n",
		"b/Half/index.theme":  "[Icon Theme]\nName=Whole\nDirectories=16,32\n" + dir("16", 16, ""),
		"a/Empty/48/leaf.png": "",
	})
	bases := []string{"a", "b"}
	_, _, err := icontheme.Find(fsys, bases, "Odd")
	require.ErrorIs(t, err, icontheme.ErrIndex)
	require.ErrorContains(t, err, "no Directories")
	_, _, err = icontheme.Find(fsys, bases, "Empty")
	require.ErrorIs(t, err, icontheme.ErrNoIndex)
	_, _, err = icontheme.Find(fsys, bases, "../a/Odd")
	require.ErrorIs(t, err, icontheme.ErrNoIndex)
	theme, at, err := icontheme.Find(fsys, bases, "Half")
	require.NoError(t, err, "a broken description gives way to one in a later folder")
	require.Equal(t, "b/Half/index.theme", at)
	require.Equal(t, "Whole", theme.Name)
	require.Equal(t, []string{"directory 32 has no Size"}, theme.Problems)
}

func FuzzParse(f *testing.F) {
	f.Add([]byte("[Icon Theme]\nName=A\nDirectories=16,32@2\n[16]\nSize=16\nType=Scalable\nMinSize=-4\n[32@2]\nSize=99999999999999999999\n"))
	f.Add([]byte("[Icon Theme]\nDirectories=\nInherits=,,\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		within.Reason(t, len(b), func() {
			theme, err := icontheme.Parse("X", b)
			if err != nil {
				require.ErrorIs(t, err, icontheme.ErrIndex)
				return
			}
			files := fstest.MapFS{"i/X/index.theme": &fstest.MapFile{Data: b}}
			x := icontheme.NewIndex(icontheme.Config{FS: files, Bases: []string{"i"}, Theme: "X"})
			require.Equal(t, theme.Directories, x.Chain()[0].Directories)
			x.Lookup("leaf", 48, 1)
			x.LookupSpec("leaf", 48, 2)
		})
	})
}

// TestWhatAnIndexTells besides where a name ends: the best of several names, theme by theme as
// GTK does; what icons there are; whether it is still what was read.
func TestWhatAnIndexTells(t *testing.T) {
	files := tree(map[string]string{
		"a/Child/index.theme": "[Icon Theme]\nName=Child\nInherits=Parent\nDirectories=16,48,s\n" + dir("16", 16, "Type=Fixed") + dir("48", 48, "Type=Fixed") +
			dir("s", 48, "Type=Scalable\nMinSize=40\nMaxSize=60"),
		"a/Child/16/leaf.png": "", "a/Child/48/leaf.png": "", "a/Child/s/leaf.svg": "", "a/Child/16/plain.png": "",
		"a/Parent/index.theme": "[Icon Theme]\nName=Parent\nDirectories=48\n" + dir("48", 48, ""),
		"a/Parent/48/rare.png": "", "pixmaps/loose.xpm": "",
	})
	bases := []string{"a", "pixmaps"}
	x := icontheme.NewIndex(icontheme.Config{Bases: bases, Theme: "Child", FS: files})
	for _, c := range []struct {
		names      []string
		name, path string
	}{
		{[]string{"rare", "plain"}, "plain", "a/Child/16/plain.png"}, {[]string{"none", "rare"}, "rare", "a/Parent/48/rare.png"},
		{[]string{"none", "loose"}, "loose", "pixmaps/loose.xpm"}, {[]string{"none"}, "", ""},
	} {
		icon, name, ok := x.LookupBest(c.names, 48, 1)
		require.Equal(t, c.path != "", ok, c)
		require.Equal(t, []string{c.name, c.path}, []string{name, icon.Path}, c)
	}
	for size, want := range map[int]string{16: "a/Child/16/leaf.png", 48: "a/Child/48/leaf.png", 56: "a/Child/s/leaf.svg", 24: "a/Child/s/leaf.svg", 200: "a/Child/s/leaf.svg"} {
		icon, ok := x.Lookup("leaf", size, 1)
		require.True(t, ok)
		require.Equal(t, want, icon.Path, "%d px", size)
		require.Equal(t, "a/Child", icontheme.Folder(bases, icon))
	}
	require.ElementsMatch(t, []string{"leaf", "plain"}, x.Names(1))
	require.ElementsMatch(t, []string{"leaf", "plain", "rare"}, x.Names(0))
	require.Equal(t, 7, x.Len(), "each folder's, the child's 48 for the parent too, as GTK looks there, and one of no theme")
	require.Empty(t, icontheme.Folder(bases, icontheme.Icon{Path: "pixmaps/loose.xpm"}))
	for file, want := range map[string]string{"leaf.png": "leaf", "leaf-symbolic.svg": "leaf-symbolic", "leaf.txt": "", "leaf": "", ".png": ""} {
		name, ok := icontheme.IconName(file)
		require.Equal(t, want != "", ok, file)
		if ok {
			require.Equal(t, want, name)
		}
	}
	before := x.Stamp(files)
	require.Equal(t, before, x.Stamp(files))
	files["a/Parent/index.theme"].Data = append(files["a/Parent/index.theme"].Data, "\n# more\n"...)
	require.NotEqual(t, before, x.Stamp(files))
}
