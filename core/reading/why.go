package reading

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/fontbook"
	"ivelt/core/gtkrc"
	"ivelt/core/icontheme"
	"ivelt/core/keyfile"
)

// Why tells why a surface could not use a piece, nil if it could.
func Why(d *desk.Desk, s desk.Surface, f desk.Facet, name string) *Problem {
	if f.Lookup.Kind == "" {
		return nil
	}
	if _, err := Find(d, f.Lookup, name); err != nil {
		return why(d, s, f, name, err)
	}
	return nil
}

// Switch tells of a surface that would follow another if the session said so,
// and does not; "" if there is no such thing.
func Switch(d *desk.Desk, s desk.Surface, f desk.Facet) string {
	for _, src := range f.Sources {
		if src.Format != "follows" || len(src.When) == 0 {
			continue
		}
		leader, ok := d.Surface(src.Path)
		if met, err := Follows(d, src); !ok || met || err != nil {
			return ""
		}
		when := src.When[0]
		return fmt.Sprintf("%s follow %s only if the variable %s is %s, and nothing sets it.", s.Title, leader.Title, when.Key, when.Words[0])
	}
	return ""
}

// linkedOut is what to do about a piece that a program sees only a link to.
func linkedOut(d *desk.Desk, l desk.Lookup, name string) string {
	if folder := Grantable(d, l, name); folder != "" {
		return fmt.Sprintf("Grant %s, where it leads, or put a copy where the program may look.", d.Show(folder))
	}
	return "Put a copy of it where the program may look, instead of a link."
}

// kinds are what lookups look for, as one writes it.
var kinds = map[string]string{"icon-theme": "an icon pack", "theme": "a theme for it", "pointer": "a pointer set", "font": "a font", "picture": "a picture", "login": "a login theme", "palette": "a palette", "named-file": "a file"}

// why tells why a name leads a surface nowhere, and what to do about it.
func why(d *desk.Desk, s desk.Surface, f desk.Facet, name string, err error) *Problem {
	missing := errors.Is(err, icontheme.ErrNoIndex) || errors.Is(err, ErrNotThere)
	switch {
	case errors.Is(err, ErrNotGranted):
		return &Problem{Code: GrantMissing, Text: fmt.Sprintf("%q cannot be used: %v.", name, err), Remedy: linkedOut(d, f.Lookup, name)}
	case errors.Is(err, ErrVersion):
		return &Problem{Code: OtherVersion, Text: fmt.Sprintf("%q is not made for this %s: %v.", name, s.Title, err), Remedy: "Choose a version of it that is made for this one, or another piece."}
	case errors.Is(err, ErrLogin):
		return &Problem{Code: LoginFails, Text: fmt.Sprintf("With %q %s would not come up: %s.", name, s.Title, strings.TrimPrefix(err.Error(), ErrLogin.Error()+": ")), Remedy: "Choose another login theme, or install this one anew."}
	case errors.Is(err, ErrWithin):
		return &Problem{Code: OtherFolder, At: name, Text: fmt.Sprintf("%s does not get at %q: %v.", s.Title, name, err), Remedy: "Put the picture into a folder that everyone can read, and choose it there."}
	case errors.Is(err, ErrFormat):
		return &Problem{Code: NotForThis, At: name, Text: fmt.Sprintf("%q cannot be used: %v.", name, err), Remedy: "Save it as another kind of picture, or choose another."}
	case errors.Is(err, ErrProgram):
		return &Problem{Code: NotFound, Text: fmt.Sprintf("%s to start %q, and that fails: %v.", s.Does("are told", "is told"), name, err), Remedy: "Install the program, or take it out."}
	case !missing:
		return &Problem{Code: BrokenPiece, Text: fmt.Sprintf("%q cannot be used: %v.", name, err), Remedy: "Install it anew, or choose another."}
	case f.Lookup.Kind == "font":
		return noFont(d, s, f, name)
	case f.Lookup.Kind == "picture":
		return &Problem{Code: NotFound, Text: fmt.Sprintf("%s a picture that is not there, %q.", s.Does("are told", "is told"), name), Remedy: "Choose another picture."}
	}
	if at := elsewhere(d, f.Lookup, name); at != "" {
		base := desk.Name(path.Dir(at))
		switch {
		case f.Lookup.Grants != nil && slices.Contains(d.Folders(f.Lookup.Folders), base):
			return &Problem{
				Code: GrantMissing, At: at,
				Text:   fmt.Sprintf("%q lies in %s, and %s may not look there.", name, d.Show(path.Dir(at)), s.Title),
				Remedy: fmt.Sprintf("Grant %s: add it to %s in %s.", d.Show(path.Dir(at)), f.Lookup.Grants.Key, d.Show(d.First(f.Lookup.Grants.Path))),
			}
		case slices.Contains(bases(d, f.Lookup), base):
			what := map[string]string{"theme": "no part for it", "pointer": "no folder with pointers in it", "icon-theme": "no index.theme, without which it is no icon pack"}[f.Lookup.Kind]
			if f.Lookup.Kind == "theme" {
				what = fmt.Sprintf("no part for it: it would need %s in one of %s", f.Lookup.File, list(f.Lookup.Parts))
			}
			return &Problem{Code: NotForThis, At: at, Text: fmt.Sprintf("%q is in %s, and has %s.", name, d.Show(path.Dir(at)), what), Remedy: "Choose one that is made for it, or find this one in another version."}
		}
		return &Problem{
			Code: OtherFolder, At: at,
			Text:   fmt.Sprintf("%q is in %s, and %s there.", name, d.Show(path.Dir(at)), s.Does("do not look", "does not look")),
			Remedy: into(d, f.Lookup),
		}
	}
	p := &Problem{Code: NotFound, Text: fmt.Sprintf("No folder %s has %s named %q.", s.Does("search", "searches"), kinds[f.Lookup.Kind], name), Remedy: "Install it, or choose one that is there."}
	if meant := meant(d, f.Lookup, name); meant != "" {
		p.Text += fmt.Sprintf(" There is %q; programs ask by the name of the folder, letter for letter.", meant)
		p.Remedy = fmt.Sprintf("Ask for %s instead.", meant)
	}
	return p
}

