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
	"ivelt/core/say"
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
// and does not; nothing if there is no such thing.
func Switch(d *desk.Desk, s desk.Surface, f desk.Facet) say.Message {
	for _, src := range f.Sources {
		if src.Format != "follows" || len(src.When) == 0 {
			continue
		}
		leader, ok := d.Surface(src.Path)
		if met, err := Follows(d, src); !ok || met || err != nil {
			return say.Message{}
		}
		when := src.When[0]
		return say.Of("reading/follow-only-if-variable-nothing", s.Named(), leader.Named(), when.Key, when.Words[0])
	}
	return say.Message{}
}

// linkedOut is what to do about a piece that a program sees only a link to.
func linkedOut(d *desk.Desk, l desk.Lookup, name string) say.Message {
	if folder := Grantable(d, l, name); folder != "" {
		return say.Of("reading/grant-where-leads-or-put", d.Show(folder))
	}
	return say.Of("reading/put-copy-where-program-may")
}

// kinds are what lookups look for, as one writes it.
var kinds = map[string]string{"icon-theme": "an icon pack", "theme": "a theme for it", "pointer": "a pointer set", "font": "a font", "picture": "a picture", "login": "a login theme", "palette": "a palette", "named-file": "a file", "pointer-list": "a set of pointers", "places": "pictures"}

// why tells why a name leads a surface nowhere, and what to do about it.
func why(d *desk.Desk, s desk.Surface, f desk.Facet, name string, err error) *Problem {
	missing := errors.Is(err, icontheme.ErrNoIndex) || errors.Is(err, ErrNotThere)
	switch {
	case errors.Is(err, ErrNotGranted):
		return problem(Problem{Code: GrantMissing, Says: say.Of("reading/cannot-be-used", name, err), Fix: linkedOut(d, f.Lookup, name)})
	case errors.Is(err, ErrUnsigned):
		return problem(Problem{Code: NotSigned, Says: say.Of("reading/not-signed", name, s.Named(), strings.TrimPrefix(err.Error(), ErrUnsigned.Error()+": "), f.Default), Fix: say.Of("reading/unlock-first", s.Named())})
	case errors.Is(err, ErrVersion):
		return problem(Problem{Code: OtherVersion, Says: say.Of("reading/not-made-this", name, s.Named(), err), Fix: say.Of("reading/choose-version-made-this-one")})
	case errors.Is(err, ErrLogin):
		return problem(Problem{Code: LoginFails, Says: say.Of("reading/with-it-would-not-come-up", name, s.Named(), strings.TrimPrefix(err.Error(), ErrLogin.Error()+": ")), Fix: say.Of("reading/choose-another-login-theme-or")})
	case errors.Is(err, ErrWithin):
		return problem(Problem{Code: OtherFolder, At: name, Says: say.Of("reading/does-not-get-at", s.Named(), name, err), Fix: say.Of("reading/put-picture-into-folder-everyone")})
	case errors.Is(err, ErrFormat):
		return problem(Problem{Code: NotForThis, At: name, Says: say.Of("reading/cannot-be-used", name, err), Fix: say.Of("reading/save-as-another-kind-picture")})
	case errors.Is(err, ErrProgram):
		return problem(Problem{Code: NotFound, Says: say.Of("reading/program-does-not-start", s.Does("are", "is"), name, err), Fix: say.Of("reading/install-program-or-take-out")})
	case !missing:
		return problem(Problem{Code: BrokenPiece, Says: say.Of("reading/cannot-be-used", name, err), Fix: say.Of("reading/install-anew-or-choose-another")})
	case f.Lookup.Kind == "font":
		return noFont(d, s, f, name)
	case f.Lookup.Kind == "picture":
		return problem(Problem{Code: NotFound, Says: say.Of("reading/told-a-picture-that-is-not-there", s.Does("are", "is"), name), Fix: say.Of("reading/choose-another-picture")})
	}
	if at := elsewhere(d, f.Lookup, name); at != "" {
		base := desk.Name(path.Dir(at))
		switch {
		case f.Lookup.Grants != nil && slices.Contains(d.Folders(f.Lookup.Folders), base):
			return problem(Problem{
				Code: GrantMissing, At: at,
				Says: say.Of("reading/lies-may-not-look-there", name, d.Show(path.Dir(at)), s.Named()),
				Fix:  say.Of("reading/grant-add", d.Show(path.Dir(at)), f.Lookup.Grants.Key, d.Show(d.First(f.Lookup.Grants.Path))),
			})
		case slices.Contains(bases(d, f.Lookup), base):
			what := map[string]string{"theme": "no part for it", "pointer": "no folder with pointers in it", "icon-theme": "no index.theme, without which it is no icon pack"}[f.Lookup.Kind]
			if f.Lookup.Kind == "theme" {
				what = fmt.Sprintf("no part for it: it would need %s in one of %s", f.Lookup.File, list(f.Lookup.Parts))
			}
			return problem(Problem{Code: NotForThis, At: at, Says: say.Of("reading/has-no-part", name, d.Show(path.Dir(at)), what), Fix: say.Of("reading/choose-one-made-or-find", name)})
		}
		return problem(Problem{
			Code: OtherFolder, At: at,
			Says: say.Of("reading/not-looked-into", name, d.Show(path.Dir(at)), s.Does("do not look", "does not look")),
			Fix:  into(d, f.Lookup),
		})
	}
	searched := []any{s.Does("search", "searches"), kinds[f.Lookup.Kind], name}
	if meant := meant(d, f.Lookup, name); meant != "" {
		return problem(Problem{Code: NotFound, Says: say.Of("reading/no-folder-has-named-but", append(searched, meant)...), Fix: say.Of("reading/ask-instead", meant)})
	}
	return problem(Problem{Code: NotFound, Says: say.Of("reading/no-folder-has-named", searched...), Fix: say.Of("reading/install-or-choose-one-there", name)})
}

