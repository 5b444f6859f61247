package truth

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/reading"
	"ivelt/standin"
)

// boxed runs a program in a mount namespace of its own (unshare(1), mount(8)), in
// which of the home nothing is there but the folders that are granted, as they
// are: what a sandbox shows its programs.
func boxed(t *testing.T, home string, granted []string, in string, env []string, program ...string) string {
	t.Helper()
	var script strings.Builder
	stash := t.TempDir()
	fmt.Fprintf(&script, "set -e\nmount --make-rprivate /\n")
	for i, folder := range granted {
		fmt.Fprintf(&script, "mkdir %[1]s/%[2]d && mount --bind %[3]s %[1]s/%[2]d\n", stash, i, folder)
	}
	fmt.Fprintf(&script, "mount -t tmpfs none %s\n", home)
	for i, folder := range granted {
		fmt.Fprintf(&script, "mkdir -p %[3]s && mount --bind %[1]s/%[2]d %[3]s\n", stash, i, folder)
	}
	script.WriteString(`exec "$@"` + "\n")
	args := []string{"--mount"}
	if os.Getuid() != 0 {
		args = append(args, "--map-root-user")
	}
	c := exec.CommandContext(t.Context(), "unshare", append(append(args, "sh", "-c", script.String(), "sh"), program...)...)
	c.Stdin, c.Env = strings.NewReader(in), append(env, "PATH="+os.Getenv("PATH"))
	out, err := c.Output()
	if e, ok := err.(*exec.ExitError); ok {
		require.NoError(t, err, "%s\n%s", e.Stderr, script.String())
	}
	require.NoError(t, err)
	return string(out)
}

// TestSandboxedProgramsSeeWhatIsGranted holds what is read of programs in a
// sandbox against GTK 3 in one: homes with packs and themes in the old folder, in
// the new one, and linked from one to the other, and grants of all kinds (Debian:
// libgtk-3-dev, util-linux).
func TestSandboxedProgramsSeeWhatIsGranted(t *testing.T) {
	t.Parallel()
	screen := display(t)
	icons, worn := build(t, "iconlookup", "gtk+-3.0", "libgtk-3-dev"), build(t, "worn3", "gtk+-3.0", "libgtk-3-dev")
	packs := []string{"Ebb", "Flood", "Slack"}
	seen, hidden := 0, 0
	for seed := range uint64(10 * *times) {
		r := rand.New(rand.NewPCG(seed, 88))
		home := t.TempDir()
		colour := 0
		for n, pack := range packs {
			for kind, folders := range map[string][2]string{"icons": {".icons", ".local/share/icons"}, "themes": {".themes", ".local/share/themes"}} {
				place, linked := folders[r.IntN(2)], r.IntN(3) == 0
				if linked {
					place = folders[1]
				}
				at := filepath.Join(home, place, pack)
				if kind == "icons" {
					write(t, filepath.Join(at, "index.theme"), "[Icon Theme]\nName="+pack+"\nComment=x\nDirectories=16\n[16]\nSize=16\nType=Fixed\n")
					write(t, filepath.Join(at, "16", fmt.Sprintf("tide-%d.png", n)), "x")
				} else {
					colour++
					write(t, filepath.Join(at, "gtk-3.0/gtk.css"), fmt.Sprintf("window { background-color: rgb(1,2,%d); }", 10+colour))
				}
				if linked {
					require.NoError(t, os.MkdirAll(filepath.Join(home, folders[0]), 0o755))
					require.NoError(t, os.Symlink("../"+place+"/"+pack, filepath.Join(home, folders[0], pack)))
				}
			}
		}
		all := []string{".icons", ".themes", ".local/share/icons", ".local/share/themes", ".local/share", ".local/share/icons/Ebb", ".local/share/themes/Ebb"}
		var granted, shown []string
		for _, g := range all {
			if _, err := os.Stat(filepath.Join(home, g)); err != nil || r.IntN(2) == 0 {
				continue
			}
			granted, shown = append(granted, filepath.Join(home, g)), append(shown, "~/"+g)
		}
		write(t, filepath.Join(home, ".config/coracle/grants.conf"), "[Grants]\nread="+strings.Join(shown, ";")+"\n")
		d, err := desk.Open("s", home, "/", home)
		require.NoError(t, err)
		d.SetSurfaces(append(desk.Builtin(), standin.Surfaces()...))
		s, _ := d.Surface("coracle")
		lookup := func(facet string) desk.Lookup { f, _ := s.Facet(facet); return f.Lookup }
		for n, pack := range packs {
			name := fmt.Sprintf("tide-%d", n)
			theirs := strings.TrimSpace(boxed(t, home, granted, name+" 16 1\n", nil, icons, pack, filepath.Join(home, ".icons"), "/usr/share/icons"))
			ours := "-"
			if icon, ok := reading.IconIndex(d, lookup(desk.FacetIcons), pack).Lookup(name, 16, 1); ok {
				ours = "/" + icon.Path
			}
			same("sandboxed gtk3", "icons", theirs, ours)
			require.Equal(t, theirs, ours, "seed %d, %s, granted %v", seed, pack, shown)
			_, err := reading.Find(d, lookup(desk.FacetIcons), pack)
			require.Equal(t, theirs != "-", err == nil, "seed %d, %s: %v", seed, pack, err)

			env := []string{"HOME=" + home, "DISPLAY=" + screen, "GDK_BACKEND=x11", "GDK_DEBUG=gl-disable", "LANG=C.UTF-8", "NO_AT_BRIDGE=1", "GSETTINGS_BACKEND=memory", "GTK_THEME=" + pack, "XDG_DATA_HOME=/nowhere", "XDG_DATA_DIRS=/usr/share"}
			var rgb [3]int
			_, scanned := fmt.Sscan(boxed(t, home, granted, "", env, worn), &rgb[0], &rgb[1], &rgb[2])
			require.NoError(t, scanned)
			file, _, err := reading.FindSheet(d, lookup(desk.FacetWidgets), pack, false)
			if _, e := reading.Find(d, lookup(desk.FacetWidgets), pack); e != nil {
				err = e // a link that leads out
			}
			wears := rgb[0] == 1 && rgb[1] == 2
			same("sandboxed gtk3", "widgets", fmt.Sprint(wears), fmt.Sprint(err == nil))
			require.Equal(t, wears, err == nil, "seed %d, %s, granted %v: GTK has %v, we %v", seed, pack, shown, rgb, err)
			if err != nil {
				hidden++
				continue
			}
			seen++
			sheet, e := gtkcss.Load(t.Context(), d.Tree(), desk.Name(file))
			require.NoError(t, e)
			c := gtkcss.NewCascade(sheet).Compute("window.background").Colour("background-color")
			require.Equal(t, rgb[2], int(c.B*255+0.5), "seed %d, %s: the same sheet", seed, pack)
		}
	}
	require.Positive(t, seen)
	require.Positive(t, hidden)
	t.Logf("%d themes seen and %d not, and as many packs, as GTK in a mount namespace has it", seen, hidden)
}

