package preview

import (
	"encoding/base64"
	"io/fs"
	"path"
	"regexp"
	"strconv"

	"ivelt/core/imagefile"
)

// maxIcon bounds what is embedded of one icon, in bytes.
const maxIcon = 512 << 10

var svgSize = regexp.MustCompile(`^<svg [^>]*viewBox="0 0 (\d{1,6}) (\d{1,6})"`)

// Size returns the size of a picture that [Pictures] drew, px.
func Size(svg []byte) (w, h int, ok bool) {
	m := svgSize.FindSubmatch(svg)
	if m == nil {
		return 0, 0, false
	}
	w, _ = strconv.Atoi(string(m[1]))
	h, _ = strconv.Atoi(string(m[2]))
	return w, h, w > 0 && h > 0
}

// Cropped is how much of a picture of w × h is cut off when it fills a monitor,
// in percent.
func Cropped(w, h, monitorWidth, monitorHeight int) int {
	shape, wanted := float64(w)*float64(monitorHeight), float64(h)*float64(monitorWidth)
	if shape <= 0 || wanted <= 0 {
		return 100
	}
	return int(100*(1-min(shape, wanted)/max(shape, wanted)) + 0.5)
}

// DataURI returns a picture file as a data: address, unless it is none, is too large or
// would cost a browser too much.
func DataURI(fsys fs.FS, name string) (string, bool) {
	if path.Ext(name) == ".xpm" {
		return "", false
	}
	b, err := fs.ReadFile(fsys, name)
	if err != nil || len(b) > maxIcon {
		return "", false
	}
	t := imagefile.MediaType(b)
	if t == "" || imagefile.Check(b) != nil {
		return "", false
	}
	return "data:" + t + ";base64," + base64.StdEncoding.EncodeToString(b), true
}
