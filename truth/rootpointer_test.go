package truth

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/session"
)

// overBackground is the pointer over a seat's background, the pictures that libXcursor loads
// for one, and the window that provides XSETTINGS.
func overBackground(t *testing.T, s *seat, program string) (seen string, loads []string, owner string) {
	t.Helper()
	c := exec.CommandContext(t.Context(), program)
	c.Env = s.environ()
	out := strings.Split(strings.TrimRight(output(t, c), "\n"), "\n")
	return out[0], out[1 : len(out)-1], strings.TrimPrefix(out[len(out)-1], "owner ")
}

// TestThePointerOverTheBackground has Ivelt's session show pointer sets that are installed,
// real makers' among them, at sizes by chance, and compares it by pixel with what libXcursor
// loads for programs (Debian: libxcursor-dev, libxfixes-dev, xvfb, x11-xserver-utils, and
// the pointer packages of the list).
func TestThePointerOverTheBackground(t *testing.T) {
	t.Parallel()
	program := build(t, "rootpointer", "xcursor x11 xfixes", "libxcursor-dev, libxfixes-dev")
	s := &seat{home: t.TempDir(), env: map[string]string{"DISPLAY": display(t)}}
	var folders []string
	for _, p := range append(realPacks(t), pack{root: "/"}) {
		found, err := filepath.Glob(filepath.Join(p.root, "usr/share/icons/*/cursors/left_ptr"))
		require.NoError(t, err)
		for _, f := range found {
			folders = append(folders, filepath.Dir(filepath.Dir(f)))
		}
	}
	slices.Sort(folders)
	require.Greater(t, len(folders), 20)
	icons := filepath.Join(s.home, ".icons")
	require.NoError(t, exec.CommandContext(t.Context(), "mkdir", "-p", icons).Run())
	var sets []string
	for i, f := range folders {
		sets = append(sets, fmt.Sprintf("%d-%s", i, filepath.Base(f)))
		require.NoError(t, exec.CommandContext(t.Context(), "ln", "-s", f, filepath.Join(icons, sets[i])).Run())
	}
	for i := range 3 { // ones that are lent, and ones that move
		heir, moves := fmt.Sprintf("heir-%d", i), fmt.Sprintf("moves-%d", i)
		write(t, filepath.Join(icons, heir, "index.theme"), "[Icon Theme]\nName=Heir\nInherits= no such; "+sets[i]+"\n")
		write(t, filepath.Join(icons, heir, "cursors/hand"), "")
		require.NoError(t, exec.CommandContext(t.Context(), "mkdir", "-p", filepath.Join(icons, moves, "cursors")).Run())
		watch, err := filepath.EvalSymlinks(filepath.Join(folders[len(folders)-1-i], "cursors/watch"))
		require.NoError(t, err, folders[len(folders)-1-i])
		require.NoError(t, exec.CommandContext(t.Context(), "ln", "-s", watch, filepath.Join(icons, moves, "cursors/left_ptr")).Run())
		sets = append(sets, heir, moves)
	}
	d, err := desk.Open("own", s.home, "/", "")
	require.NoError(t, err)
	d.Env = s.env
	d.SetSurfaces(desk.Builtin())
	ctx, cancel := context.WithCancel(t.Context())
	file, changed, ended := session.FileOf(d), make(chan struct{}), make(chan error)
	go func() {
		ended <- session.Hold(ctx, d, func() (desk.Held, error) { return session.ReadFile(file) }, changed, func(err error) { t.Error(err) })
	}()
	moving := 0
	r := rand.New(rand.NewPCG(23, 2))
	for i := range int(18 * *times) {
		set := sets[r.IntN(len(sets))]
		size := []int{16, 24, 32, 40, 48, 64, 96}[r.IntN(7)]
		write(t, file, fmt.Sprintf("[XResources]\nXcursor.theme=%s\nXcursor.size=%d\n[Pointer]\nSet=%s\n", set, size, set))
		changed <- struct{}{}
		require.Eventually(t, func() bool { // it is shown last
			seen, loads, _ := overBackground(t, s, program)
			if len(loads) > 1 { // a moving one has no name
				return slices.ContainsFunc(loads, func(l string) bool { return strings.TrimPrefix(l, "left_ptr") == strings.TrimPrefix(seen, "left_ptr") })
			}
			return len(loads) == 1 && seen == loads[0]
		}, 5*time.Second, 10*time.Millisecond, "%d: %s at %d px", i, set, size)
		if _, loads, _ := overBackground(t, s, program); len(loads) > 1 {
			moving++
		}
	}
	require.Positive(t, moving)
	t.Logf("%d sets, %d times, of which %d move", len(sets), 18**times, moving)
	cancel()
	require.NoError(t, <-ended)
}
