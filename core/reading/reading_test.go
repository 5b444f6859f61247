package reading_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/desk"
	"ivelt/core/reading"
)

// TestFontsThatAreNotThere: a family that is missing is told with the one that is
// taken in its stead by the desk's own configuration; names of kinds are none.
func TestFontsThatAreNotThere(t *testing.T) {
	home, system := t.TempDir(), t.TempDir()
	put := func(name, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(name), 0o755))
		require.NoError(t, os.WriteFile(name, []byte(text), 0o644))
	}
	put(system+"/usr/share/fonts/a.ttf", string(gomono.TTF))
	put(system+"/usr/share/fonts/b.ttf", string(goregular.TTF))
	put(system+"/etc/fonts/fonts.conf", "<fontconfig><include prefix='xdg'>fontconfig/fonts.conf</include></fontconfig>")
	d, err := desk.Open("d", home, system, "/home/me")
	require.NoError(t, err)
	d.Surfaces = desk.Builtin()
	s, _ := d.Surface("gtk3")
	f, _ := s.Facet(desk.FacetFont)
	told := func(font string) reading.Reading {
		put(home+"/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-font-name="+font+"\n")
		return reading.Of(d, s, f)
	}
	require.Nil(t, told("Go 11").Problem)
	require.Equal(t, "/usr/share/fonts/b.ttf", told("Go Bold 11").Resolved)
	require.Equal(t, "/usr/share/fonts/a.ttf", told("Sans 10").Resolved, "the first there is")
	put(home+"/.config/fontconfig/fonts.conf", "<fontconfig><alias><family>Sans</family><prefer><family>Go</family></prefer></alias><alias><family>Gull</family><default><family>Go</family></default></alias></fontconfig>")
	require.Equal(t, "/usr/share/fonts/b.ttf", told("Sans 10").Resolved)
	require.Nil(t, told("Sans 10").Problem)
	require.Equal(t, `No folder GTK 3 programs search has a font named "Gull": fontconfig takes Go in its stead.`, told("Gull 10").Problem.Text)
	put(home+"/.config/fontconfig/fonts.conf", "<fontconfig><alias>")
	require.Contains(t, told("Gull 10").Problem.Text, "takes Go Mono", "a file that is no configuration says nothing")
}
