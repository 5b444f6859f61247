package iconbench_test

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/iconbench"
	"ivelt/core/layer"
	"ivelt/core/parcel"
)

const square = `<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48"><rect x="4" y="4" width="40" height="40" fill="#3a6ea5"/></svg>`

func pixels(size int) string {
	var b bytes.Buffer
	im := image.NewNRGBA(image.Rect(0, 0, size, size))
	for i := range im.Pix {
		im.Pix[i] = 200
	}
	_ = png.Encode(&b, im)
	return b.String()
}

func program(name, icon, more string) string {
	return "[Desktop Entry]\nType=Application\nName=" + name + "\nExec=" + strings.ToLower(name) + " %F\nIcon=" + icon + "\n" + more
}

// onDesk is a desk with files, by their paths below the home or, with a slash first, the system.
func onDesk(t testing.TB, files map[string]string) *desk.Desk {
	t.Helper()
	home, system := t.TempDir(), t.TempDir()
	for name, text := range files {
		at := filepath.Join(home, name)
		if strings.HasPrefix(name, "/") {
			at = filepath.Join(system, name)
		}
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
	d, err := desk.Open("shore", home, system, "/home/me")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	d.Cache = cache.New(cache.Bounds{Bytes: 64 << 20, Age: time.Hour})
	return d
}

func shore(t *testing.T, more map[string]string) *desk.Desk {
	files := map[string]string{
		".icons/Reef/index.theme":                               "[Icon Theme]\nName=Reef\nInherits=Kelp,Gone\nDirectories=16/apps,48/apps,any/places,any/mimetypes\n[16/apps]\nSize=16\nType=Fixed\n[48/apps]\nSize=48\nType=Fixed\n[any/places]\nSize=48\nMinSize=8\nMaxSize=256\nType=Scalable\n[any/mimetypes]\nSize=48\nMinSize=8\nMaxSize=256\nType=Scalable\n",
		".icons/Kelp/index.theme":                               "[Icon Theme]\nName=Kelp\nDirectories=any/apps\n[any/apps]\nSize=48\nMinSize=8\nMaxSize=256\nType=Scalable\n",
		".icons/Kelp/any/apps/b.svg":                            square,
		".icons/Reef/48/apps/a.svg":                             square,
		".icons/Reef/16/apps/a.png":                             pixels(16),
		".icons/Reef/16/apps/tiny.png":                          pixels(16),
		".icons/Reef/48/apps/utilities-terminal.svg":            square,
		".icons/Reef/48/apps/tide-watcher.svg":                  square,
		".icons/Reef/any/places/folder.svg":                     square,
		".icons/Reef/any/places/folder-symbolic.svg":            square,
		".icons/Reef/any/mimetypes/text-x-generic.svg":          square,
		"/usr/share/icons/hicolor/index.theme":                  "[Icon Theme]\nName=Hicolor\nDirectories=48x48/apps\n[48x48/apps]\nSize=48\n",
		"/usr/share/icons/hicolor/48x48/apps/c.png":             pixels(48),
		"/usr/share/pixmaps/own.png":                            pixels(48),
		"/usr/share/applications/a.desktop":                     program("Ay", "a.png", ""),
		"/usr/share/applications/b.desktop":                     program("Bee", "b", ""),
		"/usr/share/applications/c.desktop":                     program("Cee", "c", ""),
		"/usr/share/applications/d.desktop":                     program("Dee", "/usr/share/pixmaps/own.png", ""),
		"/usr/share/applications/org.shore.TideWatcher.desktop": program("Tides", "wader-count", "Comment=Wait for water\n"),
		"/usr/share/applications/term.desktop":                  program("Line", "line", "Categories=System;TerminalEmulator;\n"),
		"/usr/share/applications/t.desktop":                     program("Tiny", "tiny", ""),
		"/usr/share/applications/q.desktop":                     program("Quiet", "a", "NoDisplay=true\n"),
		"/usr/share/mime/globs2":                                "50:text/plain:*.txt\n50:model/odd:*.odd\n",
	}
	for name, text := range more {
		files[name] = text
	}
	return onDesk(t, files)
}

// TestCoverageSaysWhoseEachPictureIs: each state has a case, and each finding.
func TestCoverageSaysWhoseEachPictureIs(t *testing.T) {
	b, err := iconbench.On(shore(t, nil), "Reef")
	require.NoError(t, err)
	r := b.Look()
	require.Equal(t, []string{"Reef", "Kelp", "hicolor"}, r.Chain)
	for key, want := range map[string]iconbench.State{
		"programs/a": iconbench.Scaled, "programs/b": iconbench.Lent, "programs/c": iconbench.Brought, "programs/d": iconbench.Fixed,
		"programs/org.shore.TideWatcher": iconbench.Nothing, "programs/t": iconbench.Scaled, "quiet/q": iconbench.Scaled,
		"places/folder": iconbench.Own, "places/folder-documents": iconbench.Shorter, "places/user-trash": iconbench.Nothing,
		"kinds/text/plain": iconbench.Shorter, "kinds/model/odd": iconbench.Nothing, "one-colour/folder-remote-symbolic": iconbench.Shorter,
	} {
		it, ok := r.Of(key)
		require.True(t, ok, key)
		require.Equal(t, want, it.State, key)
	}
	a, _ := r.Of("programs/a")
	require.Equal(t, []int{0, 48, 0}, []int{a.Answers[0].Drawn, a.Answers[1].Drawn, a.Answers[2].Drawn}, "GTK would rather shrink than enlarge")
	require.Equal(t, "home/me/.icons/Reef/48/apps/a.svg", a.Main().Path)
	codes := map[string]string{}
	for _, f := range r.Findings {
		codes[f.Code] += f.Text + "\n"
	}
	require.Contains(t, codes["programs-without"], "2 of 7 programs show no picture: Line, Tides.")
	require.Contains(t, codes["group-without"], "Kinds of file: ")
	require.Contains(t, codes["pack-missing"], "Gone cannot be used")
	require.Contains(t, codes["group-soft"], "Programs: 1 of 7 are bitmaps that get enlarged, and blur: Tiny.")
	require.Contains(t, codes["programs-brought"], "1 of 7 programs show the picture that they came with: Cee.")
	require.Contains(t, codes["programs-lent"], "1 of 7 programs show a picture of a pack that is inherited: Bee.")

	// What the pack has that a layer was made over is the layer's own, and what it can show.
	mine := layer.Recipe{Name: "Mine", Folder: "Mine", Base: layer.Base{Kind: parcel.Icons, Folder: "Reef"}, Icons: []layer.Icon{{Name: "wader-count", Like: "a"}}}
	b, err = iconbench.On(shore(t, map[string]string{
		".icons/Mine/layer.toml": string(mine.Bytes()), ".icons/Mine/index.theme": "[Icon Theme]\nName=Mine\nInherits=Reef\nDirectories=48/apps\n[48/apps]\nSize=48\n", ".icons/Mine/48/apps/wader-count.svg": square,
	}), "Mine")
	require.NoError(t, err)
	r = b.Look()
	folder, _ := r.Of("places/folder")
	bee, _ := r.Of("programs/b")
	tides, _ := r.Of("programs/org.shore.TideWatcher")
	require.Equal(t, []iconbench.State{iconbench.Own, iconbench.Lent, iconbench.Scaled}, []iconbench.State{folder.State, bee.State, tides.State})
	require.Equal(t, "tide-watcher", b.Nearest(t.Context(), tides, 1)[0].Name)

	_, err = iconbench.On(b.Desk, "Gone")
	require.ErrorContains(t, err, "Gone")
}

// TestNearestGivesItsReasons: by name, by what kind of program it is, and by the picture.
func TestNearestGivesItsReasons(t *testing.T) {
	b, err := iconbench.On(shore(t, map[string]string{".icons/Reef/48/apps/looks.png": pixels(48)}), "Reef")
	require.NoError(t, err)
	r := b.Look()
	first := func(key string) iconbench.Proposal {
		it, ok := r.Of(key)
		require.True(t, ok)
		found := b.Nearest(t.Context(), it, iconbench.Proposals)
		require.NotEmpty(t, found, key)
		return found[0]
	}
	require.Equal(t, []string{"tide-watcher", "it is called tide-watcher"}, []string{first("programs/org.shore.TideWatcher").Name, first("programs/org.shore.TideWatcher").Why[0]})
	require.Equal(t, []string{"utilities-terminal", "it stands for programs of the kind TerminalEmulator"}, []string{first("programs/term").Name, first("programs/term").Why[0]})
	require.Equal(t, []string{"looks", "it looks like the picture that is shown now"}, []string{first("programs/c").Name, first("programs/c").Why[0]})
}

// TestOddOnesAreToldWhy: among many rings of one colour a few solid squares of another stand out.
func TestOddOnesAreToldWhy(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 28))
	files := map[string]string{}
	for i := range 90 {
		files[fmt.Sprintf(".icons/Reef/48/apps/ring-%02d.svg", i)] = fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48"><circle cx="24" cy="24" r="%d" fill="none" stroke="#a0466b" stroke-width="2"/><path d="M%d 16h%dv%dz" fill="#a0466b"/></svg>`, 19+r.IntN(3), 14+r.IntN(6), 8+r.IntN(8), 6+r.IntN(9))
	}
	files[".icons/Reef/48/apps/ring-odd.svg"] = `<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48"><rect width="48" height="48" fill="#2f7f2c"/></svg>`
	b, err := iconbench.On(shore(t, files), "Reef")
	require.NoError(t, err)
	_, known := b.Compared()
	require.False(t, known)
	shown, err := b.OutOfPlace(t.Context(), b.Look().Coverage, func(done, all int) { require.LessOrEqual(t, done, all) })
	require.NoError(t, err)
	again, known := b.Compared()
	require.True(t, known)
	require.Equal(t, shown, again)
	for _, s := range shown {
		if s.Title == "ring-odd" {
			require.True(t, s.Odd)
			require.NotEmpty(t, s.Why)
			require.Contains(t, strings.Join(s.Why, "\n"), "half of the others are from")
		} else if strings.HasPrefix(s.Title, "ring-") {
			require.False(t, s.Odd, "%+v", s)
		}
	}
	ended, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = b.OutOfPlace(ended, b.Look().Coverage, nil)
	require.ErrorIs(t, err, context.Canceled)
}

