package layers

import (
	"context"
	"maps"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/palette"
)

// Palette starts making a palette of a terminal a piece of its own, which is tried on with the choices
// that go with it, one at least. about stands in its file; then is where a page goes on.
func (l *Layers) Palette(d *desks.Managed, name, about string, p palette.Palette, with map[string]string, then string) *jobs.Job {
	return l.jobs.Start("Make the palette "+name, func(ctx context.Context, j *jobs.Job) error {
		j.Then(then)
		j.Step("Making "+name, "files")
		row, err := l.pieces.KeepFile(ctx, name+".Xresources", p.File(about))
		if err != nil {
			return err
		}
		if _, err := l.overlays.LaidOut(ctx, j, d, row.SHA256); err != nil {
			return err
		}
		all := maps.Clone(with)
		all[desk.FacetPalette] = name
		_, err = l.drafts.ChooseAll(d, "colours of "+name, all)
		return err
	})
}
