package layers

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/layer"
	"ivelt/core/palette"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/core/say"
)

// FolderIcons are the icons that people mean by folders, by the names of the Icon Naming
// Specification (0.8) and those that packs have besides (common practice, no source).
var FolderIcons = []string{"folder*", "inode-directory*", "user-home", "user-desktop", "default-folder*"}

// folderHues is how far from the main colour a hue may be to be changed with folders alone, in
// degrees: what is set on them in another colour stays.
const folderHues = 40

// maxDyes is how many packs are made at once.
const maxDyes = 12

// dyed are the facets whose packs can be had in another colour, with their kinds.
var dyed = map[parcel.Kind]string{parcel.Icons: desk.FacetIcons, parcel.Pointer: desk.FacetPointer, parcel.Style: desk.FacetPictures}

// Wanted says which packs are made.
type Wanted struct {
	All     bool     // every icon, not folders alone
	Colours []string // one pack for each, #rrggbb
	Palette bool     // and one in the colours of the terminal's palette
}

// PaletteOf is the palette that terminals show with the draft of a desk, the first of them, and its
// name; false if none shows one.
func (l *Layers) PaletteOf(ctx context.Context, d *desks.Managed) (name string, p palette.Palette, ok bool, err error) {
	o, err := l.drafts.Draft(d)
	if err != nil {
		return "", p, false, err
	}
	on := l.overlays.Trying(d, o)
	look := preview.Draft(ctx, on, o)
	for _, s := range on.Surfaces() {
		if _, has := s.Facet(desk.FacetPalette); !has {
			continue
		}
		name = look.Of(desk.FacetPalette, s.ID)
		if p, ok = preview.NewCanvas(on, look, 1, 1).Palette(name); ok {
			return name, p, true, nil
		}
	}
	return "", p, false, nil
}

// Recipes are those of packs that are wanted of one, each with one dye: its folders, or all its
// icons; of pointers the inside, of picture styles all. root is where the one lies.
func (l *Layers) Recipes(ctx context.Context, d *desks.Managed, kind parcel.Kind, pack string, w Wanted) (recipes []layer.Recipe, root string, err error) {
	colours, all := w.Colours, w.All
	var mapped palette.Palette
	if w.Palette {
		name, of, ok, err := l.PaletteOf(ctx, d)
		if err != nil {
			return nil, "", err
		}
		if !ok {
			return nil, "", errors.New("no terminal of this desk shows a palette")
		}
		mapped, colours = of, append(slices.Clone(colours), name)
	}
	if len(colours) == 0 || len(colours) > maxDyes {
		return nil, "", say.Errorf("choose a colour, or up to %d", maxDyes)
	}
	if dyed[kind] == "" {
		return nil, "", layer.ErrKind
	}
	base := layer.Base{Kind: kind, Folder: pack}
	if root, err = base.Find(d.Desk); err != nil {
		return nil, "", say.Errorf("%w. Install it first, if it is only tried on", err)
	}
	for _, to := range colours {
		name := strings.TrimPrefix(strings.ToLower(to), "#")
		if i := slices.IndexFunc(fine.Accents, func(o fine.Option) bool { return strings.EqualFold(o.Value, to) }); i >= 0 {
			name = fine.Accents[i].Title.String()
		}
		r := layer.Recipe{Name: pack + ", " + name, Folder: pack + "-" + strings.ToUpper(name[:1]) + name[1:], Base: base}
		c := layer.Dye{To: to}
		if w.Palette && len(recipes) == len(w.Colours) { // the last one
			c.To = ""
			for _, of := range mapped.Colours {
				c.Palette = append(c.Palette, of.Hex())
			}
		}
		if !all && kind == parcel.Icons {
			if c.Icons = FolderIcons; c.Palette == nil {
				c.Within = folderHues
			}
		}
		r.Dyes = []layer.Dye{c}
		if err := r.Valid(); err != nil {
			return nil, "", err
		}
		if slices.ContainsFunc(recipes, func(other layer.Recipe) bool { return other.Folder == r.Folder }) {
			return nil, "", errors.New("two of the colours are the same")
		}
		recipes = append(recipes, r)
	}
	return recipes, root, nil
}

// Dye starts making packs of [Layers.Recipes]. The first is put on the draft, to be tried on; the
// others are tried on with it. then is where a page goes on.
func (l *Layers) Dye(ctx context.Context, d *desks.Managed, kind parcel.Kind, pack string, w Wanted, then string) (*jobs.Job, error) {
	recipes, root, err := l.Recipes(ctx, d, kind, pack, w)
	if err != nil {
		return nil, err
	}
	return l.jobs.Start("Make "+pack+" in another colour", func(ctx context.Context, j *jobs.Job) error {
		j.Then(then)
		about, err := l.described(ctx, d, kind, root)
		if err != nil {
			return err
		}
		for i, r := range recipes {
			j.Step(fmt.Sprintf("Making %s, %d of %d", r.Name, i+1, len(recipes)), "files")
			r.Base = about
			if err := l.dye(ctx, j, d, root, r, i == 0); err != nil {
				return err
			}
		}
		return nil
	}), nil
}

// described is what a piece that is built upon is described by.
func (l *Layers) described(ctx context.Context, d *desks.Managed, kind parcel.Kind, root string) (layer.Base, error) {
	origins, err := l.record.Origins(d.ID)
	if err != nil {
		return layer.Base{}, err
	}
	return library.DescribeBase(ctx, d.Desk, kind, root, origins)
}

// dye makes one pack and lays it out to be tried on; on the draft, if it is the first.
func (l *Layers) dye(ctx context.Context, j *jobs.Job, d *desks.Managed, root string, r layer.Recipe, first bool) error {
	r, report, err := layer.Rebased(ctx, d.Tree(), root, r)
	if err != nil {
		return err
	}
	if loose := report.Loose(); len(loose) > 0 {
		return errors.New(loose[0].Says.String())
	}
	row, _, _, err := l.pieces.KeepLayer(ctx, d, r, func(done, all int) { j.At(int64(done), int64(all)) })
	if err != nil {
		return err
	}
	if _, err := l.overlays.LaidOut(ctx, j, d, row.SHA256); err != nil {
		return err
	}
	if !first {
		return nil
	}
	d.Lock()
	defer d.Unlock()
	before, err := l.drafts.Draft(d)
	if err != nil {
		return err
	}
	_, err = l.drafts.Redraft(d, "trying on "+r.Name, before, before.With(dyed[r.Base.Kind], r.Folder))
	return err
}

// Mend starts making a recipe over the piece at a name of a desk's tree and puts the result on the
// draft, to be tried on; if that piece is a layer that can take the changes in, it is built anew in its
// place. then is where a page goes on.
func (l *Layers) Mend(ctx context.Context, d *desks.Managed, root string, r layer.Recipe, then string) (*jobs.Job, error) {
	if err := r.Valid(); err != nil {
		return nil, err
	}
	r, root, extends, err := layer.Extended(d.Desk, root, r)
	if err != nil {
		return nil, err
	}
	if extends {
		_, job, err := l.pieces.Layer(ctx, d, r, false, then)
		return job, err
	}
	return l.jobs.Start("Mend "+r.Base.Folder, func(ctx context.Context, j *jobs.Job) error {
		j.Then(then)
		j.Step("Making "+r.Name, "files")
		var err error
		if r.Base, err = l.described(ctx, d, r.Base.Kind, root); err != nil {
			return err
		}
		return l.dye(ctx, j, d, root, r, true)
	}), nil
}
