package web

import (
	"cmp"
	"errors"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/jobs"
	"ivelt/app/layers"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/desktopentry"
	"ivelt/core/iconbench"
	"ivelt/core/imagefile"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// iconsPage is an icon pack under the lens.
type iconsPage struct {
	Frame
	*iconbench.Report
	Parcel  string // the parcel that it lies in, by its checksum, and the piece there; "" for one of the desk
	Piece   string
	With    string   // the pack beside it, "" for none
	Packs   []string // that can stand beside it
	Only    iconbench.Group
	State   iconbench.State // that is shown alone, "" for all
	Query   string
	Differ  bool // what both have alike is left out
	Tiles   []iconTile
	Chips   []stateChip
	More    int // tiles that are left out
	Item    *iconPanel
	Odd     []iconbench.Shown // what is out of place, the worst first
	Looked  bool              // it was looked for
	Of      int               // pictures that were compared
	Below   string            // the pack that it was made over, "" for none
	Mine    string            // the pack of one's own that changes go to
	Changed []layer.Icon      // that it has
}

// stateChip is a state of the group, to be shown alone.
type stateChip struct {
	State   iconbench.State
	Title   say.Word
	N       int
	Chosen  bool
	Address string
}

// iconTile is one thing on the wall, or several kinds of file that show the same picture.
type iconTile struct {
	iconbench.Item
	Address, Picture string
	Beside           string // the other pack's picture, "" for none
	BesideState      iconbench.State
	Many             int // how many more show the same
	Open             bool
}

// iconPanel is one thing closely.
type iconPanel struct {
	iconbench.Item
	Sizes    []iconSize
	Nearest  []iconProposal
	Changed  *layer.Icon // in the pack of one's own
	Alike    []iconTile  // other kinds of file that show the same
	Changing bool        // it can be given another picture
	Name     string      // that a change is for
}

type iconSize struct {
	iconbench.Answer
	Picture string
}

type iconProposal struct {
	iconbench.Proposal
	Picture string
}

// maxTiles is how many tiles stand on the wall.
const maxTiles = 400

// address is the page with other wishes; an empty value takes one away.
func (p iconsPage) address(pairs ...string) string {
	q := p.of()
	for key, value := range map[string]string{"group": string(p.Only), "state": string(p.State), "q": p.Query, "with": p.With} {
		if value != "" {
			q.Set(key, value)
		}
	}
	if p.Differ {
		q.Set("differ", "1")
	}
	for i := 0; i+1 < len(pairs); i += 2 {
		if q.Set(pairs[i], pairs[i+1]); pairs[i+1] == "" {
			q.Del(pairs[i])
		}
	}
	return "/d/" + p.Desk.ID + "/bench/icons?" + q.Encode()
}

// of is what an address says of the pack that is meant.
func (p iconsPage) of() url.Values {
	if p.Parcel != "" {
		return url.Values{"parcel": {p.Parcel}, "piece": {p.Piece}}
	}
	return url.Values{"set": {p.Pack}}
}

// GroupAddress is the page with another group.
func (p iconsPage) GroupAddress(g iconbench.Group) string {
	return p.address("group", string(g), "state", "", "q", "")
}

// Share is how much of a group a state has, in percent.
func (p iconsPage) Share(c iconbench.Counted, states ...iconbench.State) int {
	n := 0
	for _, s := range states {
		n += c.States[s]
	}
	return 100 * n / max(c.All, 1)
}

// iconPicture is the address of a picture that the lookup finds.
func iconPicture(deskID string, q url.Values, a iconbench.Answer) string {
	if a.Path == "" {
		return ""
	}
	q.Set("size", strconv.Itoa(a.Size))
	q.Set("scale", strconv.Itoa(max(a.Scale, 1)))
	if a.State == iconbench.Fixed {
		q.Set("file", a.Path)
	} else {
		q.Set("name", a.Name)
	}
	return "/d/" + deskID + "/bench/icon?" + q.Encode()
}

// benchOf is the pack that a request names, of a desk or of a parcel.
func (s *Server) benchOf(r *http.Request, d *desk.Desk) (b *iconbench.Bench, err error) {
	sha := r.FormValue("parcel")
	if sha == "" {
		return s.packBench(d, r.FormValue("set"))
	}
	row, err := s.App.Library.Parcel(sha)
	if err != nil {
		return nil, missing(err)
	}
	piece, err := library.PieceOf(row, r.FormValue("piece"))
	if err != nil {
		return nil, missing(err)
	}
	p, err := s.App.Library.Open(r.Context(), row)
	if err != nil {
		return nil, err
	}
	if piece.Kind != parcel.Icons {
		return nil, refused(say.Errorf("%s is no icon pack", piece.Name))
	}
	if b, err = iconbench.OnTrial(d, p, sha, piece.Root); err != nil {
		return nil, refused(err)
	}
	return b, nil
}

// packBench is the icon pack that an address names, as the desk has it with what is tried on.
func (s *Server) packBench(d *desk.Desk, set string) (*iconbench.Bench, error) {
	if set == "" || strings.HasPrefix(set, ".") || strings.ContainsAny(set, "/\x00") {
		return nil, refused(say.Errorf("%q is no icon pack", set))
	}
	b, err := iconbench.On(d, set)
	if err != nil {
		return nil, missing(err)
	}
	return b, nil
}

func (s *Server) benchIcons(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "bench", "shelf", "Icons under the lens")
	if err != nil {
		return err
	}
	d := f.Trying()
	b, err := s.benchOf(r, d)
	if err != nil {
		return err
	}
	p := iconsPage{Frame: f, Report: b.Look(), Below: b.Below, Parcel: r.FormValue("parcel"), Piece: r.FormValue("piece"), With: r.FormValue("with"), Query: strings.TrimSpace(r.FormValue("q")), Differ: r.FormValue("differ") != ""}
	p.Only = iconbench.Group(cmp.Or(r.FormValue("group"), string(iconbench.Programs)))
	key := cmp.Or(r.FormValue("item"), p.asksFor(r.FormValue("icon")))
	if group, _, ok := strings.Cut(key, "/"); ok && r.FormValue("group") == "" {
		p.Only = iconbench.Group(group)
	}
	p.State = iconbench.State(r.FormValue("state"))
	p.packs(d)
	var other *iconbench.Coverage
	if p.With != "" {
		with, err := s.packBench(d, p.With)
		if err != nil {
			return err
		}
		other = with.Look().Coverage
	}
	if mine, err := layers.Mine(d, p.Pack); err == nil && p.Parcel == "" {
		p.Mine, p.Changed = mine.Folder, mine.Icons
	}
	p.fill(key, other)
	if it, ok := p.Report.Of(key); ok {
		p.Item = p.panel(r, b, it)
	}
	if shown, ok := b.Compared(); ok {
		p.Looked, p.Of = true, len(shown)
		for _, o := range shown {
			if o.Odd {
				p.Odd = append(p.Odd, o)
			}
		}
	}
	s.page(w, r, http.StatusOK, "benchicons", p)
	return nil
}

