// Package learn finds out where a program keeps a setting. It looks at folders of
// settings, the person changes one thing in the program itself, and it looks again: what
// differs is where the setting stands. Of what was found it writes a surface's
// descriptor.
package learn

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/say"
	"ivelt/core/settingsfile"
)

// What is looked at in all at most.
const (
	maxFiles  = 5000
	maxFolder = 20_000
	maxDepth  = 8
	maxFile   = settingsfile.MaxBytes
	maxAll    = 128 << 20 // bytes
)

// ErrFolder: a folder that is to be looked at is none, or has more in it than settings.
var ErrFolder = errors.New("cannot be looked at")

// Look is what stood in folders of settings at one time.
type Look struct {
	Folders []string // paths of the desk
	Files   int
	Values  int
	Left    []string // files that are too large, no text, or could not be read
	files   map[string]file
}

// file is one file of settings: what it holds, or the sum of its letters alone.
type file struct {
	format string
	sum    [sha256.Size]byte
	values []settingsfile.Value
}

// At looks at folders of a desk, and at files that are named. Folders in them are
// followed, links to folders are not. What programs keep that is no setting, databases
// and pictures, is left.
func At(ctx context.Context, d *desk.Desk, places []string) (*Look, error) {
	l := &Look{files: map[string]file{}}
	if len(places) == 0 {
		return nil, say.Errorf("%w: no folder is named", ErrFolder)
	}
	tree, seen, all := d.Tree(), 0, int64(0)
	var walk func(p string, depth int) error
	read := func(p string, info fs.FileInfo) {
		if l.Files++; !info.Mode().IsRegular() || info.Size() > maxFile || all+info.Size() > maxAll {
			l.Left = append(l.Left, p)
			return
		}
		all += info.Size()
		b, err := tree.ReadSettings(desk.Name(p))
		if err != nil || bytes.IndexByte(b, 0) >= 0 {
			l.Left = append(l.Left, p)
			return
		}
		f := sniffed(p, b)
		l.Values += len(f.values)
		l.files[p] = f
	}
	walk = func(p string, depth int) error {
		list, err := tree.ReadDir(desk.Name(p))
		if err != nil {
			return err
		}
		for _, e := range list {
			if seen++; seen > maxFolder || l.Files > maxFiles {
				return say.Errorf("%w: more than %d files are below %s; name the program's own folder", ErrFolder, maxFiles, d.Show(places[0]))
			}
			if err := ctx.Err(); err != nil {
				return err
			}
			at := path.Join(p, e.Name())
			info, err := tree.Stat(desk.Name(at))
			switch {
			case err != nil:
				l.Left = append(l.Left, at)
			case e.IsDir() && depth < maxDepth && !slices.Contains(caches, strings.ToLower(e.Name())):
				if err := walk(at, depth+1); err != nil && ctx.Err() != nil || errors.Is(err, ErrFolder) {
					return err
				}
			case !info.IsDir():
				read(at, info)
			}
		}
		return nil
	}
	for _, p := range places {
		at := d.First(p)
		info, err := tree.Stat(desk.Name(at))
		if !path.IsAbs(at) || err != nil {
			return nil, say.Errorf("%w: %s: %w", ErrFolder, p, errors.Join(err))
		}
		l.Folders = append(l.Folders, at)
		if !info.IsDir() {
			read(at, info)
			continue
		}
		if err := walk(at, 0); err != nil {
			return nil, say.Errorf("%s: %w", p, err)
		}
	}
	slices.Sort(l.Left)
	return l, nil
}

// caches are folders that hold no settings: common practice, no source.
var caches = []string{"cache", "caches", "code cache", "gpucache", "crash reports", "logs", "blob_storage", "node_modules", ".git", "indexeddb"}

