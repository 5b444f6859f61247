package showcase_test

import (
	"archive/zip"
	"bytes"
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/showcase"
	"ivelt/sign"
)

const (
	square = `<svg xmlns="http://www.w3.org/2000/svg" width="48" height="48"><rect width="48" height="48" fill="#cc2020"/></svg>`
	sheet  = "@define-color theme_bg_color #202428;\n@define-color theme_base_color #181c20;\n@define-color theme_fg_color #f0f0f0;\n@define-color theme_selected_bg_color #20a060;\nwindow { background-color: @theme_bg_color; }\n"
	icons  = "[Icon Theme]\nName=Shingle\nDirectories=48\n[48]\nSize=48\n"
	outfit = "format = 1\nname = \"Dusk\"\n[facet.icons]\npiece = \"Shingle\"\n"
)

func parcelOf(t *testing.T, files map[string]string) *parcel.Parcel {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range files {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	p, err := parcel.OpenBytes(t.Context(), "x.zip", b.Bytes(), archive.Options{})
	require.NoError(t, err)
	return p
}

// TestAnEntryIsShownFromItsPieces: what can be read off a parcel is filled in, and no more
// than that.
func TestAnEntryIsShownFromItsPieces(t *testing.T) {
	p := parcelOf(t, map[string]string{"Shingle/index.theme": icons, "Shingle/48/folder.svg": square, "Reef/gtk-3.0/gtk.css": sheet, "Reef/gtk-4.0/gtk.css": sheet, "Reef-dark/gtk-3.0/gtk.css": sheet})
	e := market.Entry{ID: "reef", Kind: string(parcel.Theme)}
	pictures := showcase.Of(t.Context(), p, &e, nil)
	require.NotEmpty(t, pictures)
	require.Contains(t, string(pictures[0].SVG), "rgba(32,36,40,1)", "the theme's own ground")
	require.Equal(t, 2, e.Pieces)
	require.Equal(t, []string{"gtk-3.0", "gtk-4.0"}, e.Dresses)
	require.NotNil(t, e.Looks)
	require.Less(t, e.Looks.Lightness, 0.4)

	said := market.Entry{Kind: string(parcel.Theme), Pieces: 9, Dresses: []string{"gtk-2.0"}}
	showcase.Of(t.Context(), p, &said, nil)
	require.Equal(t, 9, said.Pieces, "what its maker says stays")
	require.Equal(t, []string{"gtk-2.0"}, said.Dresses)
	require.Nil(t, showcase.Of(t.Context(), p, &market.Entry{Kind: string(parcel.Font)}, nil))

	both := parcelOf(t, map[string]string{"Reef/LICENSE": "MIT\n", "Reef/gtk-3.0/gtk.css": strings.ReplaceAll(sheet, "#202428", "#f0f0f0"), "Reef/gtk-3.0/gtk-dark.css": sheet})
	e = market.Entry{Kind: string(parcel.Theme)}
	pictures = showcase.Of(t.Context(), both, &e, nil)
	require.Equal(t, "MIT", e.Licence)
	require.Equal(t, []string{"light", "dark"}, e.Forms())
	require.Equal(t, []string{"normal", "light", "dark"}, []string{pictures[0].State, pictures[1].State, pictures[2].State})
	require.Contains(t, string(pictures[2].SVG), "rgba(32,36,40,1)")
	require.NotContains(t, string(pictures[1].SVG), "rgba(32,36,40,1)")

	bundle := parcelOf(t, map[string]string{"dusk.toml": outfit, "Shingle/index.theme": icons, "Shingle/48/folder.svg": square})
	e = market.Entry{Kind: string(parcel.Bundle)}
	shown := showcase.Of(t.Context(), bundle, &e, nil)
	require.Len(t, shown, 1)
	require.NotNil(t, e.Looks, "of the icons that came along")
	require.InDelta(t, 29, e.Looks.Hue, 8, "red")
}

func TestPicturesAreHung(t *testing.T) {
	e := market.Entry{ID: "reef", Pictures: []market.Picture{{State: "normal", File: "old.png"}, {State: "night", File: "night.png"}}}
	files := map[string]string{}
	put := func(file string, svg []byte) error { files[file] = string(svg); return nil }
	require.NoError(t, showcase.Hang(&e, []sign.Picture{{State: "normal", SVG: []byte("a")}, {State: "actual size", SVG: []byte("b")}}, put))
	require.Equal(t, map[string]string{"pictures/reef.svg": "a", "pictures/reef@actual-size.svg": "b"}, files)
	require.Equal(t, []market.Picture{{State: "normal", File: "pictures/reef.svg", From: "pieces"}, {State: "actual size", File: "pictures/reef@actual-size.svg", From: "pieces"}, {State: "night", File: "night.png"}}, e.Pictures)
	full := errors.New("full")
	require.ErrorIs(t, showcase.Hang(&e, []sign.Picture{{}}, func(string, []byte) error { return full }), full)
}
