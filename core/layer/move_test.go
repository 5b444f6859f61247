package layer_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/colour"
	"ivelt/core/gtkcss"
	"ivelt/core/layer"
	"ivelt/core/recolour"
)

// shore is a theme with something of everything that moves.
var shore = map[string]string{
	"index.theme": "[Desktop Entry]\nName=Salt\n",
	"gtk-3.0/gtk.css": "@import \"colours.css\";\n@define-color accent_fg_color white;\n" +
		"button { padding: 4px 0.2em; min-height: 0.5px; border: 1px solid @edge; border-radius: 6px; font-size: 9pt; }\n" +
		"label { font-size: 1.2em; color: rgba(61, 126, 166, .5); padding: 0; }\n" +
		"entry { border-width: 3px; -gtk-outline-radius: 5px; border-radius: 50%; background-image: url(\"assets/tick.svg\"); }\n" +
		"row:selected { color: white; background-color: #3d7ea6; }\nwarning { color: #a63d3d; }\npopover { font: initial; }\n",
	"gtk-3.0/colours.css":     "@define-color accent_bg_color #3d7ea6;\n@define-color edge mix(#2f6d93, #808080, 0.2);\n",
	"gtk-3.0/gtk-dark.css":    "@define-color accent_bg_color #6aa9cf;\nwindow { color: #6aa9cf }\n",
	"gtk-3.0/assets/tick.svg": `<svg xmlns="http://www.w3.org/2000/svg"><path fill="#3d7ea6" d="M0 0h9v9z"/><path fill="#a63d3d" d="M0 0h1v1z"/></svg>`,
	"gtk-2.0/gtkrc":           "gtk-color-scheme = \"bg:#3d7ea6\\nfg:#222222\"\nstyle \"s\" { bg[SELECTED] = \"#3d7ea6\" xthickness = 2 font_name = \"Sans 9\" }\nclass \"*\" style \"s\"\n",
}

func moves(of ...layer.Move) layer.Recipe {
	return layer.Recipe{Name: "Mine", Folder: "Salt-Mine", Base: layer.Base{Kind: "theme", Folder: "Salt"}, Moves: of}
}

// TestMoves: what a theme says of one thing is moved everywhere, and nothing else is.
func TestMoves(t *testing.T) {
	tree, root := onDesk(t, shore)
	r := moves(layer.Move{Of: "text", To: "120%"}, layer.Move{Of: "space", To: "150%"}, layer.Move{Of: "rounding", To: "50%"},
		layer.Move{Of: "lines", To: "200%"}, layer.Move{Of: "accent", To: "#e0d060"})
	dir, report := built(t, tree, root, r)
	for _, f := range report.Fits {
		require.Equal(t, layer.Fits, f.State, f.Says)
	}
	require.Equal(t, "#3d7ea6", report.Fits[4].Now, "the accent is what selections are shown in")
	text := func(name string) string {
		b, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		return string(b)
	}
	sheet := text("gtk-3.0/gtk.css")
	for _, want := range []string{
		"window, dialog, messagedialog, assistant, tooltip { font-size: 120%; }\n@import \"colours.css\";\n",
		"padding: 6px 0.3em; min-height: 0.75px; border: 2px solid @edge; border-radius: 3px; font-size: 10.8pt;",
		"font-size: 1.2em;", "padding: 0;",
		"border-width: 6px; -gtk-outline-radius: 3px; border-radius: 50%; background-image: url(\"assets/tick.svg\");",
		"warning { color: #a63d3d; }", "popover { font: initial; font-size: 1.2rem; }",
	} {
		require.Contains(t, sheet, want)
	}
	s, err := gtkcss.Load(t.Context(), os.DirFS(dir), "gtk-3.0/gtk.css")
	require.NoError(t, err)
	require.Empty(t, s.Notes)
	hex := func(name string) colour.Colour {
		c, ok := s.Colour(name)
		require.True(t, ok)
		return colour.Colour{R: c.R, G: c.G, B: c.B}
	}
	require.Equal(t, "#e0d060", hex("accent_bg_color").Hex())
	_, _, hue := hex("edge").LCH()
	_, _, to := hex("accent_bg_color").LCH()
	require.Less(t, colour.HueDistance(hue, to), 12.0, "what hangs on the accent goes with it")
	require.GreaterOrEqual(t, colour.Contrast(hex("accent_fg_color"), hex("accent_bg_color")), 4.4, "white would not be read on yellow; it was read as well as 4.4 before")
	row := sheet[strings.Index(sheet, "row:selected"):]
	require.NotContains(t, row[:strings.Index(row, "}")], "white")
	require.Contains(t, text("gtk-3.0/assets/tick.svg"), `fill="#e0d060"`)
	require.Contains(t, text("gtk-3.0/assets/tick.svg"), `fill="#a63d3d"`)
	require.Contains(t, text("gtk-2.0/gtkrc"), `bg:#e0d060\nfg:#222222`)
	require.Contains(t, text("gtk-2.0/gtkrc"), `bg[SELECTED] = "#e0d060" xthickness = 3 font_name = "Sans 10.8"`)
	require.Contains(t, text("gtk-3.0/gtk-dark.css"), "120%")
	require.NotContains(t, text("gtk-3.0/gtk-dark.css"), "#6aa9cf", "a lighter tone of the accent goes with it")

	// The picture reads it as it is built.
	for _, name := range []string{"gtk-3.0/gtk.css", "gtk-3.0/gtk-dark.css"} {
		own, err := gtkcss.Load(t.Context(), tree, root+"/"+name)
		require.NoError(t, err)
		r.Moves[4].From = "#3d7ea6"
		moved, err := gtkcss.LoadMade(t.Context(), tree, root+"/"+name, nil, r.Made(root+"/"+name, own))
		require.NoError(t, err)
		s, err := gtkcss.Load(t.Context(), os.DirFS(dir), name)
		require.NoError(t, err)
		for _, of := range s.Colours() {
			want, _ := s.Colour(of)
			got, ok := moved.Colour(of)
			require.True(t, ok)
			require.Equal(t, want, got, "%s in %s", of, name)
		}
	}
}

