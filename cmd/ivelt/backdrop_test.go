package main

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"hash/crc32"
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/palette"
)

// TestBackdropByCommand: how a picture lies, what leads in it and what can be made of it, as JSON; a
// palette of it is a file that terminals read; what is no picture, cut off, too large or asked for
// wrongly gets a sentence.
func TestBackdropByCommand(t *testing.T) {
	dir, home, system := t.TempDir(), t.TempDir(), t.TempDir()
	file := func(name string, b []byte) string {
		at := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(at, b, 0o644))
		return at
	}
	pic := image.NewRGBA(image.Rect(0, 0, 1000, 400))
	for y := range 400 {
		for x := range 1000 {
			c := color.RGBA{30, 60, 120, 255}
			if x >= 700 {
				c = color.RGBA{200, 110, 40, 255}
			}
			pic.Set(x, y, c)
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, pic))
	shore := file("shore.png", b.Bytes())
	run := func(args ...string) (string, error) {
		out, err := command(t, append([]string{"backdrop", "--home", home, "--system", system}, args...)...).CombinedOutput()
		return string(out), err
	}
	out, err := run(shore, "--json", "--monitors", "800x800,500x200", "--cut", "100 50")
	require.NoError(t, err, out)
	var got struct {
		Width, Height float64
		Guessed       bool
		Monitors      []struct {
			Drawn                [4]float64
			Enlarged, Lost, Bare float64
		}
		Leading []struct {
			Colour string
			Share  float64
			At     [2]float64
		}
		Accents []struct {
			Colour   string
			Contrast float64
		}
		Dark struct{ Ground string }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &got), out)
	require.Equal(t, []float64{1000, 400}, []float64{got.Width, got.Height})
	require.False(t, got.Guessed)
	require.Equal(t, [4]float64{-1200, 0, 2000, 800}, got.Monitors[0].Drawn, "its right is seen")
	require.InDeltaSlice(t, []float64{2, 0.6, 0, 1, 0, 0}, []float64{got.Monitors[0].Enlarged, got.Monitors[0].Lost, got.Monitors[0].Bare, got.Monitors[1].Enlarged, got.Monitors[1].Lost, got.Monitors[1].Bare}, 1e-9)
	require.Len(t, got.Leading, 2)
	require.InDelta(t, 0.7, got.Leading[0].Share, 0.02)
	require.InDelta(t, 0.85, got.Leading[1].At[0], 0.02)
	require.Len(t, got.Accents, 2)

	made := filepath.Join(dir, "shore.Xresources")
	out, err = run(shore, "--palette", made)
	require.NoError(t, err, out)
	raw, err := os.ReadFile(made)
	require.NoError(t, err)
	p, err := palette.Parse(raw)
	require.NoError(t, err)
	require.Equal(t, got.Dark.Ground, p.Ground.Hex())
	out, err = run(shore, "--palette", made)
	require.Error(t, err, "what is there is not written over")
	require.Contains(t, out, made)

	huge := append([]byte{}, b.Bytes()...)
	copy(huge[16:], []byte{0, 0, 0x4e, 0x20, 0, 0, 0x4e, 0x20}) // 20,000 × 20,000, as it says
	binary.BigEndian.PutUint32(huge[29:], crc32.ChecksumIEEE(huge[12:29]))
	for says, args := range map[string][]string{
		"no picture":            {file("a.txt", []byte("words"))},
		"it is no picture that": {file("cut.png", b.Bytes()[:600])},
		"too much to draw":      {file("huge.png", huge)},
		"no such file":          {filepath.Join(dir, "gone.png")},
		"--mode is one of":      {shore, "--mode", "wide"},
		"--cut is two numbers":  {shore, "--cut", "50"},
		"--monitors are sizes":  {shore, "--monitors", "0x9"},
	} {
		out, err := run(args...)
		require.Error(t, err, says)
		require.Contains(t, out, says)
	}
}
