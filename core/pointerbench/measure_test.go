package pointerbench_test

import (
	"image"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/plan/plantest"
	"ivelt/core/pointerbench"
	"ivelt/core/pointerbench/pointertest"
	"ivelt/core/pointerset"
	"ivelt/core/within"
	"ivelt/core/xcursor"
)

func codes(r *pointerbench.Report) string {
	var out []string
	for _, f := range r.Findings {
		out = append(out, strings.TrimSpace(f.Code+" "+f.File))
	}
	return strings.Join(out, "; ")
}

// TestEachFault: a set in which nothing is wrong, what is said of each fault, and that it has a remedy.
func TestEachFault(t *testing.T) {
	for _, c := range pointertest.Faults {
		t.Run(c.Name, func(t *testing.T) {
			m := pointertest.Full()
			c.Spoil(m)
			r, err := pointerbench.Measure(t.Context(), m, ".", pointerbench.Options{Asked: c.Asked})
			require.NoError(t, err)
			require.Equal(t, c.Want, codes(r))
			_, some := r.Mend("Salt", "Salt")
			require.Equal(t, c.Want != "", some, "whether there is a remedy")
			code, _, _ := strings.Cut(c.Want, " ")
			require.True(t, code == "" || slices.Contains(pointerbench.Mends, code))
		})
	}
	r, err := pointerbench.Measure(t.Context(), pointertest.Full(), ".", pointerbench.Options{})
	require.NoError(t, err)
	require.Equal(t, 77, r.FontAll)
	require.Equal(t, []int{24, 48}, r.Sizes)
	require.InDelta(t, 21, r.Contrast, 0.1)
	_, err = pointerbench.Measure(t.Context(), fstest.MapFS{"cursors/x": {Data: []byte("no")}}, ".", pointerbench.Options{})
	require.ErrorIs(t, err, pointerbench.ErrNone)
}

// TestHugeSets: what is measured is bounded, whatever a set says of itself.
func TestHugeSets(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.Mkdir(filepath.Join(dir, "cursors"), 0o755))
	many := make([]xcursor.Frame, 3000)
	for i := range many {
		many[i] = xcursor.Frame{Size: 24, Picture: image.NewRGBA(image.Rect(0, 0, 24, 24)), Delay: 1}
	}
	at := func(name string) string { return filepath.Join(dir, "cursors", name) }
	require.NoError(t, os.WriteFile(at("x"), xcursor.Encode(many), 0o644))
	for _, r := range pointerset.Roles {
		require.NoError(t, os.Link(at("x"), at(r.Name)))
		require.NoError(t, os.Symlink(r.Name+"-b", at(r.Name+"-a")))
		require.NoError(t, os.Symlink(r.Name+"-a", at(r.Name+"-b")))
	}
	require.NoError(t, syscall.Mkfifo(at("pipe"), 0o644))
	within.Reason(t, 1<<20, func() {
		r, err := pointerbench.Measure(t.Context(), os.DirFS(dir), ".", pointerbench.Options{Asked: []int{24, 1 << 30}})
		require.NoError(t, err)
		require.Contains(t, codes(r), "long-turn")
		require.Contains(t, codes(r), "links-broken")
	})
}

// TestSizesAreThoseOfTheScreen: a surface whose pixels are two of the screen's asks for twice its size.
func TestSizesAreThoseOfTheScreen(t *testing.T) {
	b := plantest.New(t)
	b.Write(plantest.GTK3, "[Settings]\ngtk-cursor-theme-size=32\n", 0o644)
	require.Equal(t, []int{24, 32}, pointerbench.SizesIn(b.D))
	b.D.Env = map[string]string{"GDK_SCALE": "2"}
	require.Equal(t, []int{24, 48, 64}, pointerbench.SizesIn(b.D))
}
