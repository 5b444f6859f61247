package library

import (
	"encoding/json"
	"fmt"

	"ivelt/core/parcel"
	"ivelt/core/shown"
	"ivelt/store"
)

// Contents returns what was recognised in a parcel of the library.
func Contents(p store.ParcelRow) (parcel.Contents, error) {
	var c parcel.Contents
	return c, json.Unmarshal(p.Contents, &c)
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
	return parcel.Piece{}, fmt.Errorf("%s has no such piece", row.Name)
}
