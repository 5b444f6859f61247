package truth

import (
	"cmp"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"runtime/debug"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/demo"
)

// bigPack is an icon theme of about 9,000 files: the demo's packs side by side
// in one folder.
func bigPack(b *testing.B) string {
	b.Helper()
	dir := filepath.Join(b.TempDir(), "Big")
	packs := b.TempDir()
	require.NoError(b, demo.WritePacks(packs, "Shingle"))
	index, err := os.ReadFile(filepath.Join(packs, "Shingle/index.theme"))
	require.NoError(b, err)
	require.NoError(b, os.CopyFS(dir, os.DirFS(filepath.Join(packs, "Shingle"))))
	// More names: each directory's files again under other names.
	for n := range 3 {
		require.NoError(b, filepath.WalkDir(filepath.Join(packs, "Shingle"), func(p string, d os.DirEntry, err error) error {
			if err != nil || !d.Type().IsRegular() || d.Name() == "index.theme" {
				return err
			}
			rel, _ := filepath.Rel(filepath.Join(packs, "Shingle"), p)
			text, err := os.ReadFile(p)
			require.NoError(b, err)
			return os.WriteFile(filepath.Join(dir, filepath.Dir(rel), fmt.Sprint("x", n, "-", filepath.Base(rel))), text, 0o644)
		}))
	}
	require.NoError(b, os.WriteFile(filepath.Join(dir, "index.theme"), index, 0o644))
	return dir
}

// against runs a command of Debian's once for each round and reports ours as
// a multiple of theirs.
func against(b *testing.B, theirs func() *exec.Cmd, ours func()) {
	b.Helper()
	var us, them time.Duration
	for b.Loop() {
		begun := time.Now()
		require.NoError(b, theirs().Run())
		them += time.Since(begun)
		begun = time.Now()
		ours()
		us += time.Since(begun)
	}
	b.ReportMetric(float64(us)/float64(them), "x-theirs")
	b.ReportMetric(float64(us.Milliseconds())/float64(b.N), "ms-ours")
	b.ReportMetric(float64(them.Milliseconds())/float64(b.N), "ms-theirs")
}

func benchInspect(b *testing.B, pack, list []string) {
	dir := bigPack(b)
	file := filepath.Join(b.TempDir(), "Big"+pack[0])
	c := exec.CommandContext(b.Context(), pack[1], append(pack[2:], file, "Big")...)
	c.Dir = filepath.Dir(dir)
	require.NoError(b, c.Run())
	defer debug.SetGCPercent(debug.SetGCPercent(400)) // as the command does
	against(b, func() *exec.Cmd { return exec.CommandContext(b.Context(), list[0], append(list[1:], file)...) }, func() {
		p, err := parcel.Open(b.Context(), file, archive.Options{})
		require.NoError(b, err)
		require.Len(b, p.Recognise(b.Context()).Pieces, 1)
		require.Greater(b, len(p.Entries()), 8000)
	})
}

func BenchmarkInspectTarXz(b *testing.B) {
	benchInspect(b, []string{".tar.xz", "tar", "-cJf"}, []string{"tar", "-tJf"})
}

func BenchmarkInspectZip(b *testing.B) {
	benchInspect(b, []string{".zip", "zip", "-qr"}, []string{"unzip", "-Z1"})
}

// BenchmarkFonts looks into about 270 fonts: those of the Debian packages,
// several times over.
func BenchmarkFonts(b *testing.B) {
	dir := manyFonts(b, b.TempDir())
	against(b, func() *exec.Cmd { return exec.CommandContext(b.Context(), "fc-scan", "--format", "%{family}\n", dir) }, func() {
		p, err := parcel.Open(b.Context(), dir, archive.Options{})
		require.NoError(b, err)
		require.Greater(b, len(p.Recognise(b.Context()).Pieces), 8)
	})
}

