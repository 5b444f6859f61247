package recolour_test

import (
	"image"
	"image/color"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/colour"
	"ivelt/core/recolour"
	"ivelt/core/xcursor"
)

// arrow is a pointer of n px: an inside in one colour, an outline in another, a spot in a third,
// and a shade between the first two that is half seen through.
func arrow(n int, inside, outline color.NRGBA) *image.NRGBA {
	im := image.NewNRGBA(image.Rect(0, 0, n, n))
	for y := 2; y < n-2; y++ {
		for x := 2; x < n-2; x++ {
			im.SetNRGBA(x, y, inside)
			if x == 2 || y == 2 || x == n-3 || y == n-3 {
				im.SetNRGBA(x, y, outline)
			}
		}
	}
	im.SetNRGBA(n/2, n/2, color.NRGBA{200, 40, 40, 255})
	im.SetNRGBA(n/2+1, n/2, color.NRGBA{128, 128, 128, 128})
	return im
}

// TestPointersAreRecoloured: the inside gets the colour, the outline keeps its own, what is
// between stays between; a third colour, sizes, hot spots and delays stay as they are.
func TestPointersAreRecoloured(t *testing.T) {
	black, white := color.NRGBA{0, 0, 0, 255}, color.NRGBA{255, 255, 255, 255}
	raw := xcursor.Encode([]xcursor.Frame{
		{Size: 24, Picture: arrow(24, black, white), HotX: 3, HotY: 4, Delay: 40},
		{Size: 48, Picture: arrow(48, black, white), HotX: 6, HotY: 8, Delay: 50},
	})
	inside, outline, ok := recolour.MainPointer(raw)
	require.True(t, ok)
	require.Equal(t, []string{"#000000", "#ffffff"}, []string{inside.Hex(), outline.Hex()})
	rose := colour.Of8(0xa0, 0x46, 0x6b)
	made, changed, err := recolour.New(recolour.Fill{Inside: inside, Outline: outline, ToInside: rose, ToOutline: outline}).Picture(t.Context(), raw)
	require.NoError(t, err)
	require.True(t, changed)
	f, err := xcursor.Parse(made)
	require.NoError(t, err)
	require.Len(t, f.Images, 2)
	for i, n := range []int{24, 48} {
		im := f.Images[i]
		require.Equal(t, []any{n, 3 * n / 24, 4 * n / 24, time.Duration(40+10*i) * time.Millisecond}, []any{im.Size, im.HotX, im.HotY, im.Delay})
		at := func(x, y int) color.NRGBA { return color.NRGBAModel.Convert(f.Picture(im).RGBAAt(x, y)).(color.NRGBA) }
		require.Equal(t, color.NRGBA{0xa0, 0x46, 0x6b, 255}, at(5, 5))
		require.Equal(t, white, at(2, 9))
		require.Equal(t, color.NRGBA{200, 40, 40, 255}, at(n/2, n/2))
		require.Zero(t, at(0, 0).A)
		between := at(n/2+1, n/2)
		require.EqualValues(t, 128, between.A)
		require.Greater(t, between.R, between.G, "a shade of rose")
		require.Greater(t, int(between.G), 0x46+20)
	}
	inside, outline, ok = recolour.MainPointer(made)
	require.True(t, ok)
	require.Equal(t, []string{"#a0466b", "#ffffff"}, []string{inside.Hex(), outline.Hex()})

	same, changed, err := recolour.New(recolour.Fill{Inside: inside, Outline: outline, ToInside: inside, ToOutline: outline}).Picture(t.Context(), made)
	require.NoError(t, err)
	require.False(t, changed)
	require.Equal(t, made, same)
	_, _, err = recolour.New(recolour.Fill{}).Picture(t.Context(), raw[:40])
	require.ErrorIs(t, err, recolour.ErrPicture)
	_, _, ok = recolour.MainPointer([]byte("Xcur"))
	require.False(t, ok)
}
