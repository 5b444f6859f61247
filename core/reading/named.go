package reading

import (
	"errors"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"

	"github.com/Masterminds/semver/v3"

	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/keyfile"
	"ivelt/core/palette"
	"ivelt/core/say"
)

var (
	// ErrNoPicture: the file is no picture.
	ErrNoPicture = errors.New("it is no PNG, JPEG or SVG")
	// ErrFormat: it is a picture of a kind that the program does not show.
	ErrFormat = errors.New("the program does not show this kind of picture")
	// ErrWithin: it lies where the program does not get at it.
	ErrWithin = errors.New("the program does not get at it there")
	// ErrVersion: it was made for other versions of the program.
	ErrVersion = errors.New("it was made for another version")
	// ErrProgram: there is no program of that path.
	ErrProgram = errors.New("there is no such program")
)

// Slides are the pictures in a folder of a tree, sorted, if it is one: what is
// shown of it one after the other.
func Slides(tree fs.FS, folder string) []string {
	entries, err := fs.ReadDir(tree, folder)
	if err != nil {
		return nil
	}
	var out []string
	for _, e := range entries {
		if slices.Contains([]string{".png", ".jpg", ".jpeg", ".svg"}, strings.ToLower(path.Ext(e.Name()))) {
			out = append(out, path.Join(folder, e.Name()))
		}
	}
	return out
}

// findPicture is the picture that a path names, if the program can show it.
func findPicture(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	if slices.Contains(l.BuiltIn, name) {
		return "", nil
	}
	if l.Slides && path.IsAbs(name) && len(Slides(d.Tree(), desk.Name(name))) > 0 {
		return path.Clean(name), nil
	}
	f, err := d.Tree().Open(desk.Name(name))
	if err != nil || !path.IsAbs(name) {
		return "", ErrNotThere
	}
	defer f.Close()
	head := make([]byte, 4096)
	n, err := io.ReadFull(f, head)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) {
		return "", ErrNoPicture
	}
	kind := imagefile.MediaType(head[:n])
	if kind == "" {
		return "", ErrNoPicture
	}
	if short := strings.TrimSuffix(strings.TrimPrefix(kind, "image/"), "+xml"); len(l.Formats) > 0 && !slices.Contains(l.Formats, short) {
		return "", say.Errorf("%w: it is %s, and not %s", ErrFormat, strings.ToUpper(short), strings.Join(upper(l.Formats), " or "))
	}
	if kind != "image/svg+xml" && len(l.Formats) > 0 { // one that has to come up whatever happens is read whole
		if raw, err := fs.ReadFile(d.Tree(), desk.Name(name)); err != nil {
			return "", ErrNoPicture
		} else if err := imagefile.Readable(raw); err != nil {
			return "", say.Errorf("%w that can be read: %w", ErrNoPicture, err)
		}
	}
	if len(l.Within) > 0 && !slices.ContainsFunc(d.Folders(l.Within), func(folder string) bool { return isBelow(path.Clean(name), desk.Path(folder)) }) {
		return "", say.Errorf("%w: it has to lie in %s", ErrWithin, strings.Join(l.Within, " or "))
	}
	return path.Clean(name), nil
}

// findNamed is the file that describes a name: in the folder of that name, or
// beside it.
func findNamed(d *desk.Desk, l desk.Lookup, name string) (string, error) {
	if slices.Contains(l.BuiltIn, name) {
		return "", nil
	}
	if name == "" || strings.Contains(name, "/") {
		return "", ErrNotThere
	}
	file := strings.ReplaceAll(l.File, "*", name)
	for _, base := range bases(d, l) {
		for _, at := range []string{path.Join(base, name, file), path.Join(base, file)} {
			info, err := fs.Stat(d.Tree(), at)
			if err != nil || info.IsDir() {
				continue
			}
			if l.Kind == "palette" {
				raw, err := fs.ReadFile(d.Tree(), at)
				if err != nil {
					return "", err
				}
				if _, err := palette.Parse(raw); err != nil {
					return "", err
				}
			}
			return desk.Path(at), nil
		}
	}
	return "", ErrNotThere
}

// Named lists the names that a lookup for a named file or a palette would find,
// sorted.
func Named(d *desk.Desk, l desk.Lookup) []string {
	d = d.Snapshot()
	out := slices.Clone(l.BuiltIn)
	for _, base := range bases(d, l) {
		entries, _ := fs.ReadDir(d.Tree(), base)
		for _, e := range entries {
			name := e.Name()
			if before, after, star := strings.Cut(l.File, "*"); star && !e.IsDir() {
				name = strings.TrimSuffix(strings.TrimPrefix(name, before), after)
			}
			if _, err := findNamed(d, l, name); err == nil && !slices.Contains(out, name) {
				out = append(out, name)
			}
		}
	}
	slices.Sort(out)
	return out
}

