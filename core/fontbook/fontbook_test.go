package fontbook_test

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goitalic"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/fontbook"
)

// TestFacesAreFound by family, weight, slant and the way settings write them; and anew once
// a folder has changed.
func TestFacesAreFound(t *testing.T) {
	home, system := t.TempDir(), t.TempDir()
	put := func(name string, b []byte) {
		require.NoError(t, os.MkdirAll(filepath.Dir(name), 0o755))
		require.NoError(t, os.WriteFile(name, b, 0o644))
	}
	put(system+"/usr/share/fonts/go/regular.ttf", goregular.TTF)
	put(system+"/usr/share/fonts/go/bold.ttf", gobold.TTF)
	put(system+"/usr/share/fonts/go/italic.TTF", goitalic.TTF)
	put(system+"/usr/share/fonts/go/broken.ttf", []byte("this is no font"))
	put(system+"/usr/share/fonts/go/regular.txt", goregular.TTF)
	d, err := desk.Open("d", home, system, "/home/me")
	require.NoError(t, err)
	folders := []string{"/usr/share/fonts", "~/.fonts"}
	b := fontbook.Of(d, folders)
	require.Same(t, b, fontbook.Of(d, folders), "which is kept")
	require.Len(t, b.Families(), 1)
	require.Len(t, b.Faces("go"), 3)
	for value, want := range map[string]string{
		"Go 11": "regular.ttf", "Go": "regular.ttf", "go Bold 11": "bold.ttf", "Go Italic 9.5": "italic.TTF", "Go Semi-Bold 11": "bold.ttf", "Go, 11": "regular.ttf", "Go Light 11": "regular.ttf",
		"Gone 11": "", "Goal Bold 11": "", "": "", "Bold 11": "",
	} {
		f, ok := b.Setting(value)
		require.Equal(t, want != "", ok, value)
		if ok {
			require.Equal(t, want, filepath.Base(f.File), value)
		}
	}
	f, ok := b.Find("GO", 650, false)
	require.True(t, ok)
	require.Equal(t, 600, f.Weight)
	_, ok = b.Find("Go Mono", 400, false)
	require.False(t, ok)

	put(home+"/.fonts/mono.ttf", gomono.TTF)
	b = fontbook.Of(d, folders)
	require.Len(t, b.Families(), 2)
	f, ok = b.Instead(d, "monospace", 400, false)
	require.True(t, ok)
	first := f.File
	conf := system + "/etc/fonts/fonts.conf"
	put(conf, []byte("<fontconfig><alias><family>monospace</family><prefer><family>Go Mono</family></prefer></alias></fontconfig>"))
	f, ok = b.Instead(d, "monospace", 400, false)
	require.True(t, ok)
	require.Equal(t, "mono.ttf", filepath.Base(f.File), "as the desk's configuration says")
	require.NoError(t, os.Remove(conf))
	require.NoError(t, os.Chtimes(filepath.Dir(conf), time.Time{}, time.Now()))
	f, _ = b.Instead(d, "monospace", 400, false)
	require.Equal(t, first, f.File, "which is read again")
	_, ok = new(fontbook.Book).Instead(d, "Go", 400, false)
	require.False(t, ok)
}

// TestManyFonts: all of five thousand are found, in folders below and behind links too, in
// fontconfig's order; only the folder that changes is read again.
func TestManyFonts(t *testing.T) {
	home, system := t.TempDir(), t.TempDir()
	one := filepath.Join(t.TempDir(), "one.ttf")
	require.NoError(t, os.WriteFile(one, goregular.TTF, 0o644))
	fonts := filepath.Join(system, "usr/share/fonts")
	for i := range 50 {
		dir := filepath.Join(fonts, fmt.Sprintf("%02d", i%25), fmt.Sprint("more", i))
		require.NoError(t, os.MkdirAll(dir, 0o755))
		for j := range 100 {
			require.NoError(t, os.Link(one, filepath.Join(dir, fmt.Sprint(j, ".ttf"))))
		}
	}
	require.NoError(t, os.Link(one, filepath.Join(fonts, "z.ttf")))
	require.NoError(t, os.Link(one, filepath.Join(fonts, ".hidden.ttf")))
	require.NoError(t, os.Symlink("/usr/share/elsewhere", filepath.Join(fonts, "a-link")))
	require.NoError(t, os.Symlink("..", filepath.Join(fonts, "a-circle")))
	require.NoError(t, os.MkdirAll(filepath.Join(system, "usr/share/elsewhere"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(system, "usr/share/elsewhere/mono.ttf"), gomono.TTF, 0o644))
	memory := cache.New(cache.Bounds{Bytes: 64 << 20, Age: time.Hour})
	book := func() *fontbook.Book {
		d, err := desk.Open("d", home, system, "/home/me")
		require.NoError(t, err)
		d.Cache = memory
		return fontbook.Of(d, []string{"/usr/share/fonts"})
	}
	b := book()
	require.Len(t, b.Faces("Go"), 5001)
	require.Len(t, b.Faces("Go Mono"), 1)
	f, ok := b.Find("Go", 400, false)
	require.True(t, ok)
	require.Equal(t, "usr/share/fonts/z.ttf", f.File, "the folder's own before those below it")
	read := memory.Counts().Misses
	require.Same(t, b, book())
	require.Equal(t, read, memory.Counts().Misses, "nothing is read again")
	require.NoError(t, os.Link(one, filepath.Join(fonts, "07/more7/new.ttf")))
	require.Len(t, book().Faces("Go"), 5002)
	require.Equal(t, read+2, memory.Counts().Misses, "one folder, and what is put together from all")
}
