package truth

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/store"
)

// grantWords are entries of a list of grants, with the folder of the home that each means
// ("Filesystems" of flatpak-metadata(5)); the
// whole system goes by "/".
var grantWords = map[string]string{
	"home": "", "host": "/", "~/.themes": "/.themes", "~/.icons": "/.icons", "~/a b": "/a b", "xdg-data/icons": "/.local/share/icons", "xdg-config/gtk-4.0": "/.config/gtk-4.0", "xdg-config": "/.config", "~/.themes/Reef": "/.themes/Reef",
}

// TestGrantsAreThoseThatTheRuntimePrints installs a program in the sandbox runtime of many
// distributions, sets what it brings along and is granted by chance, by the runtime's own
// commands, and compares which folders Ivelt reads that it may look into with what the runtime
// prints for it; before and after a plan that grants more, and after going back (Debian:
// flatpak).
func TestGrantsAreThoseThatTheRuntimePrints(t *testing.T) {
	t.Parallel()
	const program = "org.example.Reader"
	s := &seat{home: t.TempDir(), env: map[string]string{"XDG_RUNTIME_DIR": t.TempDir()}}
	runtime := func(args ...string) string { return s.ask(t, "flatpak", "flatpak", args...) }
	arch := strings.TrimSpace(runtime("--default-arch"))
	app, repo := filepath.Join(s.home, "app"), filepath.Join(s.home, "repo")
	write(t, filepath.Join(app, "metadata"), fmt.Sprintf("[Application]\nname=%s\nruntime=org.example.Platform/%[2]s/1\nsdk=org.example.Sdk/%[2]s/1\n", program, arch))
	write(t, filepath.Join(app, "files/bin/reader"), "#!/bin/sh\n")
	write(t, filepath.Join(app, "files/share/applications", program+".desktop"), "[Desktop Entry]\nType=Application\nName=Reader\nExec=reader\n")
	require.NoError(t, os.Chmod(filepath.Join(app, "files/bin/reader"), 0o755))
	runtime("build-finish", "--command=reader", "--filesystem=~/.icons", "--filesystem=xdg-config/gtk-4.0:ro", "--filesystem=/srv", app)
	runtime("build-export", repo, app)
	runtime("--user", "remote-add", "--no-gpg-verify", "here", repo)
	runtime("--user", "install", "-y", "--no-deps", "--noninteractive", "here", program)

	d, err := desk.Open("p", s.home, "/", "")
	require.NoError(t, err)
	d.Env = maps.Clone(s.env)
	d.SetWritable(true)
	d.SetSurfaces(append(desk.Builtin(), d.Present(desk.Runtimes())...))
	surface, ok := d.Surface("flatpak")
	require.True(t, ok)
	f, _ := surface.Facet(desk.FacetWidgets)
	l := f.Lookup
	l.Program = program
	require.Equal(t, "Reader", match.RuntimeOf(d, surface, outfit.Outfit{}).Programs[0].Name)
	printed := func() []string {
		kf, err := keyfile.Parse([]byte(runtime("info", "--show-permissions", program)))
		require.NoError(t, err)
		var out []string
		for _, entry := range kf.List("Context", "filesystems", ';') {
			entry, _, _ = strings.Cut(entry, ":")
			rest, known := grantWords[entry]
			if !known {
				require.Equal(t, "/srv", entry)
				continue
			}
			at := s.home + rest
			if rest == "/" {
				at = rest
			}
			if !slices.Contains(out, at) {
				out = append(out, at)
			}
		}
		slices.Sort(out)
		return out
	}
	reads := func() (out []string) {
		for _, at := range reading.Grants(d, l) {
			if d.Mine(at) || at == "/" {
				out = append(out, at)
			}
		}
		slices.Sort(out)
		return out
	}
	r := rand.New(rand.NewPCG(24, 1))
	words := slices.Sorted(maps.Keys(grantWords))
	overrides := filepath.Join(s.home, ".local/share/flatpak/overrides")
	n := int(40 * *times)
	for i := range n {
		require.NoError(t, os.RemoveAll(overrides))
		var said []string
		for range r.IntN(8) {
			what := []string{"--filesystem=", "--filesystem=", "--nofilesystem="}[r.IntN(3)] + words[r.IntN(len(words))]
			if strings.HasPrefix(what, "--file") {
				what += []string{"", ":ro", ":create", ":rw"}[r.IntN(4)]
			}
			args := []string{"--user", "override", what}
			if r.IntN(2) == 0 {
				args = append(args, program)
			}
			runtime(args...)
			said = append(said, strings.Join(args[2:], " "))
		}
		if !slices.Equal(printed(), reads()) {
			t.Errorf("%d: the runtime prints %v, Ivelt reads %v after\n%s", i, printed(), reads(), strings.Join(said, "\n"))
		}
		if i%4 > 0 {
			continue
		}
		before := treeText(t, overrides)
		folder := filepath.Join(s.home, ".themes/Saltpan")
		p, err := planning.Grant(d, surface, []string{"", program}[r.IntN(2)], folder)
		require.NoError(t, err)
		keep := store.Blobs{Dir: t.TempDir()}
		carry := apply.Config{Keep: keep, Journal: filepath.Join(t.TempDir(), "j")}
		require.NoError(t, apply.Plan(t.Context(), d, p, carry))
		text := runtime("info", "--show-permissions", program)
		require.Contains(t, text, "~/.themes/Saltpan:ro;", "%d: for reading, after\n%s", i, strings.Join(said, "\n"))
		require.Contains(t, reads(), folder)
		back, err := planning.Back(d, []plan.Plan{p}, keep, planning.Aim{})
		require.NoError(t, err)
		require.NoError(t, apply.Plan(t.Context(), d, back.Plan, carry))
		require.Equal(t, before, treeText(t, overrides))
	}
	t.Logf("%d lists of grants", n)
}

// treeText are the files of a folder, by name.
func treeText(t *testing.T, dir string) map[string]string {
	t.Helper()
	out := map[string]string{}
	files, err := filepath.Glob(filepath.Join(dir, "*"))
	require.NoError(t, err)
	for _, f := range files {
		b, err := os.ReadFile(f)
		require.NoError(t, err)
		out[filepath.Base(f)] = string(b)
	}
	return out
}
