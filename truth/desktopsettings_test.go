package truth

import (
	"bytes"
	"image"
	stdpng "image/png"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/session"
	"ivelt/session/sessiontest"
	"ivelt/store"
)

// TestTheDesktopsSettings asks GLib for the settings that programs ask for
// themselves, and the Settings portal for what it makes of them, in homes as
// messy as people leave them, before and after a plan, which sets them by the service that keeps them,
// and after going back (Debian: libglib2.0-bin,
// dconf-gsettings-backend, dbus, xdg-desktop-portal-gtk).
func TestTheDesktopsSettings(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	keys := []string{desk.FacetDark, desk.FacetContrast, desk.FacetFontDocument, desk.FacetFontMono, desk.FacetFontTitle}
	words := map[string]string{"'prefer-dark'": "dark", "'prefer-light'": "light", "'default'": "light", "true": "high", "false": "usual"}
	n, overBus := 14**times, 0
	for seed := range n {
		r := rand.New(rand.NewPCG(seed, 65))
		pick := func(options ...string) string { return options[r.IntN(len(options))] }
		s := &seat{home: t.TempDir(), env: map[string]string{"XDG_RUNTIME_DIR": h.runtime}}
		h.settings(t, r, s)
		compare := func(when string) {
			d := s.desk(t)
			for _, facet := range keys {
				schema, key := keyOf(facet)
				said := strings.TrimSpace(s.ask(t, "gsettings", "libglib2.0-bin", "get", schema, key))
				if word, is := words[said]; is {
					said = word
				}
				if r := reads(t, d, "settings", facet); !same("gsettings", facet, strings.Trim(said, "'"), r.Value) {
					t.Errorf("seed %d %s, %s: GLib %q, Ivelt %q from %v\n%s", seed, when, facet, said, r.Value, r.Source, strings.Join(s.said, "\n"))
				}
			}
			if seed%5 == 0 { // the portal is three programs to start
				shade := map[string]string{"1": "dark"}[portalSays(t, s, h, "color-scheme")]
				if shade == "" {
					shade = "light"
				}
				if r := reads(t, d, "settings", desk.FacetDark); !same("portal", desk.FacetDark, shade, r.Value) {
					t.Errorf("seed %d %s: the portal %q, Ivelt %q\n%s", seed, when, shade, r.Value, strings.Join(s.said, "\n"))
				}
			}
		}
		compare("as it is")
		want := map[string]string{desk.FacetDark: pick("dark", "light"), desk.FacetContrast: pick("high", "usual"), desk.FacetFontDocument: "Lato 12", desk.FacetFontMono: "DejaVu Sans Mono 10", desk.FacetFontTitle: "Lato 9"}
		o := outfit.Outfit{Name: "x"}
		for facet, value := range want {
			o = o.With(facet, value)
		}
		d := s.desk(t)
		d.SetSurfaces(slices.DeleteFunc(slices.Clone(d.Surfaces()), func(s desk.Surface) bool { return s.ID != "settings" && s.ID != "desktop" }))
		picture := filepath.Join(s.home, "Pictures", pick("plain.png", "two words.png", "ü & 100 %.png", "it's.png"))
		var png bytes.Buffer
		require.NoError(t, stdpng.Encode(&png, image.NewGray(image.Rect(0, 0, 1+int(seed), 1))))
		write(t, picture, png.String())
		ground := map[string]string{desk.FacetBackdrop: picture, desk.FacetMotion: pick("full", "less"), desk.FacetDouble: pick("minimise", "taller"), desk.FacetMiddle: pick("lower", "none"), desk.FacetRight: pick("menu", "roll up"), desk.FacetWorkspaces: pick("1", "7"), desk.FacetButtons: pick("close:menu", ":minimize,close"),
			desk.FacetLies: pick("fill", "fit", "stretch", "centre", "tile", "span", "none"), desk.FacetBehind: pick("#102030", "#fafaf7")}
		for facet, value := range ground {
			o = o.With(facet, value)
		}
		pictures := []string{png.String(), png.String()} // of the dark and of the light
		if r.IntN(2) == 0 {
			night := filepath.Join(s.home, "Pictures", "night.png")
			pictures[0] = png.String() + " by night"
			write(t, night, pictures[0])
			var err error
			o, err = o.Pair(desk.FacetBackdrop, picture, night)
			require.NoError(t, err)
			o = o.In(outfit.HalfOf(want[desk.FacetDark] == "dark"))
			ground[desk.FacetBackdrop] = o.Want(desk.FacetBackdrop)
		}
		d.SetWritable(true)
		byBus := s.env["GSETTINGS_BACKEND"] == "dconf"
		if byBus {
			d.Settings = session.SettingsOf(d)
			without, err := planning.Dress(t.Context(), d, o)
			require.NoError(t, err)
			require.Empty(t, without.Ops, "seed %d: nobody answers who could set anything", seed)
			s.env["DBUS_SESSION_BUS_ADDRESS"], _ = sessiontest.Bus(t, s.environ())
			d.Env = maps.Clone(s.env)
			d.Settings = session.SettingsOf(d)
			overBus++
		}
		dump := func() string {
			if !byBus {
				b, err := os.ReadFile(filepath.Join(s.home, ".config/glib-2.0/settings/keyfile"))
				require.NoError(t, err)
				return string(b)
			}
			return s.ask(t, "dconf", "dconf-cli", "dump", "/")
		}
		before := dump()
		keep, journal := store.Blobs{Dir: t.TempDir()}, filepath.Join(t.TempDir(), "journal")
		p, err := planning.Dress(t.Context(), d, o)
		require.NoError(t, err)
		require.NoError(t, apply.Plan(t.Context(), d, p, apply.Config{Keep: keep, Journal: journal}))
		require.Empty(t, p.Blocked, "seed %d with %s", seed, s.env["GSETTINGS_BACKEND"])
		compare("after a plan")
		for facet, value := range want {
			if now := reads(t, s.desk(t), "settings", facet).Value; now != value {
				t.Errorf("seed %d: %s reads %q after it was set to %q", seed, facet, now, value)
			}
		}
		under := s.desk(t)
		for facet, value := range ground {
			if now := reads(t, under, "desktop", facet).Value; now != value {
				t.Errorf("seed %d: %s reads %q after it was set to %q", seed, facet, now, value)
			}
		}
		get := func(facet string) (out []string) {
			surface, _ := under.Surface("desktop")
			f, _ := surface.Facet(facet)
			for _, src := range f.Sources {
				out = append(out, strings.Trim(strings.TrimSpace(s.ask(t, "gsettings", "libglib2.0-bin", "get", src.Group, src.Key)), "'\""))
			}
			return out
		}
		require.Equal(t, []string{map[string]string{"full": "true", "less": "false"}[ground[desk.FacetMotion]]}, get(desk.FacetMotion))
		require.Equal(t, []string{ground[desk.FacetWorkspaces]}, get(desk.FacetWorkspaces))
		require.Equal(t, ground[desk.FacetLies], saidToLie[get(desk.FacetLies)[0]])
		require.Equal(t, []string{ground[desk.FacetBehind]}, get(desk.FacetBehind))
		uris := get(desk.FacetBackdrop)
		require.Len(t, uris, 2, "of the light and the dark")
		for i, uri := range uris { // GLib finds the file by it
			require.Equal(t, pictures[i], s.ask(t, "gio", "libglib2.0-bin", "cat", uri), "seed %d", seed)
		}
		back, err := planning.Back(d, []plan.Plan{p}, keep, planning.Aim{})
		require.NoError(t, err)
		require.Empty(t, back.Conflicts)
		require.NoError(t, apply.Plan(t.Context(), d, back.Plan, apply.Config{Keep: keep, Journal: journal}))
		require.Equal(t, before, dump(), "seed %d: everything as it was", seed)
		compare("after going back")
	}
	require.Greater(t, 6*overBus, int(n), "by the service that keeps them")
	t.Logf("homes of seeds 0 to %d", n-1)
}

