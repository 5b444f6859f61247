package web

import (
	"cmp"
	"context"
	"errors"
	"net/http"
	"slices"
	"strconv"

	"ivelt/app/desks"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/say"
	"ivelt/store"
)

// maxCompared is how many entries stand side by side.
const maxCompared = 4

type comparePage struct {
	Frame
	Columns []compared
	Left    int // on the shortlist, and not shown
}

type compared struct {
	findTag
	State   string // of its picture: in the form that all have, if there is one
	Fit     []markets.Fit
	Unalike map[string]bool // the rows in which it is not like the others
}

// Row returns what a row of the comparison says of an entry.
func (c compared) Row(name string) any {
	l := c.Looks
	switch name {
	case "shade":
		if l != nil {
			return say.Word(l.Words()[0])
		}
	case "hue":
		if l != nil {
			return say.Word(l.HueName())
		}
	case "shape":
		if l != nil {
			return say.Word(l.Shape())
		}
	case "contrast":
		if l != nil {
			return strconv.FormatFloat(l.Contrast, 'f', 1, 64) + " : 1"
		}
	case "licence":
		return c.Entry.Licence
	case "version":
		return c.Newest().Version + ", " + c.Newest().Date
	case "differs":
		return c.Differs
	case "care":
		return c.Risk()
	}
	return ""
}

// Rows are the rows of the comparison, with what they are called.
func (comparePage) Rows() []choice {
	return []choice{
		{Value: "shade", Title: say.Line("shade")}, {Value: "hue", Title: say.Line("hue")}, {Value: "shape", Title: say.Line("shape")}, {Value: "contrast", Title: say.Line("contrast")},
		{Value: "differs", Title: say.Line("differs by")}, {Value: "licence", Title: say.Line("licence")}, {Value: "version", Title: say.Line("newest")}, {Value: "care", Title: say.Line("care")},
	}
}

// compare shows the shortlist side by side, in the same states.
func (s *Server) compare(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "compare", "find", "Compare")
	if err != nil {
		return err
	}
	rows, err := s.App.Shortlist.Entries(r.Context())
	if err != nil {
		return err
	}
	p := comparePage{Frame: f, Left: max(0, len(rows)-maxCompared)}
	tags, err := s.tags(r.Context(), rows[max(0, len(rows)-maxCompared):], f.Desk.ID)
	if err != nil {
		return err
	}
	var themes []market.Entry
	for _, t := range tags {
		if t.Entry.Kind == string(parcel.Theme) {
			themes = append(themes, t.Entry)
		}
	}
	shade := market.CommonForm(f.Draft.Want(desk.FacetDark), themes...)
	for _, t := range tags {
		p.Columns = append(p.Columns, compared{t, t.Pictured(shade), markets.FitOf(f.Now, t.Entry), map[string]bool{}})
	}
	for _, row := range p.Rows() {
		for i := range p.Columns {
			p.Columns[i].Unalike[row.Value] = p.Columns[i].Row(row.Value) != p.Columns[0].Row(row.Value) || i == 0 && len(p.Columns) > 1 && p.Columns[1].Row(row.Value) != p.Columns[0].Row(row.Value)
		}
	}
	s.page(w, r, http.StatusOK, "compare", p)
	return nil
}

// tags reads rows of the market as they are shown.
func (s *Server) tags(ctx context.Context, rows []store.MarketEntryRow, deskID string) ([]findTag, error) {
	held, err := s.App.Library.Held()
	if err != nil {
		return nil, err
	}
	pinned, err := s.App.Shortlist.On(ctx)
	if err != nil {
		return nil, err
	}
	systems, err := s.App.Markets.Systems()
	if err != nil {
		return nil, err
	}
	d, err := s.App.Desk(deskID)
	if err != nil {
		return nil, err
	}
	var out []findTag
	for _, row := range rows {
		if e, err := row.Entry(); err == nil {
			t := findTag{MarketEntryRow: row, Entry: e, Fetched: held[e.Newest().SHA256], Pinned: pinned[row.ID], DeskID: deskID}
			if err := s.computed(&t); err != nil {
				return nil, err
			}
			if systems[t.Market] {
				t.ofSystem(d)
			}
			out = append(out, t)
		}
	}
	return out, nil
}

// computed gives what was fetched and has no picture that of its first piece of the kind, and
// what is certain by now: the kind and the licence.
func (s *Server) computed(t *findTag) error {
	if !t.Fetched || len(t.Entry.Pictures) > 0 {
		return nil
	}
	row, err := s.App.Library.Parcel(t.Newest().SHA256)
	if err != nil {
		return err
	}
	contents, err := library.Contents(row)
	if err != nil {
		return err
	}
	if i := slices.IndexFunc(contents.Pieces, func(p parcel.Piece) bool { return string(p.Kind) == t.Entry.Kind }); i >= 0 {
		t.Computed, t.Entry.Likely = pieceTag(t.DeskID, row.SHA256, contents.Pieces[i]), false
		t.Entry.Licence = cmp.Or(t.Entry.Licence, contents.Pieces[i].Licence)
	}
	return nil
}

// ofSystem tells of a package of the desk's own system whether it is installed.
func (t *findTag) ofSystem(d *desks.Managed) {
	t.System, t.Has = true, d.Packaged()[t.Key].Has
	t.Upgrade = t.Has != "" && d.Offers != nil && d.Offers.Newer(t.Newest().Version, t.Has)
}

// pin puts an entry on the shortlist or takes it off.
func (s *Server) pin(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "find", "find", "Find")
	if err != nil {
		return err
	}
	id, _ := strconv.ParseUint(r.FormValue("market"), 10, 32)
	row, _, err := s.App.Markets.Entry(uint(id), r.FormValue("entry"))
	if err == nil {
		err = s.App.Shortlist.Turn(row)
	}
	if err != nil {
		return refused(err)
	}
	if r.Header.Get("HX-Request") == "" {
		to(w, r, "/d/"+f.Desk.ID+"/find")
		return nil
	}
	rows, err := s.App.Shortlist.Entries(r.Context())
	if err != nil {
		return err
	}
	tags, err := s.tags(r.Context(), []store.MarketEntryRow{row}, f.Desk.ID)
	if err != nil {
		return err
	}
	if len(tags) == 0 {
		return errors.New("the entry cannot be read any more")
	}
	pins, err := s.tags(r.Context(), rows, f.Desk.ID)
	if err != nil {
		return err
	}
	s.part(w, r, "find", "pinned", pinnedPart{findPage{Frame: swapped(f), Pins: pins}, tags[0]})
	return nil
}

func swapped(f Frame) Frame { f.Swap = true; return f }

type pinnedPart struct {
	findPage
	Tag findTag
}
