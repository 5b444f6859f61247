package layer_test

import (
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/plan/plantest"
)

// TestALayerTakesChangesIn: what is changed in a set that is a layer goes into its recipe, unless the
// two cannot be told as one.
func TestALayerTakesChangesIn(t *testing.T) {
	below := layer.Recipe{Name: "Salt, mine", Folder: "Mine", Base: layer.Base{Kind: parcel.Pointer, Folder: "Salt"},
		Pointers: []layer.Pointing{{Name: "move", Like: "default"}, {Name: "text", Hot: "0 0"}, {Name: "wait", Turn: 500}},
		Every:    &layer.Every{Sizes: []int{32}}, Dyes: []layer.Dye{{To: "#ffffff"}}}
	more := layer.Recipe{Name: "Mine, mended", Folder: "Mine-Mended", Base: layer.Base{Kind: parcel.Pointer, Folder: "Mine"},
		Pointers: []layer.Pointing{{Name: "move", Like: "fleur"}, {Name: "text", Turn: 900}, {Name: "wait", Hot: "50 50"}, {Name: "help", Like: "default"}},
		Every:    &layer.Every{Sizes: []int{32, 64}, LeftHand: true}, Dyes: []layer.Dye{{To: "#202020"}}}
	want := layer.Recipe{Name: "Salt, mine", Folder: "Mine", Base: below.Base,
		Pointers: []layer.Pointing{{Name: "move", Like: "fleur"}, {Name: "text", Hot: "0 0", Turn: 900}, {Name: "wait", Turn: 500, Hot: "50 50"}, {Name: "help", Like: "default"}},
		Every:    &layer.Every{Sizes: []int{32, 64}, LeftHand: true}, Dyes: []layer.Dye{{To: "#202020"}}}
	b := plantest.New(t)
	b.Write(".icons/Salt/cursors/default", drop(24), 0o644)
	over := func(below, more layer.Recipe) (layer.Recipe, string, bool) {
		b.Write(".icons/Mine/layer.toml", string(below.Bytes()), 0o644)
		root, err := more.Base.Find(b.D)
		require.NoError(t, err)
		got, base, extends, err := layer.Extended(b.D, root, more)
		require.NoError(t, err)
		return got, filepath.Base(base), extends
	}
	got, base, extends := over(below, more)
	require.True(t, extends)
	require.Equal(t, "Salt", base)
	require.Equal(t, string(want.Bytes()), string(got.Bytes()))

	mirrored, moving, elsewhere := below, more, below
	mirrored.Every = &layer.Every{LeftHand: true}
	moving.Pointers = []layer.Pointing{{Name: "wait", Back: true}}
	elsewhere.Base.Folder = "Gone"
	for _, c := range []struct{ below, more layer.Recipe }{{mirrored, more}, {below, moving}, {elsewhere, more}} {
		got, base, extends := over(c.below, c.more)
		require.False(t, extends)
		require.Equal(t, "Mine", base)
		require.Equal(t, string(c.more.Bytes()), string(got.Bytes()))
	}
}
