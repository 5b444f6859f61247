package parcel

import (
	"maps"
	"path"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/keyfile"
)

// toolkitParts are the parts that toolkits themselves look for.
var toolkitParts = (desk.With(desk.Builtin())).Parts()

// themes finds window themes: folders in which at least one part stands. What
// other folders beside a part hold, is reported by their names.
func (p *Parcel) themes(parts []desk.Part) []Piece {
	roots := map[string][]string{}
	parts = slices.Concat(toolkitParts, parts)
	for _, n := range p.catalogue().folders {
		if n.Name == "." {
			continue
		}
		for _, part := range parts {
			if ok, _ := path.Match(part.Folder, path.Base(n.Name)); !ok {
				continue
			}
			for _, c := range n.Children {
				if ok, _ := path.Match(part.File, path.Base(c.Name)); ok && !c.Mode.IsDir() {
					root := path.Dir(n.Name)
					roots[root] = append(roots[root], path.Base(n.Name))
				}
			}
		}
	}
	var out []Piece
	for _, root := range first(roots) {
		found := roots[root]
		out = append(out, p.theme(root, found))
	}
	return out
}

// beside are folders that stand in a theme without dressing anything.
var beside = regexp.MustCompile(`(?i)^(assets|src|source|sass|scss|doc|docs|scripts|screenshots?|previews?|\..*|icons?|cursors|backgrounds?|wallpapers?)$`)

func (p *Parcel) theme(root string, found []string) Piece {
	pc := p.piece(Theme, root)
	if kf := p.index(root); kf != nil {
		if name := firstOf(kf, "Desktop Entry", "Name", "Icon Theme", "Name"); name != "" {
			pc.Name = name
		}
		for _, g := range kf.Groups() { // a theme's description names its companions
			for key, kind := range map[string]string{"IconTheme": "icon pack ", "CursorTheme": "pointer set "} {
				if companion := kf.Get(g, key); companion != "" {
					pc.Needs = append(pc.Needs, kind+companion)
				}
			}
		}
		slices.Sort(pc.Needs)
	}
	for _, c := range p.At(root).Children {
		base := path.Base(c.Name)
		if c.Mode.IsDir() && (slices.Contains(found, base) || !beside.MatchString(base) && p.holdsFiles(c) && root != ".") {
			pc.Parts = append(pc.Parts, base)
		}
	}
	slices.Sort(pc.Parts)
	for _, part := range found {
		if p.At(path.Join(root, part, "gtk-dark.css")) != nil {
			pc.Dark = true
		}
	}
	for _, want := range []struct{ part, glob string }{
		{"GTK 2", "gtk-2.0"}, {"GTK 3", "gtk-3.*"}, {"GTK 4", "gtk-4.*"},
	} {
		if !slices.ContainsFunc(pc.Parts, func(s string) bool { ok, _ := path.Match(want.glob, s); return ok }) {
			pc.Notes = append(pc.Notes, note("theme-no-part", want.part))
		}
	}
	for _, engine := range p.engines(root) {
		pc.Needs = append(pc.Needs, "drawing engine "+engine)
	}
	return p.finish(pc)
}

var engineLine = regexp.MustCompile(`(?m)^\s*engine\s+"([^"]+)"`)

// engines returns the drawing engines a theme's gtkrc asks for (GTK 2
// reference, "Resource Files": engine "name" { … }).
func (p *Parcel) engines(root string) []string {
	named := map[string]bool{}
	dir := path.Join(root, "gtk-2.0")
	entries, err := p.ReadDir(dir)
	if err != nil {
		return nil
	}
	for _, e := range entries {
		if e.IsDir() || !(strings.HasSuffix(e.Name(), "rc")) {
			continue
		}
		b, err := p.text(path.Join(dir, e.Name()))
		if err != nil {
			continue
		}
		for _, m := range engineLine.FindAllStringSubmatch(string(b), -1) {
			named[m[1]] = true
		}
	}
	return slices.Sorted(maps.Keys(named))
}

// first are the keys of a map in order, one more of them than there may be pieces, at most.
func first[T any](of map[string]T) []string {
	keys := slices.Sorted(maps.Keys(of))
	return keys[:min(len(keys), maxPieces+1)]
}

func (p *Parcel) holdsFiles(n *archive.Node) bool {
	return slices.ContainsFunc(n.Children, func(c *archive.Node) bool { return !c.Mode.IsDir() })
}

// index returns the index.theme of a folder as a key file, or nil.
func (p *Parcel) index(root string) *keyfile.File {
	b, err := p.text(path.Join(root, "index.theme"))
	if err != nil {
		return nil
	}
	kf, err := keyfile.Parse(b)
	if err != nil {
		return nil
	}
	return kf
}

func firstOf(kf *keyfile.File, pairs ...string) string {
	for i := 0; i+1 < len(pairs); i += 2 {
		if v := kf.Get(pairs[i], pairs[i+1]); v != "" {
			return v
		}
	}
	return ""
}

// sourcesOnly tells whether the parcel has the sources of a style sheet but no
// theme made from them.
func (p *Parcel) sourcesOnly() bool {
	return len(p.catalogue().endings[".scss"]) > 0
}
