package sign_test

import (
	"bytes"
	"encoding/base64"
	"image"
	"image/color"
	"image/png"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/parcel"
	"ivelt/core/typeset"
	"ivelt/core/xcursor"
	"ivelt/sign"
)

func plain(w, h int, c color.Color) image.Image {
	im := image.NewRGBA(image.Rect(0, 0, w, h))
	for i := range w * h {
		im.Set(i%w, i/w, c)
	}
	return im
}

func TestEveryKindIsDrawnFromItsOwnFiles(t *testing.T) {
	var shore bytes.Buffer
	require.NoError(t, png.Encode(&shore, plain(1200, 800, color.RGBA{200, 30, 40, 255})))
	moving := xcursor.Encode([]xcursor.Frame{{Size: 24, Picture: plain(24, 24, color.White), Delay: 100}, {Size: 24, Picture: plain(24, 24, color.Black), Delay: 300}})
	still := xcursor.Encode([]xcursor.Frame{{Size: 24, Picture: plain(24, 24, color.Black)}})
	files := fstest.MapFS{
		"T/gtk-3.0/gtk.css": {Data: []byte("@define-color ground #123456;\nwindow { background: url(evil); background-color: @ground; }\nbutton:active { background-image: linear-gradient(to right, rgba(1,2,3,0.5), red); background-image: linear-gradient(red, \"><script>); }\n")},
		"P/cursors/wait":    {Data: moving}, "P/cursors/default": {Data: still}, "P/cursors/text": {Data: []byte("Xcur broken")},
		"f/Go.ttf": {Data: goregular.TTF}, "shore.png": {Data: shore.Bytes()},
		"dusk.Xresources": {Data: []byte("*.background: #010203\n*.color0: #0a0b0c\n! *.color1: #ffffff\n*.color15: #fafbfc\n")},
	}
	draw := func(pc parcel.Piece) string { return string(sign.Piece(t.Context(), files, pc)) }

	theme := draw(parcel.Piece{Kind: parcel.Theme, Root: "T", Parts: []string{"gtk-3.0"}})
	require.Contains(t, theme, `fill="rgba(18,52,86,1)"`)
	require.Contains(t, theme, `stop-color="rgba(1,2,3,0.5)"`)
	require.NotContains(t, theme, "evil")
	require.NotContains(t, theme, "script")
	files["T/gtk-3.0/gtk-dark.css"] = &fstest.MapFile{Data: []byte("window { background-color: #070809; }")}
	require.Contains(t, draw(parcel.Piece{Kind: parcel.Theme, Root: "T", Parts: []string{"gtk-3.0"}}), `fill="rgba(7,8,9,1)"`, "the dark form beside it")
	require.Contains(t, draw(parcel.Piece{Kind: parcel.Theme, Root: "U", Files: 2}), "window theme, 2 files")

	pointer := draw(parcel.Piece{Kind: parcel.Pointer, Root: "P"})
	require.Equal(t, 3, strings.Count(pointer, "<image"), "one still, two of the moving one, the broken one left out")
	require.Equal(t, 2, strings.Count(pointer, "<animate"))
	require.Contains(t, pointer, `dur="0.40s"`)
	require.Contains(t, pointer, `keyTimes="0;0.2500;1.0000"`, "the second picture is shown from 0.1 s to 0.4 s")

	font := draw(parcel.Piece{Kind: parcel.Font, Name: "Go <x>", Only: []string{"f/Go.ttf"}})
	face, err := typeset.Load(goregular.TTF, 0)
	require.NoError(t, err)
	for _, letter := range []string{"G", "o", "<"} {
		require.Contains(t, font, face.Outline(face.Set(letter, 10).Glyphs[0].ID), letter)
	}

	backdrop := draw(parcel.Piece{Kind: parcel.Backdrop, Only: []string{"shore.png"}})
	_, rest, ok := strings.Cut(backdrop, "base64,")
	require.True(t, ok)
	raw, err := base64.StdEncoding.DecodeString(rest[:strings.IndexByte(rest, '"')])
	require.NoError(t, err)
	small, _, err := image.Decode(bytes.NewReader(raw))
	require.NoError(t, err)
	require.GreaterOrEqual(t, small.Bounds().Dx(), 384, "it fills the tag")
	require.GreaterOrEqual(t, small.Bounds().Dy(), 128)
	r, g, _, _ := small.At(100, 60).RGBA()
	require.InDeltaSlice(t, []uint32{200, 30}, []uint32{r >> 8, g >> 8}, 2)

	palette := draw(parcel.Piece{Kind: parcel.Palette, Only: []string{"dusk.Xresources"}})
	require.Contains(t, palette, `fill="#010203"`)
	require.Contains(t, palette, `fill="#0a0b0c"`)
	require.NotContains(t, palette, "#ffffff", "a comment is none")
	require.Contains(t, draw(parcel.Piece{Kind: parcel.Sound, Files: 3}), "sound theme, 3 files")
}

