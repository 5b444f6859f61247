// Package learning is how Ivelt learns where a program keeps its settings: it looks, the
// person changes one thing in the program, it looks again, and so on, and writes a
// descriptor of what it was told.
package learning

import (
	"bytes"
	"context"
	"errors"
	"io/fs"
	"maps"
	"os"
	"path"
	"slices"
	"strings"
	"sync"

	"ivelt/core/desk"
	"ivelt/core/learn"
	"ivelt/core/say"
)

// Talk is one go at learning a program. It may be used from several goroutines.
type Talk struct {
	d     *desk.Desk
	About learn.About
	Asked []string // the places as they were named

	mu      sync.Mutex
	before  *learn.Look
	often   map[string]int // how many times a place has changed
	found   Found
	lessons []learn.Lesson
}

// Talks are those that are going on, one for each desk at most.
type Talks struct {
	mu sync.Mutex
	of map[string]*Talk
}

// NewTalks has none.
func NewTalks() *Talks { return &Talks{of: map[string]*Talk{}} }

// Of is the one that is going on for a desk, or nil.
func (t *Talks) Of(d *desk.Desk) *Talk {
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.of[d.ID]
}

// Begin begins one, in the place of another that was going on.
func (t *Talks) Begin(ctx context.Context, d *desk.Desk, about learn.About, places []string) error {
	talk, err := Begin(ctx, d, about, places)
	if err != nil {
		return err
	}
	t.mu.Lock()
	defer t.mu.Unlock()
	t.of[d.ID] = talk
	return nil
}

// End ends the one of a desk; what was not written is forgotten.
func (t *Talks) End(d *desk.Desk) {
	t.mu.Lock()
	defer t.mu.Unlock()
	delete(t.of, d.ID)
}

// Found is what differed when it was looked again.
type Found struct {
	Rounds  int // how many times it was looked again
	Likely  []learn.Change
	Noise   []learn.Change
	Other   []string // files that differ in nothing that is read as a setting
	Files   int      // that were looked at
	Values  int
	Left    []string // files that were not read
	Lessons []learn.Lesson
}

// ErrAbout: what is said of the program cannot be used.
var ErrAbout = errors.New("cannot be used")

// Kinds are the kinds of surface that can be learned, with what each is called.
var Kinds = [][2]say.Word{{"program", "a program"}, {"terminal", "a terminal"}, {"shell", "a bar or a shell"}, {"readout", "a readout or notices"}, {"login", "a login screen"}}

// Begin takes the first look.
func Begin(ctx context.Context, d *desk.Desk, about learn.About, places []string) (*Talk, error) {
	about.Title = strings.TrimSpace(about.Title)
	if about.Title == "" {
		about.Title = about.ID
	}
	if !desk.IsID(about.ID) {
		return nil, say.Errorf("%w: the id %q is not of small letters, digits and dashes", ErrAbout, about.ID)
	}
	if s, taken := d.Surface(about.ID); taken && !d.Exists(learn.FileOf(d, about.ID)) {
		return nil, say.Errorf("%w: %s is a surface that is known already, %s", ErrAbout, about.ID, s.Title)
	}
	look, err := learn.At(ctx, d, places)
	if err != nil {
		return nil, err
	}
	return &Talk{d: d, About: about, Asked: places, before: look, often: map[string]int{}, found: Found{Files: look.Files, Values: look.Values, Left: look.Left}}, nil
}

// Now is what is known so far.
func (t *Talk) Now() Found {
	t.mu.Lock()
	defer t.mu.Unlock()
	out := t.found
	out.Likely, out.Noise, out.Lessons = slices.Clone(out.Likely), slices.Clone(out.Noise), slices.Clone(t.lessons)
	return out
}

