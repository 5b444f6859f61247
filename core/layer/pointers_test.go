package layer_test

import (
	"image"
	"image/color"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/xcursor"
)

// drop is a pointer: a square in the middle of a picture, with a corner of its own colour.
func drop(sizes ...int) string {
	var all []xcursor.Frame
	for _, size := range sizes {
		p := image.NewRGBA(image.Rect(0, 0, size, size))
		for y := size / 4; y < size*3/4; y++ {
			for x := size / 4; x < size*3/4; x++ {
				p.Set(x, y, color.Black)
			}
		}
		p.Set(size/4, size/4, color.RGBA{200, 0, 0, 255})
		all = append(all, xcursor.Frame{Size: size, Picture: p, HotX: size / 4, HotY: size / 2})
	}
	return string(xcursor.Encode(all))
}

// TestPointersAreMended: a pointer gets the picture of another, a hot spot goes elsewhere in every
// size, sizes are made, what points is mirrored; and what the set draws itself by now is kept.
func TestPointersAreMended(t *testing.T) {
	tree, root := onDesk(t, map[string]string{"cursors/default": drop(24, 48), "cursors/text": drop(24, 48), "cursors/copy": drop(24), "index.theme": "[Icon Theme]\nName=Salt\n"})
	r := layer.Recipe{Name: "Salt, mended", Folder: "Salt-Mended", Base: layer.Base{Kind: parcel.Pointer, Folder: "Salt"},
		Pointers: []layer.Pointing{{Name: "left_ptr", Like: "default"}, {Name: "text", Hot: "100 0"}, {Name: "copy", Like: "default"}, {Name: "move", Like: "fleur"}},
		Every:    &layer.Every{Sizes: []int{32, 48}, LeftHand: true}}
	r = parsed(t, string(r.Bytes()))
	dir, report := built(t, tree, root, r)
	states := map[string]layer.State{}
	for _, f := range report.Fits {
		states[f.Change] = f.State
	}
	require.Equal(t, map[string]layer.State{"left_ptr": layer.Fits, "text": layer.Fits, "copy": layer.Moved, "move": layer.Gone}, states)
	shape := func(name string) *xcursor.File {
		b, err := os.ReadFile(filepath.Join(dir, "cursors", name))
		require.NoError(t, err)
		f, err := xcursor.Parse(b)
		require.NoError(t, err)
		return f
	}
	arrow := shape("left_ptr")
	require.ElementsMatch(t, []int{24, 32, 48}, arrow.Sizes())
	im := arrow.Frames(48)[0]
	require.Equal(t, []int{48 - 1 - 12, 24}, []int{im.HotX, im.HotY}, "for the left hand")
	require.Equal(t, color.RGBA{200, 0, 0, 255}, arrow.Picture(im).At(48-1-12, 12))
	text := shape("text")
	for _, size := range []int{24, 32, 48} {
		im := text.Frames(size)[0]
		require.Equal(t, []int{size*3/4 - 1, size / 4}, []int{im.HotX, im.HotY}, "%d px", size)
	}
	require.NoFileExists(t, filepath.Join(dir, "cursors", "move"))
	b, err := os.ReadFile(filepath.Join(dir, "index.theme"))
	require.NoError(t, err)
	require.Contains(t, string(b), "Inherits=Salt\n", "all else is the set's own")

	for why, wrong := range map[string]layer.Pointing{"no name": {Name: "../x", Like: "default"}, "like another": {Name: "x"}, "no other": {Name: "x", Like: "x"}, "two numbers": {Name: "x", Hot: "a b"}, "0 to 100": {Name: "x", Hot: "120 0"}} {
		w := r
		w.Pointers = []layer.Pointing{wrong}
		require.ErrorContains(t, w.Valid(), why)
	}
	w := r
	w.Base.Kind = parcel.Icons
	require.ErrorContains(t, w.Valid(), "pointer sets")
	w = r
	w.Every = &layer.Every{}
	require.ErrorContains(t, w.Valid(), "changes nothing")
}
