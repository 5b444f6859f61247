package drafts

import (
	"cmp"
	"errors"
	"slices"
	"time"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/outfit"
	"ivelt/core/say"
	"ivelt/core/turning"
)

// Halved is the draft with what turns of what is worn under it: what the desk would turn
// between.
func (ds *Drafts) Halved(d *desks.Managed) (outfit.Outfit, error) {
	draft, err := ds.Draft(d)
	if err != nil {
		return draft, err
	}
	worn, err := ds.Worn(d)
	if err != nil {
		return draft, err
	}
	turns := worn.Turns()
	out := worn.Only(func(facet string) bool { return slices.Contains(turns, facet) }).Over(draft)
	if len(out.Dark) == 0 && d.Has(desk.FacetDark) { // what it would be at least
		return out.Pair(desk.FacetDark, string(outfit.Light), string(outfit.Dark))
	}
	return out, nil
}

// Halves are the two that a look is to turn between: values by facet, for some of which there
// is one for each half, and when.
type Halves struct {
	Light, Dark map[string]string // "" in Dark is the same as in Light
	Turn        turning.Schedule
}

// ErrNoHalves: nothing would be another thing after dark.
var ErrNoHalves = errors.New("nothing is different after dark yet: choose something that should be")

// ChooseHalves puts two halves on the draft, in one step that is undone as one. now says which
// of them a draft is to have in force.
func (ds *Drafts) ChooseHalves(d *desks.Managed, h Halves, now func(outfit.Outfit) outfit.Outfit) (outfit.Outfit, error) {
	if err := h.Turn.Valid(); err != nil {
		return outfit.Outfit{}, err
	}
	before, err := ds.Draft(d)
	if err != nil {
		return before, err
	}
	halved, err := ds.Halved(d)
	if err != nil {
		return before, err
	}
	d.Lock()
	defer d.Unlock()
	after := before
	for _, facet := range outfit.Turnable {
		light, dark := h.Light[facet], h.Dark[facet]
		switch {
		case !d.Has(facet) || light == "" && dark == "":
			continue
		case light == "":
			return before, say.Errorf("%s after dark is %s: say what it is by day too", desk.FacetTitle(facet), fine.Says(facet, dark))
		case dark == "" || dark == light:
			if light != "" && light != after.Want(facet) && (halved.Paired(facet) || halved.Want(facet) != "") {
				after, err = ds.With(d, after, facet, light)
			}
		default:
			after, err = after.Pair(facet, light, dark)
		}
		if err != nil {
			return before, err
		}
	}
	if after.Turn == nil {
		return before, ErrNoHalves
	}
	after.Turn = &h.Turn
	return ds.Redraft(d, "by day and after dark", before, now(after))
}

// ChooseShow puts a slide show on the draft, that begins with the picture that is its turn of
// those that are there.
func (ds *Drafts) ChooseShow(d *desks.Managed, show turning.Show, there []string, now time.Time) (outfit.Outfit, error) {
	if err := show.Valid(); err != nil {
		return outfit.Outfit{}, err
	}
	if len(there) < 2 {
		return outfit.Outfit{}, say.Errorf("a slide show needs two pictures at least, and there are %d", len(there))
	}
	d.Lock()
	defer d.Unlock()
	before, err := ds.Draft(d)
	if err != nil {
		return before, err
	}
	first, _ := show.Next(now, turning.Shown{}, turning.Have{Pictures: there})
	after, err := ds.With(d, before, desk.FacetBackdrop, cmp.Or(first.Picture, there[0]))
	if err != nil {
		return before, err
	}
	return ds.Redraft(d, "backdrops in turn", before, after.WithShow(&show, cmp.Or(first.Picture, there[0])))
}
