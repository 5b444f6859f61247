package web

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"image"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/colour"
	"ivelt/core/imagefile"
	"ivelt/core/market"
	"ivelt/core/parcel"
	"ivelt/core/say"
	"ivelt/core/taste"
	"ivelt/store"
)

type findPage struct {
	Frame
	markets.Result
	Query                  markets.Query
	hue, mood, like, looks string // where the taste comes from
	Tags                   []findTag
	Pins                   []findTag // the shortlist
	Kinds                  []choice
	Shades                 []choice
	Hues                   []choice
	Shapes                 []choice
	Kits                   []choice
	Sorts                  []choice
	Markets                []store.MarketRow
	Reading                *jobs.Progress // the indexes are being read
	Here                   []library.Here
	More                   string // address of what comes after, "" if this is all
	Trouble                []string
	Moods                  []choice
	Like                   *say.Message // what the looks wished for are taken from, in words
	Active                 []choice     // what is wished for, each with the address of the page without it
}

// SearchedIn names the markets that are looked through.
func (p findPage) SearchedIn() string {
	var on []string
	for _, m := range p.Markets {
		if m.On {
			on = append(on, m.Name)
		}
	}
	return strings.Join(on, ", ")
}

// choice is one of a list to choose from.
type choice struct {
	Value   string
	Title   say.Message
	Count   int // -1 if it is not counted
	Chosen  bool
	Address string
}

type findTag struct {
	System   bool   // of the system's own packages
	Has      string // of a package: the version that is installed
	Upgrade  bool   // there is a newer one
	Computed string // address of a picture computed from what was fetched
	store.MarketEntryRow
	market.Entry
	Fetched bool
	Pinned  bool
	DeskID  string
	Why     *say.Message // how near it is to the looks wished for
}

// ID is unique among the markets.
func (t findTag) ID() string { return t.Key }

// Where is the entry's address below a desk's.
func (t findTag) Where() string {
	return fmt.Sprintf("/d/%s/find/%d/%s", t.DeskID, t.Market, url.PathEscape(t.Key))
}

// KindTitle is what the entry's kind is called.
func (t findTag) KindTitle() say.Message {
	title := parcel.Kind(t.MarketEntryRow.Kind).Title()
	if t.Likely {
		return say.Line("%s (likely)", title)
	}
	return title.Message()
}

// Risk says why an entry may do harm, or "".
func (t findTag) Risk() say.Word { return t.Entry.Risk(t.Newest()) }

// quickLook is how long a page waits for indexes that are being read.
const quickLook = 1500 * time.Millisecond

func (s *Server) find(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "find", "find", "Find")
	if err != nil {
		return err
	}
	p := findPage{Frame: f, Query: query(r), Here: s.App.Library.Downloads(f.Desk)}
	if r.FormValue("fits") != "" {
		p.Query.Fits = f.Desk
	}
	p.hue, p.mood, p.like, p.looks = p.Query.Hue, r.FormValue("mood"), r.FormValue("like"), r.FormValue("looks")
	if err := p.taste(s); err != nil {
		return refused(err)
	}
	if job := s.App.Markets.Look(); job != nil {
		select {
		case <-waited(job):
		case <-time.After(quickLook):
			now := job.Progress()
			p.Reading = &now
		}
	}
	if p.Markets, err = s.App.Markets.List(); err != nil {
		return err
	}
	for _, m := range p.Markets {
		if m.On && m.Trouble != "" {
			p.Trouble = append(p.Trouble, say.Uppered(m.Name+strings.TrimPrefix(m.Trouble, "the market")))
		}
	}
	if p.Result, err = s.App.Markets.Search(r.Context(), p.Query); err != nil {
		return err
	}
	if err := p.fill(r.Context(), s); err != nil {
		return err
	}
	switch {
	case r.Header.Get("HX-Target") == "found":
		s.part(w, r, "find", "found", p)
	case r.Header.Get("HX-Target") == "more":
		s.part(w, r, "find", "tags", p)
	default:
		s.page(w, r, http.StatusOK, "find", p)
	}
	return nil
}

func waited(j *jobs.Job) <-chan struct{} {
	ended := make(chan struct{})
	go func() { _ = j.Wait(); close(ended) }()
	return ended
}

