package parcel

import (
	"fmt"
	"slices"
	"strings"

	"ivelt/core/icontheme"
)

// relate says what the pieces of one parcel are to each other.
func relate(pieces []Piece) {
	inherits, companions, steps := map[string][]string{}, map[string]bool{}, 0
	for _, p := range pieces {
		companions[string(p.Kind.Title())+" "+p.Folder] = true
		if p.Kind == Icons || p.Kind == Pointer && inherits[p.Folder] == nil {
			inherits[p.Folder] = p.Inherits
		}
	}
	here := func(need string) bool { return companions[need] } // a companion that came along
	for i := range pieces {
		p := &pieces[i]
		if p.Kind != Icons {
			p.Needs = slices.DeleteFunc(p.Needs, here)
			continue
		}
		for _, parent := range p.Inherits {
			if _, here := inherits[parent]; !here && parent != icontheme.Fallback {
				p.Needs = append(p.Needs, parent)
			}
		}
		if via := cycle(p.Folder, p.Folder, inherits, map[string]bool{}, &steps); via != "" {
			p.Notes = append(p.Notes, note("icon-inherits-cycle", via))
		}
		if len(p.Inherits) > 0 && !(len(p.Inherits) == 1 && p.Inherits[0] == icontheme.Fallback) {
			p.Notes = append(p.Notes, note("icon-partial", fmt.Sprint(p.Icons), strings.Join(p.Inherits, ", ")))
		}
	}
}

// maxSteps bounds how far it is looked for circles among the packs of a parcel, all in all.
const maxSteps = 200_000

// cycle returns the theme by which start is reached again from at, or "".
func cycle(start, at string, inherits map[string][]string, seen map[string]bool, steps *int) string {
	for _, parent := range inherits[at] {
		if *steps++; *steps > maxSteps {
			return ""
		}
		if parent == start {
			return at
		}
		if seen[parent] {
			continue
		}
		seen[parent] = true
		if via := cycle(start, parent, inherits, seen, steps); via != "" {
			return via
		}
	}
	return ""
}
