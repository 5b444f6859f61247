package reading

import (
	"errors"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/fontbook"
	"ivelt/core/icontheme"
	"ivelt/core/keyfile"
	"ivelt/core/say"
)

// ErrNotThere: no folder that is searched has a piece of that name.
var ErrNotThere = errors.New("it is in no folder that is searched")

// Find returns the folder of the piece, or the file of the font or picture, that
// a lookup ends at by a name, as a path of the desk; "" for one that the program
// has in itself. Errors are those of [icontheme.Find], [ErrNotThere] and
// [ErrNotGranted].
func Find(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	f := desk.Once(d, "find "+keyOf(l, name), func() found {
		at, err := look(d, l, name)
		return found{at, err}
	})
	return f.at, f.err
}

type found struct {
	at  string
	err error
}

// keyOf tells lookups of a name apart.
func keyOf(l desk.Lookup, name string) string {
	var b strings.Builder
	for _, part := range [][]string{{l.Kind, name, l.File, l.Program, l.Version}, l.Folders, l.Parts, l.BuiltIn, l.Names, l.Within, l.Formats} {
		for _, p := range part {
			b.WriteString(p)
			b.WriteByte(0)
		}
		b.WriteByte(1)
	}
	if l.Slides {
		b.WriteString("slides\x00")
	}
	if l.Signed {
		b.WriteString("signed\x00")
	}
	if l.Grants != nil {
		b.WriteString(l.Grants.Path + "\x00" + l.Grants.Group + "\x00" + l.Grants.Key)
	}
	return b.String()
}

func look(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	at, err := find(d, l, name)
	if err != nil && l.Grants != nil && l.Grants.Within {
		if on, ok := findWithin(d, l, name); ok {
			at, err = on, nil
		}
	}
	if err != nil || at == "" || l.Grants == nil {
		return at, err
	}
	if real, err := d.Tree().Resolve(desk.Name(at)); err != nil || !granted(d, l, real) {
		return "", say.Errorf("%w: %s is a link that leads out of it", ErrNotGranted, d.Show(at))
	}
	return at, nil
}

// findWithin finds what is granted itself, in a folder that is not.
func findWithin(d *desk.Desk, l desk.Lookup, name string) (string, bool) {
	if name == "" || strings.Contains(name, "/") {
		return "", false
	}
	bound := func(at string) bool {
		return slices.ContainsFunc(grants(d, l), func(g grant) bool {
			folder := desk.Name(g.folder)
			return g.bind && !g.no && (at == folder || strings.HasPrefix(at, folder+"/"))
		})
	}
	folders := d.Folders(l.Folders)
	for i, base := range append(folders, d.Folders(l.Bound)...) {
		at := path.Join(base, name)
		if !granted(d, l, at) || i >= len(folders) && !bound(at) {
			continue
		}
		one := l
		one.Grants, one.Folders = nil, []string{desk.Path(base)}
		if at, err := find(d, one, name); err == nil && at != "" {
			return at, true
		}
	}
	return "", false
}

// ErrNotGranted: it lies where the program may not look.
var ErrNotGranted = errors.New("it is not in what the program is granted")

// Grantable is the smallest folder of the home that the program of a lookup has to
// be granted first so that it finds what a name leads to; "" if that would not do,
// or nothing is missing.
func Grantable(d *desk.Desk, l desk.Lookup, name string) string {
	if all := Grantables(d, l, name); len(all) > 0 {
		return all[0]
	}
	return ""
}

// Grantables are the folders that it has to be granted so: the one that it looks
// into, if it may not, and where what is found there leads, if that is elsewhere.
func Grantables(d *desk.Desk, l desk.Lookup, name string) []string {
	if l.Grants == nil {
		return nil
	}
	if _, err := Find(d, l, name); err == nil {
		return nil
	}
	free := l
	free.Grants = nil
	at, err := find(d, free, name)
	if err != nil || at == "" {
		return nil
	}
	var out []string
	base := path.Dir(at)
	if !granted(d, l, desk.Name(base)) {
		out = append(out, base) // what lies in it is not even looked for
	}
	real, err := d.Tree().Resolve(desk.Name(at))
	if err != nil || !d.Mine(desk.Path(real)) {
		return out
	}
	if to := desk.Path(real); !granted(d, l, real) && !strings.HasPrefix(to, base+"/") {
		out = append(out, to)
	}
	return out
}

// TooWide are grants of a lookup that let its program see more than pieces: the
// whole home, or what all programs keep there (common practice, no source).
func TooWide(d *desk.Desk, l desk.Lookup) []string {
	if l.Grants == nil {
		return nil
	}
	wide := slices.Concat([]string{"/", d.HomePath, path.Dir(d.HomePath), path.Join(d.HomePath, ".local")}, d.Expand("{config}"), d.Expand("{data}"))
	return slices.DeleteFunc(Grants(d, l), func(folder string) bool { return !slices.Contains(wide, path.Clean(folder)) })
}

