package demo

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/docs/surfaces"
	"ivelt/showcase"
	"ivelt/standin"
)

// offer is one entry of Strandline's index, and how its parcels are made.
type offer struct {
	market.Entry
	parcels []parcelOf // as the entry's versions, newest first
}

// parcelOf is one version of an offer.
type parcelOf struct {
	file  string
	build func() (files, error) // nil if another offer has the same parcel
	lock  string                // a password
	spoil func([]byte) []byte
}

// grown spreads likes over the months before the demo's date, so that some
// rise and some do not.
func grown(now, lately int) []market.Likes {
	return []market.Likes{{Date: "2026-01-01", Count: (now - lately) / 2}, {Date: "2026-02-18", Count: now - lately}, {Date: "2026-03-20", Count: now}}
}

func version(v, date string) market.Version { return market.Version{Version: v, Date: date} }

func offers() []offer {
	one := func(p pack, extra files) func() (files, error) {
		return func() (files, error) {
			f, err := p.make()
			return f.under(p.folder).add(extra), err
		}
	}
	licence := func(folder, text string) files { return files{folder + "/LICENSE": []byte(text)} }
	sp, wp, gp, cp := shinglePack(), wrackPack(), glasswortPack(), cocklePack()
	shingleFiles := sync.OnceValues(sp.make) // in two parcels
	heather, coral := shingleColour("Heather", "heather"), shingleColour("Coral", "coral")
	shingle := func() (files, error) {
		out := licence("Shingle", "Shingle is by Maud Pell, under CC-BY-SA-4.0.\n")
		f, err := shingleFiles()
		if err != nil {
			return nil, err
		}
		out.add(f.under(sp.folder))
		for _, p := range []pack{heather, coral} {
			f, err := p.make()
			if err != nil {
				return nil, err
			}
			out.add(f.under(p.folder))
		}
		return out, nil
	}
	theme := func(folder, name, about string, c themeColours, pad int, dark *themeColours, companions ...string) func() (files, error) {
		return func() (files, error) {
			return windowTheme(name, about, c, pad, dark, companions...).under(folder).add(licence(folder, licenceOf(name)+"\n")), nil
		}
	}
	all := []string{"gtk-2.0", "gtk-3.0", "gtk-4.0", "quayside"}
	reedmace, sand := market.Companion{Kind: "icons", Name: "Reedmace", Entry: "reedmace"}, market.Companion{Kind: "pointer", Name: "Sandpiper", Entry: "sandpiper"}
	wrackTo, limpetTo := market.Companion{Kind: "icons", Name: "Wrack", Entry: "wrack"}, market.Companion{Kind: "pointer", Name: "Limpet", Entry: "limpet"}
	return []offer{
		{market.Entry{
			ID: "shingle", Kind: "icons", Name: "Shingle", Maker: "Maud Pell", Licence: "CC-BY-SA-4.0", Pieces: 3, Family: "Shore", Likes: grown(1840, 40),
			Summary: "Pebbles and tide lines, every standard name, folders in three colours.", Tags: []string{"complete", "soft", "three folder colours"},
			Versions: []market.Version{version("2.1", "2026-03-02")},
		}, []parcelOf{{file: "Shingle-2.1.tar.xz", build: shingle}}},
		{market.Entry{
			ID: "shingle-next", Kind: "icons", Name: "Shingle 2.2", Maker: "Maud Pell", Licence: "CC-BY-SA-4.0", Family: "Shore", Likes: grown(96, 90),
			Summary: "The newest Shingle, with rounder folders.", Tags: []string{"newest"}, VariantOf: "shingle", Differs: "rounder folders", Stability: "testing",
			Versions: []market.Version{version("2.2", "2026-05-18"), version("2.1", "2026-03-02")},
		}, []parcelOf{{file: "Shingle-2.2.tar.xz", build: func() (files, error) {
			f, err := shingleFiles()
			return f.only("48x48/").under(sp.folder), err
		}, spoil: func(b []byte) []byte { return b[:len(b)*3/5] }}, {file: "Shingle-2.1.tar.xz"}}},
		{market.Entry{
			ID: "wrack", Kind: "icons", Name: "Wrack", Maker: "Tobias Anker", Licence: "GPL-3.0-or-later", Family: "Undertow", Likes: grown(1210, 130),
			Summary: "Dark weed and bright water. Programs, places and devices; the rest comes from Shingle.", Tags: []string{"dark", "partial"},
			Companions: []market.Companion{{Kind: "icons", Name: "Shingle", Entry: "shingle"}}, Versions: []market.Version{version("1.4", "2026-01-12")},
		}, []parcelOf{{file: "Wrack-1.4.tar.gz", build: one(wp, licence("Wrack", "GPL-3.0-or-later\n"))}}},
		{market.Entry{
			ID: "glasswort", Kind: "icons", Name: "Glasswort", Maker: "Ines Hallig", Licence: "CC0-1.0", Likes: grown(655, 12),
			Summary: "Everything drawn in one red, sharp at any size.", Tags: []string{"one colour", "vector only"}, Versions: []market.Version{version("0.9", "2025-11-30")},
		}, []parcelOf{{file: "Glasswort-0.9.zip", build: one(gp, nil)}}},
		{market.Entry{
			ID: "cockle", Kind: "icons", Name: "Cockle", Maker: "Rui Sallow", Licence: "MIT", Likes: grown(402, 25), Packaged: "cockle-icons",
			Summary: "Ribbed shells in pinks and greys. The maker's whole repository in one archive.", Tags: []string{"light", "source repository"},
			Versions: []market.Version{version("3.0", "2026-02-08")},
		}, []parcelOf{{file: "cockle-icons-3.0.tar.gz", build: func() (files, error) {
			f, err := cp.make()
			out := f.under("cockle-icons-3.0/build/share/icons/Cockle")
			return out.add(files{
				"cockle-icons-3.0/README.md":           []byte("# Cockle\n\nRun `make` to draw the pack into build/.\n"),
				"cockle-icons-3.0/LICENSE":             []byte("MIT\n"),
				"cockle-icons-3.0/Makefile":            []byte("all:\n\t./draw.sh\n"),
				"cockle-icons-3.0/draw.sh":             []byte("#!/bin/sh\necho drawing\n"),
				"cockle-icons-3.0/src/folder.svg":      []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 64 64"/>`),
				"cockle-icons-3.0/src/palette.csv":     []byte("name,light,mid,deep\n"),
				"cockle-icons-3.0/docs/how-to-help.md": []byte("Pictures are welcome.\n"),
			}), err
		}}}},
		{market.Entry{
			ID: "cockle-nightly", Kind: "icons", Name: "Cockle, last night's", Maker: "Rui Sallow", Licence: "MIT", VariantOf: "cockle", Differs: "built anew each night", Stability: "nightly", Likes: grown(14, 6),
			Summary: "What Rui drew until midnight.", Versions: []market.Version{version("2026.03.20", "2026-03-20")},
		}, []parcelOf{{file: "cockle-nightly.zip", build: func() (files, error) {
			p := cocklePack()
			p.only = onlyFolders
			f, err := p.make()
			return f.under("Cockle-Nightly"), err
		}}}},
		{market.Entry{
			ID: "reedmace", Kind: "icons", Name: "Reedmace", Maker: "Hanne Riet", Licence: "CC0-1.0", Family: "Reedbed", Likes: grown(318, 44),
			Summary: "Brown heads over green, made to go with Reedbed.", Tags: []string{"green", "quiet"}, Versions: []market.Version{version("0.4", "2026-03-11")},
		}, []parcelOf{{file: "Reedmace-0.4.zip", build: one(reedmacePack(), nil)}}},
		{market.Entry{
			ID: "whelk", Kind: "icons", Name: "Whelk", Maker: "Jonna Priel", Licence: "CC-BY-NC-4.0", Likes: grown(41, 2),
			Summary: "Folders only. The archive is locked; the password stands on the maker's page.", Tags: []string{"folders"},
			Versions: []market.Version{{Version: "1.1", Date: "2025-08-02", Password: "spiral", Note: "Password: spiral"}},
		}, []parcelOf{{file: "Whelk-1.1.zip", lock: "spiral", build: func() (files, error) {
			p := marramPack()
			p.folder, p.name, p.only = "Whelk", "Whelk", onlyFolders
			f, err := p.make()
			return f.under("Whelk"), err
		}}}},
		{market.Entry{
			ID: "eddy", Kind: "icons", Name: "Eddy", Maker: "Jonna Priel", Licence: "CC-BY-4.0", Pieces: 2, Likes: grown(61, 1),
			Summary: "Two small packs that lean on each other.", Tags: []string{"partial"}, Versions: []market.Version{version("1.0", "2026-04-01")},
		}, []parcelOf{{file: "Eddy-1.0.zip", build: func() (files, error) {
			a, b := marramPack(), marramPack()
			a.folder, a.name, a.inherits, a.only = "Eddy", "Eddy", []string{"Eddy-Back"}, onlyFolders
			b.folder, b.name, b.inherits, b.only = "Eddy-Back", "Eddy, backwards", []string{"Eddy"}, inContexts("devices")
			fa, err := a.make()
			if err != nil {
				return nil, err
			}
			fb, err := b.make()
			return fa.under("Eddy").add(fb.under("Eddy-Back")), err
		}}}},
		{market.Entry{
			ID: "driftwood", Kind: "icons", Name: "Driftwood", Maker: "Ole Strand", Licence: "CC-BY-SA-4.0", Likes: grown(17, 0),
			Summary: "An early try; its maker forgot the description file.", Tags: []string{"unfinished"}, Versions: []market.Version{version("0.3", "2024-03-14")},
		}, []parcelOf{{file: "Driftwood-0.3.tar.gz", build: func() (files, error) {
			p := marramPack()
			p.folder, p.only, p.noIndex = "Driftwood", onlyFolders, true
			f, err := p.make()
			return f.under("Driftwood"), err
		}}}},
		{market.Entry{
			ID: "postcards", Kind: "icons", Name: "Postcards from the pier", Maker: "Ole Strand", Licence: "CC0-1.0", Likes: grown(8, 0), Packaged: "pier-theme-postcards",
			Summary: "Filed under icons by mistake: a few notes, nothing to wear.", Versions: []market.Version{version("1", "2025-06-06")},
		}, []parcelOf{{file: "postcards.zip", build: func() (files, error) {
			return files{"postcards/1.txt": []byte("Dear all, the gulls are loud today.\n"), "postcards/2.txt": []byte("Rain.\n")}, nil
		}}}},

		{market.Entry{
			ID: "reedbed", Kind: "theme", Name: "Reedbed", Maker: "Hanne Riet", Licence: "CC0-1.0", Family: "Reedbed", Dresses: all, Companions: []market.Companion{reedmace, sand}, Likes: grown(940, 85),
			Summary: "Reeds and still water: warm paper, quiet green.", Tags: []string{"light", "warm"}, Versions: []market.Version{version("0.4", "2026-03-11")},
		}, []parcelOf{{file: "Reedbed-0.4.tar.xz", build: theme("Reedbed", "Reedbed", "Reeds and still water", reedLight, 6, &reedDark, "Reedmace", "Sandpiper")}}},
		{market.Entry{
			ID: "reedbed-dark", Kind: "theme", Name: "Reedbed Dark", Maker: "Hanne Riet", Licence: "CC0-1.0", Family: "Reedbed", Dresses: all, Companions: []market.Companion{reedmace, sand}, Likes: grown(1105, 160),
			VariantOf: "reedbed", Differs: "dark", Summary: "Reedbed after sunset.", Tags: []string{"dark", "warm"}, Versions: []market.Version{version("0.4", "2026-03-11")},
		}, []parcelOf{{file: "Reedbed-Dark-0.4.tar.xz", build: theme("Reedbed-Dark", "Reedbed Dark", "Reeds and still water", reedDark, 6, nil, "Reedmace", "Sandpiper")}}},
		{market.Entry{
			ID: "reedbed-dark-compact", Kind: "theme", Name: "Reedbed Dark Compact", Maker: "Hanne Riet", Licence: "CC0-1.0", Family: "Reedbed", Dresses: all, Companions: []market.Companion{reedmace, sand}, Likes: grown(212, 30),
			VariantOf: "reedbed", Differs: "dark, less room round controls", Summary: "Reedbed after sunset, drawn closer.", Tags: []string{"dark", "warm", "compact"}, Versions: []market.Version{version("0.4", "2026-03-11")},
		}, []parcelOf{{file: "Reedbed-Dark-Compact-0.4.tar.xz", build: theme("Reedbed-Dark-Compact", "Reedbed Dark Compact", "Reeds and still water", reedDark, 3, nil, "Reedmace", "Sandpiper")}}},
		{market.Entry{
			ID: "saltpan", Kind: "theme", Name: "Saltpan", Maker: "Rui Sallow", Licence: "MIT", Family: "Saltpan", Dresses: all, Likes: grown(1530, 20),
			Summary: "White crust and a cold blue, square and plain.", Tags: []string{"light", "square"}, MadeFor: map[string]string{"quayside": "3"}, Packaged: "saltpan-theme",
			Versions: []market.Version{version("1.6", "2025-12-19")},
		}, []parcelOf{{file: "Saltpan-1.6.tar.gz", build: theme("Saltpan", "Saltpan", "White crust and cold blue", saltLight, 8, nil, "Shingle", "Sandpiper")}}},
		{market.Entry{
			ID: "saltpan-glass", Kind: "theme", Name: "Saltpan Glass", Maker: "Rui Sallow", Licence: "MIT", Family: "Saltpan", Dresses: all, Likes: grown(377, 210), VariantOf: "saltpan", Differs: "see-through, dark",
			Summary: "Saltpan at night, seen through.", Tags: []string{"dark", "see-through"}, Stability: "crashes", MadeFor: map[string]string{"quayside": "2"},
			Versions: []market.Version{{Version: "1.6", Date: "2025-12-19", Note: "Buggy: may take the shell down with it."}},
		}, []parcelOf{{file: "Saltpan-Glass-1.6.tar.gz", build: theme("Saltpan-Glass", "Saltpan Glass", "White crust at night", saltDark, 8, nil, "Shingle", "Sandpiper")}}},
		{market.Entry{
			ID: "groyne", Kind: "theme", Name: "Groyne", Maker: "Tobias Anker", Licence: "GPL-3.0-or-later", Family: "Undertow", Dresses: all, Companions: []market.Companion{wrackTo, limpetTo}, Likes: grown(866, 190),
			Summary: "Wet stone, tarred wood and one lamp of amber.", Tags: []string{"dark", "soft"}, Versions: []market.Version{version("2.0", "2026-02-27")},
		}, []parcelOf{{file: "Groyne-2.0.tar.xz", build: theme("Groyne", "Groyne", "Wet stone and tarred wood", groyneDark, 7, nil, "Wrack", "Limpet")}}},

		{market.Entry{
			ID: "sandpiper", Kind: "pointer", Name: "Sandpiper", Maker: "Hanne Riet", Licence: "CC0-1.0", Family: "Reedbed", Likes: grown(520, 35),
			Summary: "Pale feathers with a dark edge, in three sizes.", Tags: []string{"light", "animated"}, Versions: []market.Version{version("1.2", "2026-01-30")},
		}, []parcelOf{{file: "Sandpiper-1.2.tar.gz", build: func() (files, error) {
			f, err := sandpiper()
			return f.under("Sandpiper"), err
		}}}},
		{market.Entry{
			ID: "limpet", Kind: "pointer", Name: "Limpet", Maker: "Tobias Anker", Licence: "GPL-3.0-or-later", Family: "Undertow", Likes: grown(230, 60),
			Summary: "Dark shells with a pale rim. The resizing shapes are still to come.", Tags: []string{"dark", "incomplete"}, Versions: []market.Version{version("0.7", "2026-02-27"), version("0.6", "2025-09-12")},
		}, []parcelOf{{file: "Limpet-0.7.tar.gz", build: limpet(6)}, {file: "Limpet-0.6.tar.gz", build: limpet(4)}}},
		{market.Entry{
			ID: "phalarope", Kind: "pointer", Name: "Phalarope", Maker: "Ines Hallig", Licence: "CC0-1.0", Likes: grown(377, 88),
			Summary: "Night water and coral, drawn for the other family of systems: .cur and .ani files in two sizes.", Tags: []string{"dark", "animated", "other family"},
			Versions: []market.Version{version("1.1", "2026-02-14")},
		}, []parcelOf{{file: "Phalarope-1.1.zip", build: phalarope}}},

		{market.Entry{
			ID: "estuary-sans", Kind: "font", Name: "Estuary Sans", Maker: "Maud Pell", Licence: "BSD-3-Clause", Family: "Shore", Likes: grown(702, 18),
			Summary: "A plain text face in four styles, drawn for small sizes.", Tags: []string{"sans", "text"}, Versions: []market.Version{version("1.0", "2025-10-04")},
		}, []parcelOf{{file: "estuary-sans-1.0.zip", build: func() (files, error) { return estuary("Estuary Sans") }}}},
		{market.Entry{
			ID: "estuary-mono", Kind: "font", Name: "Estuary Mono", Maker: "Maud Pell", Licence: "BSD-3-Clause", Family: "Shore", Likes: grown(488, 22),
			Summary: "Every letter as wide as the next, for terminals.", Tags: []string{"monospaced", "terminal"}, Versions: []market.Version{version("1.0", "2025-10-04")},
		}, []parcelOf{{file: "estuary-mono-1.0.zip", build: func() (files, error) { return estuary("Estuary Mono") }}}},

		{market.Entry{
			ID: "reeds-at-dawn", Kind: "backdrop", Name: "Reeds at dawn", Maker: "Hanne Riet", Licence: "CC0-1.0", Family: "Reedbed", Likes: grown(611, 58),
			Summary: "First light over the reeds, for wide and for tall displays.", Tags: []string{"warm", "morning"}, Versions: []market.Version{version("1", "2026-03-11")},
		}, []parcelOf{{file: "reeds-at-dawn.zip", build: func() (files, error) {
			wide, err := reedsAtDawn()
			if err != nil {
				return nil, err
			}
			tall, err := backdrop(800, 1280)
			return files{"reeds-at-dawn/reeds-1920x1200.png": wide, "reeds-at-dawn/reeds-800x1280.png": tall}, err
		}}}},
		{market.Entry{
			ID: "ebb", Kind: "palette", Name: "Ebb", Maker: "Tobias Anker", Licence: "CC0-1.0", Family: "Undertow", Likes: grown(190, 33),
			Summary: "Sixteen colours on wet stone.", Tags: []string{"dark", "terminal"}, Versions: []market.Version{version("1.1", "2026-02-27")},
		}, []parcelOf{{file: "ebb-1.1.zip", build: func() (files, error) { return palette("ebb", "CC0-1.0", "#1d2127", "#d9d4c7"), nil }}}},
		{market.Entry{
			ID: "foam", Kind: "palette", Name: "Foam", Maker: "Rui Sallow", Licence: "CC0-1.0", Likes: grown(120, 4),
			Summary: "Sixteen colours on white crust.", Tags: []string{"light", "terminal"}, Versions: []market.Version{version("1.0", "2025-07-01")},
		}, []parcelOf{{file: "foam-1.0.zip", build: func() (files, error) { return palette("foam", "CC0-1.0", "#f7f8f8", "#2c3640"), nil }}}},
		{market.Entry{
			ID: "pebblework", Kind: "style", Name: "Pebblework", Maker: "Maud Pell", Licence: "CC-BY-SA-4.0", Family: "Shore", Dresses: []string{"sedge"}, Likes: grown(74, 21),
			Summary: "Round stones for buttons, moss where it is chosen.", Tags: []string{"light", "round"}, Versions: []market.Version{version("1.2", "2026-02-14")},
		}, []parcelOf{{file: "pebblework-1.2.zip", build: func() (files, error) {
			return pictureStyle("Pebblework", "1.2", "CC-BY-SA-4.0", pebbleStyle, nil), nil
		}}}},
		{market.Entry{
			ID: "crackle", Kind: "style", Name: "Crackle", Maker: "Tobias Anker", Licence: "GPL-3.0-or-later", Family: "Undertow", Dresses: []string{"sedge"}, Likes: grown(31, 7),
			Summary: "Dark slate with a lamp behind it; not all of it is drawn yet.", Tags: []string{"dark", "unfinished"}, Versions: []market.Version{version("0.3", "2026-01-09")},
		}, []parcelOf{{file: "crackle-0.3.zip", build: func() (files, error) {
			return pictureStyle("Crackle", "0.3", "GPL-3.0-or-later", crackleStyle, map[string]string{"tick-on": "tickon"}, "field-focus"), nil
		}}}},
		{market.Entry{
			ID: "reedbed-shore", Kind: "bundle", Name: "Reedbed, the whole shore", Maker: "Hanne Riet", Licence: "CC0-1.0", Family: "Reedbed", Likes: grown(420, 130),
			Summary: "Theme, icons, font and the settings they were drawn for, with the bar at the foot.", Tags: []string{"dark", "whole look"}, Versions: []market.Version{version("0.4", "2026-03-11")},
		}, []parcelOf{{file: "reedbed-shore-0.4.zip", build: shoreBundle}}},
		{market.Entry{
			ID: "undertow", Kind: "bundle", Name: "Undertow", Maker: "Tobias Anker", Licence: "GPL-3.0-or-later", Family: "Undertow", Likes: grown(102, 40),
			Summary: "How Tobias wears his Groyne. The pieces have to be had first.", Tags: []string{"dark", "whole look"}, Versions: []market.Version{version("1.0", "2026-02-28")},
		}, []parcelOf{{file: "undertow-1.0.zip", build: undertowBundle}}},
		{market.Entry{
			ID: "spume", Kind: "palette", Name: "Spume", Maker: "Rui Sallow", Licence: "LicenseRef-Own-Use", Family: "Reedbed", Likes: grown(66, 12),
			Summary: "Reeds and foam in sixteen colours. For your own use: ask Rui before you pass it on.", Tags: []string{"dark", "terminal"}, Versions: []market.Version{version("1.0", "2026-03-12")},
		}, []parcelOf{{file: "spume-1.0.zip", build: func() (files, error) { return palette("Spume", "LicenseRef-Own-Use", "#1f2421", "#e6e4d8"), nil }}}},
		{market.Entry{
			ID: "lamplight", Kind: "login", Name: "Lamplight", Maker: "Hanne Riet", Licence: "CC0-1.0", Family: "Reedbed", Likes: grown(88, 9), Dresses: []string{"lantern"},
			Summary: "The reeds by the light of one lamp, for Lantern.", Tags: []string{"dark", "warm"}, Versions: []market.Version{version("0.2", "2026-03-11")},
		}, []parcelOf{{file: "Lamplight-0.2.tar.gz", build: lamplight}}},
		{market.Entry{
			ID: "gullcall", Kind: "descriptor", Name: "Gullcall", Maker: "Ines Hallig", Licence: "CC0-1.0", Likes: grown(47, 30),
			Summary: "Lets Ivelt read and dress the launcher Gullcall: its icons, light and dark.", Tags: []string{"launcher"},
			Versions: []market.Version{version("1.1", "2026-03-14"), version("1.0", "2026-01-20")},
		}, []parcelOf{{file: "gullcall-1.1.zip", build: func() (files, error) { return worked("gullcall") }}, {file: "gullcall-1.0.zip", build: earlierGullcall}}},
	}
}

