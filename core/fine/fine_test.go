package fine_test

import (
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/outfit"
	"ivelt/core/preview"
	"ivelt/core/say"
	"ivelt/standin"
)

func newDesk(t *testing.T) *desk.Desk {
	t.Helper()
	dir := t.TempDir()
	for name, text := range map[string]string{
		"home/.config/gtk-3.0/settings.ini": "[Settings]\ngtk-font-name=Estuary Sans 10.5\ngtk-cursor-theme-size=24\ngtk-cursor-theme-name=Oar\n",
		"home/.config/gtk-4.0/settings.ini": "[Settings]\ngtk-cursor-theme-size=48\ngtk-cursor-theme-name=Oar\n",
		"home/.gtkrc-2.0":                   "gtk-font-name = \"Estuary Sans 10.5\"\n",
		"home/.icons/Oar/index.theme":       "[Icon Theme]\nName=Oar\n",
		"system/usr/bin/quayside":           "",
		"system/usr/share/x":                "",
	} {
		at := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o755))
	}
	d, err := desk.Open("d", filepath.Join(dir, "home"), filepath.Join(dir, "system"), "/home/me")
	require.NoError(t, err)
	d.Env = map[string]string{}
	d.SetSurfaces(append(desk.Builtin(), standin.Surfaces()...))
	return d
}

// TestFineSettings: one for each facet that pieces are not chosen for, with what is shown now
// among what there is to choose, and nothing where surfaces differ.
func TestFineSettings(t *testing.T) {
	d := newDesk(t)
	all := map[string]fine.Setting{}
	o := outfit.Outfit{}.With(desk.FacetAccent, "#123456").With(desk.FacetDark, "dark")
	look := preview.Draft(t.Context(), d, o)
	var settings []fine.Setting
	for _, g := range fine.Groups {
		settings = append(settings, fine.Settings(d, o, look, g.Settle)...)
	}
	for _, s := range settings {
		all[s.Name] = s
		chosen := 0
		for _, o := range s.Options {
			require.NotEmpty(t, o.Value, s.Name)
			if o.Chosen {
				chosen++
				require.Equal(t, s.Now, o.Value)
			}
		}
		require.LessOrEqual(t, chosen, 1, s.Name)
		if s.Now != "" && len(s.Options) > 0 {
			require.Equal(t, 1, chosen, "%s is %s", s.Name, s.Now)
		}
	}
	require.NotContains(t, all, desk.FacetIcons, "pieces are chosen for it")
	font := all[desk.FacetFont]
	require.Equal(t, []string{"Font size", "pt", "10.5"}, []string{string(font.Title), font.Unit, font.Now})
	size := all[desk.FacetPointerSize]
	require.Empty(t, size.Now, "24 here, 48 there")
	require.Equal(t, []fine.Option{{Value: "24", Title: say.Words("24 px")}, {Value: "32", Title: say.Words("32 px")}, {Value: "48", Title: say.Words("48 px")}}, size.Options)
	accent := all[desk.FacetAccent]
	require.True(t, accent.OnDraft)
	require.GreaterOrEqual(t, len(accent.Options), len(fine.Accents))
	require.True(t, all[desk.FacetDark].Few)
	require.GreaterOrEqual(t, len(all[desk.FacetButtons].Options), len(fine.ButtonOrders))

	family, points := fine.FontOf(d, outfit.Outfit{}, desk.FacetFont)
	require.Equal(t, "Estuary Sans", family)
	require.InDelta(t, 10.5, points, 0)
	family, points = fine.FontOf(d, outfit.Outfit{}.With(desk.FacetFont, "Lora 12"), desk.FacetFont)
	require.Equal(t, "Lora", family)
	require.InDelta(t, 12, points, 0)
	_, points = fine.FontOf(&desk.Desk{}, outfit.Outfit{}, desk.FacetFont)
	require.InDelta(t, 10, points, 0, "none says one")
}

// TestWhatASurfaceCouldBeTold has what it is told now, also what nobody else would offer.
func TestWhatASurfaceCouldBeTold(t *testing.T) {
	d := newDesk(t)
	for _, s := range d.Surfaces() {
		for _, f := range s.Facets {
			for _, now := range []string{"", "odd"} {
				options := fine.Options(d, s, f, now)
				if len(options) == 0 {
					continue
				}
				i := slices.IndexFunc(options, func(o fine.Option) bool { return o.Chosen })
				require.GreaterOrEqual(t, i, 0, "%s %s", s.ID, f.Name)
				require.Equal(t, now, options[i].Value)
				if now == "" {
					require.Equal(t, "default", options[i].Title.String())
				}
			}
		}
	}
	gtk3, _ := d.Surface("gtk3")
	dark, _ := gtk3.Facet(desk.FacetDark)
	require.True(t, fine.Options(d, gtk3, dark, "dark")[slices.IndexFunc(fine.Options(d, gtk3, dark, "dark"), func(o fine.Option) bool { return o.Value == "dark" })].Chosen)
}

// TestGroups have every facet that can be set, each in one of them.
func TestGroups(t *testing.T) {
	in := map[string]int{}
	for _, g := range fine.Groups {
		for _, facet := range g.Facets() {
			in[facet]++
			of, ok := fine.GroupOf(facet)
			require.True(t, ok)
			require.Equal(t, g.Facet, of.Facet)
		}
	}
	for _, info := range desk.Facets {
		require.Equal(t, 1, in[info.Name], info.Name)
	}
	require.Len(t, in, len(desk.Facets), "and nothing else")
	_, ok := fine.GroupOf("cleverness")
	require.False(t, ok)
}

// TestValuesForPeople are written as people say them.
func TestValuesForPeople(t *testing.T) {
	for _, c := range [][3]string{
		{desk.FacetIcons, "Reef", "Reef"}, {desk.FacetBackdrop, "/usr/share/backgrounds/red-buoy.svg", "red buoy"}, {desk.FacetPointerSize, "32", "32 px"},
		{desk.FacetPointerSize, "0", "the display's own"}, {desk.FacetAccent, "#1d6b52", "kelp"}, {desk.FacetAccent, "#010203", "#010203"},
		{desk.FacetSignIn, "asks", "off"}, {desk.FacetSignIn, desk.ByItself, "on"}, {desk.FacetWorkspaces, "4", "4"},
		{desk.FacetButtons, "menu:close", "right: close only"}, {desk.FacetFont, "", ""},
	} {
		require.Equal(t, c[2], fine.Says(c[0], c[1]).String())
	}
}

// TestFixedWidth: a face whose letters are of different widths is none for a terminal.
func TestFixedWidth(t *testing.T) {
	d := newDesk(t)
	for name, b := range map[string][]byte{"even.ttf": gomono.TTF, "uneven.ttf": goregular.TTF} {
		at := filepath.Join(d.Home, ".local/share/fonts", name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, b, 0o644))
	}
	offered := func(facet string) (out []string) {
		for _, s := range fine.Settings(d, outfit.Outfit{}, preview.Worn(t.Context(), d), []string{facet}) {
			for _, o := range s.Options {
				if s.Name == facet {
					out = append(out, o.Title.String())
				}
			}
		}
		return out
	}
	require.Contains(t, offered(desk.FacetFontMono), "Go Mono")
	require.NotContains(t, offered(desk.FacetFontMono), "Go")
	require.Contains(t, offered(desk.FacetFontTitle), "Go")
}