// manyFonts fills a folder with about 270 fonts and returns it.
func manyFonts(b *testing.B, dir string) string {
	n := 0
	for n < 270 {
		for _, from := range []string{"/usr/share/fonts/truetype/dejavu", "/usr/share/fonts/truetype/liberation", "/usr/share/fonts/truetype/lato"} {
			files, err := filepath.Glob(from + "/*")
			require.NoError(b, err)
			for _, f := range files {
				text, err := os.ReadFile(f)
				require.NoError(b, err)
				require.NoError(b, os.WriteFile(filepath.Join(dir, fmt.Sprint(n, "-", filepath.Base(f))), text, 0o644))
				n++
			}
		}
	}
	return dir
}

// BenchmarkManyPieces takes parcels apart in which each of many pieces is looked into, beside
// what lists them: none may be looked for from the start again.
func BenchmarkManyPieces(b *testing.B) {
	top := b.TempDir()
	fonts := filepath.Join(top, "usr/share/fonts/truetype/many")
	require.NoError(b, os.MkdirAll(fonts, 0o755))
	manyFonts(b, fonts)
	require.NoError(b, os.Mkdir(filepath.Join(top, "DEBIAN"), 0o755))
	require.NoError(b, os.WriteFile(filepath.Join(top, "DEBIAN/control"), []byte("Package: many\nVersion: 1\nArchitecture: all\nMaintainer: a\nDescription: a\n"), 0o644))
	for ending, how := range map[string][2][]string{
		".tar.gz": {{"tar", "-C", top, "-czf", "OUT", "usr"}, {"tar", "-tzf"}}, ".tar.xz": {{"tar", "-C", top, "-cJf", "OUT", "usr"}, {"tar", "-tJf"}}, ".deb": {{"dpkg-deb", "--root-owner-group", "-b", top, "OUT"}, {"dpkg-deb", "-c"}},
	} {
		b.Run(ending, func(b *testing.B) {
			file := filepath.Join(b.TempDir(), "many"+ending)
			made := slices.Clone(how[0])
			made[slices.Index(made, "OUT")] = file
			require.NoError(b, exec.CommandContext(b.Context(), made[0], made[1:]...).Run())
			against(b, func() *exec.Cmd { return exec.CommandContext(b.Context(), how[1][0], append(how[1][1:], file)...) }, func() {
				p, err := parcel.Open(b.Context(), file, archive.Options{})
				require.NoError(b, err)
				defer p.Close()
				require.Greater(b, len(p.Recognise(b.Context()).Pieces), 8)
			})
		})
	}
}

// BenchmarkRealParcels takes every package of the list apart, beside dpkg-deb, which lists it;
// -v -args -all shows the whole table.
func BenchmarkRealParcels(b *testing.B) {
	for _, pack := range realPacks(b) {
		b.Run(pack.name, func(b *testing.B) {
			against(b, func() *exec.Cmd { return exec.CommandContext(b.Context(), "dpkg-deb", "-c", pack.file) }, func() {
				p, err := parcel.Open(b.Context(), pack.file, archive.Options{})
				require.NoError(b, err)
				defer p.Close()
				p.Recognise(b.Context())
			})
		})
	}
}

// BenchmarkIndexTheme starts the whole program, as gtk-update-icon-cache does.
func BenchmarkIndexTheme(b *testing.B) {
	ivelt := ivelt(b)
	dir := bigPack(b)
	against(b, func() *exec.Cmd { return exec.CommandContext(b.Context(), "gtk-update-icon-cache", "-f", "-q", dir) }, func() {
		require.NoError(b, exec.CommandContext(b.Context(), ivelt, "icon", "--theme", "Big", "--path", filepath.Dir(dir), "folder").Run())
	})
}

