// Package iconbench looks at an icon pack closely: which of what a desk asks for it has, what is
// shown in the place of the rest, which pictures do not look like the others, and which would serve
// for what is missing.
package iconbench

import (
	_ "embed"
	"path"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/desktopentry"
	"ivelt/core/mimeinfo"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/table"
)

// Group is what icons are asked for.
type Group string

// The groups. Names of places, devices, status, actions, categories and emblems are those of the
// Icon Naming Specification 0.8 (from memory), in names.csv; of folders of a home those that GLib
// asks for (GLib 2.74, glocalfileinfo.c, from memory).
const (
	Programs   Group = "programs"
	Quiet      Group = "quiet" // programs that no menu shows
	Places     Group = "places"
	Devices    Group = "devices"
	Status     Group = "status"
	Kinds      Group = "kinds" // of files
	Actions    Group = "actions"
	Categories Group = "categories"
	Emblems    Group = "emblems"
	OneColour  Group = "one-colour" // symbolic forms, which take the colour of the text beside them
)

// Groups are all of them with what people call them.
var Groups = []struct {
	Group Group
	Title say.Word
}{
	{Programs, "Programs"}, {Places, "Places"}, {Kinds, "Kinds of file"}, {Devices, "Devices"}, {Status, "Status"},
	{Actions, "Actions"}, {Categories, "Menu groups"}, {Emblems, "Emblems"}, {OneColour, "One colour"}, {Quiet, "Hidden programs"},
}

// Title is what people call a group.
func (g Group) Title() say.Word {
	for _, of := range Groups {
		if of.Group == g {
			return of.Title
		}
	}
	return say.Word(g)
}

// Ask is one size in which icons of a group are shown.
type Ask struct {
	Size  int    `json:"size"` // px
	Scale int    `json:"scale"`
	Where string `json:"where"` // "menus"
}

// Want is something that a desk asks an icon for.
type Want struct {
	Group   Group
	Key     string // tells it from the others of its group
	Title   string
	About   string   // a program's comment, a kind's patterns
	Names   []string // that are asked for, the best first
	File    string   // the path that a program's entry names in their stead, or ""
	Asks    []Ask
	Program desktopentry.Program // of a program
	kinds   []string             // icons of the kinds of file that a program opens, the best first
}

//go:embed names.csv
var namesCSV string

//go:embed asks.csv
var asksCSV string

type nameOf struct {
	group Group
	name  string
}

var names = func() (out []nameOf) {
	for _, row := range table.Rows(namesCSV, 3) {
		out = append(out, nameOf{Group(row[0]), row[1]})
	}
	return out
}()

var asks = func() map[Group][]Ask {
	out := map[Group][]Ask{}
	for _, row := range table.Rows(asksCSV, 4) {
		size, err := strconv.Atoi(row[1])
		if err != nil {
			panic(err)
		}
		out[Group(row[0])] = append(out[Group(row[0])], Ask{size, 1, row[2]})
	}
	out[Quiet] = out[Programs]
	return out
}()

// symbolicOf are the groups whose names are asked for in one colour too.
var symbolicOf = []Group{Places, Devices, Status, Actions}

// maxPrograms bounds how many programs and kinds of file are asked for, maxOpened how many kinds of
// file that a program opens are gone by.
const (
	maxPrograms = 5000
	maxOpened   = 20
)

