package imagefile_test

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"image"
	"image/png"
	"net/url"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/imagefile"
	"ivelt/core/paint"
	"ivelt/core/within"
)

func svg(body string) string {
	return `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="48" height="48">` + body + `</svg>`
}

// TestDrawingsThatNameThemselvesAreBounded: 10⁹ shapes in a few hundred bytes, by every
// way in which a drawing can name a part of itself; and what looks like it and is not.
func TestDrawingsThatNameThemselvesAreBounded(t *testing.T) {
	by10 := func(part func(n int, ten string) string, name func(n int) string) string {
		var b strings.Builder
		b.WriteString(`<rect id="x0" width="1" height="1"/>`)
		for n := 1; n <= 9; n++ {
			b.WriteString(part(n, strings.Repeat(name(n-1), 10)))
		}
		return svg(b.String())
	}
	group := func(n int, ten string) string { return fmt.Sprintf(`<g id="x%d">%s</g>`, n, ten) }
	pattern := func(n int, ten string) string {
		return fmt.Sprintf(`<pattern id="x%d" width="1" height="1">%s</pattern>`, n, ten)
	}
	wide := image.NewGray(image.Rect(0, 0, 12000, 12000))
	var pixels bytes.Buffer
	require.NoError(t, png.Encode(&pixels, wide))
	nested := svg(`<rect/>`)
	for range 4 {
		nested = svg(`<image href="data:image/svg+xml;base64,` + base64.StdEncoding.EncodeToString([]byte(nested)) + `"/>`)
	}
	uses := by10(group, func(n int) string { return fmt.Sprintf(`<use href="#x%d"/>`, n) })
	for what, text := range map[string]string{
		"uses":           uses,
		"uses, older":    by10(group, func(n int) string { return fmt.Sprintf(`<use xlink:href=" #x%d"/>`, n) }),
		"patterns":       by10(pattern, func(n int) string { return fmt.Sprintf(`<rect width="9" height="9" fill="url(#x%d)"/>`, n) }),
		"masks in style": by10(group, func(n int) string { return fmt.Sprintf(`<rect style="mask: url( '#x%d' )"/>`, n) }),
		"by class": by10(func(n int, ten string) string {
			return pattern(n, ten) + fmt.Sprintf("<style>g > .c%d:first-child, a { fill: url(#x%d) }</style>", n, n)
		}, func(n int) string { return fmt.Sprintf(`<rect class="a c%d"/>`, n) }),
		"in an address":        svg(`<image href="data:image/svg+xml,` + url.PathEscape(uses) + `"/>`),
		"drawings in drawings": nested,
		"pixels":               pixels.String(),
		"pixels in a drawing":  svg(`<image xlink:href="data:image/png;base64,` + base64.StdEncoding.EncodeToString(pixels.Bytes()) + `"/>`),
		"words by words":       `<!DOCTYPE svg [<!ENTITY a "x"><!ENTITY b "&a;&a;">]>` + svg(`<text>&b;</text>`),
		"deep":                 svg(strings.Repeat("<g>", 5000) + strings.Repeat("</g>", 5000)),
		"a long chain":         svg(chain(50_000)),
	} {
		require.ErrorIs(t, imagefile.Check([]byte(text)), imagefile.ErrCostly, what)
	}
	for what, text := range map[string]string{
		"one that names itself":    svg(`<g id="a"><use href="#a"/><use href="#b"/></g><g id="b"><use href="#a"/></g>`),
		"one gradient, many times": svg(`<linearGradient id="a"/>` + strings.Repeat(`<rect fill="url(#a)"/>`, 5000)),
		"words of its maker":       `<?xml version="1.0" encoding="iso-8859-1"?><!DOCTYPE svg [<!ENTITY ns "http://x">]>` + svg(`<g xmlns:i="&ns;"/>`),
		"a drawing in it":          svg(`<image href="data:image/svg+xml;utf8,` + url.PathEscape(svg("<rect/>")) + `"/>`),
		"a font in it":             svg(`<style>@font-face{src:url(data:font/ttf;base64,AAAA)}</style>`),
	} {
		require.NoError(t, imagefile.Check([]byte(text)), what)
	}
	require.Nil(t, imagefile.Raster(t.Context(), []byte(uses), 48))
	_, ok := paint.DataURI(fstest.MapFS{"x.svg": {Data: []byte(uses)}}, "x.svg")
	require.False(t, ok)
	_, ok = paint.DataURI(fstest.MapFS{"x.svg": {Data: []byte(svg("<rect/>"))}}, "x.svg")
	require.True(t, ok)
	require.Error(t, imagefile.Check([]byte(svg(`<g>`)[:100])))
	require.Error(t, imagefile.Check([]byte("</svg><svg>")))
}

// chain is a drawing whose parts name each the next.
func chain(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, `<g id="c%d"><use href="#c%d"/></g>`, i, i+1)
	}
	return b.String()
}

// FuzzParse: what is let through is drawn at a cost that fits its size.
func FuzzParse(f *testing.F) {
	f.Add([]byte(svg(`<g id="a"><use href="#a"/><rect fill="url(#b)"/></g><linearGradient id="b"/><style>.c{mask:url(#a)}</style>`)))
	f.Add([]byte(`<!DOCTYPE svg [<!ENTITY a "x">]>` + svg(`<text>&a;</text><image href="data:image/svg+xml,%3Csvg/%3E"/>`)))
	f.Fuzz(func(t *testing.T, b []byte) {
		within.Reason(t, len(b), func() {
			if imagefile.Check(b) == nil {
				imagefile.Raster(t.Context(), b, 48)
			}
		})
	})
}
