package desk

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"path"
	"slices"
	"sort"
	"strings"

	"ivelt/core/say"
	"ivelt/core/shown"
	"ivelt/core/tomlfile"
)

// Came says that a descriptor came from others, and was taken.
type Came struct {
	SHA256 string // of the descriptor, as it was when it was taken
	May    bool   // the person lets it start programs
	Reach  Reach  // of all of it, also what is left out because it may not
}

// Pin is what the person has taken of a descriptor that came from others: it is used as
// long as it is the same, byte for byte.
type Pin struct {
	SHA256 string `toml:"sha256"`
	May    bool   `toml:"may-start-programs"`
}

// PinOf is a pin for a descriptor.
func PinOf(descriptor []byte, may bool) Pin {
	sum := sha256.Sum256(descriptor)
	return Pin{hex.EncodeToString(sum[:]), may}
}

// Bytes is the file of a pin.
func (p Pin) Bytes() []byte {
	return fmt.Appendf(nil, "# Ivelt uses the descriptor in the folder of this name only while it is exactly this one.\nsha256 = %q\n# May it start programs, and set what programs start?\nmay-start-programs = %v\n", p.SHA256, p.May)
}

// The ways in which a descriptor that came from others is not used, besides [ErrDescriptor]
// and [ErrOverreach].
var (
	ErrUnpinned = errors.New("you have not installed it: install it from its parcel")
	ErrOther    = errors.New("it is not the one that you installed: install it again, or remove it")
	ErrTaken    = errors.New("there is a surface of that name already")
)

// ownFolder is where a desk's person keeps descriptors.
const ownFolder = "{config}/ivelt/surfaces"

// CameFolder is the folder of a descriptor that came from others, and PinFile the file of
// its pin, as paths of the desk.
func (d *Desk) CameFolder(id string) string { return path.Join(d.First(ownFolder), id) }

// PinFile is the file that says which descriptor of an ID was taken.
func (d *Desk) PinFile(id string) string { return path.Join(d.First(ownFolder), id+".pin") }

// OfDescriptors reports whether a path of the desk is where descriptors are kept, or below.
func (d *Desk) OfDescriptors(p string) bool {
	_, in := below(Name(p), Name(d.First(ownFolder)))
	return in
}

// ParseCame reads a descriptor that came from others, for a desk: nil may stand for any with
// the usual folders. Errors wrap [ErrDescriptor] or [ErrOverreach]; of the latter all are
// told.
func ParseCame(b []byte, d *Desk) (Surface, error) {
	if d == nil {
		d = &Desk{HomePath: "/home/me"}
	}
	s, err := ParseSurface(b)
	if err != nil {
		return s, err
	}
	s.Title = shown.Line(s.Title)
	for facet, why := range s.Cannot {
		s.Cannot[facet] = shown.Line(why)
	}
	return s, errors.Join(s.Overreach(d)...)
}

// tamed is the surface without what starts programs, unless it may.
func (s Surface) tamed(c Came) Surface {
	c.Reach = s.Reach()
	s.Came = &c
	if c.May {
		return s
	}
	s.Starts = ""
	s.Facets = slices.Clone(s.Facets)
	s.Cannot = maps.Clone(s.Cannot)
	if s.Cannot == nil {
		s.Cannot = map[string]string{}
	}
	for i := range s.Facets {
		f := &s.Facets[i]
		if !f.acts() {
			continue
		}
		f.Acts, f.Sources = true, slices.Clone(f.Sources)
		for j := range f.Sources {
			f.Sources[j].Write = false
		}
		s.Cannot[f.Name] = "It may start programs, and its descriptor came from others: let it first, with `ivelt surface allow " + s.ID + "`."
	}
	return s
}

// ReadPin reads what was taken of an ID. There is none if err wraps [fs.ErrNotExist].
func (d *Desk) ReadPin(id string) (Pin, error) {
	var p Pin
	b, err := d.Tree().ReadSettings(Name(d.PinFile(id)))
	if err != nil {
		return p, err
	}
	return p, tomlfile.Strict(b, &p)
}

// cameSurfaces reads the descriptors that came from others and were taken. all are the
// surfaces that there are.
func (d *Desk) cameSurfaces(all []Surface) (out []Surface, broken []error) {
	dir := Name(d.First(ownFolder))
	found, err := fs.Glob(d.Tree(), dir+"/*/*.toml")
	if err != nil {
		return nil, []error{err}
	}
	sort.Strings(found)
	for _, name := range found {
		id := path.Base(path.Dir(name))
		s, err := d.cameSurface(id, name)
		if err == nil && slices.ContainsFunc(append(all, out...), func(have Surface) bool { return have.ID == s.ID }) {
			err = ErrTaken
		}
		if err != nil {
			broken = append(broken, say.Errorf("%s: %w", d.Show(Path(name)), err))
			continue
		}
		out = append(out, s)
	}
	return out, broken
}

func (d *Desk) cameSurface(id, name string) (Surface, error) {
	pin, err := d.ReadPin(id)
	if errors.Is(err, fs.ErrNotExist) {
		return Surface{}, ErrUnpinned
	}
	if err != nil {
		return Surface{}, say.Errorf("its pin %s: %w", d.Show(d.PinFile(id)), err)
	}
	b, err := d.Tree().ReadSettings(name)
	if err != nil {
		return Surface{}, err
	}
	if !strings.EqualFold(pin.SHA256, PinOf(b, false).SHA256) {
		return Surface{}, ErrOther
	}
	s, err := ParseCame(b, d)
	if err == nil && s.ID != id {
		err = say.Errorf("%w: it is of %s, and lies in the folder of %s", ErrDescriptor, s.ID, id)
	}
	return s.tamed(Came{SHA256: pin.SHA256, May: pin.May}), err
}

// MayWrite reports whether a plan may write a path of the desk, links resolved, for a surface:
// for one whose descriptor came from others what bears its name alone, and its entry among
// what is started at sign-in if it may start programs.
func (d *Desk) MayWrite(s Surface, p string) bool {
	if s.Came == nil {
		return true
	}
	if setting, ok := Setting(p); ok {
		return slices.ContainsFunc(strings.Split(setting, "/"), s.called)
	}
	if s.Came.May && p == d.First("{config}/autostart/"+s.ID+".desktop") {
		return true
	}
	return s.Bears(d, p)
}

// IsDescriptor reports whether a text is meant as a surface's descriptor, whether it can be
// used or not.
func IsDescriptor(b []byte) bool {
	var head struct {
		ID    string `toml:"id"`
		Title string `toml:"title"`
		Facet []any  `toml:"facet"`
		Looks []any  `toml:"looks"`
	}
	if !bytes.Contains(b, []byte("title")) || tomlfile.Decode(b, &head) != nil {
		return false
	}
	return head.ID != "" && head.Title != "" && len(head.Facet)+len(head.Looks) > 0
}
