package iconbench

import (
	"context"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/icontheme"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// Bench is a pack that lies under the lens: on a desk, or in a parcel as if it were in place there.
type Bench struct {
	Desk  *desk.Desk
	Pack  string           // its folder
	Below string           // the pack that it was made over, of a layer: what that has is its own too
	Tree  fs.FS            // that the paths of icons are of
	Icons *icontheme.Index // that begins with the pack
}

// On is a pack of a desk, by its folder.
func On(d *desk.Desk, pack string) (*Bench, error) {
	l, ok := Lookup(d)
	if !ok {
		return nil, say.Errorf("nothing on %s shows icons", d.Title)
	}
	x := reading.Icons(d, l, pack)
	if len(x.Chain()) == 0 || x.Chain()[0].Folder != pack {
		for _, p := range x.Problems() {
			if p.Theme == pack {
				return nil, say.Errorf("%s: %w", pack, p.Err)
			}
		}
		return nil, say.Errorf("no icon pack %q is where %s looks for them", pack, d.Title)
	}
	return &Bench{Desk: d, Pack: pack, Below: below(d, l, pack), Tree: d.Tree(), Icons: x}, nil
}

// below is the pack that a pack was made over, "" for one that is no layer.
func below(d *desk.Desk, l desk.Lookup, pack string) string {
	at, err := reading.FindIcons(d, l, pack)
	if err != nil || !d.Exists(path.Join(at, layer.File)) {
		return ""
	}
	b, err := d.Tree().ReadSettings(desk.Name(path.Join(at, layer.File)))
	if err != nil {
		return ""
	}
	r, err := layer.Parse(b)
	if err != nil || r.Folder != pack || r.Base.Kind != parcel.Icons {
		return ""
	}
	return r.Base.Folder
}

// ofParcel is the key of the icons of a pack of a parcel on a desk, trialled what is kept of them.
type (
	ofParcel struct{ where, parcel, root string }
	trialled struct {
		icons *icontheme.Index
		stamp string
	}
)

// OnTrial is a pack that lies at root of a parcel, with what it inherits found on the desk. sum is
// the checksum of the parcel, by which what was read of it is known again.
func OnTrial(d *desk.Desk, p fs.FS, sum, root string) (*Bench, error) {
	const at = ".parcel"
	l, _ := Lookup(d)
	tree := desk.Mounted{FS: d.Tree(), At: at, Inner: p}
	base, theme := path.Join(at, path.Dir(root)), path.Base(root)
	if root == "." {
		base, theme = at, "top"
		tree.At = at + "/top"
	}
	holds := func(t trialled) bool { return sum != "" && t.stamp == t.icons.Stamp(d.Tree()) }
	x := cache.Of(d.Cache, ofParcel{d.Where(), sum, root}, holds, func() cache.Made[trialled] {
		x := icontheme.NewIndex(icontheme.Config{FS: tree, Bases: append([]string{base}, d.Folders(l.Folders)...), Theme: theme, Also: l.Also})
		return cache.Made[trialled]{Value: trialled{x, x.Stamp(d.Tree())}, Bytes: 100 * x.Len(), Brief: sum == ""}
	}).icons
	if len(x.Chain()) == 0 || x.Chain()[0].Folder != theme {
		return nil, say.Errorf("no icon pack at %q", root)
	}
	return &Bench{Desk: d, Pack: theme, Tree: tree, Icons: x}, nil
}

// Same tells which file a path of an icon leads to.
func (b *Bench) Same(name string) string {
	if t, ok := b.Tree.(*desk.Tree); ok {
		if to, err := t.Resolve(name); err == nil {
			return to
		}
	}
	return name
}

// Report is what is seen of a pack.
type Report struct {
	*Coverage
	Findings []Finding `json:"findings"`
	Odd      []Shown   `json:"odd,omitempty"` // what is out of place, if it was looked for
}

// FindOdd adds what is out of place to a report, and a finding that there is some; see
// [Bench.OutOfPlace].
func (b *Bench) FindOdd(ctx context.Context, r *Report, tell func(done, all int)) error {
	shown, err := b.OutOfPlace(ctx, r.Coverage, tell)
	if err != nil {
		return err
	}
	r.Odd = slices.DeleteFunc(slices.Clone(shown), func(s Shown) bool { return !s.Odd })
	if len(r.Odd) > 0 {
		var titles, keys []string
		for _, o := range r.Odd {
			titles, keys = append(titles, o.Title), append(keys, o.Keys...)
		}
		more := ""
		if n := len(titles) - maxNamed; n > 0 {
			titles, more = titles[:maxNamed], fmt.Sprintf(" and %d more", n)
		}
		r.Findings = append(r.Findings, finding(false, keys, say.Of("icons/out-of-place", len(r.Odd), len(shown), strings.Join(titles, ", ")+more)))
	}
	return nil
}

// Look looks at the pack: what it has of what its desk asks for, and what is wrong.
func (b *Bench) Look() *Report {
	c := Cover(b.Icons, b.Tree, b.Below, Wants(b.Desk))
	return &Report{Coverage: c, Findings: c.Findings(b.Icons.Problems())}
}

// Proposals is how many icons are proposed for one thing.
const Proposals = 8

// likened is how many proposals are compared by their pictures.
const likened = 40

// Nearest proposes icons of the pack for one thing that is asked, see [Search.For]. Those that come
// nearest by what they are called are also compared with the picture that is shown now.
func (b *Bench) Nearest(ctx context.Context, it Item, n int) []Proposal {
	s, now := NewSearch(b.Icons, b.Same), it.Main()
	if of, err := On(b.Desk, b.Below); b.Below != "" && err == nil { // that it can show the pictures of
		s = NewSearch(of.Icons, b.Same)
	}
	if now.Path == "" || now.Theme == b.Pack || now.Theme == b.Below {
		return s.For(it.Want, nil, n)
	}
	raw, err := readIcon(b.Tree, now.Path)
	if err != nil {
		return s.For(it.Want, nil, n)
	}
	shown := b.look(ctx, raw)
	if shown == nil {
		return s.For(it.Want, nil, n)
	}
	like := map[string]float64{}
	compare := func(name, path string) {
		if raw, err := readIcon(b.Tree, path); err == nil {
			if l := b.look(ctx, raw); l != nil {
				like[name] = shown.Like(*l)
			}
		}
	}
	named := s.For(it.Want, nil, likened)
	for _, p := range named {
		compare(p.Name, p.Path)
	}
	if len(named) < n { // little is called like it: others may look like it
		for _, name := range b.Icons.Sample(3 * likened) {
			if icon, ok := b.Icons.Lookup(name, shownAt, 1); ok && !strings.HasSuffix(name, "-symbolic") && ctx.Err() == nil {
				compare(name, icon.Path)
			}
		}
	}
	return s.For(it.Want, func(name string) float64 { return like[name] }, n)
}
