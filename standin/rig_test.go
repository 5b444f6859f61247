package standin_test

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"strings"

	"github.com/stretchr/testify/require"
)

// picture puts a small PNG at a path of the desk.
func (r rig) picture(p string) {
	im := image.NewRGBA(image.Rect(0, 0, 4, 4))
	im.Set(1, 1, color.White)
	var b bytes.Buffer
	require.NoError(r.t, png.Encode(&b, im))
	r.put(p, b.String())
}

// sixteen is a palette as X resources.
var sixteen = func() string {
	var b strings.Builder
	b.WriteString("*.background: #101418\n*.foreground: #e0e0dc\n")
	for i := range 16 {
		fmt.Fprintf(&b, "*.color%d: #%02x8060\n", i, 16*i)
	}
	return b.String()
}()
