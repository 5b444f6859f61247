package outfit

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"ivelt/core/desk"
)

// Differences tells in words how another outfit differs from this one: one
// sentence a facet, in the order facets are shown.
func (o Outfit) Differences(other Outfit) []string {
	out := []string{}
	for _, f := range desk.Facets {
		a, b := o.Want(f.Name), other.Want(f.Name)
		switch {
		case a == "" && b == "":
			continue
		case a == "":
			out = append(out, fmt.Sprintf("%s: %s, which is left open here.", f.Title, b))
		case b == "":
			out = append(out, fmt.Sprintf("%s: left open, here it is %s.", f.Title, a))
		case a != b:
			out = append(out, fmt.Sprintf("%s: %s instead of %s.", f.Title, b, a))
		default:
			if v, w := o.Choices[f.Name].Version, other.Choices[f.Name].Version; v != w && v != "" && w != "" {
				out = append(out, fmt.Sprintf("%s: %s in version %s instead of %s.", f.Title, a, w, v))
			}
		}
		if says := excepting(o.Choices[f.Name].Except, other.Choices[f.Name].Except); says != "" && a != "" && b != "" {
			out = append(out, string(f.Title)+": "+says)
		}
	}
	return append(out, o.turning(other)...)
}

// excepting tells how exceptions differ, "" if they do not.
func excepting(a, b map[string]string) string {
	var says []string
	for surface, value := range b {
		if was, ok := a[surface]; !ok || was != value {
			says = append(says, surface+" is "+asked(value))
		}
	}
	for surface := range a {
		if _, ok := b[surface]; !ok {
			says = append(says, surface+" goes with the others")
		}
	}
	if says == nil {
		return ""
	}
	slices.Sort(says)
	return strings.Join(says, ", ") + "."
}

func asked(value string) string {
	if value == "" {
		return "left out"
	}
	return "asked for " + value
}

// Text is the outfit in plain words, to be pasted anywhere: a line a facet, with
// what is known of its piece, and its exceptions. titles names surfaces by their
// IDs; it may be nil.
func (o Outfit) Text(titles func(surface string) string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n", o.Name)
	if o.About != "" {
		fmt.Fprintf(&b, "%s\n", o.About)
	}
	b.WriteString("\n")
	for _, f := range desk.Facets {
		c, ok := o.Choices[f.Name]
		if !ok {
			continue
		}
		fmt.Fprintf(&b, "%-18s %s\n", f.Title+":", c.text())
		if known := c.known(); known != "" {
			fmt.Fprintf(&b, "%-18s %s\n", "", known)
		}
		for _, surface := range slices.Sorted(maps.Keys(c.Except)) {
			title := surface
			if titles != nil {
				title = titles(surface)
			}
			fmt.Fprintf(&b, "%-18s %s: %s\n", "", title, cmp.Or(c.Except[surface], "its own"))
		}
		if o.Paired(f.Name) {
			fmt.Fprintf(&b, "%-18s by day %s, after dark %s\n", "", o.WantIn(Light, f.Name), o.WantIn(Dark, f.Name))
		}
	}
	return b.String()
}

// known is what is known of a piece, in a line.
func (c Choice) known() string {
	var says []string
	if c.Version != "" {
		says = append(says, "version "+c.Version)
	}
	for _, s := range []string{c.Licence, c.Source} {
		if s != "" {
			says = append(says, s)
		}
	}
	return strings.Join(says, " · ")
}
