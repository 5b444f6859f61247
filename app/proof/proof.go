// Package proof holds pieces against desks before somebody publishes them: which of a folder or a
// parcel are recognised, where each goes and which programs see it there, what the toolkits refuse
// of it, how it looks worn, and what the benches find in it.
package proof

import (
	"context"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/app"
	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/gtkcss"
	"ivelt/core/gtkrc"
	"ivelt/core/iconbench"
	"ivelt/core/judge"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/planning"
	"ivelt/core/pointerbench"
	"ivelt/core/preview"
	"ivelt/core/typebench"
)

// Finding is something amiss.
type Finding struct {
	Code  string `json:"code"`
	Text  string `json:"text"`
	Grave bool   `json:"grave"`          // it does not work, or is seen in daily work
	File  string `json:"file,omitempty"` // in the parcel
	Line  int    `json:"line,omitempty"`
}

// Case is one thing that was looked at.
type Case struct {
	Piece string `json:"piece,omitempty"` // its kind and folder; "" of the parcel as a whole
	Desk  string `json:"desk,omitempty"`  // "" for what is the same everywhere
	Check string `json:"check"`           // what was looked at
	Says  string `json:"says,omitempty"`  // what was seen, where that is worth a line

	Findings []Finding `json:"findings"`
}

// Failed reports whether a case has grave findings; strictly, any.
func (c Case) Failed(strictly bool) bool {
	return slices.ContainsFunc(c.Findings, func(f Finding) bool { return f.Grave || strictly })
}

// Report is all that was looked at.
type Report struct {
	Command string `json:"-"` // that looked
	Path    string `json:"path"`
	Cases   []Case `json:"cases"`
}

// Failed counts the cases that failed.
func (r Report) Failed(strictly bool) (n int) {
	for _, c := range r.Cases {
		if c.Failed(strictly) {
			n++
		}
	}
	return n
}

// maxLines bounds how many lines of a sheet are told that a toolkit refuses.
const maxLines = 50

type proof struct {
	app    *app.App
	parcel *parcel.Parcel
	report Report
	amiss  map[string]map[string]bool // see now
}

// Of holds the pieces of a folder or a parcel against desks. An error tells that it cannot be
// opened, or that nobody waits any more.
func Of(ctx context.Context, a *app.App, on []*desks.Managed, at, password string) (Report, error) {
	row, err := a.Library.Keep(ctx, at, password)
	if err != nil {
		return Report{}, err
	}
	contents, err := library.Contents(row)
	if err != nil {
		return Report{}, err
	}
	opened, err := a.Library.Open(ctx, row)
	if err != nil {
		return Report{}, err
	}
	defer opened.Close()
	p := &proof{app: a, parcel: opened, report: Report{Command: "proof", Path: at}, amiss: map[string]map[string]bool{}}
	whole := Case{Check: "contents", Says: fmt.Sprintf("%d pieces", len(contents.Pieces))}
	if len(contents.Pieces) == 0 {
		whole.Findings = append(whole.Findings, Finding{Code: "no-piece", Text: "there is no piece in it that could be installed", Grave: true})
	}
	whole.Findings = append(whole.Findings, Noted(contents.Notes)...)
	p.add(whole)
	for _, pc := range contents.Pieces {
		p.add(Case{Piece: nameOf(pc), Check: "contents", Says: told(pc), Findings: Noted(pc.Notes)})
		if err := p.alone(ctx, pc); err != nil {
			return Report{}, err
		}
	}
	if len(contents.Pieces) == 0 {
		on = nil
	}
	for _, d := range on {
		after, err := a.Overlays.After(ctx, d, row.SHA256)
		if err != nil {
			return Report{}, err
		}
		for _, pc := range contents.Pieces {
			if err := p.worn(ctx, d.Desk, after, pc); err != nil {
				return Report{}, err
			}
		}
	}
	return p.report, ctx.Err()
}

func (p *proof) add(c Case) {
	if c.Findings == nil {
		c.Findings = []Finding{}
	}
	p.report.Cases = append(p.report.Cases, c)
}

