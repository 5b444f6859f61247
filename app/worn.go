package app

import (
	"cmp"
	"errors"
	"path"
	"strings"

	"ivelt/core/outfit"
	"ivelt/core/worn"
	"ivelt/store"
)

// Origin is a piece that Ivelt put in place, with the parcel it came in.
type Origin struct {
	store.PieceRow
	From store.ParcelRow
}

// Known tells what is known of the pieces that Ivelt put in place, by their paths
// on the desk.
func Known(pieces []Origin) func(path string) worn.About {
	known := map[string]worn.About{}
	for _, p := range pieces {
		a := worn.About{Version: cmp.Or(p.Version, p.From.Version), Licence: licenceIn(p), Source: cmp.Or(p.From.Name, "a parcel")}
		if p.Parcel != "" {
			a.Checksum = "sha256:" + p.Parcel
		}
		known[p.Path] = a
	}
	return func(at string) worn.About {
		for ; at != "/" && at != "."; at = path.Dir(at) { // a file of a piece is asked for by its own path
			if a, ok := known[at]; ok {
				return a
			}
		}
		return worn.About{}
	}
}

// licenceIn is the licence of a piece: what its market says, else its parcel.
func licenceIn(p Origin) string {
	if p.From.Licence != "" || len(p.From.Contents) == 0 {
		return p.From.Licence
	}
	contents, err := Contents(p.From)
	if err != nil {
		return ""
	}
	for _, pc := range contents.Pieces {
		if pc.Folder == p.Folder && string(pc.Kind) == p.Kind {
			return pc.Licence
		}
	}
	return ""
}

// AsWorn writes what a desk wears now as an outfit.
func (a *App) AsWorn(d *Desk) (outfit.Outfit, error) {
	pieces, err := a.Record.Origins(d.ID)
	if err != nil {
		return outfit.Outfit{}, err
	}
	return worn.Of(d.Desk, Known(pieces)), nil
}

// TakeOutfit makes an outfit file the desk's draft; that can be undone. What of it
// is not known is kept with it.
func (a *App) TakeOutfit(d *Desk, text []byte) error {
	o, err := outfit.Parse(text)
	if err != nil {
		return err
	}
	if len(o.Choices) == 0 {
		return errors.New("this outfit chooses nothing")
	}
	d.Lock()
	defer d.Unlock()
	old, err := a.Draft(d)
	if err != nil {
		return err
	}
	name := o.Name
	o, does := Harmless(d.Desk, o)
	if len(does) > 0 {
		a.notice(d, "“%s” would also do more than change how things look. That was left out: %s. If you want it, choose it yourself.", name, strings.Join(does, ". "))
	}
	if len(o.Choices) == 0 {
		return errors.New("all that this outfit chooses does more than change how things look: if you want it, choose it yourself")
	}
	if _, err = a.redraft(d, "opening "+name, old, o); err != nil {
		return err
	}
	if unknown := o.Unknown(); len(unknown) > 0 {
		a.notice(d, "“%s” has something that this Ivelt does not know, and keeps: %s.", name, strings.Join(unknown, ", "))
	}
	return nil
}
