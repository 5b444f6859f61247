package reading_test

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/desk"
	"ivelt/core/desk/desktest"
	"ivelt/core/reading"
	"ivelt/core/xsettings"
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
	d.SetSurfaces(desk.Builtin())
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
	require.Equal(t, `No folder GTK 3 programs search has a font named "Gull": fontconfig uses Go instead.`, told("Gull 10").Problem.Text)
	put(home+"/.config/fontconfig/fonts.conf", "<fontconfig><alias>")
	require.Contains(t, told("Gull 10").Problem.Text, "uses Go Mono", "a file that is no configuration says nothing")
}

// TestWhatSettingsTell follows GLib's settings through a key file, an entry that
// sets a key at sign-in, a lock of the administrator's, and XSETTINGS. The real
// programs are asked in package truth; here are the chain's places.
func TestWhatSettingsTell(t *testing.T) {
	toolkit, _ := (desk.With(desk.Builtin())).Surface("gtk3")
	icons, _ := toolkit.Facet(desk.FacetIcons)
	schema := icons.Sources[slices.IndexFunc(icons.Sources, func(src desk.Source) bool { return src.Format == "gsettings" })].Group
	folder := strings.ReplaceAll(schema, ".", "/")
	home, system := t.TempDir(), t.TempDir()
	put := func(name, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(name), 0o755))
		require.NoError(t, os.WriteFile(name, []byte(text), 0o644))
	}
	put(system+"/usr/share/glib-2.0/schemas/gschemas.compiled", string(desktest.Schemas))
	put(home+"/.config/glib-2.0/settings/keyfile", "# mine\n["+folder+"]\nicon-theme='Reef'\n")
	put(home+"/.config/autostart/x.desktop", "[Desktop Entry]\nType=Application\nExec=sh -c \"sleep 1; gsettings set "+schema+" icon-theme 'Skerry'\"\n")
	d, err := desk.Open("d", home, system, "/home/me")
	require.NoError(t, err)
	d.Env = map[string]string{"WAYLAND_DISPLAY": "w"}
	d.SetSurfaces(desk.Builtin())
	s, _ := d.Surface("gtk3")
	f, _ := s.Facet(desk.FacetIcons)
	told := func() (r reading.Reading, states string) {
		r = reading.Told(d, s, f)
		for _, step := range r.Chain {
			states += string(step.State) + " "
		}
		return r, states
	}
	r, states := told()
	require.Equal(t, "Reef", r.Value)
	require.Equal(t, reading.Origin{Kind: "setting", Path: "/home/me/.config/glib-2.0/settings/keyfile", Line: 3, Key: schema + " icon-theme"}, r.Source)
	require.Equal(t, "not-asked sign-in wins overruled absent absent absent absent overruled ", states)
	require.Equal(t, "Skerry", r.Chain[1].Value)
	put(system+"/etc/glib-2.0/settings/locks", "/"+folder+"/icon-theme\n")
	r, _ = told()
	require.Equal(t, "Adwaita", r.Value, "the schema's own")
	require.True(t, r.Chain[2].Locked)
	d.Env = nil
	d.Running = func() desk.Session { return desk.Session{XSettings: xsettings.Settings{"Net/IconThemeName": "Gull"}} }
	r, _ = told()
	require.Equal(t, "Gull", r.Value)
	require.Equal(t, reading.Origin{Kind: "setting", Key: "Net/IconThemeName"}, r.Source)
}
