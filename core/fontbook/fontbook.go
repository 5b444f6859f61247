// Package fontbook finds faces among the font files of a desk. Printer's fonts of the Type 1
// form are left out, though fontconfig lists them: what shapes text in programs takes fonts
// with OpenType tables only (Pango from 1.44 on, pango_fc_is_supported_font_format; from
// memory), so that no surface here shows them.
package fontbook

import (
	"cmp"
	"crypto/sha256"
	"fmt"
	"io/fs"
	"path"
	"runtime"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/fontconf"
	"ivelt/core/fontfile"
	"ivelt/core/regular"
)

// Book is what the font folders of a desk hold.
type Book struct{ faces []Face }

// Face is a face in a font file of the desk's tree.
type Face struct {
	fontfile.Face
	File  string // in the desk's tree
	Index int    // in the file
}

// Bounds of how many files are looked into, of each, in bytes, and of folders in each other.
const (
	maxFonts     = 20_000
	maxFontBytes = 40 << 20
	maxDeep      = 20
)

// Of returns the fonts in folders, which may have the place names of
// [desk.Desk.Expand]. A folder is read anew only if its date or the names in it have
// changed, as fontconfig does.
func Of(d *desk.Desk, folders []string) *Book {
	return desk.Once(d, "fonts "+strings.Join(folders, "\x00"), func() *Book { return of(d, folders) })
}

// of goes through folders as fontconfig adds them: each one's fonts by their names, what is
// below it after all that were there before (fccfg.c, FcConfigAddCache).
func of(d *desk.Desk, folders []string) *Book {
	type waiting struct {
		name string
		deep int
	}
	var queue []waiting
	var found []folder
	stamps, faces := sha256.New(), 0
	for _, base := range d.Folders(folders) {
		queue = append(queue, waiting{base, 0})
	}
	tree, seen := d.Tree(), map[string]bool{}
	for room := maxFonts; len(queue) > 0 && room > 0; queue = queue[1:] {
		at := queue[0]
		where, err := tree.Resolve(at.name)
		if err != nil || seen[where] {
			continue // what cannot be read is not there
		}
		seen[where] = true
		f := folderOf(d, tree, at.name, room)
		fmt.Fprintf(stamps, "%s\x00%s\x00", at.name, f.stamp)
		found, faces = append(found, f), faces+len(f.faces)
		room -= f.files
		if at.deep < maxDeep {
			for _, name := range f.below {
				queue = append(queue, waiting{name, at.deep + 1})
			}
		}
	}
	return cache.Of(d.Cache, ofFolders{d.Where(), string(stamps.Sum(nil))}, cache.Always[*Book], func() cache.Made[*Book] {
		b := &Book{make([]Face, 0, faces)}
		for _, f := range found {
			b.faces = append(b.faces, f.faces...)
		}
		return cache.Made[*Book]{Value: b, Bytes: 500 * faces}
	})
}

// ofFolders is the key of the fonts of folders, by the folders' stamps.
type ofFolders struct{ where, stamps string }

// folder is what a folder of fonts holds.
type folder struct {
	stamp string
	files int
	faces []Face
	below []string // folders in it
}

// ofFolder is the key of a folder of fonts.
type ofFolder struct{ where, name string }

func folderOf(d *desk.Desk, tree *desk.Tree, name string, room int) folder {
	info, err := tree.Stat(name)
	if err != nil {
		return folder{}
	}
	entries, err := tree.ReadDir(name)
	if err != nil {
		return folder{}
	}
	names := sha256.New()
	for _, e := range entries {
		fmt.Fprintf(names, "%s\x00", e.Name())
	}
	stamp := fmt.Sprintf("%s %x %d", info.ModTime(), names.Sum(nil), min(room, len(entries)))
	return cache.Of(d.Cache, ofFolder{d.Where(), name}, func(known folder) bool { return known.stamp == stamp }, func() cache.Made[folder] {
		f := read(tree, name, entries, room)
		f.stamp = stamp
		return cache.Made[folder]{Value: f, Bytes: 200 + 100*len(f.below) + 500*len(f.faces)}
	})
}

// read looks into the fonts of a folder; hidden ones count for nothing (fcdir.c, FcDirScanConfig).
func read(tree *desk.Tree, folderName string, entries []fs.DirEntry, room int) folder {
	var f folder
	var files []string
	for _, e := range entries {
		name := path.Join(folderName, e.Name())
		if strings.HasPrefix(e.Name(), ".") {
			continue
		}
		switch strings.ToLower(path.Ext(name)) {
		case ".ttf", ".otf", ".ttc", ".otc":
			if len(files) < room {
				files = append(files, name)
			}
		default:
			if e.IsDir() {
				f.below = append(f.below, name)
			} else if e.Type()&fs.ModeSymlink != 0 {
				if info, err := tree.Stat(name); err == nil && info.IsDir() {
					f.below = append(f.below, name)
				}
			}
		}
	}
	f.files = len(files)
	found := make([][]fontfile.Face, len(files))
	var side errgroup.Group
	side.SetLimit(runtime.NumCPU())
	for i, name := range files {
		host, err := tree.Host(name)
		if err != nil {
			continue
		}
		side.Go(func() error {
			found[i] = facesIn(host)
			return nil
		})
	}
	_ = side.Wait()
	for i, faces := range found {
		for j, face := range faces {
			f.faces = append(f.faces, Face{face, files[i], j})
		}
	}
	return f
}

// facesIn are those of a font file, none if it is none; only the tables that are needed are read.
func facesIn(host string) []fontfile.Face {
	file, err := regular.Open(host)
	if err != nil {
		return nil
	}
	defer file.Close()
	if info, err := file.Stat(); err != nil || info.Size() >= maxFontBytes {
		return nil
	}
	faces, err := fontfile.Read(file)
	if err != nil {
		return nil
	}
	return faces
}

