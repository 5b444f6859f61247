package main

import (
	"image"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestPicture pictures a theme that lies in a folder: the colours of its own sheet are in
// the file, in every size and shade, and nothing is left on the desk.
func TestPicture(t *testing.T) {
	dir := t.TempDir()
	put := func(name, text string) {
		file := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	}
	put("Made/index.theme", "[Desktop Entry]\nName=Made\n")
	for _, part := range []string{"gtk-3.0", "gtk-4.0"} {
		put("Made/"+part+"/gtk.css", "window { background: #f0e0d0; color: #111; }")
		put("Made/"+part+"/gtk-dark.css", "window { background: #203040; color: #eee; }")
	}
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "home"), 0o755))
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "system"), 0o755))
	draw := func(name string, args ...string) string {
		t.Helper()
		out := filepath.Join(dir, name)
		args = append([]string{"picture", "--home", filepath.Join(dir, "home"), "--system", filepath.Join(dir, "system"), "--scene", "controls"}, append(args, out)...)
		all, err := command(t, args...).CombinedOutput()
		require.NoError(t, err, string(all))
		return out
	}
	shown := func(file string) (image.Image, map[[3]uint32]int) {
		t.Helper()
		f, err := os.Open(file)
		require.NoError(t, err)
		defer f.Close()
		im, err := png.Decode(f)
		require.NoError(t, err)
		colours := map[[3]uint32]int{}
		for y := range im.Bounds().Dy() {
			for x := range im.Bounds().Dx() {
				r, g, b, _ := im.At(x, y).RGBA()
				colours[[3]uint32{r >> 8, g >> 8, b >> 8}]++
			}
		}
		return im, colours
	}
	theme := filepath.Join(dir, "Made")
	light, dark := [3]uint32{0xf0, 0xe0, 0xd0}, [3]uint32{0x20, 0x30, 0x40}
	im, colours := shown(draw("light.png", "--theme", theme, "--size", "900x600", "--scale", "2"))
	require.Equal(t, image.Pt(1800, 1200), im.Bounds().Size())
	require.Greater(t, colours[light], 100000, "a window is the light of the theme")
	require.Zero(t, colours[dark])
	_, colours = shown(draw("dark.png", "--theme", theme, "--shade", "dark"))
	require.Greater(t, colours[dark], 50000)
	require.Zero(t, colours[light])
	_, colours = shown(draw("without.png"))
	require.Zero(t, colours[light], "the theme is in the picture only if it is asked for")
	svg, err := os.ReadFile(draw("light.svg", "--theme", theme))
	require.NoError(t, err)
	require.Contains(t, string(svg), "<svg")

	left, err := os.ReadDir(filepath.Join(dir, "home"))
	require.NoError(t, err)
	require.Empty(t, left, "a picture puts nothing on the desk")
	for _, wrong := range [][]string{{"x.gif"}, {"--scene", "moon", "x.png"}, {"--size", "9x9", "x.png"}, {"--size", "wide", "x.png"}, {"--scale", "99", "x.png"},
		{"--shade", "pale", "x.png"}, {"--state", "asleep", "x.png"}, {"--theme", filepath.Join(dir, "gone"), "x.png"}} {
		c := command(t, append([]string{"picture", "--home", filepath.Join(dir, "home"), "--system", filepath.Join(dir, "system")}, wrong...)...)
		c.Dir = dir
		all, _ := c.CombinedOutput()
		require.Equal(t, exitBad, c.ProcessState.ExitCode(), "%v: %s", wrong, all)
		require.NoFileExists(t, filepath.Join(dir, wrong[len(wrong)-1]))
	}
}