// bases are the folders that a lookup searches, as names of the desk's tree.
func bases(d *desk.Desk, l desk.Lookup) []string {
	all := d.Folders(l.Folders)
	if l.Grants == nil {
		return all
	}
	return slices.DeleteFunc(all, func(name string) bool { return !granted(d, l, name) })
}

// granted reports whether the program of a lookup may look into a folder; all but
// the home is open to it. Of what is granted and what is not the nearest above it decides.
func granted(d *desk.Desk, l desk.Lookup, name string) bool {
	if !d.Mine(desk.Path(name)) {
		return true
	}
	nearest, may := -1, false
	look := func(folder string, yes bool) {
		if folder == "/" {
			if top, _, _ := strings.Cut(name, "/"); nearest < 0 && yes && !slices.Contains(l.Grants.Hides, "/"+top) {
				nearest, may = 0, true
			}
			return
		}
		if folder = desk.Name(folder); len(folder) > nearest && (name == folder || strings.HasPrefix(name, folder+"/")) {
			nearest, may = len(folder), yes
		}
	}
	for _, g := range grants(d, l) {
		look(g.folder, !g.no)
		if real, err := d.Tree().Resolve(desk.Name(g.folder)); err == nil && l.Grants.Within && !g.no && g.folder != "/" {
			look(desk.Path(real), true) // what a link leads to comes along
		}
	}
	return may || slices.ContainsFunc(expanded(d, l.Grants.Open), func(open string) bool { // whatever is taken back
		open = desk.Name(open)
		return name == open || strings.HasPrefix(name, open+"/")
	})
}

// Grants are the folders of the home that the program of a lookup is granted.
func Grants(d *desk.Desk, l desk.Lookup) []string {
	var out []string
	for _, g := range grants(d, l) {
		if !g.no {
			out = append(out, g.folder)
		}
	}
	return out
}

// grant is a folder that is granted, or taken back.
type grant struct {
	folder string
	no     bool
	bind   bool // by a word, see [desk.Grants]
}

func grants(d *desk.Desk, l desk.Lookup) []grant {
	var out []grant
	for _, of := range l.Grants.Files(l.Program) {
		for _, p := range d.Expand(of[0]) {
			out = grantedIn(d, l.Grants, out, p, of[1])
		}
	}
	return out
}

// expanded are paths with place names, in full.
func expanded(d *desk.Desk, all []string) (out []string) {
	for _, p := range all {
		out = append(out, d.Expand(p)...)
	}
	return out
}

// grantedIn is what is granted with what a group of one more file says.
func grantedIn(d *desk.Desk, g *desk.Grants, so []grant, file, group string) []grant {
	b, err := d.Tree().ReadSettings(desk.Name(file))
	if err != nil {
		return so
	}
	kf, err := keyfile.Parse(b)
	if err != nil {
		return so
	}
	for _, entry := range kf.List(group, g.Key, ';') {
		folder, taken := g.Folder(entry)
		if folder == "" {
			continue
		}
		for _, at := range d.Expand(folder) {
			at = path.Clean(at)
			i := slices.IndexFunc(so, func(have grant) bool { return have.folder == at })
			_, word := g.Words[strings.TrimPrefix(strings.TrimSpace(entry), g.Not)]
			switch {
			case taken && word && i >= 0: // it is no longer granted, and hides nothing
				so = slices.Delete(so, i, i+1)
			case taken && word:
			case i >= 0:
				so[i].no, so[i].bind = taken, g.Bind(entry)
			default:
				so = append(so, grant{at, taken, g.Bind(entry)})
			}
		}
	}
	return so
}

