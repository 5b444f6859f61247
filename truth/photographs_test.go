package truth

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	"image/png"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/imagefile"
)

// TestTurnedPicturesAreThoseOfTheBrowser: pictures of three formats that say by Exif how they are turned,
// written by exiftool, in all eight ways: size and colours as Chromium
// shows them, which turns JPEG and PNG (Debian:
// libimage-exiftool-perl, imagemagick, chromium).
func TestTurnedPicturesAreThoseOfTheBrowser(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	pic := image.NewRGBA(image.Rect(0, 0, 48, 32))
	for y := range 32 {
		for x := range 48 { // four quarters
			pic.Set(x, y, color.RGBA{uint8(60 + 120*(x/24)), uint8(40 + 160*(y/16)), 90, 255})
		}
	}
	var asPNG, asJPEG bytes.Buffer
	require.NoError(t, png.Encode(&asPNG, pic))
	require.NoError(t, jpeg.Encode(&asJPEG, pic, &jpeg.Options{Quality: 95}))
	write(t, filepath.Join(dir, "a.png"), asPNG.String())
	write(t, filepath.Join(dir, "a.jpg"), asJPEG.String())
	var page strings.Builder
	page.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 480 180" width="480" height="180">`)
	type one struct {
		name string
		im   image.Image
		at   image.Point
	}
	var all []one
	for n, kind := range []string{"jpg", "png", "webp"} {
		for turn := 1; turn <= 8; turn++ {
			name := filepath.Join(dir, fmt.Sprintf("%d.%s", turn, kind))
			if kind == "webp" { // exiftool writes none: what the JPEG says is taken over
				output(t, tool(t, "convert-im6.q16", "imagemagick", filepath.Join(dir, fmt.Sprintf("%d.jpg", turn)), "-quality", "95", name))
			} else {
				output(t, tool(t, "exiftool", "libimage-exiftool-perl", "-q", "-n", fmt.Sprintf("-IFD0:Orientation=%d", turn), "-o", name, filepath.Join(dir, "a."+kind)))
			}
			raw, err := os.ReadFile(name)
			require.NoError(t, err)
			require.Equal(t, turn, imagefile.Turn(raw), name)
			im, err := imagefile.Decode(t.Context(), raw)
			require.NoError(t, err)
			w, h := imagefile.Size(raw)
			require.Equal(t, image.Rect(0, 0, int(w), int(h)), im.Bounds())
			of := one{name, im, image.Pt(60*(turn-1), 60*n)}
			if kind == "webp" && turn > 1 { // which Chromium does not turn: it is held against the JPEG
				of.at.Y = 0
				all = append(all, of)
				continue
			}
			fmt.Fprintf(&page, `<image x="%d" y="%d" href="data:%s;base64,%s"/>`, of.at.X, of.at.Y, imagefile.MediaType(raw), base64.StdEncoding.EncodeToString(raw))
			all = append(all, of)
		}
	}
	theirs := raster(t, []byte(page.String()+"</svg>"))
	for _, of := range all {
		b := of.im.Bounds()
		for y := 4; y < b.Dy(); y += 8 {
			for x := 4; x < b.Dx(); x += 8 {
				require.Less(t, apart8(of.im.At(x, y), theirs.At(of.at.X+x, of.at.Y+y)), 6, "%s at %d, %d", of.name, x, y)
			}
		}
		require.Equal(t, color.RGBA{255, 255, 255, 255}, color.RGBAModel.Convert(theirs.At(of.at.X+b.Dx()+2, of.at.Y+4)), "no wider than told")
	}
}

// apart8 is how far two colours are apart at most, of 255.
func apart8(a, b color.Color) (most int) {
	p, q := color.NRGBAModel.Convert(a).(color.NRGBA), color.NRGBAModel.Convert(b).(color.NRGBA)
	for _, d := range []int{int(p.R) - int(q.R), int(p.G) - int(q.G), int(p.B) - int(q.B), int(p.A) - int(q.A)} {
		most = max(most, d, -d)
	}
	return most
}

// TestProfiledPicturesAreThoseOfTheBrowser: colours by chance, in pictures of three formats with profiles
// that are not sRGB's, as Chromium shows them (Debian: icc-profiles-free, imagemagick, chromium).
func TestProfiledPicturesAreThoseOfTheBrowser(t *testing.T) {
	t.Parallel()
	dir, r := t.TempDir(), rand.New(rand.NewPCG(29, 7))
	const side, cells = 8, 8
	pic := image.NewRGBA(image.Rect(0, 0, side*cells, side*cells))
	for y := range cells {
		for x := range cells {
			c := color.RGBA{uint8(r.IntN(256)), uint8(r.IntN(256)), uint8(r.IntN(256)), 255}
			draw.Draw(pic, image.Rect(x*side, y*side, (x+1)*side, (y+1)*side), image.NewUniform(c), image.Point{}, draw.Src)
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, pic))
	write(t, filepath.Join(dir, "a.png"), b.String())
	var page strings.Builder
	page.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 400 400" width="400" height="400">`)
	type one struct {
		name string
		im   image.Image
		at   image.Point
	}
	var all []one
	changed := 0
	for n, name := range []string{"compatibleWithAdobeRGB1998", "LStar-RGB", "sRGB"} {
		for k, kind := range []string{"png", "jpg", "webp"} {
			file := filepath.Join(dir, name+"."+kind)
			output(t, tool(t, "convert-im6.q16", "imagemagick", filepath.Join(dir, "a.png"), "-profile", "/usr/share/color/icc/"+name+".icc", "-sampling-factor", "1x1", "-quality", "97", "-define", "webp:lossless=true", file))
			raw, err := os.ReadFile(file)
			require.NoError(t, err)
			im, err := imagefile.Photograph(t.Context(), raw)
			require.NoError(t, err)
			plain, err := imagefile.Decode(t.Context(), raw)
			require.NoError(t, err)
			for i := range cells { // what it says of itself counts
				if at := i*side + side/2; apart8(im.At(at, at), plain.At(at, at)) > 12 {
					changed++
				}
			}
			of := one{filepath.Base(file), im, image.Pt(100*k, 100*n)}
			fmt.Fprintf(&page, `<image x="%d" y="%d" href="data:%s;base64,%s"/>`, of.at.X, of.at.Y, imagefile.MediaType(raw), base64.StdEncoding.EncodeToString(raw))
			all = append(all, of)
		}
	}
	theirs := raster(t, []byte(page.String()+"</svg>"))
	for _, of := range all {
		for y := side / 2; y < side*cells; y += side {
			for x := side / 2; x < side*cells; x += side {
				require.LessOrEqual(t, apart8(of.im.At(x, y), theirs.At(of.at.X+x, of.at.Y+y)), 5, "%s at %d, %d", of.name, x, y)
			}
		}
	}
	require.Greater(t, changed, 10)
	t.Logf("%d pictures, of %d colours each", len(all), cells*cells)
}