// TestBadIconsEndInASentence: pictures of no size, pictures that are none, huge ones, links to
// nothing and packs without a description.
func TestBadIconsEndInASentence(t *testing.T) {
	b, err := iconbench.On(shore(t, map[string]string{
		".icons/Reef/48/apps/line.svg": `<svg xmlns="http://www.w3.org/2000/svg" width="0" height="0"/>`, ".icons/Reef/48/apps/wader-count.png": "no picture",
		".icons/Reef/48/apps/c.svg": strings.Repeat(" ", 5<<20), ".icons/Empty/48/x.png": pixels(4),
	}), "Reef")
	require.NoError(t, err)
	shown, err := b.OutOfPlace(t.Context(), b.Look().Coverage, nil)
	require.NoError(t, err)
	for _, s := range shown {
		require.NotContains(t, s.Path, "line.svg")
		require.False(t, s.Odd, "too few to tell")
	}
	_, err = b.Read("home/me/.icons/Reef/48/apps/c.svg")
	require.Error(t, err)
	_, err = iconbench.On(b.Desk, "Empty")
	require.ErrorContains(t, err, "index.theme")
	_, ok := iconbench.LookOf(t.Context(), []byte(pixels(1)))
	require.False(t, ok, "a single pixel")
	one := image.NewNRGBA(image.Rect(0, 0, 1, 1))
	one.Set(0, 0, color.White)
	require.Equal(t, []iconbench.Oddness{{}}, iconbench.Odd(make([]iconbench.Look, 1)))
	_, err = iconbench.OnTrial(b.Desk, os.DirFS(t.TempDir()), "", "x")
	require.ErrorContains(t, err, "no icon pack")
}

func BenchmarkCoverage(b *testing.B) {
	files := map[string]string{".icons/Reef/index.theme": "[Icon Theme]\nName=Reef\nDirectories=" + strings.Repeat("48/apps,", 1) + "16/apps,24/apps,32/apps,64/apps,96/apps\n"}
	for _, size := range []int{16, 24, 32, 48, 64, 96} {
		files[".icons/Reef/index.theme"] += fmt.Sprintf("[%d/apps]\nSize=%d\n", size, size)
		for i := range 1500 {
			files[fmt.Sprintf(".icons/Reef/%d/apps/program-%d.svg", size, i)] = square
		}
	}
	for i := range 300 {
		files[fmt.Sprintf("/usr/share/applications/p%d.desktop", i)] = program(fmt.Sprint("Program ", i), fmt.Sprint("program-", 5*i), "")
	}
	d := onDesk(b, files)
	for b.Loop() {
		x, err := iconbench.On(d, "Reef")
		if err != nil {
			b.Fatal(err)
		}
		x.Look()
	}
}