// query reads what is looked for from a request.
func query(r *http.Request) markets.Query {
	q := markets.Query{
		Words: r.FormValue("q"), Kind: r.FormValue("kind"), Shade: r.FormValue("shade"), Hue: r.FormValue("hue"), Shape: r.FormValue("shape"),
		Dresses: r.FormValue("dresses"), Licence: r.FormValue("licence"), Packaged: r.FormValue("packaged") != "", Kept: r.FormValue("kept") != "",
		Safe: r.FormValue("safe") != "", Sort: r.FormValue("sort"),
	}
	if n, err := strconv.Atoi(r.FormValue("from")); err == nil && n > 0 {
		q.From = n
	}
	return q
}

// Again is the address of the page as it is.
func (p findPage) Again() string { return p.address("kind", p.Query.Kind) }

// address writes the query as an address, with one wish changed.
func (p findPage) address(name, value string) string {
	v := url.Values{}
	for key, now := range map[string]string{
		"q": p.Query.Words, "kind": p.Query.Kind, "shade": p.Query.Shade, "hue": p.hue, "shape": p.Query.Shape, "dresses": p.Query.Dresses,
		"mood": p.mood, "like": p.like, "looks": p.looks, "licence": p.Query.Licence, "sort": p.Query.Sort, "packaged": yes(p.Query.Packaged), "kept": yes(p.Query.Kept), "safe": yes(p.Query.Safe), "fits": yes(p.Query.Fits != nil),
	} {
		if key == name {
			now = value
		}
		if now != "" {
			v.Set(key, now)
		}
	}
	if name == "from" {
		v.Set(name, value)
	}
	return "/d/" + p.Desk.ID + "/find?" + v.Encode()
}

// taste works out which looks are wished for: those of a mood, of another entry,
// or of a picture. A hue then turns them instead of sorting out.
func (p *findPage) taste(s *Server) error {
	var want market.Looks
	switch {
	case p.like != "":
		id, key, _ := strings.Cut(p.like, "/")
		n, _ := strconv.ParseUint(id, 10, 32)
		row, e, err := s.App.Markets.Entry(uint(n), key)
		if err != nil {
			return err
		}
		if !row.Measured {
			return say.Errorf("%s has no looks that were measured", e.Name)
		}
		want, p.Like = markets.LooksOf(row), ref(say.Line("like %s", e.Name))
	case p.looks != "":
		if _, err := fmt.Sscanf(p.looks, "%f,%f,%f,%f", &want.Lightness, &want.Chroma, &want.Hue, &want.Contrast); err != nil {
			return say.Errorf("%q are no looks: four numbers, lightness, chroma, hue and contrast", p.looks)
		}
		want.Roundness, want.Density = 0.5, 0.5
		p.Like = ref(say.Line("like the picture"))
	case p.mood != "":
		m, ok := taste.FindMood(p.mood)
		if !ok {
			return say.Errorf("there is no mood %q", p.mood)
		}
		want, p.Like = m.Looks, ref(say.Join(", ", m.Title.Message(), m.Means.Message()))
	default:
		return nil
	}
	if p.hue != "" {
		want = taste.WithHue(want, p.hue)
		p.Query.Hue = ""
	}
	p.Query.Taste = &want
	return nil
}

// maxTaste bounds a picture that looks are taken from, in bytes.
const maxTaste = 20 << 20

func (s *Server) tasteOfPicture(w http.ResponseWriter, r *http.Request) error {
	file, _, err := r.FormFile("picture")
	if err != nil {
		return refused(errors.New("no picture came with this; choose a PNG, JPEG or WebP"))
	}
	defer file.Close()
	b, err := io.ReadAll(io.LimitReader(file, maxTaste))
	var im image.Image
	if err == nil {
		im, err = imagefile.Decode(r.Context(), b)
	}
	if err != nil {
		return refused(say.Errorf("this cannot be read as a picture (%w); choose a PNG, JPEG or WebP", err))
	}
	l, ok := taste.OfPicture(im)
	if !ok {
		return refused(errors.New("there is nothing to be seen on this picture"))
	}
	to(w, r, fmt.Sprintf("/d/%s/find?looks=%.3f,%.3f,%.1f,%.1f", chi.URLParam(r, "desk"), l.Lightness, l.Chroma, l.Hue, l.Contrast))
	return nil
}

