package taste_test

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"math"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/colour"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/taste"
)

// drawing is a picture of 64 × 64 whose pixels at returns.
func drawing(at func(x, y float64) color.Color) *image.NRGBA {
	im := image.NewNRGBA(image.Rect(0, 0, 64, 64))
	for y := range 64 {
		for x := range 64 {
			im.Set(x, y, at(float64(x)-31.5, float64(y)-31.5))
		}
	}
	return im
}

func square(c color.Color) func(x, y float64) color.Color {
	return func(x, y float64) color.Color {
		if math.Abs(x) < 24 && math.Abs(y) < 24 {
			return c
		}
		return color.Transparent
	}
}

func disc(c color.Color) func(x, y float64) color.Color {
	return func(x, y float64) color.Color {
		if math.Hypot(x, y) < 24 {
			return c
		}
		return color.Transparent
	}
}

func TestAPictureIsMeasuredAsItLooks(t *testing.T) {
	orange := color.NRGBA{0xdd, 0x9a, 0x45, 255}
	l, c, h := colour.Of8(0xdd, 0x9a, 0x45).LCH()
	sq, ok := taste.OfPicture(drawing(square(orange)))
	require.True(t, ok)
	require.InDelta(t, l, sq.Lightness, 0.001)
	require.InDelta(t, c, sq.Chroma, 0.001)
	require.InDelta(t, h, sq.Hue, 2.6, "hues are counted in steps of five degrees")
	require.Equal(t, []string{"#dd9a45"}, sq.Colours)
	require.Zero(t, sq.Roundness)
	require.InDelta(t, 48.0*48/64/64, sq.Density, 0.001)
	require.InDelta(t, 1, sq.Contrast, 0.001)
	round, ok := taste.OfPicture(drawing(disc(orange)))
	require.True(t, ok)
	require.Greater(t, round.Roundness, 0.9)

	half, ok := taste.OfPicture(drawing(func(x, _ float64) color.Color {
		if x < 0 {
			return color.Black
		}
		return color.White
	}))
	require.True(t, ok)
	require.InDelta(t, 21, half.Contrast, 0.01, "black and white, as WCAG has it")
	require.InDelta(t, 0.5, half.Lightness, 0.01)
	require.Equal(t, "grey", half.HueName())
	_, ok = taste.OfPicture(drawing(func(float64, float64) color.Color { return color.Transparent }))
	require.False(t, ok, "nothing is seen")
	two, _ := taste.OfPicture(drawing(func(x, _ float64) color.Color { // two thirds blue, one third orange
		if x < 10 {
			return color.NRGBA{0x33, 0x66, 0xdd, 255}
		}
		return orange
	}))
	require.Equal(t, "blue", two.HueName(), "two hues do not add up to a third")
}

func TestEachKindFromItsOwnFiles(t *testing.T) {
	var icon bytes.Buffer
	require.NoError(t, png.Encode(&icon, drawing(disc(color.NRGBA{0x20, 0x60, 0x30, 255}))))
	fsys := fstest.MapFS{
		"T/gtk-3.0/gtk.css": {Data: []byte("@define-color theme_bg_color #fff;\n")},
		"T/gtk-4.0/gtk.css": {Data: []byte("@define-color theme_bg_color #222;\n@define-color theme_fg_color #eeeeee;\n@define-color theme_selected_bg_color #3366dd;\nbutton { border-radius: 12px; padding: 0px 3px; }\n")},
		"I/index.theme":     {Data: []byte("[Icon Theme]\nName=I\nDirectories=48\n[48]\nSize=48\nType=Fixed\n")},
		"I/48/folder.png":   {Data: icon.Bytes()},
		"I/48/broken.svg":   {Data: []byte("<svg")},
		"p.Xresources":      {Data: []byte("*.background: #101010\r\n*.foreground: #ffffff\r\n*.color1: #ff0000\r\n")},
	}
	theme, ok := taste.Of(t.Context(), fsys, parcel.Piece{Kind: parcel.Theme, Root: "T", Parts: []string{"gtk-3.0", "gtk-4.0", "quayside"}})
	require.True(t, ok)
	require.True(t, theme.Dark(), "the newest part counts")
	require.Equal(t, "blue", theme.HueName(), "known by its accent")
	require.InDelta(t, colour.Contrast(colour.Of8(0xee, 0xee, 0xee), colour.Of8(0x22, 0x22, 0x22)), theme.Contrast, 0.001)
	require.InDelta(t, 1, theme.Roundness, 1e-9)
	require.InDelta(t, 1, theme.Density, 1e-9)
	require.False(t, theme.TwoForms)
	icons, ok := taste.Of(t.Context(), fsys, parcel.Piece{Kind: parcel.Icons, Root: "I", Folder: "I"})
	require.True(t, ok)
	require.Equal(t, "green", icons.HueName())
	require.Greater(t, icons.Roundness, 0.9)
	palette, ok := taste.Of(t.Context(), fsys, parcel.Piece{Kind: parcel.Palette, Only: []string{"p.Xresources"}})
	require.True(t, ok)
	require.True(t, palette.Dark())
	for _, none := range []parcel.Piece{{Kind: parcel.Font}, {Kind: parcel.Theme, Root: "none", Parts: []string{"gtk-3.0"}}, {Kind: parcel.Palette}, {Kind: parcel.Pointer, Root: "I"}, {Kind: parcel.Icons, Root: "T"}} {
		_, ok := taste.Of(t.Context(), fsys, none)
		require.False(t, ok, none.Kind)
	}
}

