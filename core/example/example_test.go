package example_test

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/example"
)

const gallery = "../../docs/surfaces"

// TestTheGallery: each worked example is as it says, asks for no more than one from somebody
// else may, and has an example for each facet.
func TestTheGallery(t *testing.T) {
	found, err := example.Find(t.Context(), gallery)
	require.NoError(t, err)
	require.Len(t, found, 12)
	kinds := map[string]bool{}
	for _, at := range found {
		r, err := example.Run(t.Context(), at, true)
		require.NoError(t, err, at)
		require.Empty(t, r.Failures, at)
		require.Empty(t, r.Untold, at)
		b, err := os.ReadFile(at)
		require.NoError(t, err)
		require.True(t, strings.HasPrefix(string(b), "# "), "%s says what it is an example of", at)
		s, err := desk.ParseSurface(b)
		require.NoError(t, err)
		require.Equal(t, s.ID, filepath.Base(filepath.Dir(at)))
		require.True(t, r.Written > 0 || s.ID == "cockleshelf", "%s: something is written and read again", at)
		kinds[s.Kind] = true
		for _, f := range s.Facets {
			for _, src := range f.Sources {
				kinds["format "+src.Format] = true
			}
		}
	}
	for _, of := range []string{"program", "shell", "readout", "terminal", "files", "frames", "format keyfile", "format lines", "format json", "format toml", "format yaml", "format xml", "format env", "format follows"} {
		require.True(t, kinds[of], of)
	}
}

// copyOf is a worked example in a folder of its own, with one file changed.
func copyOf(t *testing.T, id, file, from, to string) string {
	t.Helper()
	dir := filepath.Join(t.TempDir(), id)
	require.NoError(t, os.CopyFS(dir, os.DirFS(filepath.Join(gallery, id))))
	at := filepath.Join(dir, file)
	b, err := os.ReadFile(at)
	require.NoError(t, err)
	require.Contains(t, string(b), from)
	require.NoError(t, os.WriteFile(at, []byte(strings.Replace(string(b), from, to, 1)), 0o644))
	return filepath.Join(dir, id+".toml")
}

// TestWhatIsNotAsTheExamplesSay is told with the example, the facet and both values.
func TestWhatIsNotAsTheExamplesSay(t *testing.T) {
	for _, c := range []struct{ id, file, from, to, says string }{
		{"foreshore", "foreshore.toml", `bottom = ["south"]`, `bottom = ["down"]`, `whole bar-edge it reads "top", and is to be "bottom"`},
		{"foreshore", "examples/whole/readings.toml", "line = 5", "line = 6", "whole opacity it comes from ~/.config/foreshore/bar.conf:5, and is to come from"},
		{"gullcall", "examples/gone/readings.toml", `, problem = "name-not-found"`, "", `gone icons what keeps it from showing "Flotsam" is "name-not-found", and is to be nothing`},
		{"gullcall", "examples/its-own/home/.config/gullcall/gullcall.conf", "Pebble", "Driftwood", `its-own icons it reads "Driftwood", and is to be "Pebble"`},
		// What a plan writes is passed over: another key, stronger, in the same file.
		{"jettytalk", "jettytalk.toml", "fold = true\nevidence = \"its manual page, FILES\"\n", `fold = true
[[facet.before]]
path = "/etc/jettytalkrc"
format = "lines"
key = "clear"
`, `mine-and-theirs contrast a plan sets it to "usual", and it then reads "high"`},
	} {
		r, err := example.Run(t.Context(), copyOf(t, c.id, c.file, c.from, c.to), true)
		require.NoError(t, err, c.says)
		var all []string
		for _, f := range r.Failures {
			all = append(all, f.Example+" "+f.Facet+" "+f.Text)
		}
		require.Contains(t, strings.Join(all, "\n"), c.says)
	}
	for _, c := range []struct{ id, file, from, to, says string }{
		{"foreshore", "examples/whole/readings.toml", "[reading]", "[rading]", "rading"},
		{"foreshore", "examples/whole/readings.toml", "opacity =", "opaqueness =", `foreshore has no facet "opaqueness"`},
		{"foreshore", "foreshore.toml", `"{config}/foreshore/bar.conf"`, `"{config}/other/bar.conf"`, "does not bear its name"},
	} {
		_, err := example.Run(t.Context(), copyOf(t, c.id, c.file, c.from, c.to), true)
		require.ErrorContains(t, err, c.says)
	}
	_, err := example.Find(t.Context(), t.TempDir())
	require.ErrorIs(t, err, example.ErrNone)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = example.Run(ctx, filepath.Join(gallery, "foreshore/foreshore.toml"), true)
	require.ErrorIs(t, err, context.Canceled)
}

// TestWhatIsHandedOn is the descriptor with the values that are read, and nothing else of the
// files; a link in an example leads nowhere out of it.
func TestWhatIsHandedOn(t *testing.T) {
	at := copyOf(t, "foreshore", "examples/whole/home/.config/foreshore/bar.conf", "[clock]", "[clock]\ntoken secret")
	b, err := os.ReadFile(at)
	require.NoError(t, err)
	s, err := desk.ParseSurface(b)
	require.NoError(t, err)
	from := filepath.Join(filepath.Dir(at), "examples/whole")
	d, err := desk.Open("d", filepath.Join(from, "home"), t.TempDir(), "/home/me")
	require.NoError(t, err)
	d.SetSurfaces([]desk.Surface{s})
	to := filepath.Join(t.TempDir(), "out")
	left, err := example.Write(t.Context(), d, s, b, to, "first")
	require.NoError(t, err)
	require.Empty(t, left)
	conf, err := os.ReadFile(filepath.Join(to, "examples/first/home/.config/foreshore/bar.conf"))
	require.NoError(t, err)
	require.Contains(t, string(conf), "south")
	require.NotContains(t, string(conf), "secret")
	r, err := example.Run(t.Context(), filepath.Join(to, "foreshore.toml"), true)
	require.NoError(t, err)
	require.Empty(t, r.Failures)
	require.Equal(t, 4, r.Readings)
	_, err = example.Write(t.Context(), d, s, b, to, "first")
	require.ErrorIs(t, err, os.ErrExist, "nothing is written over")

	outside := filepath.Join(t.TempDir(), "bar.conf")
	require.NoError(t, os.WriteFile(outside, []byte("[bar]\nedge south\n"), 0o644))
	conf2 := filepath.Join(to, "examples/first/home/.config/foreshore/bar.conf")
	require.NoError(t, os.Remove(conf2))
	require.NoError(t, os.Symlink(outside, conf2))
	r, err = example.Run(t.Context(), filepath.Join(to, "foreshore.toml"), true)
	require.NoError(t, err)
	require.NotEmpty(t, r.Failures, "what the link leads to is not read")
}
