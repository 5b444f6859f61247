package gtkrc_test

import (
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/gtkrc"
)

var (
	window = gtkrc.Widget{Name: "GtkWindow", Types: []string{"GtkWindow", "GtkBin", "GtkContainer", "GtkWidget"}}
	button = gtkrc.Widget{Name: "keeper", Types: []string{"GtkButton", "GtkBin", "GtkContainer", "GtkWidget"}}
)

// TestWhatIsWrongIsTold: what stands before an error counts, what comes after
// does not, and the error is told with its line. The styles themselves are held
// against GTK 2 in truth.
func TestWhatIsWrongIsTold(t *testing.T) {
	f, err := gtkrc.Load(fstest.MapFS{
		"t/gtkrc": {Data: []byte("include \"a.rc\"\ninclude \"gone.rc\"\nstyle \"x\" {\n  bg[NORMAL] = @ground\n}\nclass \"GtkWidget\" style \"x\"\nstyle \"y\" { bg[NORMAL] = @nowhere }\nclass \"GtkWidget\" style \"y\"\n")},
		"t/a.rc":  {Data: []byte("gtk-color-scheme = \"ground:#102030\"\ngtk-font-name = \"Sans 9\"\ninclude \"gtkrc\"\n")},
	}, "t/gtkrc")
	require.NoError(t, err)
	require.Equal(t, "#102030", f.Style([]gtkrc.Widget{window, button}).Bg[gtkrc.Normal].CSS())
	require.Equal(t, []gtkrc.Note{
		{File: "t/gtkrc", Line: 2, Text: `include of "gone.rc" is not there`},
		{File: "t/gtkrc", Line: 7, Text: "the colour @nowhere is not defined; the rest of the file does not count"},
	}, f.Notes)
	require.Equal(t, gtkrc.Setting{Key: "gtk-font-name", Value: "Sans 9", File: "t/a.rc", Line: 2}, f.Settings[1])
	require.Equal(t, []string{"t/gtkrc", "t/a.rc"}, f.Files, "a circle ends")
	_, err = gtkrc.Load(fstest.MapFS{}, "gtkrc")
	require.Error(t, err)
}

// TestSettingsAreEditedInPlace: only the value changes.
func TestSettingsAreEditedInPlace(t *testing.T) {
	for _, c := range []struct{ what, before, after string }{
		{"the last of several", "gtk-theme-name = \"A\" # mine\nstyle \"x\" { engine \"e\" { gtk-theme-name = 1 } }\ngtk-theme-name=\"B\"  # too\n", "gtk-theme-name = \"A\" # mine\nstyle \"x\" { engine \"e\" { gtk-theme-name = 1 } }\ngtk-theme-name=\"New\"  # too\n"},
		{"not there, no last line end", "# a note\ngtk-font-name = \"Sans 9\"", "# a note\ngtk-font-name = \"Sans 9\"\ngtk-theme-name = \"New\"\n"},
		{"other line ends", "aa = 1\r\n", "aa = 1\r\ngtk-theme-name = \"New\"\r\n"},
		{"empty", "", "gtk-theme-name = \"New\"\n"},
		{"before an include", "gtk-theme-name = \"A\"\ninclude \"b\"\n", "gtk-theme-name = \"A\"\ninclude \"b\"\ngtk-theme-name = \"New\"\n"},
		{"in a comment", "# gtk-theme-name = \"A\"\n", "# gtk-theme-name = \"A\"\ngtk-theme-name = \"New\"\n"},
		{"over two lines", "gtk-theme-name =\n  \"A\"\n", "gtk-theme-name =\n  \"New\"\n"},
	} {
		got := gtkrc.Set([]byte(c.before), "gtk-theme-name", "New", false)
		require.Equal(t, c.after, string(got), c.what)
		require.Equal(t, "New", last(gtkrc.Parse(got), "gtk-theme-name"), c.what)
	}
	require.Equal(t, "gtk-cursor-theme-size = 32\n", string(gtkrc.Set([]byte("gtk-cursor-theme-size = -1\n"), "gtk-cursor-theme-size", "32", true)))
}

func last(f *gtkrc.File, key string) (value string) {
	for _, s := range f.Settings {
		if s.Key == key {
			value = s.Value
		}
	}
	return value
}

func FuzzParse(f *testing.F) {
	f.Add([]byte("style \"a\" = \"b\" { bg[NORMAL] = mix(0.5, shade(1.2, @x), {0.1, 2, 3}) GtkX::yes = {1} stock[\"z\"] = {{*}} engine \"e\" { a = 1 } }\nclass \"*<GtkX>.?\" style : highest \"a\""))
	f.Add([]byte("\x00"))
	f.Add([]byte("gtk-color-scheme = \"a:#fff;b:red\"\nbinding \"b\" { bind \"x\" { \"y\" (1) } }\nwidget_class \"<A><B>*\" binding \"b\""))
	f.Fuzz(func(t *testing.T, b []byte) {
		if again := gtkrc.Set(gtkrc.Set(b, "one", "1", false), "one", "2", false); len(gtkrc.Parse(b).Notes) == 0 {
			require.Equal(t, "2", last(gtkrc.Parse(again), "one"))
		}
		st := gtkrc.Parse(b).Style([]gtkrc.Widget{window, button})
		for _, c := range st.Bg {
			for _, part := range c.Bytes() {
				require.True(t, part >= 0 && part <= 255)
			}
		}
	})
}

