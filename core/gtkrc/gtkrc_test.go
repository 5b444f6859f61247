package gtkrc_test

import (
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
	f.Add([]byte("style \"a\" = \"b\" { bg[NORMAL] = mix(0.5, shade(1.2, @x), {0.1, 2, 3}) GtkX::y = {1} stock[\"z\"] = {{*}} engine \"e\" { a = 1 } }\nclass \"*<GtkX>.?\" style : highest \"a\""))
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
