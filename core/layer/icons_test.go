package layer_test

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/icontheme"
	"ivelt/core/layer"
	"ivelt/core/parcel"
)

// TestIconsGetOtherPictures: a name shows the picture of another icon of the pack in each of its
// sizes, another name one's own; what programs then find is asked of the lookup.
func TestIconsGetOtherPictures(t *testing.T) {
	drawn := func(what string) string {
		return `<svg xmlns="http://www.w3.org/2000/svg" width="16" height="16"><rect width="8" height="8" fill="` + what + `"/></svg>`
	}
	tree, root := onDesk(t, map[string]string{
		"index.theme":      "[Icon Theme]\nName=Salt\nInherits=hicolor\nDirectories=16/apps,48/apps\n[16/apps]\nSize=16\n[48/apps]\nSize=48\n",
		"16/apps/gull.svg": drawn("#111111"), "48/apps/gull.svg": drawn("#222222"), "48/apps/tern.svg": drawn("#333333"),
	})
	var own bytes.Buffer
	require.NoError(t, png.Encode(&own, image.NewNRGBA(image.Rect(0, 0, 32, 32))))
	r := layer.Recipe{Name: "Salt, mine", Folder: "Salt-Mine", Base: layer.Base{Kind: parcel.Icons, Folder: "Salt"}}
	for _, c := range []layer.Icon{
		{Name: "tide-gauge", Like: "gull"}, {Name: "tern", Like: "gull"}, {Name: "gone", Like: "heron"}, layer.Pictured("my lamp", own.Bytes(), "my own"),
		layer.Pictured("tern", []byte(drawn("#444444")), ""),
	} {
		r = r.With(c)
	}
	require.Len(t, r.Icons, 4, "the last change to a name counts")
	r = parsed(t, string(r.Bytes()))
	dir, report := built(t, tree, root, r)
	states := map[string]layer.State{}
	for _, f := range report.Fits {
		states[f.Change] = f.State
	}
	require.Equal(t, map[string]layer.State{"tide-gauge": layer.Fits, "gone": layer.Gone, "my lamp": layer.Fits, "tern": layer.Fits}, states)
	found := func(name string, size int) string {
		x := icontheme.NewIndex(icontheme.Config{FS: os.DirFS(filepath.Dir(dir)), Bases: []string{"."}, Theme: filepath.Base(dir)})
		icon, ok := x.Lookup(name, size, 1)
		if !ok {
			return ""
		}
		b, err := os.ReadFile(filepath.Join(filepath.Dir(dir), icon.Path))
		require.NoError(t, err)
		return string(b)
	}
	require.Equal(t, drawn("#111111"), found("tide-gauge", 16))
	require.Equal(t, drawn("#222222"), found("tide-gauge", 48))
	require.Equal(t, drawn("#444444"), found("tern", 48), "one's own counts before the pack's")
	require.Equal(t, own.String(), found("my lamp", 64))
	require.Empty(t, found("gone", 48))
	require.Empty(t, r.Without("gone").Without("tern").Without("my lamp").Without("tide-gauge").Icons)

	for _, c := range []layer.Icon{
		{Name: "a/b", Like: "gull"}, {Name: "gull", Like: "gull"}, {Name: "gull"}, {Name: "gull", Like: "tern", Picture: "AAAA"},
		{Name: "gull", Picture: "!"}, {Name: "gull", Picture: base64.StdEncoding.EncodeToString([]byte("text"))}, layer.Pictured("gull", []byte(strings.Repeat("x", layer.MaxPicture+1)), ""),
	} {
		require.Error(t, layer.Recipe{Name: "x", Folder: "x", Base: r.Base, Icons: []layer.Icon{c}}.Valid(), "%+v", c)
	}
	many := layer.Recipe{Name: "x", Folder: "x", Base: r.Base}
	for i := range 13 {
		many.Icons = append(many.Icons, layer.Pictured(fmt.Sprint("gull", i), []byte(drawn("#111111")+strings.Repeat(" ", layer.MaxPicture-200)), ""))
	}
	require.ErrorContains(t, many.Valid(), "together more than 3 MB")
	require.Error(t, layer.Recipe{Name: "x", Folder: "x", Base: layer.Base{Kind: parcel.Theme, Folder: "Salt"}, Icons: r.Icons}.Valid())
}
