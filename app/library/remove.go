package library

import (
	"context"
	"errors"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/store"
)

// Remove starts taking away a piece, by its path. It is kept, so it can be gone
// back on.
func (pp *Pieces) Remove(d *desks.Managed, p string, how How, then string) (*jobs.Job, error) {
	if !d.Mine(p) && d.Owner(p) != "" {
		return nil, say.Errorf("%s belongs to the package %s; remove it with the package manager", d.Show(p), d.Owner(p))
	}
	row, known, err := pp.placedAt(d, p)
	if err != nil {
		return nil, err
	}
	if err := pp.named(d, p); err != nil {
		return nil, err
	}
	return pp.jobs.Start("Remove "+row.Name, func(ctx context.Context, j *jobs.Job) error {
		d.Lock()
		defer d.Unlock()
		j.Then(then)
		pl, err := planning.TakeAway(d.Desk, p, row.Name, row.Kind)
		if known {
			var done plan.Plan
			if done, err = pp.plans.Get(d, row.PlanID); err == nil {
				pl, err = planning.Uninstall(d.Desk, done, p, row.Name)
			}
		}
		if err != nil {
			return err
		}
		pl.Lose = how.Lose
		j.Step("Taking away", "files")
		if err := pp.applier.Apply(ctx, d, pl, store.Applied{Removed: []string{p}}, func(n, total int) { j.At(int64(n), int64(total)) }); err != nil {
			return err
		}
		return desks.RefreshCaches(ctx, d, j, pl)
	}), nil
}

// named tells who still names a piece: it would be missed.
func (pp *Pieces) named(d *desks.Managed, p string) error {
	var by []string
	for _, r := range reading.All(d.Desk) {
		if r.Resolved == p {
			s, _ := d.Surface(r.Surface)
			by = append(by, s.Title)
		}
	}
	o, err := pp.drafts.Draft(d)
	if err != nil {
		return err
	}
	for _, c := range o.Choices {
		if c.Piece == path.Base(p) {
			by = append(by, "the draft")
		}
	}
	if len(by) == 0 {
		return nil
	}
	verb := "name"
	if len(by) == 1 && by[0] == "the draft" {
		verb = "names"
	}
	return say.Errorf("%s %s it. Choose something else for them first", strings.Join(by, ", "), verb)
}

// placedAt returns what Ivelt knows of the piece at a path; known is false for
// one that somebody else put there.
func (pp *Pieces) placedAt(d *desks.Managed, p string) (row store.PieceRow, known bool, err error) {
	rows, err := pp.store.Pieces(d.ID)
	if err != nil {
		return store.PieceRow{}, false, err
	}
	for _, row := range rows {
		if row.Path == p {
			return row, true, nil
		}
	}
	packs, err := pp.Shelf(d)
	if err != nil {
		return store.PieceRow{}, false, err
	}
	for _, pack := range packs {
		if pack.Path == p {
			return store.PieceRow{Name: pack.Name, Kind: string(parcel.Icons)}, false, nil
		}
	}
	return store.PieceRow{}, false, say.Errorf("there is no piece at %s", d.Show(p))
}

// Rename gives a theme, an icon pack or a pointer set in the home another display name, in its
// description.
func (pp *Pieces) Rename(ctx context.Context, d *desks.Managed, p, name string) error {
	name = strings.TrimSpace(name)
	if name == "" || len(name) > 80 || strings.ContainsAny(name, "\n\r\x00") {
		return errors.New("a name is one line of 1 to 80 letters")
	}
	if !d.Mine(p) {
		return say.Errorf("%s belongs to the system; only what is in your home can be renamed", d.Show(p))
	}
	d.Lock()
	defer d.Unlock()
	group := "Icon Theme"
	if b, err := fs.ReadFile(d.Tree(), desk.Name(path.Join(p, "index.theme"))); err == nil {
		if kf, err := keyfile.Parse(b); err == nil && !slices.Contains(kf.Groups(), group) {
			group = "Desktop Entry"
		}
	}
	pl, err := planning.Rename(d.Desk, p, group, name)
	if err != nil || len(pl.Ops) == 0 {
		return err
	}
	return pp.applier.Apply(ctx, d, pl, store.Applied{}, nil)
}
