package reading

import (
	"errors"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/say"
	"ivelt/core/signed"
)

// IconPlace is a folder or a volume that shows a picture.
type IconPlace struct {
	Group, Name string
	Icon        string // by which it is asked of a pack
	Told        string // the full path of its picture, "" for the usual one
	Line        int    // where that is told, from 1
	Kept        string // the SHA-256 of the picture that the system has kept of it, "" for none
	Now         string // the same of the file that it is told; "" if there is none
	Pack        string // from which its picture was made, "" for another one
}

// Old reports whether the place shows a picture that was kept, and not the one that it is told.
func (p IconPlace) Old() bool { return p.Told != "" && p.Kept != "" && p.Kept != p.Now }

// PlacesOf are the folders and volumes of a facet that are there, in order.
func PlacesOf(d *desk.Desk, f desk.Facet) []IconPlace {
	return desk.Once(d, "places "+f.Places.File, func() []IconPlace {
		p := f.Places
		told, kept := groups(d, p.File), groups(d, p.Kept.Path)[p.Kept.Group]
		var out []IconPlace
		add := func(group, name, icon string) {
			one := IconPlace{Group: group, Name: name, Icon: icon}
			if e, ok := told[group][name]; ok {
				one.Told, one.Line = e.Value, e.Line
				one.Now = digestOf(d, e.Value)
				if folder := path.Dir(one.Told); path.Dir(folder) == d.First(p.Made) {
					one.Pack = path.Base(folder)
				}
			}
			one.Kept = kept[name].Value
			out = append(out, one)
		}
		for _, at := range slices.Sorted(maps.Keys(p.Folders.Icons)) {
			if info, err := fs.Stat(d.Tree(), desk.Name(d.First(at))); err == nil && info.IsDir() {
				add(p.Folders.Group, at, p.Folders.Icons[at])
			}
		}
		listed := groups(d, p.Volumes.Listed.Path)[p.Volumes.Listed.Group]
		for _, name := range slices.Sorted(maps.Keys(listed)) {
			if len(out) == maxPlaces {
				break
			}
			if icon := p.Volumes.Icons[listed[name].Value]; icon != "" {
				add(p.Volumes.Group, name, icon)
			}
		}
		return out
	})
}

// What is looked at of places: how many, and how large a picture may be.
const (
	maxPlaces       = 200
	maxPlacePicture = 4 << 20
)

// digestOf is the SHA-256 of a picture, "" if there is none, or none that a place could show.
func digestOf(d *desk.Desk, file string) string {
	info, err := fs.Stat(d.Tree(), desk.Name(file))
	if err != nil || !info.Mode().IsRegular() || info.Size() > maxPlacePicture {
		return ""
	}
	b, err := d.Tree().ReadFile(desk.Name(file))
	if err != nil {
		return ""
	}
	return signed.Digest(b)
}

// groups are the lines of a key file, by group and key; none of one that cannot be read.
func groups(d *desk.Desk, file string) map[string]map[string]keyfile.Entry {
	out := map[string]map[string]keyfile.Entry{}
	if file == "" {
		return out
	}
	b, err := d.Tree().ReadSettings(desk.Name(d.First(file)))
	if err != nil {
		return out
	}
	kf, err := keyfile.Parse(b)
	if err != nil {
		return out
	}
	for _, group := range kf.Groups() {
		out[group] = map[string]keyfile.Entry{}
		for _, e := range kf.Entries(group) {
			out[group][e.Key] = e
		}
	}
	return out
}

// toldPlaces reads which pack the pictures of places were made of: the one that most have.
// Places that have another are told as single ones.
func toldPlaces(d *desk.Desk, s desk.Surface, f desk.Facet) Reading {
	r := Reading{Surface: s.ID, Facet: f.Name}
	all := PlacesOf(d, f)
	count := map[string]int{}
	for _, p := range all {
		if p.Told != "" {
			count[p.Pack]++
		} else {
			count[f.Default]++
		}
	}
	r.Value = f.Default
	for _, pack := range slices.Sorted(maps.Keys(count)) {
		if pack != "" && count[pack] > count[r.Value] {
			r.Value = pack
		}
	}
	file := d.First(f.Places.File)
	last := Link{Origin: Origin{Kind: "default", Key: f.Name}, State: Wins, Value: f.Default}.noted(say.Of("reading/step/what-program-uses-when-nothing"))
	r.Source = last.Origin
	own := Link{Origin: Origin{Kind: "file", Path: file}, State: Absent}
	if d.Exists(file) {
		own.State = Silent
	}
	for _, p := range all {
		if p.Told != "" && p.Pack == r.Value && own.State != Wins {
			own.Line, own.Key, own.Value, own.State, last.State = p.Line, p.Name, r.Value, Wins, Overruled
			r.Source = own.Origin
		}
	}
	r.Chain = []Link{own, last}
	old := 0
	for _, p := range all {
		pack := p.Pack
		if p.Told == "" {
			pack = f.Default
		}
		if pack != r.Value {
			r.Singles = append(r.Singles, Single{Key: p.Name, Value: p.Told, Path: file, Line: p.Line})
		}
		switch {
		case p.Old():
			old++
		case p.Told != "" && p.Kept == "":
			r.Pending = s.Restart
		}
	}
	if old > 0 {
		r.Problem = problem(Problem{
			Code: OldPicture, At: d.First(f.Places.Kept.Path), Says: say.Of("reading/old-pictures", old, s.Named()),
			Fix: say.Of("reading/take-kept-out", d.Show(d.First(f.Places.Kept.Path))),
		})
	}
	return r
}

// errNoPicture: a pack has no icon for a place.
var errNoPicture = errors.New("it has no icon for any of the places")

// PackServes tells whether a pack has an icon for some place.
func PackServes(d *desk.Desk, f desk.Facet, pack string) error {
	x := Icons(d, f.Packs(), pack)
	for _, p := range PlacesOf(d, f) {
		if _, _, ok := x.LookupBest(IconNames(p.Icon), f.Places.Size, 1); ok {
			return nil
		}
	}
	return errNoPicture
}

// IconNames are the names by which the icon of a place is asked, the best first: a pack that has
// none for it has one for every folder (Icon Naming Specification 0.8.90).
func IconNames(icon string) []string {
	out := []string{icon}
	for at := strings.LastIndexByte(icon, '-'); at > 0; at = strings.LastIndexByte(icon[:at], '-') {
		out = append(out, icon[:at])
	}
	return out
}
