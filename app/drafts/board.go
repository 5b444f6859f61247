package drafts

import (
	"errors"
	"time"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/say"
	"ivelt/store"
)

// TakeAll puts on the draft what the match board would put there.
func (ds *Drafts) TakeAll(d *desks.Managed) error {
	o, draft, err := ds.Wanted(d)
	if err != nil {
		return err
	}
	d.Lock()
	defer d.Unlock()
	after := draft
	for _, step := range match.Of(d.Desk, o).Next() {
		if step.Kind != match.ByDraft || step.Facet == "" || step.SaidBy(after) {
			continue
		}
		if step.SaidBy(o) && o.Want(step.Facet) != step.Want { // an exception: what it is one of is taken with it
			after = taken(after, o, step.Facet, o.Want(step.Facet))
			continue
		}
		after = taken(after, o, step.Facet, step.Want)
	}
	if len(after.Choices) == len(draft.Choices) {
		return errors.New("everything that a draft can do is on it already")
	}
	_, err = ds.Redraft(d, "all that the board proposes", draft, after)
	return err
}

// taken is a draft with a choice on it that was made before, its exceptions with
// it.
func taken(draft, worn outfit.Outfit, facet, want string) outfit.Outfit {
	out := draft.With(facet, want)
	if worn.Want(facet) == want && draft.Want(facet) == "" {
		for surface, value := range worn.Choices[facet].Except {
			out = out.Except(surface, facet, value)
		}
	}
	return out
}

// Except leaves a surface out of a choice, with a value of its own or "" for
// whatever it shows; with rejoin it is left out no more. Of a choice that is worn
// and not on the draft, leaving it out is written down at once, for nothing on the
// desk changes; anything else goes on the draft.
func (ds *Drafts) Except(d *desks.Managed, surface, facet, value string, rejoin bool) error {
	info, ok := desk.FacetOf(facet)
	s, has := d.Surface(surface)
	if ok && has {
		_, has = s.Facet(facet)
	}
	if !ok || !has {
		return errors.New("this desk has no such surface, or nothing is known of that for it")
	}
	if value != "" {
		if err := info.Accepts(value); err != nil {
			return err
		}
	}
	d.Lock()
	defer d.Unlock()
	draft, err := ds.Draft(d)
	if err != nil {
		return err
	}
	worn, err := ds.Worn(d)
	if err != nil {
		return err
	}
	change := func(o outfit.Outfit) outfit.Outfit {
		if rejoin {
			return o.Rejoin(surface, facet)
		}
		return o.Except(surface, facet, value)
	}
	switch {
	case draft.Want(facet) != "":
		_, err = ds.Redraft(d, string(info.Title)+" except for "+s.Title, draft, change(draft))
		return err
	case worn.Want(facet) == "":
		return say.Errorf("you have chosen nothing for %s, so no program can be left out of it", info.Title)
	case value == "" && !rejoin:
		return ds.IsWorn(d, change(worn))
	}
	_, err = ds.Redraft(d, string(info.Title)+" except for "+s.Title, draft, change(taken(draft, worn, facet, worn.Want(facet))))
	return err
}

// IsWorn makes what is worn another outfit, without a change to the desk; going
// back on what put it on takes it along.
func (ds *Drafts) IsWorn(d *desks.Managed, o outfit.Outfit) error {
	row := store.OutfitRow{Desk: d.ID, Name: o.Name, Text: o.Bytes(), Changed: time.Now()}
	if rows, err := ds.store.Worn(d.ID); err != nil {
		return err
	} else if len(rows) > 0 {
		row.PlanID, row.Checkpoint = rows[0].PlanID, rows[0].Checkpoint
	}
	return ds.store.SaveOutfit(&row)
}