// TestLettersOfAnotherFamily: the font is said for windows and wherever the theme says one, and what is
// set in letters of one width stays, in GTK 2's file too.
func TestLettersOfAnotherFamily(t *testing.T) {
	tree, root := onDesk(t, map[string]string{"gtk-3.0/gtk.css": "window { color: black; }\nbutton { font-family: Lato, sans-serif; }\n.log { font-family: \"Mono Sands\"; }\n.in { font-family: inherit; }\n",
		"gtk-2.0/gtkrc": "style \"a\" { font_name = \"Lato Bold 10\" }\nstyle \"b\" { font_name = \"Mono Sands 9\" }\n", "bar/bar.css": "panel { font-family: Lato; }\n"})
	dir, report := built(t, tree, root, moves(layer.Move{Of: "family", To: "Estuary Sans"}))
	require.Equal(t, "font: Estuary Sans, said in 3 places", report.Fits[0].Says.String())
	text := func(name string) string {
		b, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		return string(b)
	}
	require.Equal(t, "window, dialog, messagedialog, assistant, tooltip { font-family: \"Estuary Sans\"; }\nwindow { color: black; }\nbutton { font-family: \"Estuary Sans\"; }\n.log { font-family: \"Mono Sands\"; }\n.in { font-family: inherit; }\n", text("gtk-3.0/gtk.css"))
	require.Equal(t, "style \"a\" { font_name = \"Estuary Sans Bold 10\" }\nstyle \"b\" { font_name = \"Mono Sands 9\" }\n", text("gtk-2.0/gtkrc"))
	require.Equal(t, "panel { font-family: \"Estuary Sans\"; }\n", text("bar/bar.css"))
	for _, wrong := range []string{"", "a\"b", "x;y", "{}"} {
		require.Error(t, moves(layer.Move{Of: "family", To: wrong}).Valid(), wrong)
	}
}

// TestLightAndDark: what is light becomes dark and the other way round, accents stay, what is
// written on them stays readable, shadows stay dark, and what stays as it is is said.
func TestLightAndDark(t *testing.T) {
	tree, root := onDesk(t, map[string]string{
		"gtk-3.0/gtk.css": "@define-color theme_bg_color #f4f4f2;\n@define-color theme_fg_color #222222;\n@define-color theme_selected_bg_color #3d7ea6;\n@define-color theme_selected_fg_color white;\n" +
			"button { color: @theme_fg_color; background-color: #ffffff; box-shadow: 0 1px rgba(0, 0, 0, 0.3); border-color: rgba(0, 0, 0, 0.2); }\n",
		"gtk-3.0/gtk-dark.css": "@define-color theme_bg_color #202020;\nwindow { color: #eeeeee; }\n", "gtk-3.0/a.svg": "<svg/>",
		"gtk-2.0/gtkrc": "gtk-color-scheme = \"bg:#f4f4f2\nfg:#222222\"\n",
	})
	r := moves(layer.Move{Of: "shade", To: "dark"})
	dir, report := built(t, tree, root, r)
	require.Equal(t, "made dark, in 5 places: a first draft; shadows and pictures (1) stay as they are", report.Fits[0].Says.String())
	s, err := gtkcss.Load(t.Context(), os.DirFS(dir), "gtk-3.0/gtk.css")
	require.NoError(t, err)
	of := func(name string) colour.Colour {
		c, ok := s.Colour(name)
		require.True(t, ok)
		return colour.Colour{R: c.R, G: c.G, B: c.B}
	}
	l, _, _ := of("theme_bg_color").LCH()
	require.InDelta(t, 0.22, l, 0.03)
	require.Greater(t, colour.Contrast(of("theme_fg_color"), of("theme_bg_color")), 10.0)
	require.Equal(t, "#3d7ea6", of("theme_selected_bg_color").Hex())
	require.GreaterOrEqual(t, colour.Contrast(of("theme_selected_fg_color"), of("theme_selected_bg_color")), 4.2)
	text, err := os.ReadFile(filepath.Join(dir, "gtk-3.0/gtk.css"))
	require.NoError(t, err)
	require.Contains(t, string(text), "box-shadow: 0 1px rgba(0, 0, 0, 0.3);")
	require.NotContains(t, string(text), "border-color: rgba(0, 0, 0, 0.2)")
	dark, err := os.ReadFile(filepath.Join(dir, "gtk-3.0/gtk-dark.css"))
	require.NoError(t, err)
	require.Contains(t, string(dark), "color: #eeeeee", "what is dark stays")
	rc, err := os.ReadFile(filepath.Join(dir, "gtk-2.0/gtkrc"))
	require.NoError(t, err)
	require.NotContains(t, string(rc), "#f4f4f2")

	for _, hex := range []string{"#ffffff", "#f4f4f2", "#808080", "#222222", "#dfe4ea"} {
		c, err := colour.Parse(hex)
		require.NoError(t, err)
		back := recolour.Shade{}.Of(recolour.Shade{Dark: true}.Of(c))
		require.Less(t, colour.Distance(c, back), 0.01, hex)
	}
}