// into says where a piece has to go so that a lookup finds it.
func into(d *desk.Desk, l desk.Lookup) string {
	if all := bases(d, l); len(all) > 0 {
		return fmt.Sprintf("Put it into %s as well.", d.Show(desk.Path(all[0])))
	}
	return "It looks into no folder: choose something that needs none."
}

// list is the first of several and the last.
func list(names []string) string {
	if len(names) < 3 {
		return strings.Join(names, " and ")
	}
	return names[0] + " … " + names[len(names)-1]
}

func noFont(d *desk.Desk, s desk.Surface, f desk.Facet, name string) *Problem {
	family, _ := desk.SplitFont(name)
	p := &Problem{Code: NotFound, Text: fmt.Sprintf("No folder %s has a font named %q.", s.Does("search", "searches"), family), Remedy: "Install it, or choose one that is there."}
	if other, ok := fontbook.Of(d, fontbook.Folders(d)).Setting(name); ok {
		return &Problem{
			Code: OtherFolder, At: desk.Path(other.File),
			Text:   fmt.Sprintf("The font %q is in %s, and %s there.", family, d.Show(path.Dir(desk.Path(other.File))), s.Does("do not look", "does not look")),
			Remedy: into(d, f.Lookup),
		}
	}
	if face, ok := instead(d, f.Lookup, family); ok {
		p.Text = strings.TrimSuffix(p.Text, ".") + ": fontconfig takes " + face.Family() + " in its stead."
	}
	return p
}

// instead is the face that fontconfig takes for a family.
func instead(d *desk.Desk, l desk.Lookup, family string) (fontbook.Face, bool) {
	type taken struct {
		face fontbook.Face
		ok   bool
	}
	t := desk.Once(d, "instead "+strings.ToLower(family)+"\x00"+strings.Join(l.Folders, "\x00"), func() taken {
		face, ok := fontbook.Of(d, l.Folders).Instead(d, family, 400, false)
		return taken{face, ok}
	})
	return t.face, t.ok
}

// known are folders in which pieces of a kind are put, whoever looks there.
var known = map[string][]string{
	"theme":      {"{data}/themes", "~/.themes", "{data-dirs}/themes"},
	"icon-theme": {"{data}/icons", "~/.icons", "{data-dirs}/icons"},
	"pointer":    {"{data}/icons", "~/.icons", "{data-dirs}/icons"},
}

// elsewhere is a folder of that name where some surface looks for the kind, or
// where pieces of it are usually put; "" if there is none.
func elsewhere(d *desk.Desk, l desk.Lookup, name string) string {
	return desk.Once(d, "elsewhere "+l.Kind+"\x00"+name+"\x00"+strings.Join(l.Folders, "\x00"), func() string { return inOthers(d, l, name) })
}

func inOthers(d *desk.Desk, l desk.Lookup, name string) string {
	if name == "" || strings.Contains(name, "/") {
		return ""
	}
	folders := slices.Concat(l.Folders, known[l.Kind])
	for _, s := range d.Surfaces {
		for _, f := range s.Facets {
			if f.Lookup.Kind == l.Kind {
				folders = append(folders, f.Lookup.Folders...)
			}
		}
	}
	for _, base := range d.Folders(folders) {
		at := path.Join(base, name)
		if fi, err := fs.Stat(d.Tree(), at); err != nil || !fi.IsDir() {
			continue
		}
		if l.Kind == "pointer" && !isDir(d, path.Join(at, "cursors")) {
			continue
		}
		return desk.Path(at)
	}
	return ""
}

