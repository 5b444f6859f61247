package markets_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/core/parcel"
)

func TestFitOnADesk(t *testing.T) {
	d, err := desk.Open("d", t.TempDir(), t.TempDir(), "/home/me")
	require.NoError(t, err)
	shell, err := desk.ParseSurface([]byte("id = \"helm\"\ntitle = \"Helm\"\nversion = \"3\"\n[[looks]]\nkind = \"theme\"\nfolders = [\"~/.themes\"]\n[[part]]\nfolder = \"helm\"\nfile = \"*.css\"\n"))
	require.NoError(t, err)
	gate, err := desk.ParseSurface([]byte("id = \"gate\"\ntitle = \"Gate\"\n[[looks]]\nkind = \"icons\"\nfolders = [\"/usr/share/icons\"]\n"))
	require.NoError(t, err)
	d.SetSurfaces(append(desk.Builtin(), shell, gate))
	say := func(e market.Entry) map[string]string {
		out := map[string]string{}
		for _, f := range markets.FitOf(d, e) {
			mark := "-"
			if f.Dresses {
				mark = "+"
			}
			if f.Risk {
				mark = "!"
			}
			why := ""
			if f.Why != nil {
				why = f.Why.String()
			}
			out[f.Surface.String()] = mark + " " + why
		}
		return out
	}
	require.Equal(t, map[string]string{
		"GTK 2 programs": "- the theme has no part for it", "GTK 3 programs": "+ from its folder gtk-3.20", "GTK 4 programs": "- the theme has no part for it",
		"Helm": "! it was made for Helm 2, and this desk has 3: it may not fit, or take the program down",
	}, say(market.Entry{Kind: "theme", Dresses: []string{"gtk-3.20", "helm"}, MadeFor: map[string]string{"helm": "2", "other": "1"}}))
	icons := say(market.Entry{Kind: "icons"})
	require.Equal(t, "+ once it is installed for everyone", icons["Gate"])
	require.Equal(t, "+ ", icons["GTK 3 programs"])
	require.NotContains(t, icons, "Helm")
	require.Empty(t, say(market.Entry{Kind: "backdrop"}))
}

// TestWhatGoesWithAnEntry: its family first, then what looks like it; and where
// a companion is already.
func TestWhatGoesWithAnEntry(t *testing.T) {
	s := newShop(t)
	looks := func(l, hue float64) *market.Looks {
		return &market.Looks{Lightness: l, Chroma: 0.1, Hue: hue, Contrast: 8, Roundness: 0.5, Density: 0.5}
	}
	with := func(e market.Entry, family string, companions ...market.Companion) market.Entry {
		e.Family, e.Companions = family, companions
		return e
	}
	s.index(
		with(of("sea", "theme", "Sea", "M", "", 5, 0, "2026-01-01", "MIT", looks(0.3, 250)), "Deep", market.Companion{Kind: "icons", Name: "Kelp", Entry: "kelp"}, market.Companion{Kind: "pointer", Name: "Oar"}),
		with(of("kelp", "icons", "Kelp", "M", "", 2, 0, "2026-01-01", "MIT", looks(0.5, 70)), "Deep"),
		of("sand", "icons", "Sand", "M", "", 90, 0, "2026-01-01", "MIT", looks(0.3, 70)),
		of("oar", "pointer", "Oar", "M", "", 1, 0, "2026-01-01", "MIT", looks(0.32, 245)),
		of("foam", "pointer", "Foam", "M", "", 99, 0, "2026-01-01", "MIT", looks(0.95, 100)),
	)
	d := s.app.Desks()[0]
	d.SetSurfaces(desk.Builtin())
	require.NoError(t, os.MkdirAll(filepath.Join(d.Home, ".icons/Oar"), 0o755))
	c, err := s.app.Markets.Closer(t.Context(), d, 0, "sea")
	require.NoError(t, err)
	require.Len(t, c.With, 2)
	require.Equal(t, "kelp", c.With[0].Row.Key)
	require.Equal(t, "of the same family, Deep", c.With[0].Why.String())
	require.Equal(t, "oar", c.With[1].Row.Key)
	require.Contains(t, c.With[1].Why.String(), "as dark, a similar blue")
	require.Empty(t, c.Companions[0].Here)
	require.Equal(t, "~/.icons/Oar", c.Companions[1].Here)
	c, err = s.app.Markets.Closer(t.Context(), d, 0, "sand")
	require.NoError(t, err)
	require.Equal(t, "sea", c.With[0].Row.Key)
	require.Contains(t, c.With[0].Why.String(), "on the colour wheel, so that it stands out")
	_, err = s.app.Markets.Closer(t.Context(), d, 0, "none")
	require.Error(t, err)
}

// TestNeedsAreWeighed: what a piece needs is in place, comes along, is packaged, is in a
// market, or is missing; and nothing is named twice.
func TestNeedsAreWeighed(t *testing.T) {
	s := newShop(t)
	s.index(of("kelp", "icons", "Kelp", "M", "", 5, 0, "2026-01-01", "MIT", nil))
	d := s.app.Desks()[0]
	d.SetSurfaces(desk.Builtin())
	_, err := s.app.Markets.Closer(t.Context(), d, 0, "kelp") // which reads the index
	require.NoError(t, err)
	put := func(at, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
	put(filepath.Join(d.Home, ".icons/Reef/index.theme"), "[Icon Theme]\nName=Reef\n")
	put(filepath.Join(d.System, "usr/lib/x86_64-linux-gnu/gtk-2.0/2.10.0/engines/libmurk.so"), "")
	put(filepath.Join(d.System, "var/lib/dpkg/status"), "Package: dune-icon-theme\nStatus: install ok installed\nVersion: 1\n\nPackage: gtk2-engines-fog\nStatus: install ok installed\nVersion: 1\n")
	along := parcel.Contents{Pieces: []parcel.Piece{{Kind: parcel.Icons, Folder: "Along"}}}
	stands := func(pc parcel.Piece) map[string]markets.Stand {
		t.Helper()
		needs, err := s.app.Markets.Needs(d, along, pc)
		require.NoError(t, err)
		out := map[string]markets.Stand{}
		for _, n := range needs {
			require.NotContains(t, out, n.What, "named twice")
			require.NotEmpty(t, n.Says())
			require.Equal(t, n.Stand == markets.InPlace || n.Stand == markets.WithIt, n.Met())
			out[n.What] = n.Stand
		}
		return out
	}
	require.Equal(t, map[string]markets.Stand{
		"icon pack Reef": markets.InPlace, "icon pack Along": markets.WithIt, "icon pack Dune": markets.Packaged, "icon pack Kelp": markets.InMarket, "icon pack Gone": markets.Missing,
	}, stands(parcel.Piece{Kind: parcel.Icons, Folder: "Mine", Inherits: []string{"Reef", "Along", "Dune", "Kelp", "Gone", "hicolor"}, Needs: []string{"Kelp", "Gone"}}))
	require.Equal(t, map[string]markets.Stand{
		"icon pack Reef": markets.InPlace, "pointer set Oar": markets.Missing, "drawing engine murk": markets.InPlace, "drawing engine fog": markets.Packaged, "drawing engine mist": markets.Missing,
	}, stands(parcel.Piece{Kind: parcel.Theme, Folder: "Sea", Needs: []string{"icon pack Reef", "icon pack Reef", "pointer set Oar", "drawing engine murk", "drawing engine fog", "drawing engine mist"}}))
	require.Equal(t, map[string]markets.Stand{"Kelp": markets.InMarket}, stands(parcel.Piece{Kind: parcel.Bundle, Needs: []string{"Kelp"}}))
}
