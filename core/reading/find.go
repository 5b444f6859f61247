package reading

import (
	"errors"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/fontbook"
	"ivelt/core/icontheme"
	"ivelt/core/imagefile"
)

// ErrNotThere: no folder that is searched has a piece of that name.
var ErrNotThere = errors.New("it is in no folder that is searched")

// Find returns the folder of the piece, or the file of the font or picture, that
// a lookup ends at by a name, as a path of the desk; "" for one that the program has in itself. Errors are those
// of [icontheme.Find], and [ErrNotThere].
func Find(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	switch l.Kind {
	case "theme":
		part, err := FindTheme(d, l, name)
		if err != nil || part == "" {
			return "", err
		}
		return path.Dir(part), nil
	case "pointer":
		return FindPointer(d, l, name)
	case "font":
		if family, _ := desk.SplitFont(name); slices.ContainsFunc(l.BuiltIn, func(kind string) bool { return strings.EqualFold(kind, family) }) {
			if face, ok := fontbook.Of(d, l.Folders).Instead(d, family, 400, false); ok {
				return desk.Path(face.File), nil
			}
			return "", nil
		}
		if face, ok := fontbook.Of(d, l.Folders).Setting(name); ok {
			return desk.Path(face.File), nil
		}
		return "", ErrNotThere
	case "picture":
		return findPicture(d, l, name)
	}
	return FindIcons(d, l, name)
}

// ErrNoPicture: the file is none that a browser shows either.
var ErrNoPicture = errors.New("it is no PNG, JPEG or SVG")

func findPicture(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	if slices.Contains(l.BuiltIn, name) {
		return "", nil
	}
	f, err := d.Tree().Open(desk.Name(name))
	if err != nil || !path.IsAbs(name) {
		return "", ErrNotThere
	}
	defer f.Close()
	head := make([]byte, 4096)
	n, err := io.ReadFull(f, head)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) || imagefile.MediaType(head[:n]) == "" {
		return "", ErrNoPicture
	}
	return path.Clean(name), nil
}

// FindPointer returns the folder of a pointer set, as a path of the desk; "" for
// the display's own.
func FindPointer(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	if slices.Contains(l.BuiltIn, name) {
		return "", nil
	}
	if name == "" || strings.Contains(name, "/") {
		return "", ErrNotThere
	}
	for _, base := range d.Folders(l.Folders) {
		at := path.Join(base, name)
		if info, err := fs.Stat(d.Tree(), path.Join(at, "cursors")); err == nil && info.IsDir() {
			return desk.Path(at), nil
		}
	}
	return "", ErrNotThere
}

// FindTheme returns the part of a window theme that serves a surface, as a path
// of the desk; "" if the program has the theme in itself.
func FindTheme(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	return findPart(d, l, name, l.File)
}

// FindSheet returns the file of a window theme that a surface wears, as a path
// of the desk; "" if the program has the theme in itself. In the dark it is the
// dark form, wherever among the folders that stands; without one GTK 3 wears the
// usual one, GTK 4 its own style (gtkcssprovider.c; seen in both).
func FindSheet(d *desk.Desk, l desk.Lookup, name string, dark bool) (file string, isDark bool, err error) {
	if dark && !slices.Contains(l.BuiltIn, name) {
		if part, err := findPart(d, l, name, DarkForm(l.File)); err == nil {
			return path.Join(part, DarkForm(l.File)), true, nil
		}
	}
	if _, err := FindTheme(d, l, name); dark && l.DarkOwn && err == nil {
		return "", false, nil
	}
	part, err := FindTheme(d, l, name)
	if err != nil || part == "" {
		return "", false, err
	}
	return path.Join(part, l.File), false, nil
}

func findPart(d *desk.Desk, l desk.Lookup, name, file string) (string, error) {
	if name == "" || strings.Contains(name, "/") {
		return "", ErrNotThere
	}
	if slices.Contains(l.BuiltIn, name) {
		return "", nil
	}
	for _, base := range d.Folders(l.Folders) {
		for _, part := range l.Parts {
			at := path.Join(base, name, part)
			if _, err := fs.Stat(d.Tree(), path.Join(at, file)); err == nil {
				return desk.Path(at), nil
			}
		}
	}
	return "", ErrNotThere
}

// DarkForm is the dark form of a theme's style sheet, "gtk-dark.css" beside
// "gtk.css" (GTK, gtkcssprovider.c).
func DarkForm(sheet string) string { return strings.TrimSuffix(sheet, ".css") + "-dark.css" }

// FindIcons returns the folder of the icon pack that a surface finds by a
// name, as a path of the desk. Errors are those of [icontheme.Find].
func FindIcons(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	_, index, err := icontheme.Find(d.Tree(), d.Folders(l.Folders), name)
	if err != nil {
		return "", err
	}
	return desk.Path(index[:len(index)-len("/index.theme")]), nil
}

// IconIndex returns the icons a surface would find with the pack of that name.
func IconIndex(d *desk.Desk, l desk.Lookup, name string) *icontheme.Index {
	return icontheme.NewIndex(icontheme.Config{FS: d.Tree(), Bases: d.Folders(l.Folders), Theme: name, Also: l.Also})
}
