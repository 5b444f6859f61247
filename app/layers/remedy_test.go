package layers_test

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/core/iconbench"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/planning"
	"ivelt/core/pointerbench"
	"ivelt/core/pointerbench/pointertest"
)

// tree is what lies in a home, by name.
func tree(t *testing.T, home string) map[string]string {
	t.Helper()
	out := map[string]string{}
	require.NoError(t, filepath.WalkDir(home, func(at string, e fs.DirEntry, err error) error {
		require.NoError(t, err)
		name, err := filepath.Rel(home, at)
		require.NoError(t, err)
		switch {
		case e.IsDir():
			out[name+"/"] = ""
		case e.Type()&fs.ModeSymlink != 0:
			out[name], err = os.Readlink(at)
			require.NoError(t, err)
		default:
			b, err := os.ReadFile(at)
			require.NoError(t, err)
			out[name] = string(b)
		}
		return nil
	}))
	return out
}

// worn plans the draft and applies it; the answer goes back on that.
func worn(t *testing.T, a *app.App, d *desks.Managed) (back func()) {
	t.Helper()
	rv, err := a.Review.Draft(t.Context(), d, nil, planning.Options{})
	require.NoError(t, err)
	require.NoError(t, apptest.Wait(a.Changes.Apply(d, rv.Whole.ID, changes.How{})))
	return func() {
		past, err := a.History.Entries(d)
		require.NoError(t, err)
		require.NoError(t, apptest.Wait(a.Back.Start(d, changes.Way{Checkpoint: past[0].ID}, "", "")))
	}
}

// TestEveryFaultOfPointersIsMendedByAPlan: each fault of a set is found, its remedy is tried on, planned
// and applied, nothing is wrong when it is measured again, and going back leaves all as it was.
func TestEveryFaultOfPointersIsMendedByAPlan(t *testing.T) {
	for _, c := range pointertest.Faults {
		if c.Want == "" {
			continue
		}
		t.Run(c.Name, func(t *testing.T) {
			t.Parallel()
			set := pointertest.Full()
			c.Spoil(set)
			dir := t.TempDir()
			home := filepath.Join(dir, "home-d")
			put := func(name, text string) {
				require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(home, name)), 0o755))
				require.NoError(t, os.WriteFile(filepath.Join(home, name), []byte(text), 0o644))
			}
			size := "24"
			if len(c.Asked) > 1 {
				size = "96"
			}
			put(".config/gtk-3.0/settings.ini", "[Settings]\ngtk-cursor-theme-name=Salt\ngtk-cursor-theme-size="+size+"\n")
			put(".icons/Salt/index.theme", "[Icon Theme]\nName=Salt\n")
			files, links := pointertest.Files(set)
			for name, b := range files {
				put(".icons/Salt/"+name, string(b))
			}
			for name, to := range links {
				require.NoError(t, os.Symlink(to, filepath.Join(home, ".icons/Salt", name)))
			}
			a, d := apptest.Open(t, dir)
			measured := func(folder string) (*pointerbench.Report, string) {
				root, err := (layer.Base{Kind: parcel.Pointer, Folder: folder}).Find(d.Desk)
				require.NoError(t, err)
				r, err := pointerbench.Measure(t.Context(), d.Tree(), root, pointerbench.Options{Asked: pointerbench.SizesIn(d.Desk), Inherited: pointerbench.Chain(d.Tree(), root, pointerbench.Bases(d.Desk))})
				require.NoError(t, err)
				return r, root
			}
			before := tree(t, home)
			r, root := measured("Salt")
			code, _, _ := strings.Cut(c.Want, " ")
			require.True(t, slices.ContainsFunc(r.Findings, func(f pointerbench.Finding) bool { return f.Code == code }))
			recipe, some := r.Mend("Salt", "Salt")
			require.True(t, some)
			require.NoError(t, apptest.Wait(a.Layers.Mend(t.Context(), d, root, recipe, "")))
			back := worn(t, a, d)
			require.Contains(t, tree(t, home)[".config/gtk-3.0/settings.ini"], "gtk-cursor-theme-name=Salt-Mended")
			r, _ = measured("Salt-Mended")
			require.Empty(t, r.Findings, "%s", recipe.Bytes())
			back()
			require.Equal(t, before, tree(t, home))
		})
	}
}

