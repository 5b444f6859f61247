package desk

import (
	"errors"
	"path"
	"regexp"
	"strings"

	"github.com/Masterminds/semver/v3"

	"ivelt/core/say"
)

// Lock says of a system that takes signed looks alone how that is, and how its owner
// can have a key of their own taken.
type Lock struct {
	Release   Source    `toml:"release"`   // where its version is told, a semantic one
	Vendor    string    `toml:"vendor"`    // the file with its vendor's key, in base64
	Signature string    `toml:"signature"` // the file that signs a look, with {look} in it
	Card      string    `toml:"card"`      // the file that is opened to apply one, with {look} in it
	Methods   []Unlock  `toml:"unlock"`    // how an owner's key is told, by version
	Watchman  *Watchman `toml:"watchman"`  // what looks after its files
	Marks     *Marks    `toml:"marks"`     // the system's own checkpoints
	Shown     LockShown `toml:"shown"`     // where the running system tells how it came up
	Defaults  []string  `toml:"defaults"`  // surfaces that have to be told nothing before it is unlocked
	Again     string    `toml:"again"`     // what starts it again, typed on a text console
	Undone    []string  `toml:"undone"`    // what an update of the system takes back, in words
}

// Unlock is one way to have an owner's key taken.
type Unlock struct {
	Name     string `toml:"name"`
	Title    string `toml:"title"`
	Versions string `toml:"versions"` // a range as semantic versions are compared
	Does     string `toml:"does"`     // in a sentence
	Key      Source `toml:"key"`      // where the key is told
	// Sets are what has to be said beside it, each a key of the same file and group and a
	// value with {release} and {computer} in it.
	Sets map[string]string `toml:"sets"`
}

// Watchman is a program that sets aside what it does not know.
type Watchman struct {
	Title  string   `toml:"title"`
	On     Source   `toml:"on"`     // whether it watches: "off" if not
	Known  Source   `toml:"known"`  // the group with the files that it knows, each with its SHA-256
	Vendor Source   `toml:"vendor"` // the same of what the vendor put there
	Aside  Source   `toml:"aside"`  // the group with what it has set aside
	Below  []string `toml:"below"`  // the folders that it looks into
}

// Marks are checkpoints that the system makes of itself.
type Marks struct {
	Folder  string `toml:"folder"` // one folder a mark in it
	File    string `toml:"file"`   // the key file in that which describes it
	Group   string `toml:"group"`
	At      string `toml:"at"`      // keys in that: when it was made, RFC 3339,
	Release string `toml:"release"` // of which release,
	Sum     string `toml:"sum"`     // and the SHA-256 of what is kept
	Archive string `toml:"archive"` // the file in it that has what is kept
	Make    string `toml:"make"`    // what makes one, typed on a console
	Return  string `toml:"return"`  // what goes back to one, with {mark} in it
}

// LockShown is where the running system tells how it came up.
type LockShown struct {
	Accepts Source `toml:"accepts"` // the owner's keys that it takes
	Refused Source `toml:"refused"` // why it did not take the look that it was told
	Black   Source `toml:"black"`   // "yes" if it shows nothing
	Why     Source `toml:"why"`     // and why
	Release Source `toml:"release"` // which one came up
}

// Locked returns the desk's surface that has a lock, and the lock; nil if there is none.
func (d *Desk) Locked() (Surface, *Lock) {
	for _, s := range d.Surfaces() {
		if s.Lock != nil {
			return s, s.Lock
		}
	}
	return Surface{}, nil
}

// Fits reports whether the method is one for a release.
func (u Unlock) Fits(release string) bool {
	v, err := semver.StrictNewVersion(release)
	if err != nil {
		return false
	}
	c, err := semver.NewConstraint(u.Versions)
	return err == nil && c.Check(v)
}

// Method is the way that fits a release; false if none does.
func (l *Lock) Method(release string) (Unlock, bool) {
	for _, u := range l.Methods {
		if u.Fits(release) {
			return u, true
		}
	}
	return Unlock{}, false
}

var plainLine = regexp.MustCompile(`^([A-Za-z0-9_./-]+( [A-Za-z0-9_./-]+)*)?$`)

// locked tells what of a lock cannot be used.
func (s Surface) locked() error {
	l := s.Lock
	if l == nil {
		return nil
	}
	sources := []Source{l.Release, l.Shown.Accepts, l.Shown.Refused, l.Shown.Black, l.Shown.Why, l.Shown.Release}
	for _, u := range l.Methods {
		if _, err := semver.NewConstraint(u.Versions); err != nil || u.Name == "" || u.Title == "" {
			return say.Errorf("unlock %q is not for the versions %q", u.Name, u.Versions)
		}
		sources = append(sources, u.Key)
	}
	lines := []string{l.Again}
	if l.Marks != nil {
		lines = append(lines, l.Marks.Make, strings.ReplaceAll(l.Marks.Return, "{mark}", "x"))
	}
	for _, line := range lines { // which people are shown to type as an administrator
		if !plainLine.MatchString(line) {
			return say.Errorf("what is typed on a console is a program with plain arguments, not %q", line)
		}
	}
	paths := []string{l.Vendor, strings.ReplaceAll(l.Signature, "{look}", "x"), strings.ReplaceAll(l.Card, "{look}", "x")}
	if w := l.Watchman; w != nil {
		sources = append(sources, w.On, w.Known, w.Vendor, w.Aside)
		paths = append(paths, w.Below...)
	}
	if m := l.Marks; m != nil {
		paths = append(paths, m.Folder)
		if path.IsAbs(m.File) || !clean(m.File) || m.File == "" || path.IsAbs(m.Archive) || !clean(m.Archive) || m.Archive == "" {
			return errors.New("a mark is described, and kept, in files of its folder")
		}
	}
	for _, src := range sources {
		if src.Format != "keyfile" || src.Group == "" {
			return say.Errorf("of %s: a group of a key file is meant", src.Path)
		}
		if err := s.source(src); err != nil {
			return err
		}
	}
	return s.placed("lock", paths...)
}