func nameOf(pc parcel.Piece) string { return strings.TrimSpace(string(pc.Kind) + " " + pc.Folder) }

// told is a piece in a line.
func told(pc parcel.Piece) string {
	said := []string{pc.Name}
	if len(pc.Parts) > 0 {
		said = append(said, "dresses "+strings.Join(pc.Parts, " "))
	}
	if pc.Licence == "" {
		said = append(said, "names no licence")
	} else {
		said = append(said, pc.Licence)
	}
	return strings.Join(said, ", ")
}

// Noted are the notes of a parcel or a piece that are more than a remark, as findings.
func Noted(notes []parcel.Note) (out []Finding) {
	for _, n := range notes {
		if n.Level != parcel.Info {
			out = append(out, Finding{Code: n.Code, Text: n.Text, Grave: n.Level == parcel.Error})
		}
	}
	return out
}

// alone is what is the same of a piece on every desk: what toolkits refuse of its sheets, and what
// is measured of its pointers and letters.
func (p *proof) alone(ctx context.Context, pc parcel.Piece) error {
	switch pc.Kind {
	case parcel.Theme:
		for _, part := range pc.Parts {
			if strings.HasPrefix(part, "gtk-") {
				p.sheet(ctx, pc, part)
			}
		}
	case parcel.Pointer:
		c := Case{Piece: nameOf(pc), Check: "pointers"}
		r, err := pointerbench.Measure(ctx, p.parcel, pc.Root, pointerbench.Options{Inherited: pointerbench.Chain(p.parcel, pc.Root, []string{path.Dir(pc.Root)})})
		if err != nil {
			c.Findings = []Finding{{Code: "cannot-be-measured", Text: err.Error(), Grave: true}}
		} else {
			c.Says = fmt.Sprintf("%d pictures under %d names", len(r.Shapes), r.Names())
			for _, f := range r.Findings {
				c.Findings = append(c.Findings, Finding{Code: f.Code, Text: f.Text, Grave: f.Grave, File: f.File})
			}
		}
		p.add(c)
	case parcel.Font:
		families, wrong := typebench.In(p.parcel, pc.Only)
		c := Case{Piece: nameOf(pc), Check: "letters"}
		for _, err := range wrong {
			c.Findings = append(c.Findings, Finding{Code: "cannot-be-read", Text: err.Error(), Grave: true})
		}
		for i := range families {
			m, err := typebench.Measure(&families[i], nil)
			if err != nil {
				c.Findings = append(c.Findings, Finding{Code: "cannot-be-measured", Text: err.Error(), Grave: true})
				continue
			}
			for _, f := range typebench.Faults(m, "") {
				c.Findings = append(c.Findings, Finding{Code: f.Code, Text: f.Text, Grave: f.Grave})
			}
		}
		p.add(c)
	}
	return ctx.Err()
}

// sheet is what a toolkit refuses of a theme's sheet for it.
func (p *proof) sheet(ctx context.Context, pc parcel.Piece, part string) {
	c := Case{Piece: nameOf(pc), Check: "sheet for " + part}
	tell := func(file string, line int, text string) {
		if len(c.Findings) < maxLines {
			c.Findings = append(c.Findings, Finding{Code: "refused", Text: text, File: strings.TrimPrefix(file, "/"), Line: line})
		}
	}
	if part == "gtk-2.0" {
		f, err := gtkrc.Load(p.parcel, path.Join(pc.Root, part, "gtkrc"))
		if err != nil {
			c.Findings = append(c.Findings, Finding{Code: "cannot-be-read", Text: err.Error(), Grave: true})
		} else {
			for _, n := range f.Notes {
				tell(n.File, n.Line, n.Text)
			}
		}
		p.add(c)
		return
	}
	name := path.Join(pc.Root, part, "gtk.css")
	if _, err := fs.Stat(p.parcel, name); err != nil {
		return // in a resource file, or made of another's: how it looks worn tells
	}
	s, err := gtkcss.Load(ctx, p.parcel, name)
	if err != nil {
		c.Findings = append(c.Findings, Finding{Code: "cannot-be-read", Text: err.Error(), Grave: true})
	} else {
		for _, n := range s.Refused() {
			tell(n.File, n.Line, n.Text)
		}
	}
	p.add(c)
}