func find(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	switch l.Kind {
	case "theme":
		part, err := FindTheme(d, l, name)
		if err == nil {
			err = madeFor(d, l, part)
		}
		if err == nil && part != "" && l.Signed {
			err = checkSigned(d, path.Dir(part), name)
		}
		if err != nil || part == "" {
			return "", err
		}
		return path.Dir(part), nil
	case "pointer":
		return FindPointer(d, l, name)
	case "font":
		if family, _ := desk.SplitFont(name); slices.ContainsFunc(l.BuiltIn, func(kind string) bool { return strings.EqualFold(kind, family) }) {
			if face, ok := instead(d, l, family); ok {
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
	case "login":
		return findLogin(d, l, name)
	case "palette", "named-file":
		return findNamed(d, l, name)
	case "program":
		return findProgram(d, l, name)
	case "pointer-list", "places":
		return findMade(d, l, name)
	}
	return FindIcons(d, l, name)
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
	for _, base := range bases(d, l) {
		at := path.Join(base, name)
		if info, err := fs.Stat(d.Tree(), path.Join(at, "cursors")); err == nil && info.IsDir() {
			return desk.Path(at), nil
		}
	}
	return "", ErrNotThere
}

// maxLenders bounds how many sets one inherits, one from the other.
const maxLenders = 64

// FindShape returns the file of a shape of a pointer set, or of the first set that lends it,
// at last the one called default; an error that is [fs.ErrNotExist] if there is
// none (XcursorScanTheme and XcursorLibraryLoadImages of library.c of libXcursor 1.2).
func FindShape(d *desk.Desk, l desk.Lookup, set, shape string) ([]byte, error) {
	seen := map[string]bool{}
	var scan func(set string) ([]byte, error)
	scan = func(set string) ([]byte, error) {
		if set == "" || strings.Contains(set, "/") || seen[set] || len(seen) == maxLenders {
			return nil, fs.ErrNotExist
		}
		seen[set] = true
		var lenders []string
		for _, base := range bases(d, l) {
			at := path.Join(base, set)
			b, err := d.Tree().ReadFile(desk.Name(path.Join(at, "cursors", shape)))
			if !errors.Is(err, fs.ErrNotExist) {
				return b, err
			}
			if text, err := d.Tree().ReadSettings(desk.Name(path.Join(at, "index.theme"))); err == nil && lenders == nil {
				if kf, err := keyfile.Parse(text); err == nil {
					lenders = strings.FieldsFunc(kf.Get("Icon Theme", "Inherits"), func(r rune) bool { return strings.ContainsRune(",; \t", r) })
				}
			}
		}
		for _, of := range lenders {
			if b, err := scan(of); !errors.Is(err, fs.ErrNotExist) {
				return b, err
			}
		}
		return nil, fs.ErrNotExist
	}
	b, err := scan(set)
	if errors.Is(err, fs.ErrNotExist) {
		return scan("default")
	}
	return b, err
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
	if dark {
		if part, err := findPart(d, l, name, DarkForm(l.File)); err == nil && part != "" {
			return path.Join(part, DarkForm(l.File)), true, nil
		}
	}
	if dark && l.DarkOwn {
		_, err := FindTheme(d, l, name)
		return "", false, err
	}
	part, err := FindTheme(d, l, name)
	if err != nil || part == "" {
		return "", false, err
	}
	return path.Join(part, l.File), false, nil
}

func findPart(d *desk.Desk, l desk.Lookup, name, file string) (string, error) {
	if slices.Contains(l.BuiltIn, name) {
		return "", nil
	}
	if name == "" || strings.Contains(name, "/") {
		return "", ErrNotThere
	}
	for _, base := range bases(d, l) {
		folder := path.Join(base, name)
		if d.Tree().Lacks(base, name) || !isDir(d, folder) {
			continue
		}
		for _, part := range l.Parts {
			if len(l.Parts) > 2 && d.Tree().Lacks(folder, part) {
				continue
			}
			at := path.Join(folder, part)
			if _, err := fs.Stat(d.Tree(), path.Join(at, file)); err == nil {
				return desk.Path(at), nil
			}
		}
	}
	for _, extension := range l.Extensions {
		if strings.ContainsAny(name, `*?[\`) {
			break // it would mean others
		}
		for _, p := range d.Expand(strings.ReplaceAll(extension, "{name}", name)) {
			for _, at := range glob(d, p) {
				if _, err := fs.Stat(d.Tree(), path.Join(desk.Name(at), file)); err == nil {
					return at, nil
				}
			}
		}
	}
	if l.Aliases[name] != "" {
		return "", nil
	}
	return "", ErrNotThere
}

// DarkForm is the dark form of a theme's style sheet, "gtk-dark.css" beside
// "gtk.css" (GTK, gtkcssprovider.c).
func DarkForm(sheet string) string { return strings.TrimSuffix(sheet, ".css") + "-dark.css" }

// FindIcons returns the folder of the icon pack that a surface finds by a
// name, as a path of the desk. Errors are those of [icontheme.Find].
func FindIcons(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	_, index, err := icontheme.Find(d.Tree(), bases(d, l), name)
	if err != nil {
		return "", err
	}
	return desk.Path(index[:len(index)-len("/index.theme")]), nil
}

// IconIndex returns the icons a surface would find with the pack of that name.
func IconIndex(d *desk.Desk, l desk.Lookup, name string) *icontheme.Index {
	if l.Grants != nil {
		if _, err := Find(d, l, name); err != nil {
			name = "" // a link into what is not granted leads nowhere
		}
	}
	return icontheme.NewIndex(icontheme.Config{FS: d.Tree(), Bases: bases(d, l), Theme: name, Also: l.Also})
}

type cachedIndex struct {
	stamp string
	index *icontheme.Index
}

// ofIndex is the key of the icons that a lookup finds.
type ofIndex struct{ where, folders, also, name string }

// Icons is [IconIndex], read anew only if a folder of the icons has changed.
func Icons(d *desk.Desk, l desk.Lookup, name string) *icontheme.Index {
	key := ofIndex{d.Where(), strings.Join(l.Folders, ":"), strings.Join(l.Also, ":"), name}
	holds := func(known cachedIndex) bool { return known.stamp == known.index.Stamp(d.Tree()) }
	return cache.Of(d.Cache, key, holds, func() cache.Made[cachedIndex] {
		x := IconIndex(d, l, name)
		return cache.Made[cachedIndex]{Value: cachedIndex{x.Stamp(d.Tree()), x}, Bytes: 100 * x.Len()}
	}).index
}
