// Package imagefile tells what a picture file is by its bytes.
package imagefile

import (
	"bytes"
	"image"
	_ "image/jpeg" // the kinds that are known
	_ "image/png"
	"regexp"
	"strconv"
)

// MediaType returns the media type of a picture by its first bytes, or "" if
// it is none that a browser shows.
func MediaType(b []byte) string {
	switch {
	case bytes.HasPrefix(b, []byte("\x89PNG\r\n\x1a\n")):
		return "image/png"
	case bytes.HasPrefix(b, []byte{0xff, 0xd8, 0xff}):
		return "image/jpeg"
	case len(b) >= 12 && string(b[:4]) == "RIFF" && string(b[8:12]) == "WEBP":
		return "image/webp"
	}
	head := bytes.TrimLeft(b[:min(len(b), 4096)], "\xef\xbb\xbf \t\r\n")
	if bytes.HasPrefix(head, []byte("<")) && bytes.Contains(head, []byte("<svg")) {
		return "image/svg+xml"
	}
	return ""
}

// Size returns the size of a PNG, JPEG, WebP or SVG in px, turned as it is to be shown, 0 if it
// cannot be told. An SVG without a size has that of its view.
func Size(b []byte) (w, h float64) {
	if c, _, err := image.DecodeConfig(bytes.NewReader(b)); err == nil {
		if Turn(b) >= 5 {
			c.Width, c.Height = c.Height, c.Width
		}
		return float64(c.Width), float64(c.Height)
	}
	head := b[:min(len(b), 4096)]
	if m := svgWidth.FindSubmatch(head); m != nil {
		w, _ = strconv.ParseFloat(string(m[1]), 64)
	}
	if m := svgHeight.FindSubmatch(head); m != nil {
		h, _ = strconv.ParseFloat(string(m[1]), 64)
	}
	if m := svgView.FindSubmatch(head); m != nil && w == 0 && h == 0 {
		w, _ = strconv.ParseFloat(string(m[1]), 64)
		h, _ = strconv.ParseFloat(string(m[2]), 64)
	}
	return w, h
}

var (
	svgView   = regexp.MustCompile(`<svg[^>]*?\sviewBox="[-\d.]+[ ,]+[-\d.]+[ ,]+([\d.]+)[ ,]+([\d.]+)"`)
	svgWidth  = regexp.MustCompile(`<svg[^>]*?\swidth="([\d.]+)(?:px)?"`)
	svgHeight = regexp.MustCompile(`<svg[^>]*?\sheight="([\d.]+)(?:px)?"`)
)
