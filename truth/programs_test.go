package truth

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/desktopentry"
	"ivelt/demo/demotest"
)

// TestProgramsAreValidAndListed holds the demo's programs against
// desktop-file-validate (Debian: desktop-file-utils), and Ivelt's list of
// programs against entries that hide, override or break each other.
func TestProgramsAreValidAndListed(t *testing.T) {
	t.Parallel()
	w := demotest.World(t, filepath.Join(t.TempDir(), "world"))
	files, err := filepath.Glob(filepath.Join(w.Avocet.System, "usr/share/applications/*.desktop"))
	require.NoError(t, err)
	require.Len(t, files, 32)
	for _, d := range []*desk.Desk{w.Avocet, w.Dunlin} { // the sessions that login screens start, and sandboxed programs
		for pattern, n := range map[string]int{"usr/share/*sessions/*.desktop": 1, "var/lib/coracle/programs/*.desktop": 2} {
			more, err := filepath.Glob(filepath.Join(d.System, pattern))
			require.NoError(t, err)
			require.Len(t, more, n, d.ID)
			files = append(files, more...)
		}
	}
	require.Empty(t, output(t, tool(t, "desktop-file-validate", "desktop-file-utils", append([]string{"--no-hints"}, files...)...)))

	home, system := t.TempDir(), t.TempDir()
	entry := func(dir, id, more string) {
		write(t, filepath.Join(dir, "applications", id), "[Desktop Entry]\nType=Application\nExec=x\n"+more)
	}
	entry(system, "a.desktop", "Name=Alpha\nIcon=alpha\n")
	entry(system, "b.desktop", "Name=Beta\n")
	entry(system, "c.desktop", "Name=Gamma\n")
	entry(system, "sub/d.desktop", "Name=Delta\nCategories=Science;Map;\n")
	entry(system, "e.desktop", "Name=Hidden\nNoDisplay=true\n")
	write(t, filepath.Join(system, "applications/f.desktop"), "no entry at all")
	write(t, filepath.Join(system, "applications/g.desktop"), "[Desktop Entry]\nType=Link\nName=A link\nURL=x\n")
	entry(home, "b.desktop", "Name=My beta\n")
	entry(home, "c.desktop", "Name=Gamma\nHidden=true\n")
	var got []string
	for _, p := range desktopentry.List(os.DirFS("/"), []string{filepath.Join(home, "applications")[1:], filepath.Join(system, "applications")[1:]}) {
		got = append(got, p.ID+" "+p.Name)
	}
	require.Equal(t, []string{"a Alpha", "sub-d Delta", "b My beta"}, got)
}
