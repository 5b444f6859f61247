// Package place knows where a piece goes: the folder for its kind and for who
// is to have it, why that one, and which surfaces of a desk look there.
package place

import (
	"errors"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/planning"
	"ivelt/core/say"
)

// Scope is who a piece is put in place for.
type Scope string

const (
	Mine     Scope = "mine"
	Everyone Scope = "everyone"
)

// Placement is one folder a piece can go to.
type Placement struct {
	Scope  Scope    `json:"scope"`
	Path   string   `json:"path"` // on the desk, the home written as "~"
	Reason string   `json:"reason"`
	SeenBy []string `json:"seen_by"`              // titles of the surfaces that look there
	Blind  []string `json:"not_seen_by"`          // of those that show pieces of this kind
	Link   bool     `json:"link,omitempty"`       // a link to the placement before, for those who look nowhere else
	Copy   []string `json:"needs_copy,omitempty"` // surfaces that would see a copy here, but cannot follow the link
}

// ErrNowhere: there is no folder for a piece of that kind and scope.
var ErrNowhere = errors.New("no folder for it")

// rule is the folder for one kind and scope. The first rule of a kind and
// scope is where the piece goes; further ones get a link to it.
type rule struct {
	kind   parcel.Kind
	scope  Scope
	folder string
	reason string
}

// rules are, for themes and icons, what the surface descriptors say the
// toolkits search; for sounds the Sound Theme Specification; for fonts
// fonts-conf(5). Backdrops and palettes have no standard: common practice, no
// source.
var rules = []rule{
	{parcel.Theme, Mine, "~/.themes", "the older folder in your home: every toolkit looks there; the oldest programs and sandboxed ones only there"},
	{parcel.Theme, Everyone, "/usr/local/share/themes", "the system folder for what no package installed: all users and the login screen see it, and no update overwrites it"},
	{parcel.Icons, Mine, "{data}/icons", "the data folder in your home: searched before the system's packs, and only for you"},
	{parcel.Icons, Mine, "~/.icons", "a link, for programs that look only in the older folder"},
	{parcel.Icons, Everyone, "/usr/local/share/icons", "the system folder for what no package installed: all users and the login screen see it, and no update overwrites it"},
	{parcel.Pointer, Mine, "~/.icons", "the older folder in your home, the only one in it where the display looks"},
	{parcel.Pointer, Everyone, "/usr/share/icons", "the only system folder where the display looks"},
	{parcel.Font, Mine, "{data}/fonts", "the data folder of your home, where fontconfig looks for your own fonts"},
	{parcel.Font, Everyone, "/usr/local/share/fonts", "the system folder for fonts that no package installed"},
	{parcel.Backdrop, Mine, "{data}/backgrounds", "the data folder of your home; a backdrop is chosen by its path, so any readable folder does"},
	{parcel.Backdrop, Everyone, "/usr/local/share/backgrounds", "a folder everyone can read, the login screen too"},
	{parcel.Login, Everyone, "{login}", "the folder where this desk's login screen looks for what no package owns: it runs before anyone has signed in and reads no home"},
	{parcel.Sound, Mine, "{data}/sounds", "the data folder of your home, as the Sound Theme Specification asks"},
	{parcel.Sound, Everyone, "/usr/local/share/sounds", "the system folder for what no package installed"},
	{parcel.Palette, Mine, "{data}/palettes", "the data folder of your home; programs take the colours from it when they are told to"},
	{parcel.Style, Mine, "{data}/styles", "the data folder of your home; its engine is told the path"},
	{parcel.Descriptor, Mine, "{config}/ivelt/surfaces", "your configuration of Ivelt, beside descriptors of your own; a file beside it says which one you took"},
	{parcel.Bundle, Mine, "{data}/outfits", "the data folder of your home, beside your other outfits"},
}

