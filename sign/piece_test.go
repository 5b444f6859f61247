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
	require.Contains(t, font, base64.StdEncoding.EncodeToString(goregular.TTF))
	require.Contains(t, font, "Go &lt;x&gt;")

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
