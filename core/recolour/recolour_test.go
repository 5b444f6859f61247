package recolour_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/base64"
	"image"
	"image/color"
	"image/png"
	"io"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/colour"
	"ivelt/core/recolour"
)

func parsed(t *testing.T, text string) colour.Colour {
	t.Helper()
	c, err := colour.Parse(text)
	require.NoError(t, err)
	return c
}

// TestShadingIsKept: what is lighter stays lighter, white, grey and black stay as they are, the
// main colour becomes the wanted one, and other hues stay where they are asked to.
func TestShadingIsKept(t *testing.T) {
	d := recolour.Dye{From: parsed(t, "#3d7ea6"), To: parsed(t, "#a0466b"), Within: 40}
	require.Equal(t, "#a0466b", d.Of(d.From).Hex())
	for _, c := range []string{"#ffffff", "#000000", "#808080", "#c8c9c6", "#b8862b", "#6b8e23"} {
		require.Equal(t, c, d.Of(parsed(t, c)).Hex())
	}
	all := recolour.Dye{From: d.From, To: d.To}
	_, _, want := all.To.LCH()
	r := rand.New(rand.NewPCG(3, 4))
	for range 2000 {
		a, b := colour.Of8(uint8(r.UintN(256)), uint8(r.UintN(256)), uint8(r.UintN(256))), colour.Of8(uint8(r.UintN(256)), uint8(r.UintN(256)), uint8(r.UintN(256)))
		la, ca, _ := a.LCH()
		lb, cb, _ := b.LCH()
		ta, tc, hue := all.Of(a).LCH()
		tb, _, _ := all.Of(b).LCH()
		if ca > 0.03 && cb > 0.03 && la > lb+0.05 {
			require.Greater(t, ta, tb-0.02, "%s %s", a.Hex(), b.Hex())
		}
		if ca > 0.03 && tc > 0.03 {
			require.Less(t, colour.HueDistance(hue, want), 4.0, "%s: %s", a.Hex(), all.Of(a).Hex())
		}
	}
}

// TestColoursAreMapped: of 2,000 colours each gets the hue of the palette's that is nearest to it and
// stays as light as it was; white, grey and black stay, and a palette of those is none.
func TestColoursAreMapped(t *testing.T) {
	var all []colour.Colour
	for _, c := range []string{"#1d2127", "#a04040", "#5f8a4a", "#b8862b", "#3d7ea6", "#d9d4c7"} {
		all = append(all, parsed(t, c))
	}
	p, ok := recolour.NewPalette(all)
	require.True(t, ok)
	r := rand.New(rand.NewPCG(5, 6))
	for range 2000 {
		c := colour.Of8(uint8(r.UintN(256)), uint8(r.UintN(256)), uint8(r.UintN(256)))
		l, chroma, hue := c.LCH()
		got := p.Of(c)
		if chroma <= 0.03 {
			require.Equal(t, c, got)
			continue
		}
		gl, gc, gh := got.LCH()
		require.InDelta(t, l, gl, 0.03, "%s: %s", c.Hex(), got.Hex())
		least := 360.0
		for _, to := range all {
			if _, tc, th := to.LCH(); tc > 0.03 {
				least = min(least, colour.HueDistance(hue, th))
			}
		}
		near := slices.ContainsFunc(all, func(to colour.Colour) bool {
			_, _, th := to.LCH()
			return colour.HueDistance(hue, th) <= least+1e-9 && (gc < 0.03 || colour.HueDistance(gh, th) < 6)
		})
		require.True(t, near, "%s: %s", c.Hex(), got.Hex())
	}
	_, ok = recolour.NewPalette([]colour.Colour{parsed(t, "#ffffff"), parsed(t, "#808080")})
	require.False(t, ok)
}

