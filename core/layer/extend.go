package layer

import (
	"path"
	"slices"

	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/say"
)

// At is what a piece of a kind at a name of a desk's tree was built from; false if it is no layer.
func At(d *desk.Desk, kind parcel.Kind, root string) (Recipe, bool, error) {
	file := path.Join(root, File)
	if !d.Exists(desk.Path(file)) {
		return Recipe{}, false, nil
	}
	b, err := d.Tree().ReadSettings(file)
	if err != nil {
		return Recipe{}, false, err
	}
	r, err := Parse(b)
	if err != nil {
		return r, false, say.Errorf("%s: %w", desk.Path(file), err)
	}
	return r, r.Base.Kind == kind && r.Folder == path.Base(root), nil
}

// Extended is a recipe over the pointer set at a name of a desk's tree, and the set that it is laid over:
// where that set is a layer itself, one with its changes too, over what it was built from, as far as
// the two can be told as one. extends reports whether they are.
func Extended(d *desk.Desk, root string, r Recipe) (out Recipe, base string, extends bool, err error) {
	below, is, err := At(d, r.Base.Kind, root)
	if err != nil || !is {
		return r, root, false, err
	}
	all, ok := below.and(r)
	if !ok {
		return r, root, false, nil
	}
	if base, err = all.Base.Find(d); err != nil {
		return r, root, false, nil // it was taken away: a layer over the layer can still be made
	}
	return all, base, true, nil
}

// and is a recipe that makes of its base what another makes of its result; false where that cannot be
// told: mirrored pictures have their hot spots elsewhere, and changed motions other pictures.
func (r Recipe) and(more Recipe) (Recipe, bool) {
	if r.Base.Kind != parcel.Pointer || r.Convert != nil || r.Every != nil && r.Every.LeftHand {
		return r, false
	}
	out := r
	out.Pointers = slices.Clone(r.Pointers)
	for _, c := range more.Pointers {
		i := slices.IndexFunc(out.Pointers, func(own Pointing) bool { return own.Name == c.Name })
		switch {
		case i < 0:
			out.Pointers = append(out.Pointers, c)
		case c.Like != "":
			out.Pointers[i] = c
		case out.Pointers[i].Like != "" || !out.Pointers[i].motion().None() && !c.motion().None():
			return r, false
		default:
			one := out.Pointers[i]
			if c.Hot != "" {
				one.Hot = c.Hot
			}
			if !c.motion().None() {
				one.Without, one.Back, one.Pictures, one.Turn = c.Without, c.Back, c.Pictures, c.Turn
			}
			out.Pointers[i] = one
		}
	}
	if more.Every != nil {
		every := Every{LeftHand: more.Every.LeftHand}
		if r.Every != nil {
			every.Sizes = slices.Clone(r.Every.Sizes)
		}
		for _, size := range more.Every.Sizes {
			if !slices.Contains(every.Sizes, size) {
				every.Sizes = append(every.Sizes, size)
			}
		}
		out.Every = &every
	}
	if len(more.Dyes) > 0 {
		if len(r.Dyes) > 1 || len(more.Dyes) > 1 || len(r.Dyes) == 1 && len(r.Dyes[0].Icons) > 0 {
			return r, false
		}
		out.Dyes = slices.Clone(more.Dyes)
	}
	return out, out.Valid() == nil
}