// Wants are what a desk asks icons for, group by group.
func Wants(d *desk.Desk) []Want {
	sized := sizes(d)
	kinds := mimeinfo.Read(d.Tree(), d.Folders([]string{"{data}/mime", "{data-dirs}/mime"}))
	var out []Want
	programs := desktopentry.All(d.Tree(), d.Folders([]string{"{data}/applications", "{data-dirs}/applications"}))
	for _, p := range programs[:min(len(programs), maxPrograms)] {
		w := Want{Group: Programs, Key: p.ID, Title: p.Name, About: p.Comment, Program: p}
		if p.Quiet {
			w.Group = Quiet
		}
		for _, kind := range p.Kinds[:min(len(p.Kinds), maxOpened)] {
			for _, icon := range kinds.Icons(kind) {
				if !strings.HasSuffix(icon, "-symbolic") && !slices.Contains(w.kinds, icon) {
					w.kinds = append(w.kinds, icon)
				}
			}
		}
		if name, file := p.IconName(); file {
			w.File = name
		} else if name != "" {
			w.Names = asked(name)
		}
		out = append(out, w)
	}
	for _, n := range names {
		out = append(out, Want{Group: n.group, Key: n.name, Title: spoken(n.name), Names: shorter(n.name)})
	}
	for _, n := range names {
		if slices.Contains(symbolicOf, n.group) {
			out = append(out, Want{Group: OneColour, Key: n.name + "-symbolic", Title: spoken(n.name), Names: shorter(n.name + "-symbolic")})
		}
	}
	families := map[string]bool{}
	for _, n := range names {
		families[n.name] = n.group == Kinds
	}
	for i, kind := range kinds.Kinds() {
		if i == maxPrograms {
			break
		}
		if of := kinds.Icons(kind); !families[of[0]] {
			out = append(out, Want{Group: Kinds, Key: kind, Title: kind, About: strings.Join(kinds.Patterns(kind), " "), Names: of})
		}
	}
	for i := range out {
		out[i].Asks = sized[out[i].Group]
	}
	return out
}

// asked are the names that are asked for in the place of some: these, then each in one colour, or of
// one in one colour that in all colours (GLib 2.74, GThemedIcon, and checked against it).
func asked(names ...string) []string {
	out := names
	for _, name := range names {
		other, symbolic := strings.CutSuffix(name, "-symbolic")
		if !symbolic {
			other = name + "-symbolic"
		}
		if !slices.Contains(out, other) {
			out = append(out[:len(out):len(out)], other)
		}
	}
	return out
}

// spoken is a name as people read it: "folder-remote" is "folder, remote".
func spoken(name string) string { return strings.ReplaceAll(name, "-", " ") }

// shorter are the names that programs ask for one after the other: each without its last part, then
// the same in one colour; of a symbolic one the symbolic names come first (GLib 2.74, GThemedIcon with
// default fallbacks, and checked against it).
func shorter(name string) (out []string) {
	plain, symbolic := strings.CutSuffix(name, "-symbolic")
	for at := plain; at != ""; {
		if symbolic {
			out = append(out, at+"-symbolic")
		} else {
			out = append(out, at)
		}
		i := strings.LastIndexByte(at, '-')
		if i < 0 {
			break
		}
		at = at[:i]
	}
	return asked(out...)
}

// sizes are those that the surfaces of a desk ask for, by group, at the scale of its display.
func sizes(d *desk.Desk) map[Group][]Ask {
	scale := 1
	if v, ok := d.Var("GDK_SCALE"); ok {
		if n, err := strconv.Atoi(v.Value); err == nil && n >= 1 && n <= 4 {
			scale = n
		}
	}
	out := map[Group][]Ask{}
	for group, of := range asks {
		of = slices.Clone(of)
		if group == Programs || group == Places || group == Kinds {
			for _, s := range d.Surfaces() {
				f, ok := s.Facet(desk.FacetIconSize)
				if !ok {
					continue
				}
				n, err := strconv.Atoi(reading.Of(d, s, f).Value)
				if err == nil && n >= 8 && n <= 512 && !slices.ContainsFunc(of, func(a Ask) bool { return a.Size == n }) {
					of = append(of, Ask{n, 1, s.Title})
				}
			}
		}
		slices.SortStableFunc(of, func(a, b Ask) int { return a.Size - b.Size })
		for i := range of {
			of[i].Scale = scale
		}
		out[group] = of
	}
	return out
}

// Lookup is how the programs of a desk find icons: the lookup of the first surface that shows them.
func Lookup(d *desk.Desk) (desk.Lookup, bool) {
	for _, s := range d.Surfaces() {
		if f, ok := s.Facet(desk.FacetIcons); ok {
			return f.Lookup, true
		}
	}
	return desk.Lookup{}, false
}

// KeyOf tells a want from all others.
func (w Want) KeyOf() string { return path.Join(string(w.Group), w.Key) }
