package planning_test

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/iconbench"
	"ivelt/core/plan/plantest"
	"ivelt/core/planning"
)

// TestWhatIsLeftOverIsTakenAway: each kind is found, taken away by one plan, not found again, and
// comes back as it was.
func TestWhatIsLeftOverIsTakenAway(t *testing.T) {
	b := plantest.New(t)
	system := filepath.Join(b.Dir, "system/usr/share/applications/tide.desktop")
	require.NoError(t, os.MkdirAll(filepath.Dir(system), 0o755))
	require.NoError(t, os.WriteFile(system, []byte("[Desktop Entry]\nType=Application\nName=Tide\nIcon=tide\n"), 0o644))
	b.Write(".local/share/applications/tide.desktop", "[Desktop Entry]\n# my own\nType=Application\nName=Tide\nIcon=/home/me/old.png\n", 0o600)
	b.Write(".local/share/applications/mine.desktop", "[Desktop Entry]\nType=Application\nName=Mine\nIcon=mine\n", 0o644) // no copy of any
	b.Write("Pictures/.directory", "[Desktop Entry]\nIcon=camera-photo\nSortOrder=1\n", 0o644)
	b.Write(".local/share/icons/New/icon-theme.cache", "made long ago", 0o644)
	b.Write(".local/share/icons/New/16/late.png", "picture", 0o644)
	require.NoError(t, os.Symlink("gone.png", filepath.Join(b.Dir, "home/.local/share/icons/New/16/dead.png")))
	require.NoError(t, os.Symlink("late.png", filepath.Join(b.Dir, "home/.local/share/icons/New/16/alias.png")))
	require.NoError(t, os.Chtimes(filepath.Join(b.Dir, "home/.local/share/icons/New/16"), time.Time{}, time.Now()))
	before := b.Tree()

	left, err := iconbench.LeftOver(t.Context(), b.D)
	require.NoError(t, err)
	found := map[iconbench.LeftKind]string{}
	for _, l := range left {
		found[l.Kind] += l.Text
	}
	require.Equal(t, map[iconbench.LeftKind]string{
		iconbench.OwnEntry:   "Tide shows /home/me/old.png, and the system's entry says tide: ~/.local/share/applications/tide.desktop is a copy of yours.",
		iconbench.FolderIcon: "~/Pictures has an icon of its own, camera-photo.",
		iconbench.DeadLink:   "~/.local/share/icons/New/16/dead.png leads to nothing.",
		iconbench.StaleCache: "~/.local/share/icons/New/icon-theme.cache was made before the last change to the pack: programs of GTK may not see what came later.",
	}, found)

	p, err := planning.LetGo(b.D, left)
	require.NoError(t, err)
	require.Len(t, p.Ops, 4)
	require.NoError(t, b.Apply(p))
	require.Equal(t, "[Desktop Entry]\n# my own\nType=Application\nName=Tide\nIcon=tide\n", b.File(".local/share/applications/tide.desktop"))
	require.Equal(t, "[Desktop Entry]\nSortOrder=1\n", b.File("Pictures/.directory"))
	again, err := iconbench.LeftOver(t.Context(), b.D)
	require.NoError(t, err)
	require.Empty(t, again)
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, p).Plan))
	require.Equal(t, before, b.Tree())
}
