package desk

import (
	"path"
	"slices"

	"ivelt/core/say"
)

// PlaceIcons are folders and volumes that a program shows a picture of each, told one by one.
type PlaceIcons struct {
	File    string        `toml:"file"` // the key file with the full path of a picture for each
	Kept    Source        `toml:"kept"` // the group of the pictures that it has kept, each place's SHA-256
	Made    string        `toml:"made"` // the folder in which pictures are made, one folder a pack
	Size    int           `toml:"size"` // of a picture, px
	Folders PlacesOf      `toml:"folders"`
	Volumes VolumesListed `toml:"volumes"`
}

// PlacesOf are folders by their paths, with the icon that each has.
type PlacesOf struct {
	Group string            `toml:"group"`
	Icons map[string]string `toml:"icons"`
}

// VolumesListed are volumes, listed in a group with the kind of each, and the icons of kinds.
type VolumesListed struct {
	Group  string            `toml:"group"`
	Listed Source            `toml:"listed"`
	Icons  map[string]string `toml:"icons"`
}

// placing tells what of a facet's places cannot be used.
func (s Surface) placing(f Facet) error {
	p := f.Places
	if p == nil {
		return nil
	}
	if f.Name != FacetIcons || f.Lookup.Kind != "places" || p.Size < 8 || p.Size > 512 || p.Folders.Group == "" {
		return say.Errorf("places show icons, of 8 to 512 px, found as places")
	}
	for _, src := range []Source{p.Kept, p.Volumes.Listed} {
		if src.Path == "" {
			continue
		}
		if src.Format != "keyfile" || src.Group == "" {
			return say.Errorf("of %s: a group of a key file is meant", src.Path)
		}
		if err := s.source(src); err != nil {
			return err
		}
	}
	var paths []string
	for at, icon := range p.Folders.Icons {
		if path.Base(icon) != icon {
			return say.Errorf("%q is no icon's name", icon)
		}
		paths = append(paths, at)
	}
	return s.placed("places", slices.Concat([]string{p.File, p.Made}, paths)...)
}

// Packs is how a facet's icon packs are looked up: those from which pictures of places are made,
// or else those that it finds.
func (f Facet) Packs() Lookup {
	if f.Places == nil {
		return f.Lookup
	}
	return Lookup{Kind: "icon-theme", Folders: f.Lookup.From}
}

// Everywhere are the folders in which pieces lie that a lookup finds, or from which what it finds
// is made.
func (l Lookup) Everywhere() []string { return slices.Concat(l.Folders, l.From) }