// TestEveryGapOfAPackIsFilledByAPlan: each finding of an icon pack is found, an icon of the pack is chosen
// for what it is about, which is planned and applied, and the finding is gone; going back leaves all as
// it was.
func TestEveryGapOfAPackIsFilledByAPlan(t *testing.T) {
	const square = `<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48"><rect x="4" y="4" width="40" height="40" fill="#3a6ea5"/></svg>`
	program := func(name, icon string) string {
		return "[Desktop Entry]\nType=Application\nName=" + name + "\nExec=" + strings.ToLower(name) + "\nIcon=" + icon + "\n"
	}
	small := string(pixels(t, 16))
	for _, code := range []string{"programs-without", "group-without", "group-soft", "programs-brought", "programs-lent"} {
		t.Run(code, func(t *testing.T) {
			t.Parallel()
			dir := t.TempDir()
			for name, text := range map[string]string{
				"home-d/.config/gtk-3.0/settings.ini":               "[Settings]\ngtk-icon-theme-name=Reef\n",
				"home-d/.icons/Reef/index.theme":                    "[Icon Theme]\nName=Reef\nInherits=Kelp\nDirectories=16/apps,any/apps,any/mimetypes\n[16/apps]\nSize=16\nType=Fixed\n[any/apps]\nSize=48\nMinSize=8\nMaxSize=256\nType=Scalable\n[any/mimetypes]\nSize=48\nMinSize=8\nMaxSize=256\nType=Scalable\n",
				"home-d/.icons/Kelp/index.theme":                    "[Icon Theme]\nName=Kelp\nDirectories=any/apps\n[any/apps]\nSize=48\nMinSize=8\nMaxSize=256\nType=Scalable\n",
				"home-d/.icons/Kelp/any/apps/lent.svg":              square,
				"home-d/.icons/Reef/any/apps/buoy.svg":              square,
				"home-d/.icons/Reef/16/apps/tiny.png":               small,
				"home-d/.icons/Reef/any/mimetypes/text-plain.svg":   square,
				"system/usr/share/icons/hicolor/index.theme":        "[Icon Theme]\nName=Hicolor\nDirectories=48x48/apps\n[48x48/apps]\nSize=48\n",
				"system/usr/share/icons/hicolor/48x48/apps/own.png": string(pixels(t, 48)),
				"system/usr/share/applications/a.desktop":           program("Ay", "own"),
				"system/usr/share/applications/b.desktop":           program("Bee", "lent"),
				"system/usr/share/applications/c.desktop":           program("Cee", "tiny"),
				"system/usr/share/applications/d.desktop":           program("Dee", "gone"),
				"system/usr/share/mime/globs2":                      "50:text/plain:*.txt\n50:model/odd:*.odd\n",
			} {
				require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o755))
				require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o644))
			}
			a, d := apptest.Open(t, dir)
			home := filepath.Join(dir, "home-d")
			about := func(pack string) (r *iconbench.Report, keys []string) {
				b, err := iconbench.On(d.Desk, pack)
				require.NoError(t, err)
				r = b.Look()
				for _, f := range r.Findings {
					if f.Code == code {
						keys = append(keys, f.Items...)
					}
				}
				return r, keys
			}
			before := tree(t, home)
			r, keys := about("Reef")
			require.NotEmpty(t, keys)
			var chosen []layer.Icon
			for _, key := range keys {
				if it, ok := r.Of(key); ok && !slices.ContainsFunc(chosen, func(c layer.Icon) bool { return c.Name == it.Names[0] }) {
					chosen = append(chosen, layer.Icon{Name: it.Names[0], Like: "buoy"})
				}
			}
			require.NoError(t, apptest.Wait(a.Layers.Icons(t.Context(), d, "Reef", chosen, "")))
			back := worn(t, a, d)
			require.Contains(t, tree(t, home)[".config/gtk-3.0/settings.ini"], "gtk-icon-theme-name=Reef-Mine")
			_, left := about("Reef-Mine")
			require.Empty(t, left)
			back()
			require.Equal(t, before, tree(t, home))
		})
	}
}