// LikeValue and LooksValue go along with the next wish.
func (p findPage) LikeValue() string  { return p.like }
func (p findPage) LooksValue() string { return p.looks }

// Plain is the address of the same without any taste.
func (p findPage) Plain() string {
	p.mood, p.like, p.looks = "", "", ""
	return p.address("", "")
}

func yes(b bool) string {
	if b {
		return "1"
	}
	return ""
}

func (p *findPage) fill(ctx context.Context, s *Server) (err error) {
	if p.Tags, err = s.tags(ctx, p.Entries, p.Desk.ID); err != nil {
		return err
	}
	for i, t := range p.Tags {
		if p.Query.Taste != nil && t.Measured {
			p.Tags[i].Why = ref(taste.Why(*p.Query.Taste, markets.LooksOf(t.MarketEntryRow)))
		}
	}
	pins, err := s.App.Shortlist.Entries(ctx)
	if err != nil {
		return err
	}
	if p.Pins, err = s.tags(ctx, pins, p.Desk.ID); err != nil {
		return err
	}
	if shown := p.Query.From + len(p.Entries); shown < p.Total {
		p.More = p.address("from", strconv.Itoa(shown))
	}
	list := func(name, now string, pairs ...say.Word) (out []choice) {
		for i := 0; i+1 < len(pairs); i += 2 {
			out = append(out, choice{Value: string(pairs[i]), Title: pairs[i+1].Message(), Count: -1, Chosen: now == string(pairs[i]), Address: p.address(name, string(pairs[i]))})
		}
		return out
	}
	all := 0
	for kind, n := range p.Result.Kinds {
		if kind != markets.KindBar { // which are window themes too
			all += n
		}
	}
	p.Kinds = []choice{{"", say.Line("Everything"), all, p.Query.Kind == "", p.address("kind", "")}}
	for _, k := range parcel.Kinds() {
		if n := p.Result.Kinds[string(k)]; n > 0 || p.Query.Kind == string(k) {
			p.Kinds = append(p.Kinds, choice{string(k), inAWord(k).Message(), n, p.Query.Kind == string(k), p.address("kind", string(k))})
		}
		if n := p.Result.Kinds[markets.KindBar]; k == parcel.Theme && (n > 0 || p.Query.Kind == markets.KindBar) {
			p.Kinds = append(p.Kinds, choice{markets.KindBar, say.Line("Bars"), n, p.Query.Kind == markets.KindBar, p.address("kind", markets.KindBar)})
		}
	}
	p.Shades = list("shade", p.Query.Shade, "", "any shade", "light", "light", "dark", "dark")
	p.Shapes = list("shape", p.Query.Shape, "", "any corners", "round", "round corners", "square", "square corners")
	p.Kits = list("dresses", p.Query.Dresses, "", "any toolkit", "gtk-2", "supports GTK 2", "gtk-3", "supports GTK 3", "gtk-4", "supports GTK 4")
	p.Sorts = list("sort", p.Query.Sort, "liked", "most liked first", "rising", "rising first", "newest", "newest first")
	p.Moods = list("mood", p.mood, "", "any mood")
	for _, m := range taste.Moods {
		p.Moods = append(p.Moods, choice{m.Name, say.Join(": ", m.Title.Message(), m.Means.Message()), -1, p.mood == m.Name, p.address("mood", m.Name)})
	}
	p.Hues = list("hue", p.hue, "", "any", "grey", "grey", "mixed", "many colours")
	for _, h := range colour.Hues {
		p.Hues = append(p.Hues, choice{h, hues[h].Message(), -1, p.hue == h, p.address("hue", h)})
	}
	for _, name := range []string{"mood", "shade", "shape", "dresses", "hue"} {
		for _, c := range map[string][]choice{"mood": p.Moods, "shade": p.Shades, "shape": p.Shapes, "dresses": p.Kits, "hue": p.Hues}[name] {
			if c.Chosen && c.Value != "" {
				p.Active = append(p.Active, choice{Title: shortTitle(c.Title), Address: p.address(name, "")})
			}
		}
	}
	for _, is := range []struct {
		name  string
		title say.Message
		on    bool
	}{
		{"fits", say.Line("works on %s", p.Desk.Title), p.Query.Fits != nil}, {"licence", say.Line("open licence"), p.Query.Licence != ""}, {"kept", say.Line("maintained"), p.Query.Kept},
		{"safe", say.Line("stable"), p.Query.Safe}, {"packaged", say.Line("packaged by the system"), p.Query.Packaged},
	} {
		if is.on {
			p.Active = append(p.Active, choice{Title: is.title, Address: p.address(is.name, "")})
		}
	}
	return nil
}