// TestAThemeIsWhatItFillsAWindowWith: by its rules, whatever it names; both its forms; and
// by its resource file where it has no sheet.
func TestAThemeIsWhatItFillsAWindowWith(t *testing.T) {
	rules := func(ground, text, accent string) *fstest.MapFile {
		return &fstest.MapFile{Data: []byte("window.background { background-color: " + ground + "; color: " + text + "; }\n" +
			"entry { background-image: linear-gradient(" + ground + ", " + ground + "); }\nrow:selected { background-color: " + accent + "; }\nbutton { border-radius: 3px; padding: 7px 2px; }\n")}
	}
	fsys := fstest.MapFS{
		"T/gtk-3.0/gtk.css":      rules("#f0f0f0", "rgb(20,20,20)", "#e95420"),
		"T/gtk-3.0/gtk-dark.css": rules("#202020", "white", "#e95420"),
		"O/gtk-2.0/gtkrc":        {Data: []byte("gtk_color_scheme = \"ground:#303030\"\nstyle \"all\" { bg[NORMAL] = @ground base[NORMAL] = \"#222\" base[SELECTED] = \"#3366dd\" fg[NORMAL] = \"#fff\" }\nclass \"GtkWidget\" style \"all\"\n")},
	}
	of := func(root string, dark bool, parts ...string) market.Looks {
		l, ok := taste.OfShade(t.Context(), fsys, parcel.Piece{Kind: parcel.Theme, Root: root, Parts: parts}, dark)
		require.True(t, ok, root)
		return l
	}
	light, dark, old := of("T", false, "gtk-2.0", "gtk-3.0"), of("T", true, "gtk-3.0"), of("O", false, "gtk-2.0")
	require.Equal(t, []string{"light and dark", "orange", "square"}, light.Words())
	require.InDelta(t, 0.25, light.Roundness, 1e-9)
	require.InDelta(t, 0.5, light.Density, 1e-9)
	require.InDelta(t, colour.Contrast(colour.Of8(20, 20, 20), colour.Of8(0xf0, 0xf0, 0xf0)), light.Contrast, 0.001)
	require.True(t, dark.Dark() && dark.TwoForms)
	require.Equal(t, []string{"dark", "blue"}, old.Words(), "what its engine makes of the shapes is not known")
}

