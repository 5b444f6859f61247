package paint

import (
	"bytes"
	_ "embed"
	"encoding/base64"
	"image"
	"image/draw"
	"image/png"
	"io/fs"
	"path"

	_ "golang.org/x/image/webp"

	"ivelt/core/imagefile"
)

// maxIcon bounds what is embedded of one icon, in bytes.
const MaxIcon = 512 << 10

// DataURI returns a picture file as a data: address, unless it is none, is too large or
// would cost a browser too much.
func DataURI(fsys fs.FS, name string) (string, bool) {
	b, ok := Read(fsys, name)
	if !ok {
		return "", false
	}
	return Data(b)
}

// Read returns what a picture file holds, unless that is too much.
func Read(fsys fs.FS, name string) ([]byte, bool) {
	if path.Ext(name) == ".xpm" {
		return nil, false
	}
	b, err := fs.ReadFile(fsys, name)
	return b, err == nil && len(b) <= MaxIcon
}

// Data returns a picture as a data: address, unless it is none, is too large or would
// cost a browser too much.
func Data(b []byte) (string, bool) {
	t := imagefile.MediaType(b)
	if t == "" || len(b) > MaxIcon+1024 || imagefile.Check(b) != nil {
		return "", false
	}
	return "data:" + t + ";base64," + base64.StdEncoding.EncodeToString(b), true
}

// PNG is a picture as a data address.
func PNG(im image.Image) string {
	var b bytes.Buffer
	if err := png.Encode(&b, im); err != nil {
		return ""
	}
	return "data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes())
}

// Edged is a picture of pixels with a row of nothing around it; false for what is none.
func Edged(b []byte) ([]byte, bool) {
	if c, _, err := image.DecodeConfig(bytes.NewReader(b)); err != nil || c.Width*c.Height > 1<<20 {
		return nil, false
	}
	from, _, err := image.Decode(bytes.NewReader(b))
	if err != nil {
		return nil, false
	}
	size := from.Bounds().Size()
	to := image.NewNRGBA(image.Rect(0, 0, size.X+2, size.Y+2))
	draw.Draw(to, image.Rect(1, 1, size.X+1, size.Y+1), from, from.Bounds().Min, draw.Src)
	var out bytes.Buffer
	if png.Encode(&out, to) != nil {
		return nil, false
	}
	return out.Bytes(), true
}
