package layer_test

import (
	"image"
	"image/color"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/curfile"
	"ivelt/core/layer"
	"ivelt/core/pointerset"
	"ivelt/core/xcursor"
)

// TestPointersAreConvertedAgain: a set that was made of .cur files is built anew in other sizes
// from the files beside it, and the recipe that a parcel lays in is one that is read.
func TestPointersAreConvertedAgain(t *testing.T) {
	text := pointerset.Origin{Name: "Tern", Folder: "Tern", Version: "1.2", Licence: "MIT"}.Recipe(nil, nil)
	r, err := layer.Parse(text)
	require.NoError(t, err)
	require.Equal(t, string(text), string(r.Bytes()))

	im := image.NewNRGBA(image.Rect(0, 0, 32, 32))
	im.Set(1, 1, color.Black)
	arrow, err := curfile.Encode(true, []curfile.Picture{{NRGBA: im, HotX: 2, HotY: 2}})
	require.NoError(t, err)
	tree, root := onDesk(t, map[string]string{"original/Arrow.cur": string(arrow), "original/LICENSE": "MIT", "layer.toml": string(text)})
	r.Convert.Sizes, r.Convert.Scales = []int{32}, []float64{1, 2}
	r, report, err := layer.Rebased(t.Context(), tree, root+"/original", r)
	require.NoError(t, err)
	require.True(t, report.Same)
	dir, report := built(t, tree, root+"/original", r)
	require.True(t, report.Same)
	raw, err := os.ReadFile(filepath.Join(dir, "cursors/left_ptr"))
	require.NoError(t, err)
	f, err := xcursor.Parse(raw)
	require.NoError(t, err)
	require.Equal(t, []int{32, 64}, f.Sizes())
	for name, want := range map[string]string{"original/Arrow.cur": string(arrow), "LICENSE": "MIT", "layer.toml": string(r.Bytes())} {
		is, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		require.Equal(t, want, string(is), name)
	}

	for why, wrong := range map[string]layer.Recipe{
		"stands alone":     {Name: "Tern", Folder: "Tern", Base: r.Base, Convert: r.Convert, Dyes: []layer.Dye{{To: "#112233"}}},
		"within the piece": {Name: "Tern", Folder: "Tern", Base: layer.Base{Kind: "pointer", Folder: "Salt"}, Convert: r.Convert},
		"pointer sets":     {Name: "Tern", Folder: "Tern", Base: layer.Base{Kind: "icons", Folder: "Tern", Within: "original"}, Convert: r.Convert},
		"4 px":             {Name: "Tern", Folder: "Tern", Base: r.Base, Convert: &layer.Convert{Sizes: []int{4}}},
	} {
		require.ErrorContains(t, wrong.Valid(), why)
	}
}