// Placements lists where a piece can go on a desk, the usual one first. A nil
// desk stands for any with the usual folders; nobody is then said to look.
func Placements(piece parcel.Piece, d *desk.Desk) []Placement {
	at := d
	if at == nil {
		at = &desk.Desk{HomePath: "/home/me"}
	}
	out := []Placement{}
	if slices.Equal(piece.Parts, []string{"cur"}) || slices.Equal(piece.Parts, []string{"description"}) {
		return out // of another family: no surface here reads it
	}
	for _, r := range rules {
		if r.kind != piece.Kind {
			continue
		}
		folder := r.folder
		if folder == "{login}" {
			folder = loginFolder(at)
		}
		base := at.First(folder)
		link := len(out) > 0 && out[len(out)-1].Scope == r.scope
		if link && piece.Only != nil {
			continue
		}
		p := Placement{Scope: r.scope, Path: at.Show(path.Join(base, piece.Folder)), Reason: r.reason, Link: link, SeenBy: []string{}, Blind: []string{}}
		for _, s := range at.Surfaces() {
			folders, sealed := s.Look(string(piece.Kind))
			looks := slices.ContainsFunc(at.Folders(folders), func(f string) bool { return below(desk.Name(base), f) })
			switch {
			case folders == nil:
			case looks && link && sealed:
				p.Copy = append(p.Copy, s.Title)
			case looks:
				p.SeenBy = append(p.SeenBy, s.Title)
			default:
				p.Blind = append(p.Blind, s.Title)
			}
		}
		out = append(out, p)
	}
	return out
}

// loginFolder is where the desk's login screen looks: the first folder of its
// own that is not the packages', or what other login screens use.
func loginFolder(d *desk.Desk) string {
	for _, s := range d.Surfaces() {
		for _, f := range s.LooksIn(string(parcel.Login)) {
			return f
		}
	}
	return "/usr/local/share/login-themes"
}

// below reports whether a folder is one that is looked in, or lies in it:
// fonts are looked for in folders of folders.
func below(folder, looked string) bool {
	return folder == looked || strings.HasPrefix(folder, looked+"/")
}

// Target returns the folder on the desk for a piece and scope. Errors wrap
// [ErrNowhere].
func Target(piece parcel.Piece, d *desk.Desk, scope Scope) (string, error) {
	for _, p := range Placements(piece, d) {
		if p.Scope == scope && !p.Link {
			return unshow(d, p.Path), nil
		}
	}
	return "", say.Errorf("%w: a %s has no place for scope %q on this desk", ErrNowhere, piece.Kind.Title(), scope)
}

// Links returns the further folders of the desk that may get a link to it.
func Links(piece parcel.Piece, d *desk.Desk, scope Scope) []string {
	var out []string
	for _, p := range Placements(piece, d) {
		if p.Scope == scope && p.Link {
			out = append(out, unshow(d, p.Path))
		}
	}
	return out
}

func unshow(d *desk.Desk, p string) string {
	if rest, ok := strings.CutPrefix(p, "~"); ok {
		return path.Join(d.HomePath, rest)
	}
	return p
}

// All returns where each of the pieces goes, for a plan to install them.
func All(pieces []parcel.Piece, d *desk.Desk, scope Scope, exists planning.Exists, second planning.Second) ([]planning.Placing, error) {
	var out []planning.Placing
	for _, pc := range pieces {
		target, err := Target(pc, d, scope)
		if err != nil {
			return nil, err
		}
		out = append(out, planning.Placing{Piece: pc, Target: target, Links: Links(pc, d, scope), Second: second, Exists: exists})
	}
	return out, nil
}

// Hides returns where the desk has other copies of a piece that one at target
// would come before, for some surface that looks in both folders.
func Hides(piece parcel.Piece, d *desk.Desk, target string) []string {
	var out []string
	for _, s := range d.Surfaces() {
		found := false
		for _, folder := range d.Folders(s.LooksIn(string(piece.Kind))) {
			at := path.Join(desk.Path(folder), piece.Folder)
			if at == target {
				found = true
				continue
			}
			if found && d.Exists(at) && !slices.Contains(out, at) {
				out = append(out, at)
			}
		}
	}
	return out
}