// Folders are the folders in which some surface of the desk looks for fonts.
func Folders(d *desk.Desk) []string {
	var out []string
	for _, s := range d.Surfaces() {
		folders, sealed := s.Look("font")
		if sealed {
			continue
		}
		for _, f := range folders {
			if !slices.Contains(out, f) {
				out = append(out, f)
			}
		}
	}
	return out
}

// Find returns the face of a family that comes nearest to a weight (CSS's, 1 to
// 1000) and a slant.
func (b *Book) Find(family string, weight float64, italic bool) (Face, bool) {
	var best *Face
	worst := 0.0
	for i := range b.faces {
		f := &b.faces[i]
		if !slices.ContainsFunc(f.Families, func(s string) bool { return strings.EqualFold(s, family) }) {
			continue
		}
		off := max(float64(f.Weight)-weight, weight-float64(f.Weight))
		if (f.Italic || f.Oblique) != italic {
			off += 1000
		}
		if best == nil || off < worst {
			best, worst = f, off
		}
	}
	if best == nil {
		return Face{}, false
	}
	return *best, true
}

// Instead returns the face that fontconfig takes for a family that is not there,
// by the desk's own configuration; without one the first family there is.
func (b *Book) Instead(d *desk.Desk, family string, weight float64, italic bool) (Face, bool) {
	families := []fontconf.Family{{Name: family, Strong: true}}
	if c := Config(d); c != nil {
		families = c.Families(family)
	}
	plain := make([]fontfile.Face, len(b.faces))
	for i, f := range b.faces {
		plain[i] = f.Face
	}
	i := fontconf.Match(plain, families, weight, italic)
	if i < 0 {
		return Face{}, false
	}
	return b.faces[i], true
}

type cachedConfig struct {
	stamp  string
	config *fontconf.Config // nil for none
}

// files are those that were read.
func (c cachedConfig) files() []string {
	if c.config == nil {
		return nil
	}
	return slices.Clone(c.config.Files)
}

// ofConfig is the key of a desk's configuration.
type ofConfig struct{ where string }

// Config is the desk's fontconfig configuration, nil if it has none. It is read
// anew only if a file of it has changed.
func Config(d *desk.Desk) *fontconf.Config {
	return desk.Once(d, "fontconfig", func() *fontconf.Config { return config(d) })
}

func config(d *desk.Desk) *fontconf.Config {
	const top = "/etc/fonts/fonts.conf"
	stamp := func(files []string) string {
		var b strings.Builder
		for _, f := range append(files, top, path.Join(d.HomePath, ".config/fontconfig/fonts.conf")) {
			if info, err := fs.Stat(d.Tree(), desk.Name(f)); err == nil {
				fmt.Fprintln(&b, f, info.Size(), info.ModTime().UnixNano())
			}
		}
		return b.String()
	}
	in := fontconf.Places{Home: d.HomePath, Config: d.First("{config}"), Data: d.First("{data}")}
	if d.Front != "" { // how it would be, which is asked once
		c, _ := fontconf.Load(d.Tree(), top, in)
		return c
	}
	holds := func(known cachedConfig) bool { return known.stamp == stamp(known.files()) }
	return cache.Of(d.Cache, ofConfig{d.Where()}, holds, func() cache.Made[cachedConfig] {
		c, err := fontconf.Load(d.Tree(), top, in)
		if err != nil {
			c = nil
		}
		made := cachedConfig{config: c}
		made.stamp = stamp(made.files())
		return cache.Made[cachedConfig]{Value: made, Bytes: len(made.stamp) + 64<<10}
	}).config
}

// Families lists the families, by name, each with its plainest face.
func (b *Book) Families() []Face {
	var out []Face
	for _, f := range b.faces {
		if plain, ok := b.Find(f.Family(), 400, false); ok && !slices.ContainsFunc(out, func(o Face) bool { return strings.EqualFold(o.Family(), f.Family()) }) {
			out = append(out, plain)
		}
	}
	slices.SortFunc(out, func(a, b Face) int { return cmp.Compare(strings.ToLower(a.Family()), strings.ToLower(b.Family())) })
	return out
}

// Faces are those of a family, in the order in which they were found.
func (b *Book) Faces(family string) (out []Face) {
	for _, f := range b.faces {
		if strings.EqualFold(f.Family(), family) {
			out = append(out, f)
		}
	}
	return out
}

// styleWords end a font setting between the family and the size (Pango,
// pango_font_description_from_string).
var styleWords = []string{
	"thin", "ultra-light", "extra-light", "light", "semi-light", "book", "regular", "normal", "medium", "semi-bold", "demi-bold", "bold",
	"ultra-bold", "extra-bold", "heavy", "black", "roman", "oblique", "italic", "condensed", "semi-condensed", "expanded",
}

// Setting finds what a font setting names, "Estuary Sans Bold 10.5": a family
// that is there, with the style words and the size that follow it.
func (b *Book) Setting(value string) (Face, bool) {
	family, _ := desk.SplitFont(value)
	weight, italic := 400.0, false
	for {
		if f, ok := b.Find(family, weight, italic); ok {
			return f, true
		}
		at := strings.LastIndexByte(family, ' ')
		if at < 0 || !slices.Contains(styleWords, strings.ToLower(family[at+1:])) {
			return Face{}, false
		}
		switch word := strings.ToLower(family[at+1:]); word {
		case "italic", "oblique":
			italic = true
		case "bold", "heavy", "black", "semi-bold", "demi-bold", "ultra-bold", "extra-bold":
			weight = 700
		case "light", "thin", "ultra-light", "extra-light":
			weight = 300
		}
		family = strings.TrimRight(family[:at], " ,")
	}
}