// TestIconsAreWhatIsSeenOfThem: a pack that changes little of another is seen as that one,
// names of its own count, and many hues are no hue.
func TestIconsAreWhatIsSeenOfThem(t *testing.T) {
	icon := func(c color.NRGBA) *fstest.MapFile {
		var b bytes.Buffer
		require.NoError(t, png.Encode(&b, drawing(square(c))))
		return &fstest.MapFile{Data: b.Bytes()}
	}
	index := func(more string) *fstest.MapFile {
		return &fstest.MapFile{Data: []byte("[Icon Theme]\nName=I\n" + more + "Directories=48\n[48]\nSize=48\nType=Fixed\n")}
	}
	blue, red, green := color.NRGBA{0x22, 0x55, 0xdd, 255}, color.NRGBA{0xcc, 0x22, 0x22, 255}, color.NRGBA{0x22, 0xaa, 0x33, 255}
	fsys := fstest.MapFS{
		"whole/index.theme": index(""), "panel/index.theme": index("Inherits=whole\n"), "panel/48/audio-volume-high.png": icon(red),
		"own/index.theme": index(""), "own/48/old-name.png": icon(green), "own/48/older-name.png": icon(green),
		"motley/index.theme": index(""),
	}
	for i, name := range []string{"folder", "user-home", "computer", "user-trash", "web-browser", "internet-mail"} {
		fsys["whole/48/"+name+".png"] = icon(blue)
		fsys["motley/48/"+name+".png"] = icon([]color.NRGBA{blue, red, green}[i%3])
	}
	for root, hue := range map[string]string{"whole": "blue", "panel": "blue", "own": "green", "motley": "mixed"} {
		l, ok := taste.Of(t.Context(), fsys, parcel.Piece{Kind: parcel.Icons, Root: root})
		require.True(t, ok, root)
		require.Equal(t, []string{"light", hue, "square"}, append([]string{"light"}, l.Words()[1:]...), root)
	}
	l, _ := taste.Of(t.Context(), fsys, parcel.Piece{Kind: parcel.Icons, Root: "motley"})
	require.Equal(t, l, taste.Companion(l, true), "there is nothing across the circle")
	require.Contains(t, taste.Why(l, l).String(), "of many colours")
}

func TestReasonsInWords(t *testing.T) {
	dusk, ok := taste.FindMood("dusk")
	require.True(t, ok)
	near := dusk.Looks
	near.Hue += 8
	require.Equal(t, "as dark, a similar orange, similar contrast, as round", taste.Why(dusk.Looks, near).String())
	far := market.Looks{Lightness: 0.95, Chroma: 0.2, Hue: 260, Contrast: 21, Roundness: 0.5}
	require.Equal(t, "as round; but lighter, blue", taste.Why(dusk.Looks, far).String())
	require.Less(t, dusk.Looks.Distance(near), dusk.Looks.Distance(far))
	require.Zero(t, dusk.Looks.Distance(dusk.Looks))
	for _, name := range colour.Hues {
		turned := taste.WithHue(dusk.Looks, name)
		require.Equal(t, name, turned.HueName())
		require.Equal(t, dusk.Looks.Lightness, turned.Lightness)
	}
	require.Equal(t, "grey", taste.WithHue(dusk.Looks, "grey").HueName())
	require.InDelta(t, 235, taste.Companion(dusk.Looks, true).Hue, 1e-9, "across the circle")
	_, ok = taste.FindMood("grumpy")
	require.False(t, ok)
}

// TestWhatGoesWithWhat: icons across the circle, or all of one hue; a pointer set
// off from its ground; kin first; and the reasons in words.
func TestWhatGoesWithWhat(t *testing.T) {
	green := market.Looks{Lightness: 0.2, Chroma: 0.1, Hue: 150, Contrast: 8, Colours: []string{"#20302a", "#7fb58c"}}
	near, far := green, green
	near.Hue, far.Hue = 160, 330
	across, key := taste.WishFor("icons", green, "Reed", taste.Kin), taste.WishFor("icons", green, "Reed", taste.Key)
	require.Greater(t, across.Score(far, false), across.Score(near, false))
	require.Greater(t, key.Score(near, false), key.Score(far, false))
	require.Contains(t, across.Why(far, "").String(), "hue opposite that of Reed, 180° away")
	require.Contains(t, key.Why(near, "Shore").String(), "of the same family, Shore; hue 10° from that of Reed")
	require.Greater(t, across.Score(near, true), across.Score(near, false))

	pale, dim := green, green
	pale.Lightness, dim.Lightness = 0.9, 0.3
	pointer := taste.WishFor("pointer", green, "Reed", taste.Key)
	require.Greater(t, pointer.Score(pale, false), pointer.Score(dim, false))
	require.Contains(t, pointer.Why(pale, "").String(), "stands out from Reed: lightness 90 % against 20 %")

	require.Equal(t, "#7fb58c", taste.Accent(green, false), "the most colourful")
	_, _, h := colour.Of8(0x7f, 0xb5, 0x8c).LCH()
	other, err := colour.Parse(taste.Accent(green, true))
	require.NoError(t, err)
	_, _, o := other.LCH()
	require.InDelta(t, 180, colour.HueDistance(h, o), 6)
	require.Empty(t, taste.Accent(market.Looks{Colours: []string{"#808080"}}, false))
}