// findProgram is the program that a line starts: a file of the desk that may be
// run.
func findProgram(d *desk.Desk, l desk.Lookup, line string) (string, error) {
	if slices.Contains(l.BuiltIn, line) {
		return "", nil
	}
	at, _, _ := strings.Cut(line, " ")
	info, err := fs.Stat(d.Tree(), desk.Name(at))
	switch {
	case err != nil || !path.IsAbs(at):
		return "", say.Errorf("%w: there is nothing at %s", ErrProgram, at)
	case info.IsDir() || info.Mode().Perm()&0o111 == 0:
		return "", say.Errorf("%w: %s is nothing that can be run", ErrProgram, at)
	}
	return path.Clean(at), nil
}

// madeFor tells whether the part of a piece says that it is made for other
// versions of the program than this one.
func madeFor(d *desk.Desk, l desk.Lookup, part string) error {
	if l.MadeFor == nil || part == "" || l.Version == "" {
		return nil
	}
	raw, err := fs.ReadFile(d.Tree(), desk.Name(path.Join(part, l.MadeFor.Path)))
	if err != nil {
		return nil // it does not say
	}
	kf, err := keyfile.Parse(raw)
	if err != nil {
		return nil
	}
	said := kf.Get(l.MadeFor.Group, l.MadeFor.Key)
	if said == "" || Fits(said, l.Version) {
		return nil
	}
	return say.Errorf("%w: for %s, and this is %s", ErrVersion, said, l.Version)
}

// Fits reports whether a version is in a range, ">= 2, < 4" or "3" for any that
// begins so (Semantic Versioning 2.0.0). What is no range fits nothing but itself.
func Fits(said, version string) bool {
	v, err := semver.NewVersion(version)
	if err != nil {
		return said == version
	}
	c, err := semver.NewConstraint(said)
	if err != nil {
		return said == version
	}
	return c.Check(v)
}

// inFacets replaces "{name}" of a facet of the surface in a place by what the
// surface is told for it, or by what wants says of it, if that is not "".
func inFacets(d *desk.Desk, s desk.Surface, place string, wants func(facet string) string) string {
	for _, f := range s.Facets {
		hole := "{" + f.Name + "}"
		if !strings.Contains(place, hole) {
			continue
		}
		value := ""
		if wants != nil {
			value = wants(f.Name)
		}
		if value == "" {
			f.Loaded = nil
			value = Told(d, s, f).Value
		}
		place = strings.ReplaceAll(place, hole, value)
	}
	return place
}

// Filled is a surface in which the places of sources that go by another facet,
// "{profile}", are those that they are going to be; wants is as of [PlaceOf].
func Filled(d *desk.Desk, s desk.Surface, wants func(facet string) string) desk.Surface {
	facets := slices.Clone(s.Facets)
	for i := range facets {
		for j, src := range facets[i].Sources {
			if place := inFacets(d, s, src.Path, wants); place != src.Path {
				facets[i].Sources = slices.Clone(facets[i].Sources)
				facets[i].Sources[j].Path = place
			}
		}
	}
	s.Facets = facets
	return s
}

// PlaceOf is the first file of a source of a surface as a plan edits it. wants
// says what its facets are going to be, "" for as they are; it may be nil.
func PlaceOf(d *desk.Desk, s desk.Surface, src desk.Source, wants func(facet string) string) string {
	found := d.Expand(inFacets(d, s, src.Path, wants))
	if len(found) == 0 {
		return ""
	}
	return found[0]
}

// Single is a thing that a person set by itself.
type Single struct {
	Key   string `json:"key"`
	Value string `json:"value"`
	Path  string `json:"path"`
	Line  int    `json:"line"`
}

// Singles are the things of a surface that do not go with a facet.
func Singles(d *desk.Desk, f desk.Facet) []Single {
	if f.Singles == nil {
		return nil
	}
	var out []Single
	for _, p := range d.Expand(f.Singles.Path) {
		raw, err := d.Tree().ReadSettings(desk.Name(p))
		if err != nil {
			continue
		}
		kf, err := keyfile.Parse(raw)
		if err != nil {
			continue
		}
		for _, e := range kf.Entries(f.Singles.Group) {
			out = append(out, Single{e.Key, e.Value, p, e.Line})
		}
	}
	return out
}

func upper(words []string) []string {
	out := slices.Clone(words)
	for i := range out {
		out[i] = strings.ToUpper(out[i])
	}
	return out
}
