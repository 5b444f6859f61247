package layer

import (
	"encoding/base64"
	"errors"
	"fmt"
	"maps"
	"path"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/icontheme"
	"ivelt/core/imagefile"
	"ivelt/core/keyfile"
	"ivelt/core/say"
)

// Icon gives one name of a pack a picture: that of another of its icons, or one of one's own.
type Icon struct {
	Name string `toml:"name"`           // as programs ask for it
	Like string `toml:"like,omitempty"` // the icon of the pack whose picture it shows
	// Picture is one's own picture, PNG or SVG, in base64 (RFC 4648).
	Picture string `toml:"picture,omitempty"`
	From    string `toml:"from,omitempty"` // a note of where the picture came from
}

// iconKey tells fits of single icons.
const iconKey = "icon"

// MaxPicture is how large a picture of one's own may be, in bytes.
const MaxPicture = 256 << 10

// maxPictures is how large all of them may be together, as they are written: recipes are read as
// settings are, which are smaller than 4 MB.
const maxPictures = 3 << 20

// drawnAt is what a drawing of one's own is described as, px: for every size.
const drawnAt = 48

// ownFolder is where pictures of one's own are in the pack that is built.
const ownFolder = "own"

var iconName = regexp.MustCompile(`^[^/\x00-\x1f\x7f.][^/\x00-\x1f\x7f]{0,119}$`)

// Pictured is the change by which a name shows a picture of one's own.
func Pictured(name string, picture []byte, from string) Icon {
	return Icon{Name: name, Picture: base64.StdEncoding.EncodeToString(picture), From: from}
}

func (c Icon) valid() error {
	switch {
	case !iconName.MatchString(c.Name):
		return say.Errorf("%q is no name of an icon", c.Name)
	case (c.Like == "") == (c.Picture == ""):
		return say.Errorf("%s: it is like another, or has a picture of its own", c.Name)
	case c.Like != "" && (!iconName.MatchString(c.Like) || c.Like == c.Name):
		return say.Errorf("%s: %q is no other icon", c.Name, c.Like)
	case len(c.From) > 200 || strings.ContainsAny(c.From, "\n\r\x00"):
		return say.Errorf("%s: from is one line of up to 200 letters", c.Name)
	case c.Picture == "":
		return nil
	}
	_, err := c.picture()
	return err
}

// picture reads the picture of one's own.
func (c Icon) picture() (raw []byte, err error) {
	if len(c.Picture) > base64.StdEncoding.EncodedLen(MaxPicture) {
		return nil, say.Errorf("%s: its picture has more than %d kB", c.Name, MaxPicture>>10)
	}
	if raw, err = base64.StdEncoding.DecodeString(c.Picture); err != nil {
		return nil, say.Errorf("%s: its picture is not base64", c.Name)
	}
	return raw, Picture(raw)
}

// Picture is nil if a picture can be an icon of one's own.
func Picture(raw []byte) error {
	if len(raw) > MaxPicture {
		return say.Errorf("the picture has more than %d kB", MaxPicture>>10)
	}
	if of := imagefile.MediaType(raw); of != "image/png" && of != "image/svg+xml" {
		return errors.New("the picture is neither PNG nor SVG")
	}
	if err := imagefile.Check(raw); err != nil {
		return say.Errorf("the picture cannot be shown: %w", err)
	}
	if w, h := imagefile.Size(raw); imagefile.MediaType(raw) == "image/png" && (w < 1 || h < 1 || w > 1024 || h > 1024) {
		return say.Errorf("the picture has %.0f × %.0f px; icons have from 1 to 1024", w, h)
	}
	return nil
}

// With is the recipe with a change to one icon, in place of one that it has for that name.
func (r Recipe) With(c Icon) Recipe {
	r = r.Without(c.Name)
	r.Icons = append(r.Icons, c)
	return r
}

// Without is the recipe without a change to one icon.
func (r Recipe) Without(icon string) Recipe {
	r.Icons = slices.DeleteFunc(slices.Clone(r.Icons), func(c Icon) bool { return c.Name == icon })
	return r
}

// iconFiles are the files of a base that are an icon, in every size.
func (b *laid) iconFiles(icon string) (out []Entry) {
	for _, e := range b.files {
		if name, ok := icontheme.IconName(path.Base(e.Name)); ok && name == icon && strings.Contains(e.Name, "/") {
			out = append(out, e)
		}
	}
	return out
}

// ofIcons are the fits of changes to single icons.
func (b *laid) ofIcons(r Recipe) (out []Fit) {
	for _, c := range r.Icons {
		f := Fit{Change: c.Name, Key: iconKey, State: Fits, Sets: "a picture of your own"}
		if c.Like != "" {
			f.Sets = c.Like
			if len(b.iconFiles(c.Like)) == 0 {
				f.State = Gone
			}
		}
		out = append(out, f)
	}
	return out
}

// iconed makes the changes to single icons. Pictures of the base are taken along in each size that
// it has them in, in the colours that they got.
func (b *laid) iconed(r Recipe, at map[string]Entry, out made) error {
	dyed := made{of: maps.Clone(out.of)}
	for _, c := range r.Icons {
		for name := range out.of { // in every size and form the change counts
			if own, ok := icontheme.IconName(path.Base(name)); ok && own == c.Name {
				delete(out.of, name)
			}
		}
		if c.Picture != "" {
			raw, err := c.picture()
			if err != nil {
				return err
			}
			name := path.Join(ownFolder, "any", c.Name+".svg")
			if imagefile.MediaType(raw) == "image/png" {
				w, h := imagefile.Size(raw)
				name = path.Join(ownFolder, fmt.Sprint(max(w, h)), c.Name+".png")
			}
			out.of[name] = Entry{Name: name, Mode: 0o644, Text: raw}
			continue
		}
		for _, e := range b.iconFiles(c.Like) {
			of, ok := follow(at, e.Name)
			if !ok || of.From == "" {
				continue
			}
			name := path.Join(path.Dir(e.Name), c.Name+e.Name[len(path.Join(path.Dir(e.Name), c.Like)):])
			made := Entry{Name: name, Mode: 0o644, From: of.From, Size: of.Size}
			if in, is := dyed.of[of.Name]; is && in.Text != nil {
				made = Entry{Name: name, Mode: 0o644, Text: in.Text}
			}
			out.of[name] = made
		}
	}
	return nil
}

// ownFolders describes the folders of pictures of one's own (Icon Theme Specification 0.13): each
// serves every size.
func ownFolders(m made, kf *keyfile.File) (dirs []string) {
	for name := range m.of {
		dir := path.Dir(name)
		if path.Dir(dir) != ownFolder || slices.Contains(dirs, dir) {
			continue
		}
		dirs = append(dirs, dir)
	}
	slices.Sort(dirs)
	for _, dir := range dirs {
		size := path.Base(dir)
		if size == "any" {
			size = fmt.Sprint(drawnAt)
		}
		for _, key := range [][2]string{{"Size", size}, {"Type", "Scalable"}, {"MinSize", "1"}, {"MaxSize", "1024"}} {
			kf.Set(dir, key[0], key[1])
		}
	}
	return dirs
}