// BenchmarkMemoryOfALargeParcel looks into parcels of 1 GB, whole process: how
// much memory it holds at most.
func BenchmarkMemoryOfALargeParcel(b *testing.B) {
	ivelt := ivelt(b)
	pack := filepath.Join(b.TempDir(), "Heavy")
	require.NoError(b, os.MkdirAll(filepath.Join(pack, "256"), 0o755))
	require.NoError(b, os.WriteFile(filepath.Join(pack, "index.theme"), []byte("[Icon Theme]\nName=Heavy\nDirectories=256\n[256]\nSize=256\n"), 0o644))
	noise := rand.NewChaCha8([32]byte{7})
	picture := make([]byte, 1<<20)
	for i := range 1024 {
		_, _ = noise.Read(picture)
		copy(picture, "\x89PNG\r\n\x1a\n")
		require.NoError(b, os.WriteFile(filepath.Join(pack, "256", fmt.Sprintf("icon-%d.png", i)), picture, 0o644))
	}
	for _, kind := range [][]string{{".zip", "zip", "-qr0"}, {".tar", "tar", "-cf"}, {".tar.zst", "tar", "--zstd", "-cf"}} {
		b.Run(kind[0][1:], func(b *testing.B) {
			file := filepath.Join(b.TempDir(), "heavy"+kind[0])
			c := exec.CommandContext(b.Context(), kind[1], append(kind[2:], file, "Heavy")...)
			c.Dir = filepath.Dir(pack)
			require.NoError(b, c.Run())
			most := 0.0
			for b.Loop() {
				c := exec.CommandContext(b.Context(), ivelt, "inspect", "--json", file)
				out, err := c.Output()
				require.NoError(b, err)
				require.Contains(b, string(out), `"Heavy"`)
				most = max(most, float64(c.ProcessState.SysUsage().(*syscall.Rusage).Maxrss)/1024)
			}
			b.ReportMetric(most, "MB-most")
		})
	}
}

// BenchmarkLookups asks 10,000 times, the index warm on both sides: the time
// GTK's program takes for one lookup is taken off its time for 10,000.
func BenchmarkLookups(b *testing.B) {
	packs := b.TempDir()
	require.NoError(b, demo.WritePacks(packs, "Wrack", "Shingle"))
	flags, err := exec.CommandContext(b.Context(), "pkg-config", "--cflags", "--libs", "gtk+-3.0").Output()
	require.NoError(b, err)
	program := filepath.Join(b.TempDir(), "iconlookup")
	require.NoError(b, exec.CommandContext(b.Context(), "cc", append([]string{"-O2", "-Wno-deprecated-declarations", "-o", program, "reference/iconlookup.c"}, strings.Fields(string(flags))...)...).Run())
	x := ourIndex([]string{packs}, "Wrack")
	names := x.Names(0)
	var in strings.Builder
	for i := range 10_000 {
		fmt.Fprintf(&in, "%s %d 1\n", names[i%len(names)], 16+i/len(names)*3)
	}
	ask := func(text string) time.Duration {
		c := exec.CommandContext(b.Context(), program, "Wrack", packs)
		c.Stdin = strings.NewReader(text)
		begun := time.Now()
		require.NoError(b, c.Run())
		return time.Since(begun)
	}
	var us, them time.Duration
	for b.Loop() {
		them += ask(in.String()) - ask("folder 16 1\n")
		begun := time.Now()
		for i := range 10_000 {
			x.Lookup(names[i%len(names)], 16+i/len(names)*3, 1)
		}
		us += time.Since(begun)
	}
	b.ReportMetric(float64(us)/float64(them), "x-theirs")
}

func avocet(b *testing.B) *desk.Desk {
	b.Helper()
	w, err := demo.Open(b.Context(), filepath.Join(b.TempDir(), "world"), false)
	require.NoError(b, err)
	return w.Avocet
}

func BenchmarkReadings(b *testing.B) {
	d := avocet(b)
	for b.Loop() {
		require.Greater(b, len(reading.All(d)), 20)
	}
}

// realDesk is this machine's system with a home that has 200 pieces, every other of
// which several surfaces are told.
func realDesk(b *testing.B) *desk.Desk {
	b.Helper()
	home := b.TempDir()
	put := func(name, text string) {
		require.NoError(b, os.MkdirAll(filepath.Dir(filepath.Join(home, name)), 0o755))
		require.NoError(b, os.WriteFile(filepath.Join(home, name), []byte(text), 0o644))
	}
	for i := range 70 {
		put(fmt.Sprintf(".local/share/icons/Pack%d/index.theme", i), "[Icon Theme]\nName=Pack\nDirectories=16\n[16]\nSize=16\n")
		put(fmt.Sprintf(".themes/Theme%d/gtk-3.0/gtk.css", i), "")
		put(fmt.Sprintf(".themes/Theme%d/gtk-4.0/gtk.css", i), "")
		put(fmt.Sprintf(".icons/Set%d/cursors/default", i), "Xcur")
	}
	for _, n := range []string{"3", "4"} {
		put(".config/gtk-"+n+".0/settings.ini", "[Settings]\ngtk-icon-theme-name=Pack69\ngtk-theme-name=Theme69\ngtk-cursor-theme-name=Gone\ngtk-font-name=Gone 10\n")
	}
	put(".config/environment.d/a.conf", "QT_QPA_PLATFORMTHEME=gtk3\n")
	d, err := desk.Open("real", home, "/", "")
	require.NoError(b, err)
	d.Env = map[string]string{"WAYLAND_DISPLAY": "w", "GSETTINGS_BACKEND": "keyfile"}
	d.SetSurfaces(d.Present(desk.Builtin()))
	return d
}

