package preview

import (
	_ "embed"
	"regexp"
	"strconv"

	_ "golang.org/x/image/webp"
)

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