// worked is a worked example of a descriptor, as its maker hands it on.
func worked(id string) (files, error) {
	out := files{"LICENSE": []byte("CC0-1.0\n")}
	return out, fs.WalkDir(surfaces.Worked, id, func(name string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		b, err := surfaces.Worked.ReadFile(name)
		out[name] = b
		return err
	})
}

// earlierGullcall is the version before, which does not know of light and dark.
func earlierGullcall() (files, error) {
	out, err := worked("gullcall")
	if err != nil {
		return nil, err
	}
	const file = "gullcall/gullcall.toml"
	before, _, _ := bytes.Cut(out[file], []byte("\n[[facet]]\nname = \"dark\""))
	return files{"LICENSE": out["LICENSE"], file: before}, nil
}

// WriteMarket writes Strandline's folder.
func WriteMarket(ctx context.Context, dir string) error {
	all := offers()
	for _, sub := range []string{"parcels", "pictures"} {
		if err := os.MkdirAll(filepath.Join(dir, sub), 0o755); err != nil {
			return err
		}
	}
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(runtime.GOMAXPROCS(0))
	for i := range all {
		o := &all[i]
		g.Go(func() error { return o.write(ctx, dir) })
	}
	if err := g.Wait(); err != nil {
		return err
	}
	made := map[string]market.Version{}
	for _, o := range all {
		for _, v := range o.Versions {
			if v.SHA256 != "" {
				made[v.File] = v
			}
		}
	}
	for _, o := range all {
		for i, v := range o.Versions {
			if v.SHA256 == "" {
				o.Versions[i].Size, o.Versions[i].SHA256 = made[v.File].Size, made[v.File].SHA256
			}
		}
	}
	index := market.Index{Format: market.Format, Name: "Strandline", About: "What the tide brought in."}
	for _, o := range all {
		index.Entries = append(index.Entries, o.Entry)
	}
	b, err := json.MarshalIndent(index, "", "  ")
	if err != nil {
		return err
	}
	return write(filepath.Join(dir, "index.json"), b)
}

