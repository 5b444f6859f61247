package layers

import (
	"context"
	"maps"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/layer"
	"ivelt/core/palette"
	"ivelt/core/parcel"
)

// Taken are colours that are taken out of something: choices by facet, a palette that is made
// of them, and icons whose folders are to have one of them.
type Taken struct {
	Choices map[string]string
	Palette *palette.Palette
	Name    string // of the palette
	About   string // stands in its file
	Folders string // #rrggbb, "" for as they are
	Icons   string // the pack that has them
}

// TakeOver starts making what is taken, which is tried on with the choices that go with it. then is
// where a page goes on. What cannot be made is an error at once.
func (l *Layers) TakeOver(ctx context.Context, d *desks.Managed, t Taken, then string) (*jobs.Job, error) {
	var dyed []layer.Recipe
	root := ""
	if t.Folders != "" {
		var err error
		if dyed, root, err = l.Recipes(ctx, d, parcel.Icons, t.Icons, Wanted{Colours: []string{t.Folders}}); err != nil {
			return nil, err
		}
	}
	title := "Make the palette " + t.Name
	if t.Palette == nil {
		title = "Make folders in another colour"
	}
	return l.jobs.Start(title, func(ctx context.Context, j *jobs.Job) error {
		j.Then(then)
		all := maps.Clone(t.Choices)
		if all == nil {
			all = map[string]string{}
		}
		if t.Palette != nil {
			j.Step("Making "+t.Name, "files")
			row, err := l.pieces.KeepFile(ctx, t.Name+".Xresources", t.Palette.File(t.About))
			if err != nil {
				return err
			}
			if _, err := l.overlays.LaidOut(ctx, j, d, row.SHA256); err != nil {
				return err
			}
			all[desk.FacetPalette] = t.Name
		}
		for _, r := range dyed {
			j.Step("Making "+r.Name, "files")
			var err error
			if r.Base, err = l.described(ctx, d, r.Base.Kind, root); err != nil {
				return err
			}
			if err := l.dye(ctx, j, d, root, r, false); err != nil {
				return err
			}
			all[desk.FacetIcons] = r.Folder
		}
		_, err := l.drafts.ChooseAll(d, "colours", all)
		return err
	}), nil
}
