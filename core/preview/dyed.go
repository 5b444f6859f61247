package preview

import (
	"path"

	"ivelt/core/desk"
	"ivelt/core/layer"
	"ivelt/core/paint"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/core/recolour"
	"ivelt/core/xcursor"
)

// Dyed is a picture of a piece as it is and as a dye makes it, as addresses.
type Dyed struct{ Name, Before, After string }

// maxDyed is how many pictures are shown.
const maxDyed = 8

// dyedIcons are icons that show best what a dye does, by the Icon Naming Specification (0.8).
var dyedIcons = []string{"folder", "folder-documents", "user-home", "folder-music", "folder-download", "user-desktop", "text-x-generic", "image-x-generic", "user-trash", "help-browser", "drive-harddisk", "preferences-system", "inode-directory", "folder-pictures"}

// DyedOf are some icons of a pack, pointers of a set or elements of a picture style of a desk,
// before and after a dye: those that it is for.
func DyedOf(d *desk.Desk, look Look, kind parcel.Kind, piece string, dye layer.Dye) (out []Dyed) {
	if kind == parcel.Style {
		return dyedElements(d, look, piece, dye)
	}
	c := NewCanvas(d, look, 1, 1)
	var turn recolour.Turn
	for _, p := range c.dyedFiles(kind, piece, dye) {
		if turn == nil {
			if turn = dye.TurnOf(look.ctx, kind, p.raw); turn == nil {
				continue // it has no colour
			}
		}
		before := p.raw
		after, _, err := recolour.New(turn).Picture(look.ctx, p.raw)
		if err != nil {
			continue
		}
		one := Dyed{Name: p.name}
		if kind == parcel.Pointer {
			one.Before, one.After = pointerAddress(before), pointerAddress(after)
		} else {
			one.Before, _ = paint.Data(before)
			one.After, _ = paint.Data(after)
		}
		if one.Before != "" && one.After != "" {
			out = append(out, one)
		}
		if len(out) == maxDyed {
			break
		}
	}
	return out
}

type namedFile struct {
	name string
	raw  []byte
}

// dyedFiles are the files that a dye is shown on, those of the main pictures first.
func (c *Canvas) dyedFiles(kind parcel.Kind, piece string, dye layer.Dye) (out []namedFile) {
	base := layer.Base{Kind: kind, Folder: piece}
	root, err := base.Find(c.D)
	if err != nil {
		return nil
	}
	if kind == parcel.Pointer {
		for _, names := range Shapes {
			for _, name := range names {
				if raw, err := c.tree.ReadFile(path.Join(root, "cursors", name)); err == nil && dye.Means(name) {
					out = append(out, namedFile{name, raw})
					break
				}
			}
		}
		return out
	}
	for _, s := range c.D.Surfaces() {
		f, ok := s.Facet(desk.FacetIcons)
		if at, err := reading.Find(c.D, f.Lookup, piece); !ok || err != nil || at == "" {
			continue
		}
		index := reading.Icons(c.D, f.Lookup, piece)
		for _, name := range dyedIcons {
			icon, found, ok := index.LookupBest([]string{name}, 48, 1)
			if !ok || found != name || icon.Theme != piece || !dye.Means(name) {
				continue
			}
			if raw, ok := paint.Read(c.tree, icon.Path); ok {
				out = append(out, namedFile{name, raw})
			}
		}
		return out
	}
	return nil
}

func pointerAddress(raw []byte) string {
	f, err := xcursor.Parse(raw)
	if err != nil || len(f.Images) == 0 {
		return ""
	}
	return paint.PNG(f.Picture(f.Frames(f.Best(48))[0]))
}

func dyedElements(d *desk.Desk, look Look, style string, dye layer.Dye) (out []Dyed) {
	plain := look
	plain.Layer = nil
	before, ok := StyleOf(d, plain, style)
	if !ok || before.Wrong != nil {
		return nil
	}
	plain.Layer = &layer.Recipe{Base: layer.Base{Kind: parcel.Style, Folder: style}, Dyes: []layer.Dye{dye}}
	after, ok := StyleOf(d, plain, style)
	if !ok || after.Wrong != nil {
		return nil
	}
	for _, name := range before.Asked {
		one := Dyed{Name: name}
		one.Before, _, _ = before.Sample(look.ctx, name)
		if one.After, _, _ = after.Sample(look.ctx, name); one.Before != "" && len(out) < maxDyed {
			out = append(out, one)
		}
	}
	return out
}