// asksFor is the key of what asks for an icon of a name, of a program first; "" if nothing does.
func (p *iconsPage) asksFor(name string) string {
	for _, first := range []bool{true, false} { // its first name, or any
		for _, it := range p.Report.Items {
			if name != "" && slices.Contains(it.Names[:min(len(it.Names), map[bool]int{true: 1, false: len(it.Names)}[first])], name) {
				return it.KeyOf()
			}
		}
	}
	return ""
}

// packs are those that can stand beside the one.
func (p *iconsPage) packs(d *desk.Desk) {
	for _, s := range d.Surfaces() {
		f, ok := s.Facet(desk.FacetIcons)
		if !ok {
			continue
		}
		for _, name := range reading.Choices(d, s, f) {
			if name != "" && name != p.Pack && !slices.Contains(p.Packs, name) {
				p.Packs = append(p.Packs, name)
			}
		}
	}
	slices.Sort(p.Packs)
}

// fill puts what is wished on the wall.
func (p *iconsPage) fill(key string, other *iconbench.Coverage) {
	counts := map[iconbench.State]int{}
	at := map[string]int{}
	words := strings.ToLower(p.Query)
	for _, it := range p.Report.Items {
		if it.Group != p.Only || words != "" && !strings.Contains(strings.ToLower(it.Title+" "+it.Key+" "+it.About), words) {
			continue
		}
		t := iconTile{Item: it, Picture: iconPicture(p.Desk.ID, p.of(), it.Main()), Address: p.address("item", it.KeyOf()), Open: it.KeyOf() == key}
		if other != nil {
			if of, ok := other.Of(it.KeyOf()); ok {
				t.Beside, t.BesideState = iconPicture(p.Desk.ID, url.Values{"set": {p.With}}, of.Main()), of.State
			}
			has := func(s iconbench.State) bool {
				return s != iconbench.Nothing && s != iconbench.Lent && s != iconbench.Brought
			}
			if p.Differ && has(t.State) == has(t.BesideState) {
				continue
			}
		}
		counts[it.State]++
		if p.State != "" && p.State != it.State {
			continue
		}
		if p.Only == iconbench.Kinds && words == "" && it.Main().Path != "" && it.KeyOf() != key {
			same := string(it.State) + it.Main().Path + t.Beside
			if i, has := at[same]; has {
				p.Tiles[i].Many++
				continue
			}
			at[same] = len(p.Tiles)
		}
		if p.Tiles = append(p.Tiles, t); len(p.Tiles) > maxTiles {
			p.Tiles, p.More = p.Tiles[:maxTiles], p.More+1
		}
	}
	for _, st := range iconbench.States {
		if n := counts[st.State]; n > 0 {
			c := stateChip{State: st.State, Title: st.Title, N: n, Chosen: p.State == st.State, Address: p.address("state", string(st.State))}
			if c.Chosen {
				c.Address = p.address("state", "")
			}
			p.Chips = append(p.Chips, c)
		}
	}
}

