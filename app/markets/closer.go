package markets

import (
	"context"
	"path"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/taste"
	"ivelt/store"
)

// Closer is what is told of one entry of a market, before anything is fetched.
type Closer struct {
	Row        store.MarketEntryRow
	Entry      market.Entry
	Fit        []Fit
	Companions []Companion
	Needs      []Need                 // besides the companions
	Variants   []store.MarketEntryRow // of the same piece, this one among them
	With       []Near                 // what goes with it
	Package    desk.Package           // of the desk's package database that has it; its Name is "" if none has
	Screens    []Screen               // of the desk, with what a backdrop would show on each
}

// Fit is how an entry stands to one surface of a desk.
type Fit struct {
	Surface say.Message // its title
	Dresses bool
	Why     *say.Message
	Risk    bool // it was made for another version of the surface
}

// Companion is a piece that an entry is made to go with.
type Companion struct {
	market.Companion
	Market uint
	Here   string // where it is in place already, or ""
}

// Near is an entry and the reason it is named.
type Near struct {
	Row store.MarketEntryRow
	Why say.Message
}

// Closer looks at one entry, for a desk.
func (m *Markets) Closer(ctx context.Context, d *desks.Managed, id uint, key string) (Closer, error) {
	row, e, err := m.Entry(id, key)
	if err != nil {
		return Closer{}, err
	}
	c := Closer{Row: row, Entry: e, Fit: FitOf(d.Desk, e)}
	c.Package, _ = d.Packaged().Find(e.Kind, e.Name, e.Packaged)
	for _, m := range e.Companions {
		c.Companions = append(c.Companions, Companion{m, row.Market, here(d, m)})
	}
	if c.Needs, err = m.needsOf(d, e); err != nil {
		return Closer{}, err
	}
	base := e.VariantOf
	if base == "" {
		base = e.ID
	}
	if c.Variants, err = m.store.MarketVariants(row.Market, base); err != nil {
		return Closer{}, err
	}
	if len(c.Variants) < 2 {
		c.Variants = nil
	}
	c.Screens = m.screens(ctx, d, row, e)
	c.With, err = m.goesWith(ctx, row, e)
	return c, err
}

// Screen is a monitor and the picture of a backdrop it would show.
type Screen struct {
	desk.Monitor
	State string // of the entry's pictures
	W, H  int    // of that picture, px
	Lost  int    // percent of the picture that is cut off
}

// screens chooses for each monitor of the desk the picture that loses least
// when it fills the monitor.
func (m *Markets) screens(ctx context.Context, d *desks.Managed, row store.MarketEntryRow, e market.Entry) []Screen {
	var out []Screen
	for _, monitor := range d.Monitors() {
		best := Screen{Monitor: monitor, Lost: 101}
		for _, p := range e.Pictures {
			if !strings.HasPrefix(p.State, "whole") {
				continue
			}
			svg, _, err := m.Picture(ctx, row.Market, row.Key, p.State)
			if err != nil {
				continue
			}
			w, h, ok := preview.Size(svg)
			if lost := preview.Cropped(w, h, monitor.Width, monitor.Height); ok && lost < best.Lost {
				best = Screen{monitor, p.State, w, h, lost}
			}
		}
		if best.State != "" {
			out = append(out, best)
		}
	}
	return out
}

func line(format say.Word, args ...any) *say.Message {
	m := say.Line(format, args...)
	return &m
}

