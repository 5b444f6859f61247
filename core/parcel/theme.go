package parcel

import (
	"bytes"
	"fmt"
	"maps"
	"path"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/icontheme"
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
	for _, n := range p.catalogue().folders {
		if root := path.Dir(n.Name); n.Name != "." && roots[root] == nil && p.isTheme(root, n) {
			roots[root] = []string{}
		}
	}
	var out []Piece
	for _, root := range first(roots) {
		found := roots[root]
		out = append(out, p.theme(root, found))
	}
	return out
}

var (
	versioned = regexp.MustCompile(`^(.+?)-\d+(\.\d+)*$`)
	framesOf  = regexp.MustCompile(`(?i)^(themerc|[^/]*theme[^/]*\.xml)$`)
)

// isTheme tells whether a folder that no toolkit's part stands in is a theme by another
// of its folders: one of frames, or of a shell. It has to lie where themes do, or to be
// described, or that folder's name has to end in a version. Common practice, no source.
func (p *Parcel) isTheme(root string, part *archive.Node) bool {
	if !p.holdsFiles(part) {
		return false
	}
	in := path.Base(path.Dir(root))
	if in != "themes" && in != ".themes" && p.At(path.Join(root, "index.theme")) == nil && !versioned.MatchString(path.Base(part.Name)) {
		return false
	}
	return p.dressesFrames(part) || p.dressesShell(part)
}

func (p *Parcel) dressesFrames(part *archive.Node) bool {
	return slices.ContainsFunc(part.Children, func(c *archive.Node) bool { return framesOf.MatchString(path.Base(c.Name)) })
}

// dressesShell: the folder has a style sheet of its own name.
func (p *Parcel) dressesShell(part *archive.Node) bool {
	name := path.Base(part.Name)
	if m := versioned.FindStringSubmatch(name); m != nil {
		name = m[1]
	}
	return p.At(path.Join(part.Name, name+".css")) != nil
}

// only says what a theme without any toolkit's part dresses.
func (p *Parcel) only(root string, parts []string) Note {
	frames := !slices.ContainsFunc(parts, func(part string) bool { return !p.dressesFrames(p.At(path.Join(root, part))) })
	if frames {
		return note("theme-frames-only", strings.Join(clipList(parts), ", "))
	}
	return note("theme-no-toolkit", strings.Join(clipList(parts), ", "))
}

// beside are folders that stand in a theme without dressing anything.
var beside = regexp.MustCompile(`(?i)^(assets|src|source|sass|scss|doc|docs|scripts|screenshots?|previews?|\..*|icons?|cursors|backgrounds?|wallpapers?)$`)

func (p *Parcel) theme(root string, found []string) Piece {
	pc := p.piece(Theme, root)
	if kf := p.index(root); kf != nil {
		if name := firstOf(kf, "Desktop Entry", "Name", "Icon Theme", "Name"); name != "" {
			pc.Name = name
			if root == "." && !strings.ContainsAny(name, "/\n") { // a parcel's name says less
				pc.Folder = name
			}
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
	if len(found) == 0 {
		pc.Notes = append(pc.Notes, p.only(root, pc.Parts))
		return p.finish(pc)
	}
	pc.Notes = append(pc.Notes, p.importsMissing(root, found)...)
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

var importLine = regexp.MustCompile(`^@import\s+(?:url\(\s*)?["']([^"'\n]+)["']`)

// importsMissing tells of the sheets that a theme's sheets take in and that are not in
// the parcel.
func (p *Parcel) importsMissing(root string, parts []string) []Note {
	var missing []string
	for _, part := range parts {
		for _, c := range p.At(path.Join(root, part)).Children {
			if c.Mode.IsDir() || path.Ext(c.Name) != ".css" || len(missing) > 100 {
				continue
			}
			b, err := p.text(c.Name)
			if err != nil {
				continue
			}
			for n := 0; n < 100; n++ {
				at := bytes.Index(b, []byte("@import"))
				if at < 0 {
					break
				}
				b = b[at:]
				m := importLine.FindSubmatch(b[:min(len(b), 1024)])
				b = b[len("@import"):]
				if m == nil || bytes.Contains(m[1], []byte("://")) || m[1][0] == '/' {
					continue // in the toolkit, or on the desk
				}
				if _, err := p.Stat(path.Join(path.Dir(c.Name), string(m[1]))); err != nil {
					missing = append(missing, path.Join(part, path.Base(c.Name))+": "+string(m[1]))
				}
			}
		}
	}
	if len(missing) == 0 {
		return nil
	}
	return []Note{note("sheet-import-missing", fmt.Sprint(len(missing)), missing[0])}
}

// engineLibraries are the drawing engines that are in the parcel, by the names that
// resource files ask for them (GTK 2 reference, "Theming and theme engines").
func (p *Parcel) engineLibraries() []string {
	var out []string
	for _, n := range p.catalogue().endings[".so"] {
		if in := path.Dir(n.Name); path.Base(in) == "engines" && strings.Contains(in+"/", "/gtk-2.0/") {
			out = append(out, strings.TrimPrefix(strings.TrimSuffix(path.Base(n.Name), ".so"), "lib"))
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

var engineLine = regexp.MustCompile(`^engine\s+"([^"]+)"`)

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
		for line := range bytes.Lines(b) {
			if line = bytes.TrimLeft(line, " \t"); bytes.HasPrefix(line, []byte("engine")) {
				if m := engineLine.FindSubmatch(line); m != nil {
					named[string(m[1])] = true
				}
			}
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

// described is a folder's index.theme, read once.
type described struct {
	file *keyfile.File
	err  error // it is too long, cannot be read or is no key file
}

// index returns the index.theme of a folder as a key file, or nil.
func (p *Parcel) index(root string) *keyfile.File { return p.described(root).file }

func (p *Parcel) described(root string) described {
	if d, known := p.indexes[root]; known {
		return d
	}
	b, err := p.text(path.Join(root, "index.theme"))
	d := described{err: err}
	if err == nil {
		d.file, d.err = keyfile.Parse(b)
	}
	if len(p.indexes) < 64 {
		p.indexes[root] = d
	}
	return d
}

// iconTheme is the description of an icon pack.
func (p *Parcel) iconTheme(root, folder string) (*icontheme.Theme, error) {
	d := p.described(root)
	if d.err != nil {
		return nil, d.err
	}
	return icontheme.FromKeyFile(folder, d.file)
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
