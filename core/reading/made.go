package reading

import (
	"errors"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/signed"
)

// ErrLocked: a look could be made and signed, and the system does not take the owner's key.
var ErrLocked = errors.New("the system does not take your key yet")

// MadeFrom is what a plan makes something for a surface from.
type MadeFrom struct {
	Folder string    // of the piece, as a path of the desk
	Part   desk.Part // of a theme: which of its folders, and the sheet in it
}

// Makes tells from what a plan can make what a surface looks for by a name. Errors are those of
// [Find] for the piece, and [ErrLocked].
func Makes(d *desk.Desk, f desk.Facet, name string) (MadeFrom, error) {
	l := f.Lookup
	if len(l.From) == 0 || name == "" || strings.Contains(name, "/") || slices.Contains(l.BuiltIn, name) {
		return MadeFrom{}, ErrNotThere
	}
	from, err := madeFrom(d, l, name)
	if err == nil && f.Places != nil {
		err = PackServes(d, f, name)
	}
	if err != nil || !l.Signed {
		return from, err
	}
	if _, lock := d.Locked(); lock == nil || d.SigningKey == nil || !slices.Contains(Owners(d, lock), signed.Public(d.SigningKey)) {
		return from, ErrLocked
	}
	return from, nil
}

// madeFrom is the piece, wherever among the folders.
func madeFrom(d *desk.Desk, l desk.Lookup, name string) (MadeFrom, error) {
	from := desk.Lookup{Kind: map[string]string{"pointer-list": "pointer", "places": "icon-theme"}[l.Kind], Folders: l.From}
	if l.Kind != "theme" {
		at, err := Find(d, from, name)
		return MadeFrom{Folder: at}, err
	}
	for _, part := range l.Made {
		for _, base := range d.Folders(l.From) {
			at := path.Join(base, name)
			if info, err := fs.Stat(d.Tree(), path.Join(at, part.Folder, part.File)); err == nil && info.Mode().IsRegular() {
				return MadeFrom{Folder: desk.Path(at), Part: part}, nil
			}
		}
	}
	return MadeFrom{}, ErrNotThere
}

// findMade returns the folder of what was made for a system by a name.
func findMade(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	if slices.Contains(l.BuiltIn, name) {
		return "", nil
	}
	if name == "" || strings.Contains(name, "/") {
		return "", ErrNotThere
	}
	for _, base := range bases(d, l) {
		at := path.Join(base, name)
		if !isDir(d, at) {
			continue
		}
		if l.File != "" {
			if info, err := fs.Stat(d.Tree(), path.Join(at, l.File)); err != nil || !info.Mode().IsRegular() {
				continue
			}
		}
		return desk.Path(at), nil
	}
	return "", ErrNotThere
}

// Possible tells why a plan could not make a surface show what is wanted, nil if it could: as
// [Check] does, but for what the plan can make first.
func Possible(d *desk.Desk, s desk.Surface, f desk.Facet, want string) error {
	err := Check(d, s, f, want)
	if err != nil && !errors.As(err, new(*ValueError)) {
		if _, e := Makes(d, f, want); e == nil || errors.Is(e, ErrLocked) {
			return e
		}
	}
	return err
}

// Reachable reports whether a plan could make a surface show what is wanted, now or once its
// system is unlocked.
func Reachable(d *desk.Desk, s desk.Surface, f desk.Facet, want string) bool {
	err := Possible(d, s, f, want)
	return err == nil || errors.Is(err, ErrLocked)
}

// MadeSheet is the style sheet in a theme from which a plan would make the one that a surface
// wears, dark if it has such a form.
func MadeSheet(d *desk.Desk, l desk.Lookup, name string, dark bool) (file string, err error) {
	from, err := madeFrom(d, l, name)
	if err != nil {
		return "", err
	}
	at := path.Join(from.Folder, from.Part.Folder, from.Part.File)
	if dark && d.Exists(DarkForm(at)) {
		return DarkForm(at), nil
	}
	return at, nil
}