// worn is a piece on a desk: where it goes, whether a plan dresses the desk in it, how it looks,
// and of icons, what of the desk they have pictures for.
func (p *proof) worn(ctx context.Context, d, after *desk.Desk, pc parcel.Piece) error {
	title := d.ID
	c := Case{Piece: nameOf(pc), Desk: title, Check: "place"}
	places := place.Placements(pc, d)
	if len(places) == 0 {
		c.Findings = append(c.Findings, Finding{Code: "no-place", Text: "nothing on this desk looks for pieces of this kind"})
		p.add(c)
		return ctx.Err()
	}
	c.Says = places[0].Path + ", seen by " + strings.Join(places[0].SeenBy, ", ")
	if len(places[0].SeenBy) == 0 {
		c.Says = places[0].Path
		c.Findings = append(c.Findings, Finding{Code: "not-seen", Text: "no program of this desk would see it there"})
	}
	p.add(c)

	o := drafts.Wearing(d, []parcel.Piece{pc}).Only(func(facet string) bool { return facet != desk.FacetMenuIcon })
	if len(o.Choices) > 0 {
		light, isDark := p.looks(ctx, d, after, pc, o, "light")
		if !isDark {
			p.add(light)
		}
		if isDark || pc.Dark {
			dark, _ := p.looks(ctx, d, after, pc, o, "dark")
			p.add(dark)
		}
	}
	if pc.Kind == parcel.Icons {
		c := Case{Piece: nameOf(pc), Desk: title, Check: "icons"}
		b, err := iconbench.On(after, pc.Folder)
		if err != nil {
			c.Says = "packs are not looked up here: " + err.Error()
		} else {
			r := b.Look()
			var said []string
			for _, g := range r.Groups {
				said = append(said, fmt.Sprintf("%s %d of %d", g.Title, g.Has(), g.All))
			}
			c.Says = strings.Join(said, ", ")
			for _, f := range r.Findings {
				c.Findings = append(c.Findings, Finding{Code: f.Code, Text: f.Text, Grave: f.Grave})
			}
		}
		p.add(c)
	}
	return ctx.Err()
}

// looks is how a desk looks in a piece, in a shade: what is amiss of that, and of the rest what is
// not now. isDark tells that the piece is dark whatever the shade.
func (p *proof) looks(ctx context.Context, d, after *desk.Desk, pc parcel.Piece, o outfit.Outfit, shade string) (c Case, isDark bool) {
	c = Case{Piece: nameOf(pc), Desk: d.ID, Check: "look, " + shade}
	o = o.With(desk.FacetDark, shade)
	plan, err := planning.DressWith(ctx, d, after, o, nil, planning.Options{})
	if err != nil {
		c.Findings = append(c.Findings, Finding{Code: "cannot-be-applied", Text: err.Error(), Grave: true})
		return c, false
	}
	for _, b := range plan.Blocked {
		c.Findings = append(c.Findings, Finding{Code: "not-everywhere", Text: b.Why})
	}
	now := p.now(ctx, d, shade)
	for _, v := range judge.Of(after, preview.Draft(ctx, after, o)) {
		isDark = isDark || v.Code == judge.OtherShade
		if o.Want(v.Facet) != "" || !now[v.Surface+" "+v.Facet+" "+string(v.Code)] {
			c.Findings = append(c.Findings, Finding{Code: string(v.Code), Text: v.Text, Grave: v.Grave})
		}
	}
	return c, isDark && shade == "light"
}

// now is what is amiss on a desk as it is, in a shade.
func (p *proof) now(ctx context.Context, d *desk.Desk, shade string) map[string]bool {
	key := d.ID + " " + shade
	if p.amiss[key] == nil {
		p.amiss[key] = map[string]bool{}
		for _, v := range judge.Of(d, preview.Draft(ctx, d, outfit.Outfit{}.With(desk.FacetDark, shade))) {
			p.amiss[key][v.Surface+" "+v.Facet+" "+string(v.Code)] = true
		}
	}
	return p.amiss[key]
}
