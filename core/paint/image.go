package paint

import (
	"bytes"
	_ "embed"
	"encoding/base64"
	"image"
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