// FitOf tells for each surface of a desk that shows pieces of the entry's kind
// whether it would be dressed.
func FitOf(d *desk.Desk, e market.Entry) []Fit {
	var out []Fit
	for _, s := range d.Surfaces() {
		f := Fit{Surface: s.Full()}
		switch kind := parcel.Kind(e.Kind); {
		case kind == parcel.Theme && len(s.Parts) > 0:
			part := ""
			for _, p := range s.Parts {
				for _, have := range e.Dresses {
					if ok, _ := path.Match(p.Folder, have); ok {
						part = have
					}
				}
			}
			f.Dresses = part != ""
			f.Why = line("the theme has no part for it")
			if f.Dresses {
				f.Why = line("from its folder %s", part)
			}
		case kind != parcel.Theme && s.LooksIn(e.Kind) != nil:
			f.Dresses = true
			if !slices.ContainsFunc(s.LooksIn(e.Kind), func(folder string) bool { return strings.HasPrefix(folder, "~") || strings.HasPrefix(folder, "{data}") }) {
				f.Why = line("once it is installed for everyone")
			}
		default:
			continue
		}
		if made := e.MadeFor[s.ID]; made != "" && s.Version != "" && !reading.Fits(made, s.Version) {
			f.Risk, f.Why = true, line("it was made for %s %s, and this desk has %s: it may not fit, or take the program down", s.Title, made, s.Version)
		}
		out = append(out, f)
	}
	return out
}

// here returns where the desk has a piece of that kind and name, or "".
func here(d *desks.Managed, m market.Companion) string {
	for _, s := range d.Surfaces() {
		for _, folder := range d.Folders(s.LooksIn(m.Kind)) {
			at := desk.Path(path.Join(folder, m.Name))
			if real, err := d.Tree().Resolve(desk.Name(at)); err == nil && d.Exists(at) {
				return d.Show(desk.Path(real))
			}
		}
	}
	return ""
}

// maxWith is how many entries are named to go with one.
const maxWith = 6

// goesWith names what goes with an entry: its family first, then what is
// nearest in looks, one of each other kind.
func (m *Markets) goesWith(ctx context.Context, row store.MarketEntryRow, e market.Entry) ([]Near, error) {
	var out []Near
	kinds := map[string]bool{e.Kind: true}
	if e.Family != "" {
		family, err := m.store.MarketFamily(row.Market, e.Family)
		if err != nil {
			return nil, err
		}
		for _, f := range family {
			if f.ID != row.ID && !kinds[f.Kind] && len(out) < maxWith {
				kinds[f.Kind] = true
				out = append(out, Near{f, say.Line("of the same family, %s", e.Family)})
			}
		}
	}
	if e.Looks == nil {
		return out, nil
	}
	others := slices.DeleteFunc([]parcel.Kind{parcel.Theme, parcel.Icons, parcel.Pointer, parcel.Backdrop, parcel.Palette}, func(k parcel.Kind) bool { return kinds[string(k)] })
	others = others[:min(len(others), maxWith-len(out))]
	nearest := make([][]Near, len(others))
	g, ctx := errgroup.WithContext(ctx)
	for i, kind := range others {
		g.Go(func() (err error) {
			nearest[i], err = m.nearestOf(ctx, kind, e)
			return err
		})
	}
	if err := g.Wait(); err != nil {
		return nil, err
	}
	return append(out, slices.Concat(nearest...)...), nil
}

// nearestOf is the entry of a kind that is nearest to what goes with another's looks.
func (m *Markets) nearestOf(ctx context.Context, kind parcel.Kind, e market.Entry) (out []Near, err error) {
	// Icons lie on a theme's ground, and a theme is the ground of icons: the
	// hue across the circle makes them stand out.
	across := kind == parcel.Icons && e.Kind == string(parcel.Theme) || kind == parcel.Theme && e.Kind == string(parcel.Icons)
	want := taste.Companion(*e.Looks, across)
	found, err := m.Search(ctx, Query{Kind: string(kind), Only: true, Taste: &want, Safe: true, Most: 1})
	if err != nil {
		return nil, err
	}
	for _, f := range found.Entries {
		why := taste.Why(want, LooksOf(f))
		if across {
			why = say.Line("opposite on the colour wheel, so that it stands out: %s", why)
		}
		out = append(out, Near{f, why})
	}
	return out, nil
}

// LooksOf returns the measures of an entry's row.
func LooksOf(e store.MarketEntryRow) market.Looks {
	return market.Looks{Lightness: e.Lightness, Chroma: e.Chroma, Hue: e.Hue, Contrast: e.Contrast, TwoForms: e.TwoForms, Roundness: e.Roundness, Density: e.Density}
}
