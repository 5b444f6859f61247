package preview

import (
	"bytes"
	"encoding/base64"
	"image"
	_ "image/jpeg"
	_ "image/png"
	"io/fs"
	"path"
	"regexp"
	"strconv"
)

// mostIcon bounds what is embedded of one icon, in bytes.
const mostIcon = 512 << 10

// MediaType returns the media type of a picture by its first bytes, or "" if
// it is none that a browser shows.
func MediaType(b []byte) string {
	switch {
	case bytes.HasPrefix(b, []byte("\x89PNG\r\n\x1a\n")):
		return "image/png"
	case bytes.HasPrefix(b, []byte{0xff, 0xd8, 0xff}):
		return "image/jpeg"
	}
	head := bytes.TrimLeft(b[:min(len(b), 4096)], "\xef\xbb\xbf \t\r\n")
	if bytes.HasPrefix(head, []byte("<")) && bytes.Contains(head, []byte("<svg")) {
		return "image/svg+xml"
	}
	return ""
}

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

// DataURI returns a picture file as a data: address.
func DataURI(fsys fs.FS, name string) (string, bool) {
	if path.Ext(name) == ".xpm" {
		return "", false
	}
	b, err := fs.ReadFile(fsys, name)
	if err != nil || len(b) > mostIcon {
		return "", false
	}
	t := MediaType(b)
	if t == "" {
		return "", false
	}
	return "data:" + t + ";base64," + base64.StdEncoding.EncodeToString(b), true
}

// pictureSize returns the size of a PNG, JPEG or SVG in px, 0 if it cannot be
// told.
func pictureSize(b []byte) (w, h float64) {
	if c, _, err := image.DecodeConfig(bytes.NewReader(b)); err == nil {
		return float64(c.Width), float64(c.Height)
	}
	head := b[:min(len(b), 4096)]
	if m := svgWidth.FindSubmatch(head); m != nil {
		w, _ = strconv.ParseFloat(string(m[1]), 64)
	}
	if m := svgHeight.FindSubmatch(head); m != nil {
		h, _ = strconv.ParseFloat(string(m[1]), 64)
	}
	return w, h
}

var (
	svgWidth  = regexp.MustCompile(`<svg[^>]*?\swidth="([\d.]+)(?:px)?"`)
	svgHeight = regexp.MustCompile(`<svg[^>]*?\sheight="([\d.]+)(?:px)?"`)
)