func BenchmarkReadingsOfARealDesk(b *testing.B) {
	d := realDesk(b)
	for b.Loop() {
		require.Greater(b, len(reading.All(d)), 20)
	}
}

// BenchmarkMatchBoard holds three desks against an outfit: the two of the demo,
// with all their troubles, and a real one.
func BenchmarkMatchBoard(b *testing.B) {
	w, err := demo.Open(b.Context(), filepath.Join(b.TempDir(), "world"), false)
	require.NoError(b, err)
	worn := outfit.Outfit{Name: "Salt"}
	for facet, want := range map[string]string{
		desk.FacetIcons: "Glasswort", desk.FacetWidgets: "Saltpan", desk.FacetBar: "Saltpan", desk.FacetPointer: "Sandpiper", desk.FacetFont: "Estuary Sans 10",
		desk.FacetPalette: "ebb", desk.FacetLogin: "Night-Tide", desk.FacetAccent: "#3d7ea6", desk.FacetDark: "dark",
	} {
		worn = worn.With(facet, want)
	}
	real := realDesk(b)
	there := outfit.Outfit{Name: "There"}.With(desk.FacetIcons, "Pack68").With(desk.FacetWidgets, "Theme68").With(desk.FacetPointer, "Set68").With(desk.FacetDark, "dark").With(desk.FacetFont, "DejaVu Sans 10")
	for _, c := range []struct {
		name string
		desk *desk.Desk
		worn outfit.Outfit
	}{{"avocet", w.Avocet, worn}, {"dunlin", w.Dunlin, worn}, {"real", real, there}, {"real-nothing-there", real, worn}} {
		b.Run(c.name, func(b *testing.B) {
			for b.Loop() {
				require.NotEmpty(b, match.Of(c.desk, c.worn).Findings())
			}
		})
	}
}

func BenchmarkPicture(b *testing.B) {
	d := avocet(b)
	for _, scene := range preview.Scenes {
		b.Run(scene.Name, func(b *testing.B) {
			for b.Loop() {
				require.NotEmpty(b, preview.Draw(d, preview.Draft(b.Context(), d, outfit.Outfit{}.With(desk.FacetIcons, "Marram")), scene.Name))
			}
		})
	}
}

// BenchmarkFourLooks draws four different looks, as they stand side by side.
func BenchmarkFourLooks(b *testing.B) {
	d := avocet(b)
	o := outfit.Outfit{}
	looks := []outfit.Outfit{o, o.With(desk.FacetDark, "dark"), o.With(desk.FacetIcons, "Marram").With(desk.FacetAccent, "#b4553d"), o.With(desk.FacetFont, "Estuary Sans 13").With(desk.FacetBackdrop, "/usr/share/backgrounds/red-buoy.svg")}
	for b.Loop() {
		for _, o := range looks {
			require.NotEmpty(b, preview.Draw(d, preview.Draft(b.Context(), d, o), "desk"))
		}
	}
}

