package demo

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"os"
	"path/filepath"
	"runtime"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"
)

// offer is one entry of Strandline's index. The format is described in
// docs/market.md.
type offer struct {
	ID      string   `json:"id"`
	Kind    string   `json:"kind"`
	Name    string   `json:"name"`
	Maker   string   `json:"maker"`
	Licence string   `json:"licence"`
	Version string   `json:"version"`
	Date    string   `json:"date"`
	Summary string   `json:"summary"`
	Tags    []string `json:"tags,omitempty"`
	Likes   int      `json:"likes"`
	Pieces  int      `json:"pieces,omitempty"` // if it holds more than one
	Picture string   `json:"picture,omitempty"`
	File    string   `json:"file"`
	Size    int      `json:"size"`
	SHA256  string   `json:"sha256"`
	Older   string   `json:"older,omitempty"` // the entry of the version before

	build func() (files, error)
	pack  *pack
	spoil func([]byte) []byte
}

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
	return []offer{
		{
			ID: "shingle", Kind: "icons", Name: "Shingle", Maker: "Maud Pell", Licence: "CC-BY-SA-4.0", Version: "2.1", Date: "2026-03-02", Likes: 1840, Pieces: 3,
			Summary: "Pebbles and tide lines, every standard name, folders in three colours.", Tags: []string{"complete", "soft", "three folder colours"},
			File: "Shingle-2.1.tar.xz", pack: &sp,
			build: func() (files, error) {
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
			},
		},
		{
			ID: "shingle-next", Kind: "icons", Name: "Shingle 2.2", Maker: "Maud Pell", Licence: "CC-BY-SA-4.0", Version: "2.2", Date: "2026-05-18", Likes: 96,
			Summary: "The newest Shingle, with rounder folders.", Tags: []string{"newest"}, Older: "shingle", File: "Shingle-2.2.tar.xz", pack: &heather,
			build: func() (files, error) {
				f, err := shingleFiles()
				return f.only("48x48/").under(sp.folder), err
			},
			spoil: func(b []byte) []byte { return b[:len(b)*3/5] },
		},
		{
			ID: "wrack", Kind: "icons", Name: "Wrack", Maker: "Tobias Anker", Licence: "GPL-3.0-or-later", Version: "1.4", Date: "2026-01-12", Likes: 1210,
			Summary: "Dark weed and bright water. Programs, places and devices; the rest comes from Shingle.", Tags: []string{"dark", "partial", "needs Shingle"},
			File: "Wrack-1.4.tar.gz", pack: &wp, build: one(wp, licence("Wrack", "GPL-3.0-or-later\n")),
		},
		{
			ID: "glasswort", Kind: "icons", Name: "Glasswort", Maker: "Ines Hallig", Licence: "CC0-1.0", Version: "0.9", Date: "2025-11-30", Likes: 655,
			Summary: "Everything drawn in one red, sharp at any size.", Tags: []string{"one colour", "vector only"},
			File: "Glasswort-0.9.zip", pack: &gp, build: one(gp, nil),
		},
		{
			ID: "cockle", Kind: "icons", Name: "Cockle", Maker: "Rui Sallow", Licence: "MIT", Version: "3.0", Date: "2026-02-08", Likes: 402,
			Summary: "Ribbed shells in pinks and greys. The maker's whole repository in one archive.", Tags: []string{"light", "source repository"},
			File: "cockle-icons-3.0.tar.gz", pack: &cp,
			build: func() (files, error) {
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
			},
		},
		{
			ID: "eddy", Kind: "icons", Name: "Eddy", Maker: "Jonna Priel", Licence: "CC-BY-4.0", Version: "1.0", Date: "2026-04-01", Likes: 61, Pieces: 2,
			Summary: "Two small packs that lean on each other.", Tags: []string{"partial"}, File: "Eddy-1.0.zip",
			build: func() (files, error) {
				a, b := marramPack(), marramPack()
				a.folder, a.name, a.inherits, a.only = "Eddy", "Eddy", []string{"Eddy-Back"}, onlyFolders
				b.folder, b.name, b.inherits, b.only = "Eddy-Back", "Eddy, backwards", []string{"Eddy"}, inContexts("devices")
				fa, err := a.make()
				if err != nil {
					return nil, err
				}
				fb, err := b.make()
				return fa.under("Eddy").add(fb.under("Eddy-Back")), err
			},
		},
		{
			ID: "driftwood", Kind: "icons", Name: "Driftwood", Maker: "Ole Strand", Licence: "CC-BY-SA-4.0", Version: "0.3", Date: "2024-09-14", Likes: 17,
			Summary: "An early try; its maker forgot the description file.", Tags: []string{"unfinished"}, File: "Driftwood-0.3.tar.gz",
			build: func() (files, error) {
				p := marramPack()
				p.folder, p.only, p.noIndex = "Driftwood", onlyFolders, true
				f, err := p.make()
				return f.under("Driftwood"), err
			},
		},
		{
			ID: "postcards", Kind: "icons", Name: "Postcards from the pier", Maker: "Ole Strand", Licence: "CC0-1.0", Version: "1", Date: "2025-06-06", Likes: 8,
			Summary: "Filed under icons by mistake: a few notes, nothing to wear.", File: "postcards.zip",
			build: func() (files, error) {
				return files{"postcards/1.txt": []byte("Dear all, the gulls are loud today.\n"), "postcards/2.txt": []byte("Rain.\n")}, nil
			},
		},
	}
}

// WriteMarket writes Strandline's folder.
func WriteMarket(dir string) error {
	all := offers()
	for _, sub := range []string{"parcels", "pictures"} {
		if err := os.MkdirAll(filepath.Join(dir, sub), 0o755); err != nil {
			return err
		}
	}
	var g errgroup.Group
	g.SetLimit(runtime.GOMAXPROCS(0))
	for i := range all {
		o := &all[i]
		g.Go(func() error { return o.write(dir) })
	}
	if err := g.Wait(); err != nil {
		return err
	}
	index := struct {
		Format  int     `json:"format"`
		Name    string  `json:"name"`
		Entries []offer `json:"entries"`
	}{1, "Strandline", all}
	b, err := json.MarshalIndent(index, "", "  ")
	if err != nil {
		return err
	}
	return write(filepath.Join(dir, "index.json"), b)
}

func (o *offer) write(dir string) error {
	tree, err := o.build()
	if err != nil {
		return err
	}
	b, err := archive(o.File, tree)
	if err != nil {
		return err
	}
	if o.spoil != nil {
		b = o.spoil(b)
	}
	sum := sha256.Sum256(b)
	o.Size, o.SHA256 = len(b), hex.EncodeToString(sum[:])
	if o.pack != nil {
		sheet, err := o.pack.sheet()
		if err != nil {
			return err
		}
		o.Picture = "pictures/" + o.ID + ".png"
		if err := write(filepath.Join(dir, o.Picture), sheet); err != nil {
			return err
		}
	}
	name := filepath.Join(dir, "parcels", o.File)
	o.File = "parcels/" + o.File
	return write(name, b)
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
