package truth

import (
	"archive/zip"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/desk"
	"ivelt/demo/demotest"
)

// inHome runs a program in a home and returns what it prints.
func inHome(t *testing.T, home, program string, args ...string) string {
	t.Helper()
	c := exec.CommandContext(t.Context(), program, args...)
	c.Env = []string{"HOME=" + home, "PATH=" + os.Getenv("PATH"), "LANG=C.UTF-8"}
	return strings.TrimSuffix(output(t, c), "\n")
}

// TestInstalledIsSeenWhereItShouldBe installs a parcel of many kinds with the
// built binary, in a home that Ivelt fills, and asks the libraries (Debian:
// libgtk-3-dev, libxcursor-dev, fontconfig).
func TestInstalledIsSeenWhereItShouldBe(t *testing.T) {
	seen := build(t, "seen", "gtk+-3.0 xcursor", "libgtk-3-dev, libxcursor-dev")
	ivelt := ivelt(t)
	world := demotest.World(t, filepath.Join(t.TempDir(), "world"))
	kit := filepath.Join(world.Avocet.Home, "Downloads/reedbed-kit-0.4.zip")
	fonts := filepath.Join(t.TempDir(), "fonts.zip")
	f, err := os.Create(fonts)
	require.NoError(t, err)
	z := zip.NewWriter(f)
	w, err := z.Create("go-fonts/Go-Regular.ttf")
	require.NoError(t, err)
	_, err = w.Write(goregular.TTF)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	require.NoError(t, f.Close())

	home, system := t.TempDir(), t.TempDir()
	ask := func(args ...string) string { return inHome(t, home, seen, args...) }
	for _, q := range [][]string{{"icon", "Reedmace", "science-birdlog"}, {"theme", "Reedbed-Dark", "header_color"}} {
		require.Equal(t, "-", ask(q...), "nothing is there before")
	}
	fallback := ask("pointer", "Sandpiper", "left_ptr") // of the set the machine calls default
	require.NotContains(t, inHome(t, home, "fc-match", "Go"), "Go-Regular.ttf")

	t.Setenv("XDG_DATA_HOME", t.TempDir()) // where Ivelt keeps its own data
	out := output(t, exec.CommandContext(t.Context(), ivelt, "install", kit, "--home", home, "--system", system))
	require.Contains(t, out, "pointer Sandpiper: "+filepath.Join(home, ".icons/Sandpiper"))
	output(t, exec.CommandContext(t.Context(), ivelt, "install", fonts, "--home", home, "--system", system))

	require.Equal(t, filepath.Join(home, ".local/share/icons/Reedmace/48x48/apps/science-birdlog.png"), ask("icon", "Reedmace", "science-birdlog"))
	require.Equal(t, "rgb(46,54,49)", strings.ReplaceAll(ask("theme", "Reedbed-Dark", "header_color"), " ", ""))
	require.NotEqual(t, fallback, ask("pointer", "Sandpiper", "left_ptr"))
	require.Contains(t, inHome(t, home, "fc-match", "Go"), "Go-Regular.ttf")
	require.FileExists(t, filepath.Join(home, ".local/share/backgrounds/reeds-at-dawn/reeds-at-dawn.png"))

	// The same pieces where Ivelt says they are not seen.
	elsewhere := t.TempDir()
	require.NoError(t, os.CopyFS(filepath.Join(elsewhere, ".local/share/icons/Sandpiper"), os.DirFS(filepath.Join(home, ".icons/Sandpiper"))))
	require.Equal(t, fallback, inHome(t, elsewhere, seen, "pointer", "Sandpiper", "left_ptr"), "the display does not look in the data folder")
	require.NoError(t, os.CopyFS(filepath.Join(elsewhere, "themes/Reedbed-Dark"), os.DirFS(filepath.Join(home, ".themes/Reedbed-Dark"))))
	require.Equal(t, "-", inHome(t, elsewhere, seen, "theme", "Reedbed-Dark", "header_color"))

	c := exec.CommandContext(t.Context(), ivelt, "install", kit, "--home", home, "--system", system, "--piece", "Reedbed")
	require.NoError(t, c.Run(), "what is there already is left alone")
	for _, bad := range [][]string{{kit, "--home", home, "--piece", "Nothing"}, {kit, "--home", home, "--scope", "nobody"}, {kit}, {filepath.Join(home, "none.zip"), "--home", home}} {
		c := exec.CommandContext(t.Context(), ivelt, append([]string{"install"}, bad...)...)
		require.Error(t, c.Run())
		require.Equal(t, 2, c.ProcessState.ExitCode(), bad)
	}
}

// TestSearchedFoldersAreThoseOfTheToolkits compares the descriptors with what
// each toolkit says of itself (Debian: libgtk2.0-dev, libgtk-3-dev,
// libgtk-4-dev).
func TestSearchedFoldersAreThoseOfTheToolkits(t *testing.T) {
	t.Parallel()
	home := t.TempDir()
	d, err := desk.Open("t", home, "/", "")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	for _, kit := range []struct{ surface, program, library, debian string }{
		{"gtk2", "seen2", "gtk+-2.0", "libgtk2.0-dev"}, {"gtk3", "seen", "gtk+-3.0 xcursor", "libgtk-3-dev"}, {"gtk4", "seen4", "gtk4", "libgtk-4-dev"},
	} {
		program := build(t, kit.program, kit.library, kit.debian)
		theirs := lines(inHome(t, home, program, "path"))
		s, ok := d.Surface(kit.surface)
		require.True(t, ok)
		var ours []string
		for _, f := range d.Folders(s.LooksIn("icons")) {
			ours = append(ours, desk.Path(f))
		}
		require.Equal(t, theirs, ours, kit.surface)
	}
}