// TestWhatStylesSay, in all the ways that a style can say it.
func TestWhatStylesSay(t *testing.T) {
	st := gtkrc.Parse([]byte(`gtk_color_scheme = "ground:\043102030; ink:white"
gtk-color-scheme = "link_color: blue"
style "base" { xthickness = 3 font_name = "Serif 12" engine "pixmap" { image { at = 1 } } bg[ACTIVE] = "red" }
style "all" = "base" {
  color["mine"] = @ground
  fg[NORMAL] = @mine
  bg[NORMAL] = mix(0.5, "#000", "#ffffff") bg[PRELIGHT] = shade(0.5, "#ffffff")
  text[NORMAL] = lighter("#646464") base[NORMAL] = darker("#646464")
  bg[SELECTED] = { 65535, 0.5, 0 } bg[INSENSITIVE] = "Misty Rose"
  ythickness = 4 font = "fixed" bg_pixmap[NORMAL] = "x.png"
  stock["gtk-ok"] = {{ "a.png" }} GtkButton::inner-border = { 1, 2 } /* to
  the end */ GtkWidget::kind = GTK_SHADOW_IN GtkWidget::far = -2.5 GtkWidget::at = max(1, (2)) GtkWidget::link_color = @link_color
  GtkWidget::name = 'single' GtkWidget::seen = { @ground, [0x1f, 017, .5] } GtkWidget::shade = shade (0.5, @mine)
  engine "other" { anything = { "at", all } }
}
widget_class "*<GtkButton>*" style "all"
widget "GtkWindow.keep?r" style : highest "last"
`))
	require.Len(t, st.Notes, 1)
	require.Contains(t, st.Notes[0].Text, `there is no style "last" yet`)
	path, state, err := gtkrc.Path("GtkWindow GtkVBox GtkToggleButton#keeper:prelight")
	require.NoError(t, err)
	require.Equal(t, gtkrc.Prelight, state)
	got := st.Style(path)
	require.Equal(t, []string{"#102030", "#7f7f7f", "#7f7f7f", "#828282", "#464646", "#ff7f00", "#ffe4e1", "#ff0000"}, []string{
		got.Fg[gtkrc.Normal].CSS(), got.Bg[gtkrc.Normal].CSS(), got.Bg[gtkrc.Prelight].CSS(), got.Text[gtkrc.Normal].CSS(), got.Base[gtkrc.Normal].CSS(),
		got.Bg[gtkrc.Selected].CSS(), got.Bg[gtkrc.Insensitive].CSS(), got.Bg[gtkrc.Active].CSS(),
	})
	require.Equal(t, []int{3, 4}, []int{got.XThickness, got.YThickness})
	require.Equal(t, []string{"other", "pixmap"}, st.Engines())
	require.Equal(t, "other", got.Engine)
	for _, wrong := range []string{"", "GtkWindow:odd", "GtkWindow:active GtkButton"} {
		_, _, err := gtkrc.Path(wrong)
		require.Error(t, err, wrong)
	}
}

// TestWhatCannotBeRead ends a file with one note that says what stands where.
func TestWhatCannotBeRead(t *testing.T) {
	for text, note := range map[string]string{
		`style "a" { bg[LOUD] = "red" }`:                             "is no state",
		`style "a" { bg[NORMAL] "red" }`:                             `stands where "=" should`,
		`style "a" { bg[NORMAL] = 3 }`:                               "is no colour",
		`style "a" { bg[NORMAL] = "ruddy" }`:                         "is no colour",
		`style "a" { bg[NORMAL] = {1, "x", 3} }`:                     "is no part of a colour",
		`style "a" { bg[NORMAL] = blend("red") }`:                    "is no function of colours",
		`style "a" { bg[NORMAL] = shade("red") }`:                    "is no number with a point",
		`style "a" { xthickness = 1.5 }`:                             "is no whole number",
		`style "a" { ythickness = "x" }`:                             "is no whole number",
		`style "a" { font_name = 3 }`:                                "stands where a text in quotes should",
		`style "a" { hue = 3 }`:                                      "is no property of a style",
		`style "a" { GtkX::3 = 3 }`:                                  "is no property",
		`style "a" { GtkX::yes = }`:                                  "is no value",
		`style "a" { GtkX::yes = max(1`:                              "something is missing",
		`style "a" { GtkX::yes = @nowhere }`:                         "the colour @nowhere is not defined",
		`style "a" { GtkX::yes = ONE | TWO }`:                        "is no property",
		`style "a" { GtkX::yes = -"x" }`:                             "is no value",
		`style "a" { bg[NORMAL] = shade(1, "red") }`:                 "is no number with a point",
		`style "a" { stock["x"] = {{ "a.png", UP }} }`:               "is nothing that a picture is for",
		`style "a" { xthickness = 08 }`:                              "is no whole number",
		`gtk-b = @base`:                                              "the colour @base is not defined",
		`/* a = 1`:                                                   "a comment that does not end",
		`style "a" { 3 }`:                                            "is no property",
		`style "a" { stock[3] = {} }`:                                "stands where a text in quotes should",
		`style "a" { font_name = "no end`:                            "a text that does not end",
		`style "a" { bg[NORMAL] = ` + strings.Repeat("lighter(", 60): "nested too deep",
	} {
		f := gtkrc.Parse([]byte("gtk-a = \"1\"\n" + text))
		require.Len(t, f.Notes, 1, text)
		require.Contains(t, f.Notes[0].Text, note, text)
		require.Equal(t, "1", f.Settings[0].Value, "what stood before counts")
	}
}
