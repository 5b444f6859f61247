package library

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/outfit"
	"ivelt/core/preview"
)

// PosterOf is what a poster of an outfit names: each piece with its version, maker and
// licence, as far as they are known, and the settings.
func PosterOf(title string, o outfit.Outfit, pieces []Origin, day time.Time) preview.Poster {
	p := preview.Poster{Title: title, About: o.About, Day: day.Format("2 January 2006")}
	for _, info := range desk.Facets {
		c, ok := o.Choices[info.Name]
		want := o.Want(info.Name)
		if !ok || want == "" {
			continue
		}
		credit := preview.Credit{For: string(info.Title), Name: fine.Says(info.Name, want).String()}
		switch {
		case slices.Contains([]desk.Takes{desk.TakesPiece, desk.TakesFont, desk.TakesPicture}, info.Takes):
			var known []string
			for _, text := range []string{cmp.Or(c.Version, c.Value), makerOf(c, pieces), c.Licence} {
				if text != "" && text != want && !strings.HasPrefix(text, "/") {
					known = append(known, text)
				}
			}
			credit.Details = strings.Join(known, " · ")
			if len(known) == 0 && c.Piece != "" && c.Checksum == "" {
				credit.Details = cmp.Or(c.Source, "part of the system")
			}
			same := func(one preview.Credit) bool { return one.Name == credit.Name && one.Details == credit.Details }
			if i := slices.IndexFunc(p.Pieces, same); i >= 0 {
				p.Pieces[i].For += ", " + strings.ToLower(credit.For)
				continue
			}
			p.Pieces = append(p.Pieces, credit)
		case info.Takes == desk.TakesColour:
			credit.Swatch = want
			p.Values = append(p.Values, credit)
		default:
			p.Values = append(p.Values, credit)
		}
	}
	return p
}

// makerOf is who made the piece of a choice, "" if nobody said.
func makerOf(c outfit.Choice, pieces []Origin) string {
	for _, o := range pieces {
		if c.Checksum == "sha256:"+o.Parcel && o.Parcel != "" || c.Piece != "" && o.Folder == c.Piece {
			return o.From.Maker
		}
	}
	return ""
}