// TestAStaleCacheHidesIcons: GTK goes by a pack's cache if that is no older than
// the pack's folder, whatever was put into the folders below since; and it is then
// that the board says so (Debian: libgtk-3-bin, gtk-update-icon-cache).
func TestAStaleCacheHidesIcons(t *testing.T) {
	t.Parallel()
	program := build(t, "iconlookup", "gtk+-3.0", "libgtk-3-dev")
	for _, c := range []struct {
		what                 string
		top, cache, below    time.Duration // before now
		stale, seesNew, sees bool
	}{
		{"newer than all", 3 * time.Hour, time.Hour, 2 * time.Hour, false, false, true}, // it was made before, and cannot be told
		{"older than what lies below", 3 * time.Hour, 2 * time.Hour, time.Hour, true, false, true},
		{"older than the pack's folder", time.Hour, 2 * time.Hour, time.Hour, false, true, true},
	} {
		home := t.TempDir()
		pack := filepath.Join(home, ".icons/Ebb")
		write(t, filepath.Join(pack, "index.theme"), "[Icon Theme]\nName=Ebb\nComment=x\nDirectories=16\n[16]\nSize=16\nType=Fixed\n")
		write(t, filepath.Join(pack, "16/tide.svg"), `<svg xmlns="http://www.w3.org/2000/svg" width="16" height="16"/>`)
		require.NoError(t, exec.CommandContext(t.Context(), "gtk-update-icon-cache", "-q", "-f", pack).Run())
		write(t, filepath.Join(pack, "16/new.svg"), `<svg xmlns="http://www.w3.org/2000/svg" width="16" height="16"/>`)
		now := time.Now()
		for name, before := range map[string]time.Duration{"16": c.below, "icon-theme.cache": c.cache, ".": c.top} {
			require.NoError(t, os.Chtimes(filepath.Join(pack, name), now.Add(-before), now.Add(-before)))
		}
		answers := gtkLookup(t, program, "Ebb", []string{filepath.Join(home, ".icons")}, []question{{"tide", 16, 1}, {"new", 16, 1}})
		require.Equal(t, []bool{c.sees, c.seesNew}, []bool{answers[0] != "-", answers[1] != "-"}, "%s: GTK", c.what)
		d, err := desk.Open("s", home, "/", home)
		require.NoError(t, err)
		d.SetSurfaces(desk.Builtin())
		s, _ := d.Surface("gtk3")
		f, _ := s.Facet(desk.FacetIcons)
		require.Equal(t, c.stale, reading.StaleCache(d, f.Lookup, pack) != "", c.what)
		if c.stale { // what the remedy does
			require.NoError(t, os.Remove(filepath.Join(pack, "icon-theme.cache")))
			answers = gtkLookup(t, program, "Ebb", []string{filepath.Join(home, ".icons")}, []question{{"new", 16, 1}})
			require.NotEqual(t, "-", answers[0])
		}
	}
}