// BenchmarkChoices goes through themes, shades, icons and fonts as one does with
// the arrow keys, and tells the 95th percentile of a picture.
func BenchmarkChoices(b *testing.B) {
	d := avocet(b)
	require.NoError(b, demo.WriteThemes(filepath.Join(d.Home, ".themes")))
	var times []time.Duration
	for b.Loop() {
		for _, theme := range []string{"Reedbed", "Saltpan", "Groyne", "Reedbed-Dark-Compact"} {
			for _, icons := range []string{"Marram", "Foreshore"} {
				for _, shade := range []string{"light", "dark"} {
					start := time.Now()
					preview.Draw(d, preview.Draft(b.Context(), d, outfit.Outfit{}.With(desk.FacetWidgets, theme).With(desk.FacetIcons, icons).With(desk.FacetDark, shade)), "desk")
					times = append(times, time.Since(start))
				}
			}
		}
	}
	slices.Sort(times)
	b.ReportMetric(float64(times[len(times)*95/100].Microseconds())/1000, "p95-ms")
}

// BenchmarkRealThemes goes through the themes of real makers: the largest one seen for the
// first time, and the 95th percentile of the first picture of each and of a choice among them
// once they are known.
func BenchmarkRealThemes(b *testing.B) {
	d := avocet(b)
	themes := d.HostPath(d.HomePath + "/.themes")
	require.NoError(b, os.MkdirAll(themes, 0o755))
	bytesOf := map[string]int64{}
	var names []string
	for _, theme := range realThemes(b, "index.theme") {
		if theme.sheetOf(3) == "" {
			continue
		}
		require.NoError(b, os.CopyFS(filepath.Join(themes, theme.name), os.DirFS(theme.dir)))
		names = append(names, theme.name)
		for _, generation := range []int{3, 4} {
			if file := theme.sheetOf(generation); file != "" {
				info, err := os.Stat(file)
				require.NoError(b, err)
				bytesOf[theme.name] += info.Size()
			}
		}
	}
	largest := slices.MaxFunc(names, func(x, y string) int { return cmp.Compare(bytesOf[x], bytesOf[y]) })
	draw := func(name string) time.Duration {
		start := time.Now()
		require.NotEmpty(b, preview.Draw(d, preview.Draft(b.Context(), d, outfit.Outfit{}.With(desk.FacetWidgets, name)), "desk"))
		return time.Since(start)
	}
	var largestFirst, first, again []time.Duration
	for b.Loop() {
		d.Cache = cache.New(cache.Bounds{Bytes: 96 << 20, Age: time.Hour})
		draw("Saltpan") // what does not hang on the theme
		largestFirst = append(largestFirst, draw(largest))
		d.Cache = cache.New(cache.Bounds{Bytes: 96 << 20, Age: time.Hour})
		draw("Saltpan")
		for _, name := range names {
			first = append(first, draw(name))
		}
		for range 3 {
			for _, name := range names {
				again = append(again, draw(name))
			}
		}
	}
	p95 := func(times []time.Duration) float64 {
		slices.Sort(times)
		return float64(times[len(times)*95/100].Microseconds()) / 1000
	}
	b.ReportMetric(p95(largestFirst), "largest-first-ms")
	b.ReportMetric(p95(first), "first-p95-ms")
	b.ReportMetric(p95(again), "choice-p95-ms")
}

// BenchmarkNewTheme draws themes that were not seen before.
func BenchmarkNewTheme(b *testing.B) {
	d := avocet(b)
	n := 0
	sheet, err := os.ReadFile(d.HostPath("/usr/share/themes/Saltpan/gtk-3.0/gtk.css"))
	require.NoError(b, err)
	for b.Loop() {
		b.StopTimer()
		n++
		name := fmt.Sprint("New-", n)
		for _, part := range []string{"gtk-3.0", "gtk-4.0"} {
			dir := d.HostPath("/usr/share/themes/" + name + "/" + part)
			require.NoError(b, os.MkdirAll(dir, 0o755))
			require.NoError(b, os.WriteFile(filepath.Join(dir, "gtk.css"), sheet, 0o644))
		}
		b.StartTimer()
		require.NotEmpty(b, preview.Draw(d, preview.Draft(b.Context(), d, outfit.Outfit{}.With(desk.FacetWidgets, name)), "controls"))
	}
}

func BenchmarkMakeTheDemoWorld(b *testing.B) {
	for b.Loop() {
		_, err := demo.Open(b.Context(), filepath.Join(b.TempDir(), "world"), true)
		require.NoError(b, err)
	}
}