// TestOddIconsAndMissingPacks: an icon that does not look like the others gets the picture of one that
// does, and a pack that is inherited and not there is put in place; both by a plan, gone back on.
func TestOddIconsAndMissingPacks(t *testing.T) {
	dir, r := t.TempDir(), rand.New(rand.NewPCG(5, 28))
	put := func(name, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o644))
	}
	put("home-d/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-icon-theme-name=Reef\n")
	put("home-d/.icons/Reef/index.theme", "[Icon Theme]\nName=Reef\nInherits=Kelp\nDirectories=48/apps\n[48/apps]\nSize=48\n")
	for i := range 90 {
		put(fmt.Sprintf("home-d/.icons/Reef/48/apps/ring-%02d.svg", i), fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48"><circle cx="24" cy="24" r="%d" fill="none" stroke="#a0466b" stroke-width="2"/><path d="M%d 16h%dv%dz" fill="#a0466b"/></svg>`, 19+r.IntN(3), 14+r.IntN(6), 8+r.IntN(8), 6+r.IntN(9)))
	}
	put("home-d/.icons/Reef/48/apps/ring-odd.svg", `<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48"><rect width="48" height="48" fill="#2f7f2c"/></svg>`)
	put("system/usr/share/applications/odd.desktop", "[Desktop Entry]\nType=Application\nName=Odd\nExec=odd\nIcon=ring-odd\n")
	put("parcel/Kelp/index.theme", "[Icon Theme]\nName=Kelp\nDirectories=48/apps\n[48/apps]\nSize=48\n")
	put("parcel/Kelp/48/apps/buoy.svg", `<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48"><circle cx="24" cy="24" r="20"/></svg>`)
	a, d := apptest.Open(t, dir)
	home := filepath.Join(dir, "home-d")
	found := func(pack string) (codes []string, r *iconbench.Report) {
		b, err := iconbench.On(d.Desk, pack)
		require.NoError(t, err)
		r = b.Look()
		require.NoError(t, b.FindOdd(t.Context(), r, nil))
		for _, f := range r.Findings {
			codes = append(codes, strings.TrimSpace(f.Code+" "+f.Pack))
		}
		return codes, r
	}
	before := tree(t, home)
	codes, report := found("Reef")
	require.Subset(t, codes, []string{"pack-missing Kelp", "out-of-place"})
	require.Equal(t, "Odd", report.Odd[0].Title)
	require.Equal(t, []string{"programs/odd"}, report.Odd[0].Keys)

	row, err := a.Library.Keep(t.Context(), filepath.Join(dir, "parcel"), "")
	require.NoError(t, err)
	contents, err := library.Contents(row)
	require.NoError(t, err)
	require.NoError(t, apptest.Wait(a.Pieces.Install(d, row.SHA256, []string{library.PieceKey(contents.Pieces[0])}, library.How{Scope: place.Mine, Exists: planning.Refuse}, "")))
	codes, _ = found("Reef")
	require.NotContains(t, codes, "pack-missing Kelp")
	back := func() {
		past, err := a.History.Entries(d)
		require.NoError(t, err)
		require.NoError(t, apptest.Wait(a.Back.Start(d, changes.Way{Checkpoint: past[0].ID}, "", "")))
	}
	back()
	require.Equal(t, before, tree(t, home))

	require.NoError(t, apptest.Wait(a.Layers.Icons(t.Context(), d, "Reef", []layer.Icon{{Name: "ring-odd", Like: "ring-01"}}, "")))
	worn(t, a, d)
	codes, _ = found("Reef-Mine")
	require.NotContains(t, codes, "out-of-place")
	back()
	require.Equal(t, before, tree(t, home))
}

// pixels is a grey picture.
func pixels(t *testing.T, size int) []byte {
	t.Helper()
	im := image.NewNRGBA(image.Rect(0, 0, size, size))
	for i := range im.Pix {
		im.Pix[i] = 200
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, im))
	return b.Bytes()
}