func isDir(d *desk.Desk, name string) bool {
	fi, err := fs.Stat(d.Tree(), name)
	return err == nil && fi.IsDir()
}

// meant is a piece whose folder is written a little otherwise, or whose display
// name was taken for that of its folder.
func meant(d *desk.Desk, l desk.Lookup, name string) string {
	return desk.Once(d, "meant "+keyOf(l, name), func() string { return likely(d, l, name) })
}

func likely(d *desk.Desk, l desk.Lookup, name string) string {
	for _, base := range bases(d, l) {
		names := namesIn(d, base)
		if folder := names[strings.ToLower(name)]; folder != "" {
			if _, err := find(d, l, folder); err == nil {
				return folder
			}
		}
	}
	return ""
}

// namesIn are the pieces in a folder by their folders' names and by those that
// people see, in small letters.
func namesIn(d *desk.Desk, base string) map[string]string {
	return desk.Once(d, "names "+base, func() map[string]string {
		out := map[string]string{}
		entries, _ := fs.ReadDir(d.Tree(), base)
		for _, e := range entries {
			b, err := fs.ReadFile(d.Tree(), path.Join(base, e.Name(), "index.theme"))
			if err != nil {
				continue
			}
			if kf, err := keyfile.Parse(b); err == nil {
				for _, group := range []string{"Icon Theme", "Desktop Entry"} {
					if name := kf.Get(group, "Name"); name != "" {
						out[strings.ToLower(name)] = e.Name()
					}
				}
			}
		}
		for _, e := range entries { // a folder's own name goes before
			out[strings.ToLower(e.Name())] = e.Name()
		}
		return out
	})
}

// copies are further folders of that name where the surface looks.
func copies(d *desk.Desk, l desk.Lookup, name, found string) []string {
	switch l.Kind {
	case "theme", "icon-theme", "pointer":
	default:
		return nil
	}
	var out []string
	for _, base := range bases(d, l) {
		at := path.Join(base, name)
		if desk.Path(at) == found || !isDir(d, at) || strings.HasPrefix(found, desk.Path(at)+"/") {
			continue
		}
		one := l
		one.Folders = []string{desk.Path(base)}
		if _, err := find(d, one, name); err == nil && !sameFolder(d, at, found) {
			out = append(out, desk.Path(at))
		}
	}
	return out
}

// sameFolder tells a link to a folder from a copy of it.
func sameFolder(d *desk.Desk, a, b string) bool {
	one, err := d.Tree().Resolve(a)
	two, e := d.Tree().Resolve(desk.Name(b))
	return err == nil && e == nil && one == two
}

// variantMissing tells of a variable "NAME:VARIANT" that asks for a variant which
// the theme does not have: GTK 4 leaves the theme then (seen in GTK 4.8).
func variantMissing(d *desk.Desk, s desk.Surface, l desk.Lookup, r Reading) *Problem {
	v, _ := d.Var(r.Source.Key)
	_, variant, asked := strings.Cut(v.Value, ":")
	if !l.DarkOwn || !asked || variant == "dark" {
		return nil
	}
	if _, err := findPart(d, l, r.Value, strings.TrimSuffix(l.File, ".css")+"-"+variant+".css"); err == nil {
		return nil
	}
	return &Problem{
		Code: VariantMissing, At: r.Resolved,
		Text:   fmt.Sprintf("%s asks for %q in the variant %q, which it does not have: %s their own style instead.", r.Source.Key, r.Value, variant, s.Does("wear", "wears")),
		Remedy: fmt.Sprintf("Take %q out of the variable.", ":"+variant),
	}
}

// engineMissing tells of a theme that is drawn by a program of its own which is
// not installed (GTK 2.24, gtkrc.c and gtkthemes.c: lib<name>.so in the folders
// of engines; without it the plain style draws).
func engineMissing(d *desk.Desk, s desk.Surface, l desk.Lookup, theme string) *Problem {
	if len(l.Engines) == 0 {
		return nil
	}
	part, err := FindTheme(d, l, theme)
	if err != nil || part == "" {
		return nil
	}
	rc, err := gtkrc.Load(d.Tree(), desk.Name(path.Join(part, l.File)))
	if err != nil {
		return nil
	}
	for _, engine := range rc.Engines() {
		if slices.ContainsFunc(l.Engines, func(pattern string) bool { return len(glob(d, path.Join(pattern, "lib"+engine+".so"))) > 0 }) {
			continue
		}
		return &Problem{
			Code: EngineMissing, At: l.Engines[0],
			Text:   fmt.Sprintf("%q is drawn by the engine %s, which is not installed: %s stay plain.", theme, engine, s.Title),
			Remedy: fmt.Sprintf("Install the engine %s, or choose another theme.", engine),
		}
	}
	return nil
}
