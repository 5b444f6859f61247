package drafts

import (
	"errors"
	"strings"

	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/worn"
)

// AsWorn writes what a desk wears now as an outfit.
func (ds *Drafts) AsWorn(d *desks.Managed) (outfit.Outfit, error) {
	pieces, err := ds.record.Origins(d.ID)
	if err != nil {
		return outfit.Outfit{}, err
	}
	return worn.Of(d.Desk, library.Known(pieces)), nil
}

// Described is a draft with what is known of its pieces, tried on or in place.
func (ds *Drafts) Described(d *desks.Managed, on *desk.Desk, o outfit.Outfit) (outfit.Outfit, error) {
	pieces, err := ds.record.Origins(d.ID)
	if err != nil {
		return outfit.Outfit{}, err
	}
	return worn.Described(on, o, library.Known(pieces)), nil
}

// TakeOutfit makes an outfit file the desk's draft; that can be undone. What of it
// is not known is kept with it.
func (ds *Drafts) TakeOutfit(d *desks.Managed, text []byte) error {
	o, err := outfit.Parse(text)
	if err != nil {
		return err
	}
	if len(o.Choices) == 0 {
		return errors.New("this outfit chooses nothing")
	}
	d.Lock()
	defer d.Unlock()
	old, err := ds.Draft(d)
	if err != nil {
		return err
	}
	name := o.Name
	o, does := Harmless(d.Desk, o)
	if len(does) > 0 {
		ds.notices.Add(d, "“%s” would also change more than the look. That was left out: %s. If you want it, choose it yourself.", name, strings.Join(does, ". "))
	}
	if len(o.Choices) == 0 {
		return errors.New("everything in this outfit changes more than the look: if you want it, choose it yourself")
	}
	if _, err = ds.Redraft(d, "opening "+name, old, o); err != nil {
		return err
	}
	if unknown := o.Unknown(); len(unknown) > 0 {
		ds.notices.Add(d, "“%s” contains something that this version of Ivelt does not know; it is kept: %s.", name, strings.Join(unknown, ", "))
	}
	return nil
}
