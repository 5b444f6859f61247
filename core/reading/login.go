package reading

import (
	"errors"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/say"
)

// ErrLogin: a login screen could not come up with it.
var ErrLogin = errors.New("the login screen could not come up with it")

// findLogin returns the folder of a login theme. Its description and every file
// that names have to be there: a login screen that fails lets nobody in.
func findLogin(d *desk.Desk, l desk.Lookup, name string) (string, error) {
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
		b, err := fs.ReadFile(d.Tree(), path.Join(at, l.File))
		if err != nil {
			return "", say.Errorf("%w: it has no %s", ErrLogin, l.File)
		}
		kf, err := keyfile.Parse(b)
		if err != nil {
			return "", say.Errorf("%w: %s: %w", ErrLogin, l.File, err)
		}
		for _, key := range l.Names {
			group, key, _ := strings.Cut(key, "/")
			file := kf.Get(group, key)
			if file == "" {
				continue
			}
			if info, err := fs.Stat(d.Tree(), path.Join(at, file)); err != nil || !fs.ValidPath(file) || info.IsDir() || info.Size() == 0 {
				return "", say.Errorf("%w: %s names %s, which is not in it", ErrLogin, l.File, file)
			}
		}
		return desk.Path(at), nil
	}
	return "", ErrNotThere
}

// CheckSession tells whether there is a session for a login screen to start.
func CheckSession(d *desk.Desk, s desk.Surface) error {
	if s.Greeter == nil {
		return nil
	}
	name := s.Greeter.Usual
	for _, step := range Ask(d, s, desk.Facet{}, s.Greeter.Session) {
		if step.State == Wins {
			name = step.Value
		}
	}
	for _, folder := range d.Folders(s.Greeter.Folders) {
		if _, err := fs.Stat(d.Tree(), path.Join(folder, name+".desktop")); err == nil {
			return nil
		}
	}
	return say.Errorf("%w: there is no session %s for it to start", ErrLogin, Quoted(name))
}

// Fatal tells why a login screen or a shell would not come up with what it is told
// now, nil if it would: one that fails leaves the person with a text console.
func Fatal(d *desk.Desk, s desk.Surface) *Problem {
	d = d.Snapshot()
	if err := CheckSession(d, s); err != nil {
		return problem(Problem{Code: LoginFails, Says: say.Of("reading/would-not-come-up", s.Named(), err), Fix: say.Of("reading/choose-session-there")})
	}
	if s.Lock != nil {
		if why := Black(d); why.Code != "" {
			return problem(Problem{Code: StaysBlack, Says: say.Of("reading/would-stay-black", why), Fix: say.Of("reading/take-that-out")})
		}
	}
	for _, f := range s.Facets {
		f.Loaded = nil
		p := Of(d, s, f).Problem
		if p != nil && (s.Greeter != nil && p.Code != BrokenSource && desk.Vital(f.Name) || p.Code == OtherVersion) {
			return p
		}
	}
	return nil
}
