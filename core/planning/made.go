package planning

import (
	"errors"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/signed"
)

// What a look that is made may have at most.
const (
	maxLookFiles = 2000
	maxLookBytes = 32 << 20
)

// ErrLookLarge: a theme is too large for a look to be made of it.
var ErrLookLarge = errors.New("it has more files, or larger ones, than a look is made of")

// look is one that is made: its files by their paths in it.
type look struct {
	s     desk.Surface
	f     desk.Facet
	from  string // the folder of the theme
	files map[string][]byte
}

// makeLook takes from a theme what a look needs for a surface. Of one that has been made before
// the rest stays.
func (b *builder) makeLook(s desk.Surface, f desk.Facet, name string, from reading.MadeFrom) error {
	if b.looks == nil {
		b.looks = map[string]*look{}
	}
	l := b.looks[name]
	if l == nil {
		l = &look{s: s, f: f, from: from.Folder, files: map[string][]byte{}}
		b.looks[name] = l
		if at := path.Join(f.Lookup.Folders[0], name); b.signedByOwner(at, name) {
			if err := take(b.seen, at, "", nil, l.files); err != nil {
				return err
			}
		}
	}
	to := f.Lookup.Parts[0]
	rename := map[string]string{from.Part.File: f.Lookup.File, reading.DarkForm(from.Part.File): reading.DarkForm(f.Lookup.File)}
	if err := take(b.seen, path.Join(from.Folder, from.Part.Folder), to, rename, l.files); err != nil {
		return err
	}
	err := take(b.seen, path.Join(from.Folder, "assets"), "assets", nil, l.files) // which sheets name beside their folder
	if errors.Is(err, fs.ErrNotExist) {
		err = nil
	}
	return err
}

// signedByOwner reports whether a look was made by Ivelt on this desk.
func (b *builder) signedByOwner(at, name string) bool {
	_, lock := b.seen.Locked()
	by, err := reading.SignedBy(b.seen, lock, at, name)
	return err == nil && by == signed.Public(b.seen.SigningKey)
}

// take adds the files below a folder of a desk to some, below another folder and with other
// names for some. Links are followed; pipes and the like are left out.
func take(d *desk.Desk, folder, below string, rename map[string]string, to map[string][]byte) error {
	total := 0
	for _, have := range to {
		total += len(have)
	}
	var walk func(rel string, depth int) error
	walk = func(rel string, depth int) error {
		if depth > 16 {
			return ErrLookLarge
		}
		entries, err := fs.ReadDir(d.Tree(), path.Join(desk.Name(folder), rel))
		if err != nil {
			return err
		}
		for _, e := range entries {
			at := path.Join(rel, e.Name())
			info, err := fs.Stat(d.Tree(), path.Join(desk.Name(folder), at))
			switch {
			case err != nil:
				continue // a link that leads nowhere
			case info.IsDir():
				if err := walk(at, depth+1); err != nil {
					return err
				}
				continue
			case !info.Mode().IsRegular() || strings.ContainsAny(at, "\n\r\\"):
				continue
			}
			content, err := d.Tree().ReadFile(path.Join(desk.Name(folder), at))
			if err != nil {
				return err
			}
			if other := rename[at]; other != "" {
				at = other
			}
			name := path.Join(below, at)
			total += len(content) - len(to[name])
			to[name] = content
			if len(to) > maxLookFiles || total > maxLookBytes {
				return ErrLookLarge
			}
		}
		return nil
	}
	return walk(".", 0)
}

