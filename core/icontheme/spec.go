package icontheme

import "path"

// LookupSpec finds name as the pseudocode in the specification's section "Icon
// Lookup" does: an exact directory first, then the least size distance, theme
// by theme along the chain, then the base folders. Of several files in one
// directory png comes before svg before xpm.
func (x *Index) LookupSpec(name string, size, scale int) (Icon, bool) {
	for _, c := range x.chain {
		for i := range c.folder {
			l := &c.folder[i]
			if have, ok := l.icons[name]; ok && l.matchesSize(size, scale) {
				return l.icon(c.theme, name, have, size, scale), true
			}
		}
		var closest *located
		least := 0
		for i := range c.folder {
			l := &c.folder[i]
			if _, ok := l.icons[name]; !ok {
				continue
			}
			if d := l.sizeDistance(size, scale); closest == nil || d < least {
				closest, least = l, d
			}
		}
		if closest != nil {
			return closest.icon(c.theme, name, closest.icons[name], size, scale), true
		}
	}
	return x.lookupUnthemed(name, size*scale)
}

// matchesSize is DirectoryMatchesSize of the specification.
func (d *Directory) matchesSize(size, scale int) bool {
	if d.Scale != scale {
		return false
	}
	switch d.Type {
	case Fixed:
		return d.Size == size
	case Scalable:
		return d.MinSize <= size && size <= d.MaxSize
	}
	return d.Size-d.Allowed <= size && size <= d.Size+d.Allowed
}

// sizeDistance is DirectorySizeDistance of the specification, in px.
func (d *Directory) sizeDistance(size, scale int) int {
	want := size * scale
	switch d.Type {
	case Fixed:
		return abs(d.Size*d.Scale - want)
	case Scalable:
		if want < d.MinSize*d.Scale {
			return d.MinSize*d.Scale - want
		}
		if want > d.MaxSize*d.Scale {
			return want - d.MaxSize*d.Scale
		}
		return 0
	}
	if want < (d.Size-d.Allowed)*d.Scale {
		return d.MinSize*d.Scale - want
	}
	if want > (d.Size+d.Allowed)*d.Scale {
		return want - d.MaxSize*d.Scale
	}
	return 0
}

// Folder returns the theme's folder that an icon's path lies in, given the
// base folders the index was made with, or "".
func Folder(bases []string, icon Icon) string {
	for _, base := range bases {
		dir := path.Join(base, icon.Theme)
		if icon.Theme != "" && len(icon.Path) > len(dir) && icon.Path[:len(dir)+1] == dir+"/" {
			return dir
		}
	}
	return ""
}