// TestPicturesOfEveryKind: drawings with attributes, styles, gradients, entities, names and
// pictures in them, compressed or not, PNG with a palette and without, and XPM; nothing but
// colours changes, and nothing at all where no colour does.
func TestPicturesOfEveryKind(t *testing.T) {
	dye := recolour.Dye{From: parsed(t, "#3d7ea6"), To: parsed(t, "#a0466b"), Within: 40}
	do := func(raw []byte) ([]byte, bool) {
		t.Helper()
		out, changed, err := recolour.New(dye).Picture(t.Context(), raw)
		require.NoError(t, err)
		return out, changed
	}
	const blue, rose = "#3d7ea6", "#a0466b"
	svg := `<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY main "` + blue + `">]><svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 8 8"><style>.a{fill:` + blue + `;stroke : rgb(61,126,166)} .b{color:RGBA(61, 126, 166, 0.5)}</style><linearGradient id="3d7ea6"><stop stop-color="` + blue + `"/><stop style="stop-color:#3D7EA6ff;stop-opacity:1"/></linearGradient><path fill="url(#3d7ea6)" stroke='` + blue + `' d="M0 0h8"/><path fill="&main;"/><path fill="white" stroke="none"/><rect fill="#808080" data-x="` + blue + `"/></svg>`
	out, changed := do([]byte(svg))
	require.True(t, changed)
	want := strings.NewReplacer(`"`+blue+`">]`, `"`+rose+`">]`, "fill:"+blue, "fill:"+rose, "rgb(61,126,166)", "rgb(160,70,107)", "RGBA(61, 126, 166, 0.5)", "rgba(160,70,107,0.5)",
		`stop-color="`+blue, `stop-color="`+rose, "#3D7EA6ff", rose+"ff", "stroke='"+blue, "stroke='"+rose).Replace(svg)
	require.Equal(t, want, string(out))
	again, changed := do(out)
	require.False(t, changed, "of another hue now")
	require.Equal(t, string(out), string(again))

	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	_, _ = z.Write([]byte(svg))
	require.NoError(t, z.Close())
	out, changed = do(packed.Bytes())
	require.True(t, changed)
	unpacked, err := gzip.NewReader(bytes.NewReader(out))
	require.NoError(t, err)
	text, err := io.ReadAll(unpacked)
	require.NoError(t, err)
	require.Equal(t, want, string(text))

	pixels := func(im image.Image) []byte {
		var b bytes.Buffer
		require.NoError(t, png.Encode(&b, im))
		return b.Bytes()
	}
	plain := image.NewNRGBA(image.Rect(0, 0, 3, 1))
	plain.SetNRGBA(0, 0, color.NRGBA{0x3d, 0x7e, 0xa6, 200})
	plain.SetNRGBA(1, 0, color.NRGBA{250, 250, 250, 255})
	table := image.NewPaletted(image.Rect(0, 0, 2, 1), color.Palette{color.NRGBA{0x3d, 0x7e, 0xa6, 255}, color.NRGBA{9, 9, 9, 255}})
	table.SetColorIndex(1, 0, 1)
	for _, im := range []image.Image{plain, table} {
		out, changed := do(pixels(im))
		require.True(t, changed)
		dyed, err := png.Decode(bytes.NewReader(out))
		require.NoError(t, err)
		require.Equal(t, im.Bounds(), dyed.Bounds())
		c := color.NRGBAModel.Convert(dyed.At(0, 0)).(color.NRGBA)
		_, _, _, a := im.At(0, 0).RGBA()
		require.Equal(t, color.NRGBA{0xa0, 0x46, 0x6b, uint8(a >> 8)}, c)
		require.Equal(t, color.NRGBAModel.Convert(im.At(1, 0)), color.NRGBAModel.Convert(dyed.At(1, 0)))
	}
	inside := `<svg xmlns="http://www.w3.org/2000/svg"><image href="data:image/png;base64,` + base64.StdEncoding.EncodeToString(pixels(plain)) + `"/></svg>`
	out, changed = do([]byte(inside))
	require.True(t, changed)
	_, body, _ := strings.Cut(string(out), "base64,")
	raw, err := base64.StdEncoding.DecodeString(body[:strings.IndexByte(body, '"')])
	require.NoError(t, err)
	_, err = png.Decode(bytes.NewReader(raw))
	require.NoError(t, err)

	out, changed = do([]byte("/* XPM */\nstatic char *x[] = {\"2 1 2 1\",\n\"a c #3D7EA6\",\n\"b c #3d3d7e7ea6a6\",\n\"ab\"};\n"))
	require.True(t, changed)
	require.Contains(t, string(out), "\"a c #a0466b\"")
	require.Contains(t, string(out), "\"b c #a0a046466b6b\"")

	for _, bad := range []string{"", "text", "\x1f\x8bbroken", "\x89PNG\r\n\x1a\nbroken"} {
		_, _, err := recolour.New(dye).Picture(t.Context(), []byte(bad))
		require.ErrorIs(t, err, recolour.ErrPicture, "%q", bad)
	}
	over, cancel := context.WithCancel(t.Context())
	cancel()
	_, _, err = recolour.New(dye).Picture(over, []byte(svg))
	require.ErrorIs(t, err, context.Canceled)

	main, ok := recolour.Main(t.Context(), []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 8 8"><rect width="8" height="8" fill="#eee"/><rect width="5" height="5" fill="`+blue+`"/><rect x="6" width="1" height="1" fill="#b4553d"/></svg>`))
	require.True(t, ok)
	require.Less(t, colour.Distance(main, parsed(t, blue)), 0.02)
	_, ok = recolour.Main(t.Context(), pixels(image.NewNRGBA(image.Rect(0, 0, 4, 4))))
	require.False(t, ok)
}

func FuzzParsePictures(f *testing.F) {
	f.Add([]byte(`<svg fill="#3d7ea6" style="stroke:rgb(1,2,3)"/>`))
	f.Add([]byte("/* XPM */ c #123456"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		d := recolour.New(recolour.Dye{From: colour.Of8(61, 126, 166), To: colour.Of8(160, 70, 107)})
		out, changed, err := d.Picture(t.Context(), raw)
		if err == nil && !changed && !bytes.Equal(out, raw) {
			t.Fatal("changed and not said so")
		}
	})
}