// sniffed reads a file in the form that its name, or else its letters, tell.
func sniffed(name string, b []byte) file {
	f := file{sum: sha256.Sum256(b)}
	try := func(forms ...settingsfile.Form) bool {
		for _, form := range forms {
			values, err := settingsfile.Parse(form, b)
			if err == nil {
				f.format, f.values = string(form), values
				return true
			}
		}
		return false
	}
	text := bytes.TrimSpace(bytes.TrimPrefix(b, []byte("\xef\xbb\xbf")))
	switch ext := strings.ToLower(path.Ext(name)); {
	case ext == ".json" || ext == ".jsonc" || ext == ".json5":
		try(settingsfile.JSON, settingsfile.Lines)
	case ext == ".toml":
		try(settingsfile.TOML, settingsfile.Lines)
	case ext == ".yaml" || ext == ".yml":
		try(settingsfile.YAML, settingsfile.Lines)
	case ext == ".xml" || bytes.HasPrefix(text, []byte("<")):
		try(settingsfile.XML, settingsfile.Lines)
	case bytes.HasPrefix(text, []byte("{")) || bytes.HasPrefix(text, []byte("//")):
		try(settingsfile.JSON, settingsfile.Lines)
	default:
		try(settingsfile.Lines)
	}
	if f.format == string(settingsfile.Lines) {
		if values, ok := keyFile(b, f.values); ok {
			f.format, f.values = "keyfile", values
		}
	}
	return f
}

// keyFile reads a file as a key file, whose escapes are undone then, if that says of
// every line what the line says.
func keyFile(b []byte, lines []settingsfile.Value) ([]settingsfile.Value, bool) {
	kf, err := keyfile.Parse(b)
	if err != nil || len(kf.Groups()) == 0 {
		return nil, false
	}
	var out []settingsfile.Value
	on := map[int]int{}
	for i, v := range lines {
		on[v.Line] = i
	}
	for _, group := range kf.Groups() {
		for _, e := range kf.Entries(group) {
			i, ok := on[e.Line]
			if !ok || !lines[i].Bare || lines[i].Text != strings.TrimRight(e.Value, " \t") {
				return nil, false
			}
			out = append(out, settingsfile.Value{Group: group, Key: e.Key, Text: keyfile.Unescape(e.Value), Line: e.Line, Bare: true})
		}
	}
	return out, len(out) == len(lines)
}

// Change is one value that was not what it had been.
type Change struct {
	Path       string // of the file, on the desk
	Format     string // of a source: "keyfile", "lines" …
	Group, Key string
	Line       int    // in the file as it is now; of one that is gone, as it was
	From, To   string // "" too if it was not there, or is gone
	New, Gone  bool
	Noise      string // why it is hardly what the person changed; "" if it may be
}

// Place tells a change from others.
func (c Change) Place() string { return c.Path + "\t" + c.Group + "\t" + c.Key }

// Since lists what differs from an earlier look, by file and line; and the files that
// differ in nothing that is read as a setting.
func (l *Look) Since(before *Look) (changes []Change, other []string) {
	paths := map[string]bool{}
	for _, look := range []*Look{before, l} {
		for p := range look.files {
			paths[p] = true
		}
	}
	for p := range paths {
		was, is := before.files[p], l.files[p]
		if was.sum == is.sum {
			continue
		}
		found := differences(p, was, is)
		if len(found) == 0 {
			other = append(other, p)
		}
		changes = append(changes, found...)
	}
	slices.SortFunc(changes, func(a, b Change) int {
		if a.Path != b.Path {
			return strings.Compare(a.Path, b.Path)
		}
		return a.Line - b.Line
	})
	slices.Sort(other)
	return changes, other
}

func differences(p string, was, is file) (out []Change) {
	type place struct{ group, key string }
	old, now := map[place]settingsfile.Value{}, map[place]settingsfile.Value{}
	for _, v := range was.values {
		old[place{v.Group, v.Key}] = v
	}
	for _, v := range is.values {
		now[place{v.Group, v.Key}] = v
	}
	for at, v := range now {
		if before, ok := old[at]; !ok || before.Text != v.Text {
			out = append(out, Change{Path: p, Format: is.format, Group: at.group, Key: at.key, Line: v.Line, From: before.Text, To: v.Text, New: !ok})
		}
	}
	for at, v := range old {
		if _, ok := now[at]; !ok {
			out = append(out, Change{Path: p, Format: was.format, Group: at.group, Key: at.key, Line: v.Line, From: v.Text, Gone: true})
		}
	}
	return out
}