func (o *offer) write(ctx context.Context, dir string) error {
	for i := range o.parcels {
		p, v := &o.parcels[i], &o.Versions[i]
		v.File = "parcels/" + p.file
		if p.build == nil {
			continue
		}
		name := filepath.Join(dir, v.File)
		tree, err := p.build()
		if err != nil {
			return err
		}
		b, err := archiveOf(p.file, tree)
		if p.lock != "" {
			b, err = lockedZip(tree, p.lock)
		}
		if err != nil {
			return err
		}
		if i == 0 || len(o.Pictures) == 0 {
			if err := o.look(ctx, dir, p.file, b, p.lock); err != nil {
				return err
			}
		}
		if p.spoil != nil {
			b = p.spoil(b)
		}
		sum := sha256.Sum256(b)
		v.Size, v.SHA256 = int64(len(b)), hex.EncodeToString(sum[:])
		if err := write(name, b); err != nil {
			return err
		}
	}
	return nil
}

// look measures and draws what is in a parcel, as a market does that shows it.
func (o *offer) look(ctx context.Context, dir, name string, b []byte, password string) error {
	p, err := parcel.OpenBytes(ctx, name, b, archive.Options{Password: password})
	if err != nil {
		return err
	}
	var parts []desk.Part
	for _, s := range standin.Surfaces() {
		parts = append(parts, s.Parts...)
	}
	pictures := showcase.Of(ctx, p, &o.Entry, parts) // of some that hold nothing there are none
	return showcase.Hang(&o.Entry, pictures, func(file string, svg []byte) error { return write(filepath.Join(dir, file), svg) })
}

