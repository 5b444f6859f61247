package library

import (
	"encoding/json"

	"ivelt/core/parcel"
	"ivelt/core/say"
	"ivelt/core/shown"
	"ivelt/store"
)

// Contents returns what was recognised in a parcel of the library. A piece whose files tell
// no licence has that of the parcel's market; if both tell one and they differ, the files
// count, and it is noted.
func Contents(p store.ParcelRow) (parcel.Contents, error) {
	var c parcel.Contents
	if err := json.Unmarshal(p.Contents, &c); err != nil {
		return c, err
	}
	for i := range c.Pieces {
		pc := &c.Pieces[i]
		switch {
		case pc.Licence == "":
			pc.Licence = p.Licence
		case p.Licence != "" && p.Licence != pc.Licence:
			pc.Notes = append(pc.Notes, parcel.LicenceDiffers(pc.Licence, p.Licence))
		}
	}
	return c, nil
}

// PieceKey tells a piece from the others of its parcel.
func PieceKey(p parcel.Piece) string {
	return string(p.Kind) + " " + p.Folder + " " + shown.Line(p.Root) // forms change line ends
}

// PieceOf returns the piece of a parcel with that key.
func PieceOf(row store.ParcelRow, key string) (parcel.Piece, error) {
	contents, err := Contents(row)
	if err != nil {
		return parcel.Piece{}, err
	}
	for _, p := range contents.Pieces {
		if PieceKey(p) == key {
			return p, nil
		}
	}
	return parcel.Piece{}, say.Errorf("%s has no such piece", row.Name)
}
