package preview

import (
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"
	"sync"

	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/desk"
	"ivelt/core/fontfile"
	"ivelt/core/keyfile"
	"ivelt/core/typeset"
)

// fontbook finds faces among a desk's font files.
type fontbook struct{ faces []bookFace }

type bookFace struct {
	fontfile.Face
	name  string // of the file in the desk's tree
	index int
}

// mostFonts bounds how many files are looked into; mostFontBytes each.
const (
	mostFonts     = 400
	mostFontBytes = 40 << 20
)

var (
	books    sync.Map // by what the font folders hold: *fontbook
	loaded   sync.Map // by file, size and date: *typeset.Face, or nil
	fallback = sync.OnceValue(func() [2]*typeset.Face {
		plain, _ := typeset.Load(goregular.TTF, 0)
		bold, _ := typeset.Load(gobold.TTF, 0)
		return [2]*typeset.Face{plain, bold}
	})
)

// fontsOf returns the fonts of the folders that the desk's programs look in.
func fontsOf(d *desk.Desk) *fontbook {
	var bases []string
	for _, s := range d.Surfaces {
		if folders, sealed := s.Look("font"); !sealed {
			for _, base := range d.Folders(folders) {
				if !slices.Contains(bases, base) {
					bases = append(bases, base)
				}
			}
		}
	}
	var files []string
	var key strings.Builder
	key.WriteString(d.ID + d.HostPath("/") + d.HostPath(d.HomePath))
	for _, base := range bases {
		_ = fs.WalkDir(d.Tree(), base, func(name string, e fs.DirEntry, err error) error {
			if err != nil || len(files) >= mostFonts {
				return nil // what cannot be read is not there
			}
			switch strings.ToLower(path.Ext(name)) {
			case ".ttf", ".otf", ".ttc", ".otc":
				if info, err := e.Info(); err == nil && !e.IsDir() && info.Size() < mostFontBytes {
					files = append(files, name)
					key.WriteString("\x00" + name + info.ModTime().String())
				}
			}
			return nil
		})
	}
	if b, ok := books.Load(key.String()); ok {
		return b.(*fontbook)
	}
	b := &fontbook{}
	for _, name := range files {
		data, err := fs.ReadFile(d.Tree(), name)
		if err != nil {
			continue
		}
		faces, err := fontfile.Parse(data)
		if err != nil {
			continue
		}
		for i, f := range faces {
			b.faces = append(b.faces, bookFace{f, name, i})
		}
	}
	books.Store(key.String(), b)
	return b
}

// find returns the face that comes nearest to what is asked for: by family, in
// order, then weight and slant. A family that is not there falls to any text
// face, then to the one that Ivelt carries.
func (b *fontbook) find(d *desk.Desk, families []string, weight float64, italic bool) *typeset.Face {
	for _, family := range families {
		var best *bookFace
		worst := 0.0
		for i := range b.faces {
			f := &b.faces[i]
			if !slices.ContainsFunc(f.Families, func(s string) bool { return strings.EqualFold(s, family) }) {
				continue
			}
			off := float64(f.Weight) - weight
			if off < 0 {
				off = -off
			}
			if (f.Italic || f.Oblique) != italic {
				off += 1000
			}
			if best == nil || off < worst {
				best, worst = f, off
			}
		}
		if best != nil {
			if face := loadFace(d, *best); face != nil {
				return face
			}
		}
	}
	if weight >= 600 {
		return fallback()[1]
	}
	return fallback()[0]
}

func loadFace(d *desk.Desk, f bookFace) *typeset.Face {
	info, err := fs.Stat(d.Tree(), f.name)
	if err != nil {
		return nil
	}
	type key struct {
		desk, name, date string
		index            int
	}
	k := key{d.ID + d.HostPath("/") + d.HostPath(d.HomePath), f.name, info.ModTime().String(), f.index}
	if face, ok := loaded.Load(k); ok {
		return face.(*typeset.Face)
	}
	var face *typeset.Face
	if data, err := fs.ReadFile(d.Tree(), f.name); err == nil {
		face, _ = typeset.Load(data, f.index)
	}
	loaded.Store(k, face)
	return face
}

// fontSetting is the font that GTK programs are told to use, "Estuary Sans 10.5":
// the family, with the size in points at the end (GtkSettings, gtk-font-name).
func fontSetting(d *desk.Desk) string { return gtkSetting(d, "gtk-font-name") }

// gtkSetting is a setting of GTK 3 programs, the person's before the system's;
// "" if it is not set.
func gtkSetting(d *desk.Desk, key string) string {
	for _, p := range append(d.Expand("{config}/gtk-3.0/settings.ini"), "/etc/gtk-3.0/settings.ini") {
		b, err := fs.ReadFile(d.Tree(), desk.Name(p))
		if err != nil {
			continue
		}
		kf, err := keyfile.Parse(b)
		if err != nil {
			continue
		}
		if v := kf.Get("Settings", key); v != "" {
			return v
		}
	}
	return ""
}

func familyOf(d *desk.Desk) string {
	words := strings.Fields(fontSetting(d))
	if n := len(words); n > 0 {
		if _, err := strconv.ParseFloat(words[n-1], 64); err == nil {
			words = words[:n-1]
		}
	}
	return strings.Join(words, " ")
}

// sizeOf is the size of that font in px at 96 dpi, 0 if none is set.
func sizeOf(d *desk.Desk) float64 {
	words := strings.Fields(fontSetting(d))
	if len(words) == 0 {
		return 0
	}
	pt, err := strconv.ParseFloat(words[len(words)-1], 64)
	if err != nil || pt < 4 || pt > 40 {
		return 0
	}
	return pt * 96 / 72
}
