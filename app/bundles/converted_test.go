package bundles_test

import (
	"image"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/apptest"
	"ivelt/app/desks"
	"ivelt/core/archive/archivetest"
	"ivelt/core/curfile"
	"ivelt/core/desk"
	"ivelt/core/layer"
	"ivelt/core/market"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/pointerset"
	"ivelt/core/xcursor"
)

// TestConvertedPointersGoAlong: an outfit with pointers of the other family, in sizes of one's own
// choice, is put on elsewhere: they are fetched as their maker has them, and made in those sizes.
func TestConvertedPointersGoAlong(t *testing.T) {
	arrow, err := curfile.Encode(true, []curfile.Picture{{NRGBA: image.NewNRGBA(image.Rect(0, 0, 32, 32))}})
	require.NoError(t, err)
	offer := apptest.Offer{Entry: market.Entry{ID: "tern", Kind: "pointer", Name: "Tern"}, Parcel: archivetest.Zip(t, []archivetest.Entry{{Name: "Tern/Arrow.cur", Text: string(arrow)}})}
	recipe := pointerset.Origin{Name: "Tern", Folder: "Tern"}.Recipe([]int{40, 56}, nil)
	o := outfit.Outfit{Name: "Dusk", Choices: map[string]outfit.Choice{desk.FacetPointer: {Piece: "Tern", Recipe: string(recipe)}}}

	sizes := func(a *app.App, d *desks.Managed) []int {
		t.Helper()
		root, err := (layer.Base{Kind: parcel.Pointer, Folder: "Tern"}).Find(a.Overlays.Overlay(d))
		require.NoError(t, err)
		b, err := a.Overlays.Overlay(d).Tree().ReadFile(root + "/cursors/left_ptr")
		require.NoError(t, err)
		f, err := xcursor.Parse(b)
		require.NoError(t, err)
		return f.Sizes()
	}
	a, d := apptest.WithShop(t, nil, offer)
	got, left, err := a.Bundles.Get(t.Context(), d, o, false)
	require.NoError(t, err)
	require.Empty(t, left)
	require.Len(t, got, 1)
	require.Equal(t, []int{40, 56}, sizes(a, d))

	other, there := apptest.WithShop(t, nil, offer)
	require.NoError(t, other.Drafts.TakeOutfit(there, o.Bytes()))
	require.NoError(t, apptest.Wait(other.Bundles.GetMissing(there, "")))
	require.Equal(t, []int{40, 56}, sizes(other, there))
}