// TestMovesInABundle: a sheet of a bundle is written beside the one that takes it in.
func TestMovesInABundle(t *testing.T) {
	bundle, err := os.ReadFile("../gresource/testdata/reef.gresource")
	require.NoError(t, err)
	tree, root := onDesk(t, map[string]string{
		"gtk-3.0/gtk.css":       "@import url(\"resource:///org/example/Reef/gtk.css\");\nwindow { color: @sea; background-image: url(\"resource:///org/example/Reef/a.png\"); }\n",
		"gtk-3.0/gtk.gresource": string(bundle),
	})
	dir, _ := built(t, tree, root, moves(layer.Move{Of: "accent", To: "#402010", From: "#102030"}))
	text, err := os.ReadFile(filepath.Join(dir, "gtk-3.0/gtk.css"))
	require.NoError(t, err)
	require.Equal(t, "@import url(\"org-example-Reef-gtk.base.css\");\nwindow { color: @sea; background-image: url(\"resource:///org/example/Reef/a.png\"); }\n", string(text))
	s, err := gtkcss.Load(t.Context(), os.DirFS(dir), "gtk-3.0/gtk.css")
	require.NoError(t, err)
	c, ok := s.Colour("sea")
	require.True(t, ok)
	require.Equal(t, "64,32,16,1.000", c.String())
}

// TestMovesOfNothing: moves by nothing leave every file of a theme as it is, and what a theme
// does not have is said.
func TestMovesOfNothing(t *testing.T) {
	tree, root := onDesk(t, shore)
	r := moves(layer.Move{Of: "text", To: "100%"}, layer.Move{Of: "space", To: "100%"}, layer.Move{Of: "rounding", To: "100%"},
		layer.Move{Of: "lines", To: "100%"}, layer.Move{Of: "accent", To: "#3d7ea6"})
	dir, report := built(t, tree, root, r)
	for name, text := range shore {
		if name != "index.theme" {
			b, err := os.ReadFile(filepath.Join(dir, name))
			require.NoError(t, err)
			require.Equal(t, text, string(b), name)
		}
	}
	for _, f := range report.Fits {
		require.Equal(t, layer.Gone, f.State)
		require.Equal(t, "layer/nothing-to-move", f.Says.Code)
	}
	tree, root = onDesk(t, map[string]string{"gtk-3.0/gtk.css": "button { color: #222222; }\n"})
	_, report = built(t, tree, root, moves(layer.Move{Of: "rounding", To: "0%"}, layer.Move{Of: "accent", To: "#a0466b"}))
	require.Len(t, report.Loose(), 2)
}

// TestMovesThatAreNone are refused with the reason.
func TestMovesThatAreNone(t *testing.T) {
	for to, wrong := range map[layer.Move]string{
		{Of: "shape", To: "120%"}:                  "none of text",
		{Of: "text", To: "20%"}:                    "between 50% and 200%",
		{Of: "text", To: "12pt"}:                   "between",
		{Of: "lines", To: "NaN%"}:                  "between",
		{Of: "shade", To: "120%"}:                  "neither light nor dark",
		{Of: "accent", To: "red"}:                  "no colour",
		{Of: "accent", To: "#ff0000", From: "red"}: "no colour",
		{Of: "accent", To: "#ff0000", Within: 200}: "degrees",
		{Of: "space", To: "120%", From: "#ff0000"}: "of the accent",
	} {
		require.ErrorContains(t, moves(to).Valid(), wrong)
	}
	require.ErrorContains(t, moves(layer.Move{Of: "text", To: "120%"}, layer.Move{Of: "text", To: "90%"}).Valid(), "one of text already")
}
