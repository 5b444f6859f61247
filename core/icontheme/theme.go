// Package icontheme reads icon themes and finds icons in them, after the Icon
// Theme Specification 0.13 of freedesktop.org.
//
// Two lookups are offered. [Index.Lookup] is the one programs really do: that
// of GTK 3, which adds tie-breaking rules, a preference for shrinking over
// enlarging, and symbolic icons to the specification's algorithm.
// [Index.LookupSpec] is the algorithm of the specification's section "Icon
// Lookup", word for word.
//
// A theme may be spread over several base folders; its description is the
// first readable index.theme in their order.
package icontheme

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"strconv"
	"strings"

	"ivelt/core/keyfile"
)

// Fallback is the theme every theme inherits in the end (specification,
// section "Directory Layout").
const Fallback = "hicolor"

var (
	// ErrNoIndex: the folder has no index.theme, so programs cannot use it.
	ErrNoIndex = errors.New("no index.theme")
	// ErrIndex: the index.theme is there but lacks what a theme must have.
	ErrIndex = errors.New("index.theme cannot be used")
)

// Type says how the icons of a directory may be scaled.
type Type string

// The values of the key Type; Threshold is what a missing or unknown one means.
const (
	Fixed     Type = "Fixed"
	Scalable  Type = "Scalable"
	Threshold Type = "Threshold"
)

// Directory is one per-directory section of an index.theme. Sizes are in px.
type Directory struct {
	Path                      string // below the theme's folder, as listed
	Size, Scale               int
	MinSize, MaxSize, Allowed int // Allowed is the key Threshold
	Type                      Type
	Context                   string
}

// Theme is the content of one index.theme.
type Theme struct {
	Folder      string // the name programs use
	Name        string // the name shown to people; the folder's if there is none
	Comment     string
	Example     string
	Inherits    []string
	Directories []Directory
	Hidden      bool
	Problems    []string // what a program would complain about and then pass over
}

const section = "Icon Theme"

const (
	maxIndex    = 1 << 20 // bytes of an index.theme: 200 folders take 10 kB
	maxInherits = 64
)

// Parse reads an index.theme. folder is the name of the folder it stands in.
// It fails if the bytes are not a key file, or have no section [Icon Theme]
// with a list of directories.
func Parse(folder string, b []byte) (*Theme, error) {
	if len(b) > maxIndex {
		return nil, fmt.Errorf("%w: it is longer than %d kB", ErrIndex, maxIndex>>10)
	}
	kf, err := keyfile.Parse(b)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrIndex, err)
	}
	return FromKeyFile(folder, kf)
}

// FromKeyFile is [Parse] for an index.theme that has been read as a key file.
func FromKeyFile(folder string, kf *keyfile.File) (*Theme, error) {
	t := &Theme{
		Folder:   folder,
		Name:     kf.Get(section, "Name"),
		Comment:  kf.Get(section, "Comment"),
		Example:  kf.Get(section, "Example"),
		Inherits: kf.List(section, "Inherits", ','),
		Hidden:   kf.Get(section, "Hidden") == "true",
	}
	if len(t.Inherits) > maxInherits {
		t.Problems = append(t.Problems, fmt.Sprintf("it inherits %d themes, of which the first %d are looked through", len(t.Inherits), maxInherits))
		t.Inherits = t.Inherits[:maxInherits]
	}
	if _, ok := kf.Lookup(section, "Directories"); !ok {
		return nil, fmt.Errorf("%w: section [%s] has no Directories", ErrIndex, section)
	}
	if t.Name == "" {
		t.Name = folder
		t.Problems = append(t.Problems, "it has no Name")
	}
	listed := kf.List(section, "Directories", ',')
	for _, dir := range append(listed, kf.List(section, "ScaledDirectories", ',')...) {
		d, err := parseDirectory(kf, dir)
		if err != nil {
			t.Problems = append(t.Problems, err.Error())
			continue
		}
		t.Directories = append(t.Directories, d)
	}
	return t, nil
}

func parseDirectory(kf *keyfile.File, dir string) (Directory, error) {
	number := func(key string, missing int) int {
		s := kf.Get(dir, key)
		if s == "" {
			return missing
		}
		n, err := strconv.Atoi(strings.TrimSpace(s))
		if err != nil {
			return 0 // what GKeyFile's integer reader leaves
		}
		return n
	}
	size, err := strconv.Atoi(strings.TrimSpace(kf.Get(dir, "Size")))
	if err != nil {
		return Directory{}, fmt.Errorf("directory %s has no Size", dir)
	}
	d := Directory{
		Path: dir, Size: size, Type: Threshold, Context: kf.Get(dir, "Context"),
		Scale:   number("Scale", 1),
		MinSize: number("MinSize", size), MaxSize: number("MaxSize", size),
		Allowed: number("Threshold", 2),
	}
	switch t := Type(kf.Get(dir, "Type")); t {
	case Fixed, Scalable:
		d.Type = t
	}
	return d, nil
}

// Find returns the description of the theme in folder name, looking through
// the base folders in order, and the path of the index.theme it came from. A
// description that cannot be read is passed over for one in a later base
// folder; if none is left the error says why, wrapping [ErrNoIndex] or
// [ErrIndex].
func Find(fsys fs.FS, bases []string, name string) (*Theme, string, error) {
	var broken error
	if name == "" || !fs.ValidPath(name) {
		return nil, "", fmt.Errorf("icon theme %q: %w", name, ErrNoIndex)
	}
	for _, base := range bases {
		p := path.Join(base, name, "index.theme")
		if fi, err := fs.Stat(fsys, p); err != nil || !fi.Mode().IsRegular() {
			continue
		}
		b, err := fs.ReadFile(fsys, p)
		if err == nil {
			var t *Theme
			if t, err = Parse(name, b); err == nil {
				return t, p, nil
			}
		}
		if broken == nil {
			broken = fmt.Errorf("%s: %w", p, err)
		}
		if errors.Is(err, keyfile.ErrSyntax) {
			continue
		}
		break // readable but no theme: programs stop here and do without it
	}
	if broken != nil {
		return nil, "", broken
	}
	return nil, "", fmt.Errorf("icon theme %q: %w", name, ErrNoIndex)
}
