// Package showcase draws and measures what a market shows of its parcels, from
// the pieces in them.
package showcase

import (
	"slices"

	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/core/taste"
)

// Of looks at the first piece of the entry's kind in a parcel and returns its
// picture, an SVG. It fills in what can be read off the piece: its looks, and,
// where the entry says nothing, how many there are and which parts it has. ok is
// false if the parcel has no such piece.
func Of(p *parcel.Parcel, e *market.Entry, parts []desk.Part) (picture []byte, ok bool) {
	found := p.Recognise(parts...)
	same := slices.DeleteFunc(found.Pieces, func(pc parcel.Piece) bool { return string(pc.Kind) != e.Kind })
	if len(same) == 0 {
		return nil, false
	}
	pc := same[0]
	if l, ok := taste.Of(p, pc); ok {
		e.Looks = &l
	}
	if e.Pieces == 0 && len(same) > 1 {
		e.Pieces = len(same)
	}
	if len(e.Dresses) == 0 && pc.Kind == parcel.Theme {
		e.Dresses = pc.Parts
	}
	return preview.Piece(p, pc), true
}

// Pictures returns the entry's pictures with the one computed from its pieces
// in the stead of any other of that state.
func Pictures(e market.Entry, file string) []market.Picture {
	const state = "normal"
	kept := slices.DeleteFunc(slices.Clone(e.Pictures), func(p market.Picture) bool { return p.State == state })
	return append([]market.Picture{{State: state, File: file, From: "pieces"}}, kept...)
}