// Again looks again. If nothing differs, what differed before is still what is asked
// about.
func (t *Talk) Again(ctx context.Context) (Found, error) {
	t.mu.Lock()
	look, err := learn.At(ctx, t.d, t.Asked)
	if err != nil {
		t.mu.Unlock()
		return Found{}, err
	}
	changes, other := look.Since(t.before)
	t.found.Likely, t.found.Noise = learn.Sort(changes, t.often)
	for _, c := range changes {
		t.often[c.Place()]++
	}
	t.before = look
	t.found.Rounds++
	t.found.Other, t.found.Files, t.found.Values, t.found.Left = other, look.Files, look.Values, look.Left
	t.mu.Unlock()
	return t.Now(), nil
}

// Change finds one of those found by its place.
func (t *Talk) Change(place string) (learn.Change, bool) {
	t.mu.Lock()
	defer t.mu.Unlock()
	for _, c := range slices.Concat(t.found.Likely, t.found.Noise) {
		if c.Place() == place {
			return c, true
		}
	}
	return learn.Change{}, false
}

// Guess is the facet that a change most likely is of.
func (t *Talk) Guess(c learn.Change) string { return learn.Guess(t.d, t.About.Kind, c) }

// ErrChange: the change that is meant is not among those found.
var ErrChange = errors.New("that is not among what changed; look again")

// Teach says what a change was. What was said of the same facet before is forgotten.
func (t *Talk) Teach(place, facet string, words map[string]string) error {
	t.mu.Lock()
	defer t.mu.Unlock()
	all := slices.Concat(t.found.Likely, t.found.Noise)
	i := slices.IndexFunc(all, func(c learn.Change) bool { return c.Place() == place })
	if i < 0 {
		return ErrChange
	}
	l := learn.Lesson{Change: all[i], Facet: facet, Words: words}
	at := slices.IndexFunc(t.lessons, func(have learn.Lesson) bool { return have.Facet == facet })
	if at >= 0 && t.lessons[at].Place() == place && len(words) > 0 { // a word more of the same setting
		l.Words = maps.Clone(t.lessons[at].Words)
		maps.Copy(l.Words, words)
	}
	if err := l.Check(); err != nil {
		return err
	}
	if at >= 0 {
		t.lessons[at] = l
	} else {
		t.lessons = append(t.lessons, l)
	}
	t.found.Likely, t.found.Noise = nil, nil
	return nil
}

// Forget takes back what was said of a facet.
func (t *Talk) Forget(facet string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.lessons = slices.DeleteFunc(t.lessons, func(l learn.Lesson) bool { return l.Facet == facet })
}

// Descriptor is the text that [Talk.Write] would write.
func (t *Talk) Descriptor() ([]byte, error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	old, err := fs.ReadFile(t.d.Tree(), desk.Name(learn.FileOf(t.d, t.About.ID)))
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, err
	}
	return learn.Descriptor(t.d, t.About, t.lessons, old)
}

// Write keeps the descriptor among the person's own, and makes the surface one of the
// desk. It returns the path.
func (t *Talk) Write() (string, error) {
	b, err := t.Descriptor()
	if err != nil {
		return "", err
	}
	at := learn.FileOf(t.d, t.About.ID)
	if err := keep(t.d, at, b); err != nil {
		return "", err
	}
	t.mu.Lock()
	t.lessons = nil
	t.mu.Unlock()
	return at, errors.Join(t.d.OwnSurfaces()...)
}

// keep writes a file of the person's, and nothing outside of the home, whatever links
// lead there.
func keep(d *desk.Desk, at string, b []byte) error {
	rel, ok := strings.CutPrefix(at, d.HomePath+"/")
	if !ok {
		return say.Errorf("%w: %s is not in the home", ErrAbout, at)
	}
	home, err := os.OpenRoot(d.Home)
	if err != nil {
		return err
	}
	defer home.Close()
	if err := home.MkdirAll(path.Dir(rel), 0o755); err != nil {
		return err
	}
	if have, err := home.ReadFile(rel); err == nil && bytes.Equal(have, b) {
		return nil
	}
	fresh := rel + ".new"
	if err := home.WriteFile(fresh, b, 0o644); err != nil {
		return err
	}
	return home.Rename(fresh, rel)
}
