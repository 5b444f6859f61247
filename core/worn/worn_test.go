package worn_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/worn"
)

// TestWhatADeskWears: what most are told, the others as exceptions, pieces with what their
// own files and the package database say of them.
func TestWhatADeskWears(t *testing.T) {
	home, system := t.TempDir(), t.TempDir()
	put := func(name, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(name), 0o755))
		require.NoError(t, os.WriteFile(name, []byte(text), 0o644))
	}
	d, err := desk.Open("d", home, system, "/home/me")
	require.NoError(t, err)
	for _, s := range desk.Builtin() {
		if s.ID == "gtk2" || s.ID == "gtk3" || s.ID == "gtk4" {
			d.SetSurfaces(append(d.Surfaces(), s))
		}
	}
	require.Empty(t, worn.Of(d, nil).Choices, "nobody was told anything")

	put(home+"/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-icon-theme-name=Shingle\ngtk-theme-name=Reef\ngtk-font-name=Salt Sans 10.5\n")
	put(home+"/.config/gtk-4.0/settings.ini", "[Settings]\ngtk-icon-theme-name=Shingle\n")
	put(home+"/.gtkrc-2.0", "gtk-icon-theme-name = \"Pebble\"\n")
	put(home+"/.icons/Shingle/index.theme", "[Icon Theme]\nName=Shingle\nDirectories=48\nX-Version=2.1\nX-License=CC0-1.0\n[48]\nSize=48\n")
	put(home+"/.icons/Shingle/48/folder.svg", "<svg/>")
	put(system+"/usr/share/themes/Reef/gtk-3.0/gtk.css", "window { color: red }")
	put(system+"/var/lib/dpkg/info/reef-theme.list", "/usr/share/themes\n/usr/share/themes/Reef\n")
	put(system+"/var/lib/dpkg/status", "Package: reef-theme\nStatus: install ok installed\nVersion: 4-1\n")
	o := worn.Of(d, nil)
	icons := o.Choices[desk.FacetIcons]
	require.Equal(t, "Shingle", icons.Piece)
	require.Equal(t, map[string]string{"gtk2": "Pebble"}, icons.Except)
	require.Equal(t, []string{"2.1", "CC0-1.0", "~/.icons/Shingle"}, []string{icons.Version, icons.Licence, icons.Source})
	theme := o.Choices[desk.FacetWidgets]
	require.Equal(t, []string{"Reef", "4-1", "package reef-theme"}, []string{theme.Piece, theme.Version, theme.Source})
	require.Equal(t, "Salt Sans 10.5", o.Want(desk.FacetFont))
	again, err := outfit.Parse(o.Bytes())
	require.NoError(t, err)
	require.Equal(t, o.Facets(), again.Facets())

	known := worn.Of(d, func(at string) worn.About {
		require.NotEmpty(t, at)
		if at == "/home/me/.icons/Shingle" {
			return worn.About{Version: "3", Source: "https://example.org/shingle", Checksum: "sha256:00"}
		}
		return worn.About{}
	}).Choices[desk.FacetIcons]
	require.Equal(t, []string{"3", "CC0-1.0", "https://example.org/shingle", "sha256:00"}, []string{known.Version, known.Licence, known.Source, known.Checksum}, "what the maker said of it stays")
}