// TestPicturesBeforeItIsTaken: the tag, then pointers at their size, or backdrops whole.
func TestPicturesBeforeItIsTaken(t *testing.T) {
	var shore, small bytes.Buffer
	require.NoError(t, png.Encode(&shore, plain(1200, 800, color.RGBA{200, 30, 40, 255})))
	require.NoError(t, png.Encode(&small, plain(30, 20, color.RGBA{20, 130, 40, 255})))
	files := fstest.MapFS{
		"P/cursors/default": {Data: xcursor.Encode([]xcursor.Frame{{Size: 24, Picture: plain(24, 24, color.Black)}, {Size: 48, Picture: plain(48, 48, color.Black)}})},
		"P/cursors/help":    {Data: xcursor.Encode([]xcursor.Frame{{Size: 24, Picture: plain(24, 24, color.White)}})},
		"shore.png":         {Data: shore.Bytes()}, "small.png": {Data: small.Bytes()}, "broken.png": {Data: shore.Bytes()[:900]},
		"L/login.theme": {Data: []byte("[Login Theme]\nName=Shore\nBackdrop=shore.png\nInk=#fafbfc\nPanel=#102030\n")}, "L/shore.png": {Data: shore.Bytes()},
		"reef.toml": {Data: []byte("format = 1\nname = \"Reef\"\n[facet.icons]\npiece = \"Reef & co\"\n[facet.widgets]\npiece = \"Salt\"\n[facet.accent]\nvalue = \"#b4553d\"\n")},
	}
	files["P/cursors/0123456789abcdef0123456789abcdef"], files["P/cursors/arrow"] = files["P/cursors/default"], files["P/cursors/default"]
	states := func(pc parcel.Piece) (out []string) {
		for _, p := range sign.Pictures(t.Context(), files, pc) {
			wellFormed(t, p.SVG)
			out = append(out, p.State)
		}
		return out
	}
	require.Equal(t, []string{"normal", "real size", "every shape"}, states(parcel.Piece{Kind: parcel.Pointer, Root: "P"}))
	every := string(sign.Pictures(t.Context(), files, parcel.Piece{Kind: parcel.Pointer, Root: "P"})[2].SVG)
	require.Equal(t, 2, strings.Count(every, "<image "), "what goes by two names is one shape")
	require.Contains(t, every, ">help<")
	require.Contains(t, every, ">arrow<")
	require.NotContains(t, every, "0123456789abcdef0123456789abcdef")
	require.Equal(t, []string{"normal", "whole", "whole 3"}, states(parcel.Piece{Kind: parcel.Backdrop, Only: []string{"shore.png", "broken.png", "small.png"}}))
	require.Equal(t, []string{"normal"}, states(parcel.Piece{Kind: parcel.Pointer, Root: "None"}))
	whole := string(sign.Pictures(t.Context(), files, parcel.Piece{Kind: parcel.Backdrop, Only: []string{"shore.png"}})[1].SVG)
	require.Contains(t, whole, `viewBox="0 0 960 640"`, "no wider than it has to be, in its own proportions")

	draw := func(pc parcel.Piece) string { return wellFormed(t, sign.Piece(t.Context(), files, pc)) }
	login := draw(parcel.Piece{Kind: parcel.Login, Root: "L"})
	require.Contains(t, login, `fill="#102030" fill-opacity="0.72"`)
	require.Contains(t, login, `stroke="#fafbfc"`)
	require.Contains(t, login, "data:image/")
	require.Contains(t, draw(parcel.Piece{Kind: parcel.Login, Root: "None", Files: 4}), "4 files")
	require.Contains(t, draw(parcel.Piece{Kind: parcel.Style, Only: []string{"gone.png", "small.png"}}), "data:image/png")
	require.Contains(t, draw(parcel.Piece{Kind: parcel.Style, Only: []string{"gone.png"}, Files: 1}), "1 file<")
	bundle := draw(parcel.Piece{Kind: parcel.Bundle, Only: []string{"reef.toml"}})
	require.Contains(t, bundle, "Reef &amp; co")
	require.Contains(t, bundle, `fill="#b4553d"`)
	require.Contains(t, bundle, "Salt")
}