// write makes a file of the demo world, with its date.
func write(name string, b []byte) error {
	if err := os.MkdirAll(filepath.Dir(name), 0o755); err != nil {
		return err
	}
	if err := os.WriteFile(name, b, 0o644); err != nil {
		return err
	}
	return os.Chtimes(name, time.Time{}, made)
}

// WriteThemes writes the demo's window themes into dir, as they are once
// installed.
func WriteThemes(dir string) error {
	dark := reedDark
	for folder, tree := range map[string]files{
		"Reedbed":              reedbed("Reedbed", reedLight, 6, &dark),
		"Reedbed-Dark-Compact": reedbed("Reedbed Dark Compact", reedDark, 3, nil),
		"Saltpan":              windowTheme("Saltpan", "White crust and cold blue", saltLight, 8, nil, "Shingle", "Sandpiper"),
		"Saltpan-Glass":        windowTheme("Saltpan Glass", "White crust at night", saltDark, 8, nil, "Shingle", "Sandpiper"),
		"Groyne":               windowTheme("Groyne", "Wet stone and tarred wood", groyneDark, 7, nil, "Wrack", "Limpet"),
	} {
		for name, b := range tree {
			if err := put(filepath.Join(dir, folder, name), b); err != nil {
				return err
			}
		}
	}
	return nil
}

// WritePointers writes the demo's pointer sets, each in its folder.
func WritePointers(dir string) error {
	out := files{}
	for _, of := range []func() (files, error){sandpiper, limpet(6)} {
		f, err := of()
		if err != nil {
			return err
		}
		for name, b := range f {
			if !strings.HasPrefix(name, "Limpet/") {
				name = "Sandpiper/" + name
			}
			out[name] = b
		}
	}
	for name, b := range out {
		if err := put(filepath.Join(dir, name), b); err != nil {
			return err
		}
	}
	return nil
}
