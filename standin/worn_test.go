package standin_test

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/planning"
	"ivelt/core/worn"
)

// furnished is a desk with a few pieces of each kind in it, and nothing set.
func furnished(t *testing.T) rig {
	r := rigOf(t)
	r.locked("5.2.1", "Dune", "Reef", "Skerry")
	for _, name := range []string{"Dune", "Reef", "Skerry"} {
		for _, part := range []string{"gtk-2.0/gtkrc", "gtk-3.0/gtk.css", "gtk-4.0/gtk.css", "quayside/shell.css", "samphire/bar.css"} {
			r.put("/usr/share/themes/"+name+"/"+part, "")
		}
		r.put("/usr/share/withy/themes/"+name+"/withy/frame.css", "")
		r.put("/usr/share/icons/"+name+"/index.theme", iconIndex)
		r.put("/usr/share/icons/"+name+"/cursors/left_ptr", "x")
		r.put("/usr/share/palettes/"+name+".Xresources", sixteen)
		r.put("/usr/share/styles/"+name+".svg", `<svg xmlns="http://www.w3.org/2000/svg"><!-- SPDX-License-Identifier: CC-BY-4.0 -->
</svg>`)
		r.put("/usr/share/backgrounds/"+name+".svg", `<svg xmlns="http://www.w3.org/2000/svg"/>`)
		for _, of := range [][2]string{{"lantern", "login.theme"}, {"tollgate", "gate.theme"}} {
			r.put("/usr/share/"+of[0]+"/themes/"+name+"/"+of[1], "[Login Theme]\nName="+name+"\nVersion=3.1\nLicence=CC0-1.0\n")
		}
	}
	return r
}

// TestWornGoesRound: what a desk wears is written as an outfit; another desk that
// is dressed in that is then worn the same, exceptions and all. Twenty outfits by
// chance.
func TestWornGoesRound(t *testing.T) {
	choices := map[string][]string{
		desk.FacetWidgets: {"Dune", "Reef", "Skerry"}, desk.FacetIcons: {"Dune", "Reef", "Skerry"}, desk.FacetPointer: {"Dune", "Reef"}, desk.FacetPointerSize: {"24", "48"},
		desk.FacetBar: {"Dune", "Reef"}, desk.FacetFrame: {"Reef", "Skerry"}, desk.FacetNotices: {"Dune", "Skerry"}, desk.FacetDark: {"light", "dark"}, desk.FacetAccent: {"#112233", "#aa5500"},
		desk.FacetPalette: {"Dune", "Reef"}, desk.FacetGround: {"80", "95"}, desk.FacetEdges: {"hidden", "shown"}, desk.FacetLogin: {"Dune", "Skerry"}, desk.FacetPane: {"hidden"}, desk.FacetNumLock: {"on"},
		desk.FacetBackdrop: {"/usr/share/backgrounds/Dune.svg", "/usr/share/backgrounds/Reef.svg"}, desk.FacetEffects: {"none", "all"}, desk.FacetWorkspaces: {"3", "6"}, desk.FacetIconSize: {"32", "96"}, desk.FacetOpacity: {"40", "90"},
		desk.FacetBars: {"none", "top 30 margin 7: menu / clock(form=\"%H:%M  %V\") / tray", "left 40: menu title; bottom 28 long content: windows"}, desk.FacetDock: {"bottom 48 margin 7: a.b c.d", "none"},
		desk.FacetTiles: {"hand outer 30 inner 20", "beside outer 30,20,30,30 inner 25 share 60% frames no float dialog"}, desk.FacetMaximised: {"gone", "kept"}, desk.FacetDouble: {"roll up", "lower"}, desk.FacetMiddle: {"minimise"}, desk.FacetRight: {"none", "menu"},
		desk.FacetNeeded: {"needed"}, desk.FacetNames: {"Sea;Low water", "none"}, desk.FacetSpaces: {"2=/usr/share/backgrounds/Dune.svg"}, desk.FacetLying: {"hidden", "shown"}, desk.FacetLyingAt: {"right", "bottom"}, desk.FacetLyingApart: {"12"}, desk.FacetLyingNames: {"beside", "hidden"},
		desk.FacetDeskClock: {"top right 40 30 size 64 form \"%H:%M\"", "none"}, desk.FacetReadout: {"middle 0 0", "none"}, desk.FacetPictures: {"Dune", "Skerry"}, desk.FacetBlur: {"8"}, desk.FacetButtons: {"close:menu", "menu:close"},
	}
	excepted := 0
	for seed := range uint64(20) {
		rnd := rand.New(rand.NewPCG(seed, 20))
		o := outfit.Outfit{Name: "By chance"}
		first := furnished(t)
		for _, f := range desk.Facets {
			values := choices[f.Name]
			if values == nil || rnd.IntN(3) == 0 {
				continue
			}
			o = o.With(f.Name, values[rnd.IntN(len(values))])
			for _, s := range first.desk().Surfaces() {
				if _, has := s.Facet(f.Name); has && rnd.IntN(6) == 0 && s.ID != "gtk3" && s.ID != "creel" { // what others follow
					o = o.Except(s.ID, f.Name, values[rnd.IntN(len(values))])
				}
			}
		}
		wear := func(r rig, o outfit.Outfit) {
			p, err := planning.Dress(t.Context(), r.desk(), o)
			require.NoError(t, err)
			if len(p.Ops) > 0 {
				r.apply(p, nil)
			}
		}
		wear(first, o)
		is := worn.Of(first.desk(), nil)
		file, err := outfit.Parse(is.Bytes())
		require.NoError(t, err)
		require.Equal(t, is, file)
		second := furnished(t)
		wear(second, file)
		again := worn.Of(second.desk(), nil)
		require.Empty(t, is.Differences(again), "seed %d: %s", seed, is.Bytes())
		for _, c := range is.Choices {
			excepted += len(c.Except)
		}
	}
	require.Greater(t, excepted, 20)
}