func (p *iconsPage) panel(r *http.Request, b *iconbench.Bench, it iconbench.Item) *iconPanel {
	out := &iconPanel{Item: it}
	for _, a := range it.Answers {
		out.Sizes = append(out.Sizes, iconSize{a, iconPicture(p.Desk.ID, p.of(), a)})
	}
	if len(it.Names) == 0 {
		return out
	}
	out.Changing, out.Name = p.Parcel == "", it.Names[0]
	for i, c := range p.Changed {
		if c.Name == out.Name {
			out.Changed = &p.Changed[i]
		}
	}
	for _, n := range b.Nearest(r.Context(), it, iconbench.Proposals) {
		out.Nearest = append(out.Nearest, iconProposal{n, iconPicture(p.Desk.ID, p.of(), iconbench.Answer{Ask: iconbench.Ask{Size: 48, Scale: 1}, Name: n.Name, Path: n.Path})})
	}
	if it.Group == iconbench.Kinds && it.State != iconbench.Own {
		for _, other := range p.Report.Items {
			if other.Group == it.Group && other.KeyOf() != it.KeyOf() && other.Main().Path == it.Main().Path && len(out.Alike) < maxAlike {
				out.Alike = append(out.Alike, iconTile{Item: other, Address: p.address("item", other.KeyOf())})
			}
		}
	}
	return out
}

// maxAlike is how many kinds of file are listed that show the same picture.
const maxAlike = 60

// benchIcon is a picture that the lookup of a pack ends at.
func (s *Server) benchIcon(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	draft, err := s.App.Drafts.Draft(d)
	if err != nil {
		return err
	}
	trying := s.App.Overlays.Trying(d, draft)
	b, err := s.benchOf(r, trying)
	if err != nil {
		return err
	}
	size, errSize := strconv.Atoi(r.FormValue("size"))
	scale, errScale := strconv.Atoi(cmp.Or(r.FormValue("scale"), "1"))
	if errSize != nil || errScale != nil || size < 1 || size > 1024 || scale < 1 || scale > 4 {
		return refused(errors.New("size and scale are numbers, up to 1024 px and 4"))
	}
	file := r.FormValue("file")
	if file == "" {
		icon, ok := b.Icons.Lookup(r.FormValue("name"), size, scale)
		if !ok {
			return missing(errNotHere)
		}
		file = icon.Path
	} else if !slices.ContainsFunc(desktopentry.All(trying.Tree(), trying.Folders([]string{"{data}/applications", "{data-dirs}/applications"})), func(p desktopentry.Program) bool { return strings.TrimPrefix(p.Icon, "/") == file }) {
		return missing(errNotHere)
	}
	raw, err := b.Read(file)
	if err != nil {
		return missing(err)
	}
	kind := imagefile.MediaType(raw)
	if kind == "" {
		return refused(errors.New("it is no picture that a browser shows"))
	}
	if err := imagefile.Check(raw); err != nil {
		return refused(err)
	}
	servePicture(w, r, kind, raw)
	return nil
}

