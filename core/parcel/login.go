package parcel

import (
	"io/fs"
	"path"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/archive"
	"ivelt/core/keyfile"
)

// logins finds login themes: folders whose description, a key file, has a
// group for a login screen. Login screens differ in the name of the group and
// agree on its being there (common practice, no source); which one a theme is
// for, its surface descriptor tells by where it looks.
func (p *Parcel) logins() []Piece {
	var out []Piece
	found := map[string]bool{}
	for _, name := range p.with([]string{".theme", ".desktop", ".conf", ".ini"}, func(n *archive.Node) bool { return n.Size > 0 && n.Size < 64<<10 && !p.claimed[n] }) {
		root := path.Dir(name)
		if found[root] || len(out) > maxPieces {
			continue
		}
		kf := p.keyFile(name)
		if kf == nil {
			continue
		}
		group := LoginGroup(kf)
		if group == "" || len(p.At(root).Children) < 2 { // a description of nothing
			continue
		}
		found[root] = true
		pc := p.piece(Login, root)
		if n := firstOf(kf, group, "Name", "Desktop Entry", "Name"); n != "" {
			pc.Name = n
		}
		if v := firstOf(kf, group, "Version"); v != "" {
			pc.Version = v
		}
		if l := firstOf(kf, group, "License", group, "Licence"); l != "" {
			pc.Licence = l
		}
		pc.Parts = append(pc.Parts, "login")
		pc.Notes = append(pc.Notes, note("login-system-only"))
		out = append(out, p.finish(pc))
	}
	return out
}

// LoginGroup is the group of a description that is for a login screen, "" if it
// has none.
func LoginGroup(kf *keyfile.File) string {
	groups := kf.Groups()
	i := slices.IndexFunc(groups, func(g string) bool {
		g = strings.ToLower(g)
		return strings.Contains(g, "greeter") || strings.Contains(g, "login") || strings.Contains(g, "log-in")
	})
	if i < 0 {
		return ""
	}
	return groups[i]
}

func (p *Parcel) keyFile(name string) *keyfile.File {
	if path.Base(name) == "index.theme" {
		return p.index(path.Dir(name))
	}
	b, err := fs.ReadFile(p, name)
	if err != nil {
		return nil
	}
	kf, err := keyfile.Parse(b)
	if err != nil {
		return nil
	}
	return kf
}

// vendorThemes finds the themes of the vendor-locked family: a description,
// NAME.theme with a group Theme, that names the pointers, pictures and the
// style it puts together. It is one piece with the files it names.
func (p *Parcel) vendorThemes() []Piece {
	var out []Piece
	for _, name := range p.with([]string{".theme"}, func(n *archive.Node) bool { return !isIndex(n) && n.Size < 64<<10 && !p.claimed[n] }) {
		if len(out) > maxPieces {
			break
		}
		kf := p.keyFile(name)
		if kf == nil || !slices.ContainsFunc(kf.Groups(), func(g string) bool { return strings.EqualFold(g, "theme") }) {
			continue
		}
		pc := p.piece(Theme, path.Dir(name))
		pc.Folder = strings.TrimSuffix(path.Base(name), path.Ext(name))
		pc.Name, pc.Parts, pc.Only = pc.Folder, []string{"description"}, []string{name}
		var missing []string
		named := map[string]bool{name: true}
		for _, group := range kf.Groups() {
			for _, e := range kf.Entries(group) {
				key, value := e.Key, e.Value
				if strings.EqualFold(group, "theme") && strings.EqualFold(key, "DisplayName") && !strings.HasPrefix(value, "@") {
					pc.Name = value
				}
				file, outside := vendorFile(value)
				if file == "" {
					continue
				}
				switch found := p.below(pc.Root, file); {
				case found != "" && !named[found]:
					named[found] = true
					pc.Only = append(pc.Only, found)
				case found == "" && !outside && !named["missing "+file]:
					named["missing "+file] = true
					missing = append(missing, file)
				}
			}
		}
		pc.Needs = append(pc.Needs, missing...)
		pc.Notes = append(pc.Notes, note("theme-other-family"))
		out = append(out, p.finish(pc))
	}
	return out
}

var vendorEnding = regexp.MustCompile(`(?i)\.(cur|ani|png|jpe?g|bmp|webp|wav|[a-z]*styles)$`)

// vendorFile returns the path a value of such a description names, its parts
// separated by slashes, "" if it names none. One that starts with a variable of
// the system lies outside the parcel unless it is found in it.
func vendorFile(value string) (file string, outside bool) {
	value = strings.Trim(strings.ReplaceAll(value, "\\", "/"), `" `)
	if !vendorEnding.MatchString(value) {
		return "", false
	}
	if strings.HasPrefix(value, "%") || len(value) > 1 && value[1] == ':' {
		return path.Base(value), true
	}
	return path.Clean(strings.TrimLeft(value, "/")), false
}

// below finds a file at or below a folder by its path's end, letters' case
// ignored, as that family's file systems do.
func (p *Parcel) below(root, file string) string {
	for _, n := range p.catalogue().called(path.Base(file)) {
		if rest, ok := within(root, n.Name); ok && (strings.EqualFold(rest, file) || strings.HasSuffix(strings.ToLower(rest), "/"+strings.ToLower(file))) {
			return n.Name
		}
	}
	return ""
}

// within returns the part of name below root.
func within(root, name string) (string, bool) {
	if root == "." {
		return name, true
	}
	return strings.CutPrefix(name, root+"/")
}
