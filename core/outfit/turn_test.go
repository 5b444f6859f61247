package outfit_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/turning"
)

func paired(t *testing.T, o outfit.Outfit, facet, light, dark string) outfit.Outfit {
	t.Helper()
	o, err := o.Pair(facet, light, dark)
	require.NoError(t, err)
	return o
}

func TestALookOfTwoHalves(t *testing.T) {
	o := outfit.Outfit{Name: "Bay"}.With(desk.FacetIcons, "Shingle").With(desk.FacetWidgets, "Marram")
	o = paired(t, o, desk.FacetDark, "light", "dark")
	o = paired(t, o, desk.FacetWidgets, "Marram", "Tern")
	o = o.Except("gtk4", desk.FacetWidgets, "Eider")
	require.Equal(t, []string{desk.FacetWidgets, desk.FacetDark}, o.Turns())
	require.Equal(t, turning.ByHand, o.Turn.By)
	require.False(t, o.IsDark())

	night := o.In(outfit.Dark)
	require.True(t, night.IsDark())
	require.Equal(t, "Tern", night.Want(desk.FacetWidgets))
	require.Equal(t, "dark", night.Want(desk.FacetDark))
	require.Equal(t, "Shingle", night.Want(desk.FacetIcons), "what does not turn stays")
	require.Equal(t, "Eider", night.WantOn("gtk4", desk.FacetWidgets), "and so do exceptions")
	require.Equal(t, "Marram", night.WantIn(outfit.Light, desk.FacetWidgets))
	require.Equal(t, o.Bytes(), night.In(outfit.Light).Bytes())

	again, err := outfit.Parse(night.Bytes())
	require.NoError(t, err)
	require.Equal(t, night.Bytes(), again.Bytes())
	require.Empty(t, again.Unknown())
	require.Contains(t, night.Text(nil), "by day Marram, after dark Tern")
	require.Equal(t, []string{"Windows: Marram instead of Tern.", "Shade: light instead of dark.", "Shade by day and after dark: the same instead of light and dark.", "Windows by day and after dark: the same instead of Marram and Tern."},
		night.Differences(o.With(desk.FacetWidgets, "Marram").With(desk.FacetDark, "light")))

	// A pair that is changed while it is dark is in force with its dark half.
	changed := paired(t, night, desk.FacetWidgets, "Marram", "Knot")
	require.Equal(t, "Knot", changed.Want(desk.FacetWidgets))
	// What is chosen for good turns no more; without any, nothing does.
	plain := changed.With(desk.FacetWidgets, "Knot")
	require.Equal(t, []string{desk.FacetDark}, plain.Turns())
	require.Equal(t, "Knot", plain.In(outfit.Light).Want(desk.FacetWidgets))
	require.Nil(t, plain.With(desk.FacetDark, "").Turn)
	// The same goes for what is put on over it, and what is put on may turn itself.
	over := night.Over(outfit.Outfit{Name: "Over"}.With(desk.FacetWidgets, "Knot"))
	require.Equal(t, []string{desk.FacetDark}, over.Turns())
	over = over.Over(paired(t, outfit.Outfit{}, desk.FacetAccent, "#112233", "#aabbcc"))
	require.Equal(t, []string{desk.FacetDark, desk.FacetAccent}, over.Turns())
	require.Empty(t, night.Only(func(facet string) bool { return facet == desk.FacetIcons }).Turns())
	require.Empty(t, night.Less(night).Choices)
	require.Equal(t, []string{desk.FacetWidgets}, changed.Less(night).Facets())

	for _, c := range [][3]string{{desk.FacetLogin, "A", "B"}, {desk.FacetAccent, "#112233", "blue"}, {desk.FacetDark, "light", "dim"}} {
		_, err := o.Pair(c[0], c[1], c[2])
		require.Error(t, err, c)
	}
}

func TestALookWithAShow(t *testing.T) {
	show := &turning.Show{Pictures: []string{"/a.png", "/b.png"}, Every: "10m"}
	o := outfit.Outfit{Name: "Bay"}.WithShow(show, "/a.png")
	require.Equal(t, []string{desk.FacetBackdrop}, o.Turns())
	next := o.Showing("/b.png")
	require.Equal(t, "/b.png", next.Want(desk.FacetBackdrop))
	require.Equal(t, show, next.Show)
	again, err := outfit.Parse(next.Bytes())
	require.NoError(t, err)
	require.Equal(t, next.Bytes(), again.Bytes())
	require.Nil(t, next.With(desk.FacetBackdrop, "/c.png").Show, "another picture for good ends it")
	require.Nil(t, next.Over(outfit.Outfit{}.With(desk.FacetBackdrop, "/c.png")).Show)
	require.NotNil(t, next.Over(outfit.Outfit{}.With(desk.FacetIcons, "Shingle")).Show)
	require.Equal(t, []string{"Backdrops in turn: /a.png, /b.png, each for 10m instead of none."}, outfit.Outfit{}.With(desk.FacetBackdrop, "/b.png").Differences(next))
	require.Nil(t, paired(t, next, desk.FacetBackdrop, "/a.png", "/c.png").Show)
}

func TestHalvesThatAreNone(t *testing.T) {
	head := "format = 1\nname = \"x\"\n[facet.accent]\nvalue = \"#112233\"\n[facet.backdrop]\nvalue = \"/a.png\"\n[facet.login]\npiece = \"Lamp\"\n"
	pair := "[light.accent]\nvalue = \"#112233\"\n[dark.accent]\nvalue = \"#445566\"\n"
	_, err := outfit.Parse([]byte(head + "[turn]\nby = \"hand\"\n" + pair))
	require.NoError(t, err)
	for _, rest := range []string{
		pair, "[turn]\nby = \"hand\"\n", "[turn]\nby = \"moon\"\n" + pair, "[turn]\nby = \"hand\"\n[dark.accent]\nvalue = \"#445566\"\n",
		"[turn]\nby = \"hand\"\n" + strings.ReplaceAll(pair, "accent", "icons"), "[turn]\nby = \"hand\"\n" + strings.ReplaceAll(pair, "#445566", "blue"),
		"[turn]\nby = \"hand\"\n[light.login]\npiece = \"Lamp\"\n[dark.login]\npiece = \"Dim\"\n",
		"[turn]\nby = \"hand\"\n" + pair + "except = { gtk3 = \"#000000\" }\n",
		"[show]\nevery = \"1s\"\nfolder = \"/x\"\n",
		"[show]\nevery = \"1h\"\nfolder = \"/x\"\n[turn]\nby = \"hand\"\n[light.backdrop]\nvalue = \"/a.png\"\n[dark.backdrop]\nvalue = \"/b.png\"\n",
	} {
		_, err := outfit.Parse([]byte(head + rest))
		require.ErrorIs(t, err, outfit.ErrFormat, rest)
	}
	_, err = outfit.Parse([]byte("format = 1\nname = \"x\"\n[show]\nevery = \"1h\"\nfolder = \"/x\"\n"))
	require.ErrorIs(t, err, outfit.ErrFormat)
}