// TestWornKnowsItsPieces: by their own descriptions, the package database, and
// what Ivelt knows of what it put in place.
func TestWornKnowsItsPieces(t *testing.T) {
	r := furnished(t)
	r.put("/etc/lantern/lantern.conf", "[Greeter]\ntheme=Reef\n")
	r.put("~/.config/gtk-3.0/settings.ini", "[Settings]\ngtk-icon-theme-name=Dune\ngtk-theme-name=Skerry\n")
	r.put("~/.config/sedge/sedge.conf", "[Engine]\nstyle=Dune\n")
	r.put("/var/lib/dpkg/info/dune-icons.list", "/.\n/usr/share/icons/Dune\n/usr/share/icons/Dune/index.theme\n")
	r.put("/var/lib/dpkg/status", "Package: dune-icons\nStatus: install ok installed\nVersion: 2.4-1\n")
	o := worn.Of(r.desk(), func(path string) worn.About {
		if path == "/usr/share/themes/Skerry" {
			return worn.About{Version: "7", Source: "skerry.zip", Checksum: "sha256:00"}
		}
		return worn.About{}
	})
	require.Equal(t, "3.1", o.Choices[desk.FacetLogin].Version)
	require.Equal(t, "CC0-1.0", o.Choices[desk.FacetLogin].Licence)
	require.Equal(t, "package dune-icons", o.Choices[desk.FacetIcons].Source)
	require.Equal(t, "2.4-1", o.Choices[desk.FacetIcons].Version)
	require.Equal(t, "skerry.zip", o.Choices[desk.FacetWidgets].Source)
	require.Equal(t, "sha256:00", o.Choices[desk.FacetWidgets].Checksum)
	require.Equal(t, "CC-BY-4.0", o.Choices[desk.FacetPictures].Licence, "as the file itself says")
	require.Empty(t, o.Want(desk.FacetAccent), "of which no surface is told anything")
}

// TestByHandIsEnough: a person who writes what each file has to say, by hand and with
// no Ivelt, has the look: no surface is told anything else.
func TestByHandIsEnough(t *testing.T) {
	o := outfit.Outfit{}
	for facet, value := range map[string]string{
		desk.FacetWidgets: "Reef", desk.FacetIcons: "Dune", desk.FacetPointer: "Dune", desk.FacetPointerSize: "48", desk.FacetBar: "Reef", desk.FacetNotices: "Dune", desk.FacetFrame: "Skerry",
		desk.FacetAccent: "#aa5500", desk.FacetPalette: "Reef", desk.FacetGround: "80", desk.FacetBackdrop: "/usr/share/backgrounds/Dune.svg", desk.FacetOpacity: "40", desk.FacetBars: "bottom 52: menu windows / / clock",
		desk.FacetDeskClock: "top right 40 30", desk.FacetPictures: "Skerry", desk.FacetLogin: "Dune", desk.FacetWorkspaces: "3",
	} {
		o = o.With(facet, value)
	}
	o = o.Except("creel-desk", desk.FacetBackdrop, "/usr/share/backgrounds/Reef.svg")
	r := furnished(t)
	r.put("/usr/lib/x86_64-linux-gnu/qt6/plugins/platformthemes/libqgtk3.so", "x")
	dark := planning.ByHand(r.desk(), outfit.Outfit{}.With(desk.FacetDark, "dark"))
	at := slices.IndexFunc(dark, func(s planning.HandStep) bool { return s.Path == "a terminal" })
	require.GreaterOrEqual(t, at, 0)
	require.Regexp(t, `^gsettings set [a-z.]+ color-scheme prefer-dark\n$`, dark[at].Lines)
	require.Contains(t, dark[at].Surfaces, "Programs that ask the desktop's settings")
	steps := planning.ByHand(r.desk(), o)
	require.Greater(t, len(steps), 8)
	asked := len(match.Of(r.desk(), o).Findings())
	for _, s := range steps {
		if strings.HasPrefix(s.Path, "~/") || strings.HasPrefix(s.Path, "/") {
			r.put(s.Path, s.Lines)
		}
	}
	left := match.Of(r.desk(), o).Findings()
	require.Greater(t, asked, 20, "there was something to do")
	for _, f := range left {
		if f.Surface == "desktop" { // it has settings that are made at a terminal alone
			at := slices.IndexFunc(steps, func(s planning.HandStep) bool { return s.Path == "a terminal" })
			require.Regexp(t, `(?m)^gsettings set [a-z.]+ picture-uri 'file:///usr/share/backgrounds/Dune.svg'$`, steps[at].Lines)
			continue
		}
		if strings.HasPrefix(f.Surface, "breakwater") && (f.Facet == desk.FacetIcons || f.Facet == desk.FacetPointer) { // these are made, by a plan alone
			continue
		}
		require.Equal(t, match.NeedsRestart, f.Code, "%s %s: %s", f.Surface, f.Facet, f.Cause)
	}
}