// putLooks adds, before all else, the operations that put the looks that were made in place,
// sign them, and tell the watchman of them.
func (b *builder) putLooks() error {
	if len(b.looks) == 0 {
		return nil
	}
	rest := b.plan.Ops
	b.plan.Ops = nil
	_, lock := b.d.Locked()
	for _, name := range slices.Sorted(maps.Keys(b.looks)) {
		l := b.looks[name]
		files, err := b.lookFiles(lock, name, l)
		if err != nil {
			return err
		}
		if err := b.tellWatchman(l.s, lock, files); err != nil {
			return err
		}
		for _, at := range slices.Sorted(maps.Keys(files)) {
			why := say.Of("plan/make-look", name, b.d.Show(l.from))
			if err := b.edit(at, l.s, l.f, why, plan.MachineRestart, func([]byte) []byte { return files[at] }); err != nil {
				return err
			}
		}
		if err := b.clearLook(l, path.Join(l.f.Lookup.Folders[0], name), files); err != nil {
			return err
		}
	}
	b.plan.Ops = append(b.plan.Ops, rest...)
	return nil
}

// lookFiles are the files of a look that is made, with those beside it, by their paths.
func (b *builder) lookFiles(lock *desk.Lock, name string, l *look) (map[string][]byte, error) {
	folder := path.Join(l.f.Lookup.Folders[0], name)
	out := map[string][]byte{}
	var sums []signed.Sum
	for rel, content := range l.files {
		out[path.Join(folder, rel)] = content
		sums = append(sums, signed.Sum{Path: rel, SHA256: signed.Digest(content)})
	}
	out[strings.ReplaceAll(lock.Signature, "{look}", name)] = signed.Make(b.seen.SigningKey, name, signed.Lines(sums))
	if lock.Card != "" {
		card := &keyfile.File{}
		for _, s := range b.d.Surfaces() {
			for _, f := range s.Facets {
				if f.Lookup.Signed && f.Key != "" {
					card.Set("Card", f.Key, name)
				}
			}
		}
		out[strings.ReplaceAll(lock.Card, "{look}", name)] = card.Bytes()
	}
	return out, nil
}

// clearLook takes away what is in a look's folder and no longer of it, which would not be what
// was signed.
func (b *builder) clearLook(l *look, folder string, files map[string][]byte) error {
	old := map[string][]byte{}
	if err := take(b.d, folder, "", nil, old); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	for _, rel := range slices.Sorted(maps.Keys(old)) {
		at := path.Join(folder, rel)
		if _, stays := files[at]; stays {
			continue
		}
		now, err := plan.Look(b.d, at)
		if err != nil {
			return err
		}
		b.add(plan.Op{Kind: plan.Remove, Path: at, Before: now, Surface: l.s.ID, Facet: l.f.Name, Says: say.Of("plan/not-of-the-look"), Effect: plan.MachineRestart})
	}
	return nil
}

// tellWatchman adds files to those that a watchman knows, by their paths.
func (b *builder) tellWatchman(s desk.Surface, lock *desk.Lock, files map[string][]byte) error {
	w := lock.Watchman
	if w == nil {
		return nil
	}
	return b.edit(w.Known.Path, s, desk.Facet{}, say.Of("plan/tell-watchman", w.Title), plan.AtOnce, func(old []byte) []byte {
		kf, err := keyfile.Parse(old)
		if err != nil {
			return old
		}
		for _, at := range slices.Sorted(maps.Keys(files)) {
			if slices.ContainsFunc(w.Below, func(top string) bool { return strings.HasPrefix(at, top+"/") }) {
				kf.Set(w.Known.Group, at, signed.Digest(files[at]))
			}
		}
		return kf.Bytes()
	})
}

// makes adds what has to be made so that a surface finds what is wanted, and reports whether
// that is so.
func (b *builder) makes(s desk.Surface, f desk.Facet, want string) (bool, error) {
	from, err := reading.Makes(b.seen, f, want)
	if errors.Is(err, reading.ErrLocked) {
		return false, err
	}
	if err != nil {
		return false, nil // it is told why by what looks for it
	}
	switch f.Lookup.Kind {
	case "theme":
		err = b.makeLook(s, f, want, from)
	case "pointer-list":
		err = b.makePointers(s, f, want, from)
	}
	if errors.Is(err, ErrLookLarge) {
		return false, say.Errorf("%s: %w", want, err)
	}
	return err == nil, err
}