// saidToLie is what desktops' setting picture-options says of how a backdrop lies.
var saidToLie = map[string]string{"zoom": "fill", "scaled": "fit", "stretched": "stretch", "centered": "centre", "wallpaper": "tile", "spanned": "span", "none": "none"}

// portalSays asks the portal for a key of its appearance namespace.
func portalSays(t *testing.T, s *seat, h *house, key string) string {
	t.Helper()
	script := `/usr/libexec/xdg-desktop-portal-gtk >/dev/null 2>&1 & gtk=$!
gdbus wait --session --timeout 20 org.freedesktop.impl.portal.desktop.gtk
/usr/libexec/xdg-desktop-portal >/dev/null 2>&1 & portal=$!
gdbus wait --session --timeout 20 org.freedesktop.portal.Desktop
gdbus call --session --dest org.freedesktop.portal.Desktop --object-path /org/freedesktop/portal/desktop --method org.freedesktop.portal.Settings.Read org.freedesktop.appearance ` + key + `
kill $gtk $portal`
	// It serves the desktops that its description names.
	description, err := os.ReadFile("/usr/share/xdg-desktop-portal/portals/gtk.portal")
	require.NoError(t, err)
	_, desktop, _ := strings.Cut(string(description), "UseIn=")
	desktop = strings.FieldsFunc(desktop, func(r rune) bool { return r == ';' || r == '\n' })[0]
	c := tool(t, "dbus-run-session", "dbus", "--", "sh", "-c", script)
	c.Env = append(s.environ(), "DISPLAY="+h.display, "GDK_BACKEND=x11", "GDK_DEBUG=gl-disable", "XDG_CURRENT_DESKTOP="+desktop)
	answer := output(t, c) // (<<uint32 1>>,)
	_, value, _ := strings.Cut(answer, "uint32 ")
	value, _, _ = strings.Cut(value, ">")
	return value
}
