package library

import (
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/gtkrc"
	"ivelt/core/keyfile"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/store"
)

// NamedBy lists the settings files and outfits of a desk that name a piece by
// what programs ask for: a file with line and key, an outfit by its name.
func (pp *Pieces) NamedBy(d *desks.Managed, piece store.PieceRow) ([]string, error) {
	asked := parcel.Piece{Kind: parcel.Kind(piece.Kind), Name: piece.Name, Folder: piece.Folder}.Asked()
	if asked == "" {
		asked = path.Base(piece.Path)
	}
	var out []string
	for _, file := range settingsFiles(d.Desk) {
		b, err := fs.ReadFile(d.Tree(), desk.Name(file))
		if err != nil {
			continue
		}
		kf, err := keyfile.Parse(b)
		if err != nil { // GTK 2's are of another form
			for _, e := range gtkrc.Parse(b).Settings {
				if names(e.Value, asked, parcel.Kind(piece.Kind)) {
					out = append(out, fmt.Sprintf("%s line %d, %s", d.Show(file), e.Line, e.Key))
				}
			}
			continue
		}
		for _, group := range kf.Groups() {
			for _, e := range kf.Entries(group) {
				if names(e.Value, asked, parcel.Kind(piece.Kind)) {
					out = append(out, fmt.Sprintf("%s line %d, %s", d.Show(file), e.Line, e.Key))
				}
			}
		}
	}
	draft, err := pp.drafts.Draft(d)
	if err != nil {
		return nil, err
	}
	worn, err := pp.drafts.Worn(d)
	if err != nil {
		return nil, err
	}
	saved, err := pp.drafts.Saved(d)
	if err != nil {
		return nil, err
	}
	type titled struct {
		outfit.Outfit
		title string
	}
	all := []titled{{draft, "the draft"}, {worn, "the outfit last applied"}}
	for _, o := range saved {
		all = append(all, titled{o, "the saved look “" + o.Name + "”"})
	}
	for _, o := range all {
		for _, f := range o.Facets() {
			if o.Want(f) == asked {
				out = append(out, o.title)
			}
		}
	}
	return out, nil
}

// names reports whether a setting's value is a piece's name; a font's is
// followed by style and size (Pango, pango_font_description_from_string).
func names(value, asked string, kind parcel.Kind) bool {
	value = strings.Trim(strings.TrimSpace(value), `"'`)
	return value == asked || kind == parcel.Font && (strings.HasPrefix(value, asked+" ") || strings.HasPrefix(value, asked+","))
}

// settingsFiles are the files that the desk's surfaces take settings from.
func settingsFiles(d *desk.Desk) []string {
	var out []string
	for _, s := range d.Surfaces() {
		for _, f := range s.Facets {
			for _, src := range f.Sources {
				for _, p := range reading.Places(d, s, src) { // a variable has none
					if p != "" && !slices.Contains(out, p) {
						out = append(out, p)
					}
				}
			}
		}
	}
	return out
}
