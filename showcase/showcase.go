// Package showcase draws and measures what a market shows of its parcels, from
// the pieces in them.
package showcase

import (
	"context"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/taste"
	"ivelt/sign"
)

// Of looks at the first piece of the entry's kind in a parcel and returns its
// pictures. It fills in what can be read off the piece: its looks, and, where
// the entry says nothing, its licence, how many there are and which parts it has. It returns
// nil if the parcel has no such piece.
func Of(ctx context.Context, p *parcel.Parcel, e *market.Entry, parts []desk.Part) []sign.Picture {
	found := p.Recognise(ctx, parts...)
	same := slices.DeleteFunc(slices.Clone(found.Pieces), func(pc parcel.Piece) bool { return string(pc.Kind) != e.Kind })
	if len(same) == 0 {
		return nil
	}
	pc := same[0]
	if pc.Kind == parcel.Bundle {
		return ofBundle(ctx, p, found.Pieces, pc, e)
	}
	if l, ok := taste.Of(ctx, p, pc); ok {
		e.Looks = &l
	}
	if e.Licence == "" {
		e.Licence = pc.Licence
	}
	if e.Pieces == 0 && len(same) > 1 {
		e.Pieces = len(same)
	}
	if len(e.Dresses) == 0 && pc.Kind == parcel.Theme {
		e.Dresses = pc.Parts
	}
	pictures := sign.Pictures(ctx, p, pc)
	if e.Looks != nil && e.Looks.TwoForms {
		pictures = append(pictures, sign.Forms(ctx, p, pc)...)
	}
	return pictures
}

// ofBundle shows a bundle by the theme and the icons that came with it; what came
// with nothing has its own page of words.
func ofBundle(ctx context.Context, p *parcel.Parcel, all []parcel.Piece, pc parcel.Piece, e *market.Entry) []sign.Picture {
	var shown []parcel.Piece
	for _, kind := range []parcel.Kind{parcel.Theme, parcel.Icons} {
		if i := slices.IndexFunc(all, func(pc parcel.Piece) bool { return pc.Kind == kind }); i >= 0 {
			shown = append(shown, all[i])
			if l, ok := taste.Of(ctx, p, all[i]); ok && e.Looks == nil {
				e.Looks = &l
			}
		}
	}
	if shown == nil {
		return sign.Pictures(ctx, p, pc)
	}
	return []sign.Picture{{State: "normal", SVG: sign.Together(ctx, p, shown)}}
}

// Hang gives the entry the pictures that were computed from its pieces, in the
// stead of others of those states, and hands each to put with the name of its
// file below the market's top.
func Hang(e *market.Entry, pictures []sign.Picture, put func(file string, svg []byte) error) error {
	var out []market.Picture
	for i, p := range pictures {
		file := "pictures/" + e.ID
		if i > 0 {
			file += "@" + strings.ReplaceAll(p.State, " ", "-") // no other entry is called so
		}
		file += ".svg"
		if err := put(file, p.SVG); err != nil {
			return err
		}
		out = append(out, market.Picture{State: p.State, File: file, From: "pieces"})
	}
	for _, old := range e.Pictures {
		if !slices.ContainsFunc(out, func(p market.Picture) bool { return p.State == old.State }) {
			out = append(out, old)
		}
	}
	e.Pictures = out
	return nil
}