// shortKinds are what kinds of pieces are called where there is little room.
var shortKinds = map[parcel.Kind]say.Word{
	parcel.Theme: "Windows", parcel.Icons: "Icons", parcel.Pointer: "Pointers", parcel.Font: "Fonts", parcel.Login: "Login", parcel.Style: "Styles", parcel.Descriptor: "Programs",
}

func inAWord(k parcel.Kind) say.Word { return cmp.Or(shortKinds[k], plurals[k]) }

// plurals are what several pieces of a kind are called.
var plurals = map[parcel.Kind]say.Word{
	parcel.Theme: "Window themes", parcel.Icons: "Icon packs", parcel.Pointer: "Pointer sets", parcel.Font: "Font families", parcel.Backdrop: "Backdrops", parcel.Login: "Login themes",
	parcel.Palette: "Palettes", parcel.Style: "Picture-based styles", parcel.Bundle: "Bundles", parcel.Sound: "Sound themes", parcel.Descriptor: "Program descriptors",
}

// hues are what hues are called.
var hues = map[string]say.Word{
	"red": "red", "orange": "orange", "yellow": "yellow", "green": "green", "teal": "teal", "blue": "blue", "violet": "violet", "pink": "pink",
}

// shortTitle is a title without what explains it.
func shortTitle(m say.Message) say.Message {
	if m.Code == "join" {
		if first, ok := m.Args[1].(say.Message); ok {
			return first
		}
	}
	return m
}

func (s *Server) marketPicture(w http.ResponseWriter, r *http.Request) error {
	id, err := strconv.ParseUint(chi.URLParam(r, "market"), 10, 32)
	if err != nil {
		return missing(err)
	}
	b, date, err := s.App.Markets.Picture(r.Context(), uint(id), chi.URLParam(r, "entry"), r.FormValue("state"))
	t := imagefile.MediaType(b)
	if err != nil || t == "" || imagefile.Check(b) != nil {
		return missing(err)
	}
	control := "no-cache"
	if r.FormValue("v") == strconv.FormatInt(date, 10) { // an entry that is given another picture has another date
		control = forGood
	}
	serveKept(w, r, t, b, control)
	return nil
}

func (s *Server) fetch(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	id, _ := strconv.ParseUint(r.FormValue("market"), 10, 32)
	wanted := markets.Ref{Market: uint(id), Entry: r.FormValue("entry"), Version: r.FormValue("version")}
	var also []markets.Ref
	with := r.Form["with"]
	for _, ref := range r.Form["ref"] { // of the shortlist, whatever the market
		of, entry, _ := strings.Cut(ref, "/")
		id, err := strconv.ParseUint(of, 10, 32)
		if err != nil {
			return refused(errors.New("nothing was picked: pin what to fetch"))
		}
		if w := (markets.Ref{Market: uint(id), Entry: entry}); wanted.Entry == "" {
			wanted = w
		} else {
			also = append(also, w)
		}
	}
	if wanted.Entry == "" && len(with) > 0 { // several were picked, none before the others
		wanted.Entry, with = with[0], with[1:]
	}
	if wanted.Entry == "" {
		return refused(errors.New("nothing was picked: tick what to fetch"))
	}
	for _, entry := range with {
		also = append(also, markets.Ref{Market: uint(id), Entry: entry})
	}
	came := url.Values{}
	job, err := s.App.Markets.Fetch(wanted, func(sha string) string {
		if came.Add("of", sha); len(came["of"]) > 1 {
			return "/d/" + d.ID + "/came?" + came.Encode()
		}
		return "/d/" + d.ID + "/parcel/" + sha
	}, also...)
	if err != nil {
		return unreachable(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}