// changeIcons gives icons of a pack another picture, in the pack of one's own over it.
func (s *Server) changeIcons(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if err := r.ParseMultipartForm(2 << 20); err != nil && !errors.Is(err, http.ErrNotMultipart) {
		return refused(err)
	}
	set := r.FormValue("set")
	change := layer.Icon{Name: r.FormValue("name"), Like: r.FormValue("like")}
	if change.Like != "" {
		change.From = set + ": " + change.Like
	}
	if change.Like == "" && r.FormValue("take") == "" {
		f, head, err := r.FormFile("picture")
		if err != nil {
			return refused(errors.New("choose an icon, or a picture of your own"))
		}
		defer f.Close()
		raw, err := io.ReadAll(io.LimitReader(f, layer.MaxPicture+1))
		if err == nil {
			err = layer.Picture(raw)
		}
		if err != nil {
			return refused(err)
		}
		change = layer.Pictured(change.Name, raw, head.Filename)
	}
	draft, err := s.App.Drafts.Draft(d)
	if err != nil {
		return err
	}
	if change.Like == change.Name && change.Like != "" {
		return refused(say.Errorf("%s shows that already", change.Name))
	}
	mine, err := layers.Mine(s.App.Overlays.Trying(d, draft), set)
	if err != nil {
		return refused(err)
	}
	q := url.Values{"set": {mine.Folder}, "item": {r.FormValue("item")}}
	if group := r.FormValue("group"); group != "" {
		q.Set("group", group)
	}
	job, err := s.App.Layers.Icons(r.Context(), d, set, []layer.Icon{change}, "/d/"+d.ID+"/bench/icons?"+q.Encode())
	if err != nil {
		return refused(err)
	}
	if change.Picture == "" { // a picture that was handed in cannot be handed in again
		job.By(jobs.Asked{URL: r.URL.Path, Form: r.Form})
	}
	s.showJob(w, r, d.ID, job)
	return nil
}

// compareIcons starts looking for what is out of place in a pack.
func (s *Server) compareIcons(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	draft, err := s.App.Drafts.Draft(d)
	if err != nil {
		return err
	}
	set := r.FormValue("set")
	trying := s.App.Overlays.Trying(d, draft)
	if _, err := s.packBench(trying, set); err != nil {
		return err
	}
	job := s.App.Layers.Compare(trying, set, "/d/"+d.ID+"/bench/icons?"+url.Values{"set": {set}}.Encode()+"#odd")
	job.By(jobs.Asked{URL: r.URL.Path, Form: r.PostForm})
	s.showJob(w, r, d.ID, job)
	return nil
}

// OddPicture is the address of a picture that is out of place.
func (p iconsPage) OddPicture(o iconbench.Shown) string {
	name := strings.TrimSuffix(o.Path[strings.LastIndexByte(o.Path, '/')+1:], ".svg")
	name = strings.TrimSuffix(name, ".png")
	return iconPicture(p.Desk.ID, p.of(), iconbench.Answer{Ask: iconbench.Ask{Size: 48, Scale: 1}, Name: name, Path: o.Path})
}

// OddAddress is the page with what a picture is shown for.
func (p iconsPage) OddAddress(o iconbench.Shown) string {
	group, _, _ := strings.Cut(o.Keys[0], "/")
	return p.address("item", o.Keys[0], "group", group, "state", "", "q", "")
}

// leftPage is what is left over of earlier looks.
type leftPage struct {
	Frame
	Left []iconbench.Left
}

func (s *Server) leftOver(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "bench", "shelf", "Left over")
	if err != nil {
		return err
	}
	left, err := iconbench.LeftOver(r.Context(), f.Now)
	if err != nil {
		return err
	}
	s.page(w, r, http.StatusOK, "left", leftPage{f, left})
	return nil
}

// letGoOfLeft shows the plan that takes away what is left over.
func (s *Server) letGoOfLeft(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "review", "shelf", "Review")
	if err != nil {
		return err
	}
	if err := r.ParseForm(); err != nil {
		return refused(err)
	}
	p, err := s.App.Review.LetGo(r.Context(), f.Desk, r.Form["path"])
	if err != nil {
		return refused(err)
	}
	s.stepPage(w, r, f, p, "/d/"+f.Desk.ID+"/bench/left")
	return nil
}