// into says where a piece has to go so that a lookup finds it.
func into(d *desk.Desk, l desk.Lookup) say.Message {
	if all := bases(d, l); len(all) > 0 {
		return say.Of("reading/put-into-as-well", d.Show(desk.Path(all[0])))
	}
	return say.Of("reading/looks-into-no-folder-choose")
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
	if other, ok := fontbook.Of(d, fontbook.Folders(d)).Setting(name); ok {
		return problem(Problem{
			Code: OtherFolder, At: desk.Path(other.File),
			Says: say.Of("reading/font-not-looked-into", family, d.Show(path.Dir(desk.Path(other.File))), s.Does("do not look", "does not look")),
			Fix:  into(d, f.Lookup),
		})
	}
	searches, fix := s.Does("search", "searches"), say.Of("reading/install-or-choose-one-there", family)
	if face, ok := instead(d, f.Lookup, family); ok {
		return problem(Problem{Code: NotFound, Says: say.Of("reading/no-folder-has-font-instead", searches, family, face.Family()), Fix: fix})
	}
	return problem(Problem{Code: NotFound, Says: say.Of("reading/no-folder-has-font-named", searches, family), Fix: fix})
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
	for _, s := range d.Surfaces() {
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

func isDir(d *desk.Desk, name string) bool { return d.Tree().IsDir(name) }

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
	return problem(Problem{
		Code: VariantMissing, At: r.Resolved,
		Says: say.Of("reading/asks-variant-does-not-have", r.Source.Key, r.Value, variant, s.Does("use", "uses")),
		Fix:  say.Of("reading/take-out-variable", ":"+variant),
	})
}

// darkMissing tells of a theme that a program leaves in the dark, as it has no dark form.
func darkMissing(d *desk.Desk, s desk.Surface, l desk.Lookup, r Reading) *Problem {
	if !l.DarkOwn || r.Resolved == "" || !inTheDark(d, s) {
		return nil
	}
	if sheet, _, err := FindSheet(d, l, r.Value, true); err != nil || sheet != "" {
		return nil
	}
	return problem(Problem{
		Code: DarkMissing, At: r.Resolved,
		Says: say.Of("reading/has-no-dark-form", r.Value, DarkForm(l.File), s.Does("use", "uses")),
		Fix:  say.Of("reading/light-or-a-theme-with-dark-form", s.Named()),
	})
}

// inTheDark reports whether a surface is told to be dark, by what does not hang on its theme.
func inTheDark(d *desk.Desk, s desk.Surface) bool {
	f, ok := s.Facet(desk.FacetDark)
	return ok && toldWithout(d, s, f, "{theme}") == "dark"
}

// EngineAt is the file of a drawing engine on the desk, where a surface of it looks for
// such; "" if it is nowhere.
func EngineAt(d *desk.Desk, engine string) string {
	for _, s := range d.Surfaces() {
		for _, f := range s.Facets {
			for _, pattern := range f.Lookup.Engines {
				if found := glob(d, path.Join(pattern, "lib"+engine+".so")); len(found) > 0 {
					return found[0]
				}
			}
		}
	}
	return ""
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
		return problem(Problem{
			Code: EngineMissing, At: l.Engines[0],
			Says: say.Of("reading/drawn-engine-not-installed-stay", theme, engine, s.Named()),
			Fix:  say.Of("reading/install-engine-or-choose-another", engine),
		})
	}
	return nil
}
