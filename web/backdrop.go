package web

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"io/fs"
	"maps"
	"math"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"
	"golang.org/x/image/draw"

	"ivelt/app/advice"
	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/app/layers"
	"ivelt/core/backdrop"
	"ivelt/core/backdropbench"
	"ivelt/core/cache"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/imagefile"
	"ivelt/core/outfit"
	"ivelt/core/palette"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
	"ivelt/core/taste"
)

// backdropPage is a backdrop under the lens: on each monitor, and its colours.
type backdropPage struct {
	Frame
	*backdropbench.Report
	Name     string
	Asked    string // the picture that the address asks for, "" for that of the draft
	Modes    []backdrop.Mode
	Follows  backdropFollows
	Behind   string            // the colour of the ground, "" where it is not known
	Dim      bool              // the desk is dark: its palette is proposed
	Accented bool              // some surface of the desk takes an accent
	Papered  bool              // and some a palette
	Screen   string            // the address of the picture of a monitor, without its number
	Thumb    string            // and of the picture itself
	Made     *backdrop.Made    // what it was made from
	Older    bool              // that has changed since
	Own      map[string]string // pictures of single monitors, by their names
	Pictures []fine.Option     // to choose from
	Toward   string            // the colour that a tint is proposed towards
}

// backdropFollows are the settings that some surface of the desk follows.
type backdropFollows struct{ Mode, Cut, Behind, Each bool }

// Percent is a part of 1 as a whole number of percent.
func (p backdropPage) Percent(part float64) int { return int(100*part + 0.5) }

// Hue names a colour.
func (p backdropPage) Hue(c colour.Colour) string {
	_, chroma, hue := c.LCH()
	return colour.HueName(chroma, hue)
}

// Proposals are the palettes, that of the desk's shade first.
func (p backdropPage) Proposals() []proposedPalette {
	out := []proposedPalette{{"light", p.Light}, {"dark", p.Dark}}
	if p.Dim {
		slices.Reverse(out)
	}
	return out
}

type proposedPalette struct {
	Shade string
	backdropbench.Proposed
}

// Title is what one of the sixteen colours is called.
func (p proposedPalette) Title(i int) string { return palette.Names[i] }

// X is where it stands in the picture of the palette.
func (p proposedPalette) X(i int) int { return 8 + i%8*23 }

// Y is the same, down.
func (p proposedPalette) Y(i int) int { return 24 + i/8*17 }

// spot is a leading colour in the little picture of where they are, 160 × 100.
type spot struct{ backdrop.Leading }

// MapX is where it is.
func (s spot) MapX() string { return fmt.Sprintf("%.1f", 160*s.X) }

// MapY is the same, down.
func (s spot) MapY() string { return fmt.Sprintf("%.1f", 100*s.Y) }

// MapR is how large it is drawn, by its share.
func (s spot) MapR() string { return fmt.Sprintf("%.1f", 3+9*math.Sqrt(s.Share)) }

// Spots are the leading colours.
func (p backdropPage) Spots() (out []spot) {
	for _, l := range p.Leading {
		out = append(out, spot{l})
	}
	return out
}

// lensed is a backdrop that is asked for, and how.
type lensed struct {
	d     *desks.Managed
	on    *desk.Desk // with what is tried on
	file  string
	asked map[string]string // settings, by facet
	draft outfit.Outfit     // with them
	look  preview.Look
	// before is the look without them.
	before preview.Look
}

// underTheLens reads what a page or a form asks for.
func (s *Server) underTheLens(r *http.Request) (l lensed, err error) {
	if l.d, err = s.App.Desk(chi.URLParam(r, "desk")); err != nil {
		return l, err
	}
	draft, err := s.App.Drafts.Draft(l.d)
	if err != nil {
		return l, err
	}
	l.on = s.App.Overlays.Trying(l.d, draft).Snapshot()
	l.asked = map[string]string{}
	for key, facet := range map[string]string{"file": desk.FacetBackdrop, "mode": desk.FacetLies, "across": desk.FacetAcross, "down": desk.FacetDown, "behind": desk.FacetBehind} {
		_ = r.FormValue(key)
		if all := r.Form[key]; len(all) > 0 && strings.TrimSpace(all[len(all)-1]) != "" { // a button's stands behind the field's
			l.asked[facet] = strings.TrimSpace(all[len(all)-1])
		}
	}
	l.draft = draft
	l.before = preview.Draft(r.Context(), l.on, draft)
	if r.Form.Get("each") != "" { // the form has a picture for each monitor
		var own []desk.Own
		for _, m := range l.on.Monitors() {
			if picture := r.Form.Get("own." + m.Name); picture != "" {
				own = append(own, desk.Own{Monitor: m.Name, Picture: picture})
			}
		}
		if len(own) > 0 || hasOwn(l.on, l.before) {
			l.asked[desk.FacetEach] = desk.EachOf(own)
		}
	} else if own := r.Form.Get("own"); own != "" {
		l.asked[desk.FacetEach] = own
	}
	for _, facet := range slices.Sorted(maps.Keys(l.asked)) {
		if l.draft, err = s.App.Drafts.With(l.d, l.draft, facet, l.asked[facet]); err != nil {
			return l, refused(err)
		}
	}
	l.look = preview.Draft(r.Context(), l.on, l.draft)
	for _, surface := range l.on.Surfaces() {
		if file := l.look.Of(desk.FacetBackdrop, surface.ID); file != "" && surface.Kind != "login" {
			l.file = file
			break
		}
	}
	if all := reading.Slides(l.on.Tree(), desk.Name(l.file)); len(all) > 0 {
		l.file = desk.Path(all[0])
	}
	if asked := l.asked[desk.FacetBackdrop]; asked != "" && l.file != asked && !strings.HasPrefix(l.file, asked+"/") {
		return l, refused(say.Errorf("%s is no picture that %s can show as a backdrop", asked, l.d.Title))
	}
	return l, nil
}

// hasOwn reports whether a monitor has a picture of its own in a look.
func hasOwn(on *desk.Desk, look preview.Look) bool {
	return slices.ContainsFunc(on.Surfaces(), func(s desk.Surface) bool { return len(desk.Each(look.Of(desk.FacetEach, s.ID))) > 0 })
}

// ofBackdrop is the key of a backdrop that was looked at.
type ofBackdrop struct {
	where, name, date string
	size              int64
}

type looked struct {
	report *backdropbench.Report
	err    error
}

// report looks at the backdrop; its colours are kept as long as the file stays as it is.
func (l lensed) report(r *http.Request) (*backdropbench.Report, error) {
	mode, cut, _ := preview.Lies(l.on, l.look)
	o := backdropbench.Options{Mode: mode, Cut: cut, Monitors: l.on.Monitors(), Grounds: backdropbench.Grounds(l.on, l.look)}
	name := desk.Name(l.file)
	info, err := fs.Stat(l.on.Tree(), name)
	if err != nil {
		return nil, missing(err)
	}
	if !info.Mode().IsRegular() || info.Size() > backdropbench.MaxBytes {
		return nil, refused(say.Errorf("%s: %w", l.file, backdropbench.ErrPicture))
	}
	key := ofBackdrop{l.on.Where(), name, info.ModTime().String(), info.Size()}
	known := cache.Of(l.on.Cache, key, cache.Always[looked], func() cache.Made[looked] {
		raw, err := fs.ReadFile(l.on.Tree(), name)
		var of looked
		if err == nil {
			of.report, err = backdropbench.Look(r.Context(), raw, o)
		}
		of.err = err
		return cache.Made[looked]{Value: of, Bytes: 4000, Brief: r.Context().Err() != nil || err != nil}
	})
	if known.err != nil {
		return nil, refused(say.Errorf("%s: %w", l.file, known.err))
	}
	return known.report.As(o), nil
}

// address is what names what is asked for in an address.
func (l lensed) address() string {
	v := url.Values{}
	for key, facet := range map[string]string{"file": desk.FacetBackdrop, "mode": desk.FacetLies, "across": desk.FacetAcross, "down": desk.FacetDown, "behind": desk.FacetBehind, "own": desk.FacetEach} {
		if l.asked[facet] != "" {
			v.Set(key, l.asked[facet])
		}
	}
	return v.Encode()
}

// standing is a small picture of how monitors stand, px.
type standing struct {
	Wide, High int
	Places     []standingPlace
}

type standingPlace struct {
	Name                   string
	X, Y, W, H, MidX, MidY int
}

// standingHigh is how high it is at most, and standingWide how wide.
const standingWide, standingHigh = 150, 72

// Stand is how the monitors stand, nil for a single one.
func (p backdropPage) Stand() *standing {
	var all image.Rectangle
	for _, on := range p.On {
		all = all.Union(on.Monitor.Place())
	}
	if len(p.On) < 2 {
		return nil
	}
	k := min(float64(standingWide)/float64(all.Dx()), float64(standingHigh)/float64(all.Dy()))
	to := func(v int) int { return int(math.Round(float64(v) * k)) }
	out := &standing{Wide: to(all.Dx()) + 2, High: to(all.Dy()) + 2}
	for _, on := range p.On {
		at := on.Monitor.Place().Sub(all.Min)
		place := standingPlace{on.Monitor.Name, to(at.Min.X) + 1, to(at.Min.Y) + 1, to(at.Max.X) - to(at.Min.X), to(at.Max.Y) - to(at.Min.Y), 0, 0}
		place.MidX, place.MidY = place.X+place.W/2, place.Y+place.H/2
		out.Places = append(out.Places, place)
	}
	return out
}

func (s *Server) backdrop(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "backdrop", "compose", "Backdrop")
	if err != nil {
		return err
	}
	l, err := s.underTheLens(r)
	if err != nil {
		return err
	}
	if l.file == "" {
		return refused(errors.New("this desk has no backdrop: choose one in Compose first"))
	}
	report, err := l.report(r)
	if err != nil {
		return err
	}
	info, _ := desk.FacetOf(desk.FacetBackdrop)
	page := backdropPage{Frame: f, Report: report, Asked: l.asked[desk.FacetBackdrop], Own: map[string]string{}, Name: info.Says(l.file).String(), Modes: backdrop.Modes, Screen: "/d/" + f.Desk.ID + "/backdrop/screen.svg?" + l.address() + "&monitor=", Thumb: "/d/" + f.Desk.ID + "/backdrop/picture.svg?" + url.Values{"file": {l.file}}.Encode()}
	if raw, err := fs.ReadFile(l.on.Tree(), desk.Name(l.file)); err == nil { // it was read for the report
		if made, ok := backdrop.MadeOf(imagefile.Note(raw)); ok {
			source, err := fs.ReadFile(l.on.Tree(), desk.Name(made.File))
			page.Made, page.Older = &made, err == nil && made.Changed(source)
		}
	}
	mode, _, _ := preview.Lies(l.on, l.look)
	for _, w := range s.App.Advice.CatalogueOf(r.Context(), f.Desk, f.Now).Listed(desk.FacetBackdrop) {
		page.Pictures = append(page.Pictures, fine.Option{Value: w.Folder, Title: say.Words(w.Name)})
	}
	for _, surface := range l.on.Surfaces() {
		has := func(facet string) bool { _, ok := surface.Facet(facet); return ok }
		page.Follows.Mode = page.Follows.Mode || has(desk.FacetLies)
		page.Follows.Cut = page.Follows.Cut || has(desk.FacetAcross)
		page.Follows.Behind = page.Follows.Behind || has(desk.FacetBehind)
		if has(desk.FacetEach) && mode != backdrop.Span && len(l.on.Monitors()) > 1 {
			page.Follows.Each = true
			for _, own := range desk.Each(l.look.Of(desk.FacetEach, surface.ID)) {
				page.Own[own.Monitor] = own.Picture
			}
		}
		page.Accented = page.Accented || has(desk.FacetAccent)
		page.Papered = page.Papered || has(desk.FacetPalette)
		if page.Behind == "" {
			page.Behind = l.look.Of(desk.FacetBehind, surface.ID)
		}
	}
	if grounds := backdropbench.Grounds(l.on, l.look); len(grounds) > 0 {
		page.Dim = grounds[0].Colour.Luminance() < 0.18
	}
	page.Toward = colour.Of8(0x1d, 0x6b, 0x52).Hex()
	for _, surface := range l.on.Surfaces() {
		if accent := l.look.Of(desk.FacetAccent, surface.ID); accent != "" {
			page.Toward = accent
			break
		}
	}
	s.page(w, r, http.StatusOK, "backdrop", page)
	return nil
}

// backdropScreen is the picture of a monitor with the backdrop as it is asked for.
func (s *Server) backdropScreen(w http.ResponseWriter, r *http.Request) error {
	l, err := s.underTheLens(r)
	if err != nil {
		return err
	}
	monitors := backdropbench.Or(l.on.Monitors())
	i, err := strconv.Atoi(r.FormValue("monitor"))
	if err != nil || i < 0 || i >= len(monitors) {
		return missing(errNotHere)
	}
	servePicture(w, r, "image/svg+xml", preview.Monitor(l.on, l.look, monitors, i))
	return nil
}

// backdropPicture is the backdrop itself, small.
func (s *Server) backdropPicture(w http.ResponseWriter, r *http.Request) error {
	l, err := s.underTheLens(r)
	if err != nil {
		return err
	}
	c := preview.NewCanvas(l.on, l.look, 480, 300)
	f, ok := c.Filling(l.file, 480, 480)
	if !ok {
		return missing(errNotHere)
	}
	servePicture(w, r, "image/svg+xml", f.Whole())
	return nil
}

// nearFacets are the facets whose pieces are held against a picture.
var nearFacets = []string{desk.FacetWidgets, desk.FacetIcons}

// maxNear is how many of the nearest pieces are offered.
const maxNear = 3

// nearPage are the pieces nearest to a backdrop, and colours for folders.
type nearPage struct {
	Desk    *desks.Managed
	Rows    []nearRow
	Folders []backdrop.Accent
	Icons   string // whose folders they are
}

type nearRow struct {
	Facet  string
	Title  say.Word
	Pieces []advice.Suggestion
}

// Percent is a score in percent.
func (nearPage) Percent(score float64) int { return int(100*score + 0.5) }

// backdropNear are the pieces in place that are nearest to the backdrop.
func (s *Server) backdropNear(w http.ResponseWriter, r *http.Request) error {
	l, err := s.underTheLens(r)
	if err != nil {
		return err
	}
	page := nearPage{Desk: l.d}
	im := l.small(r.Context())
	if im == nil {
		return missing(errNotHere)
	}
	info, _ := desk.FacetOf(desk.FacetBackdrop)
	if looks, ok := taste.OfPicture(im); ok {
		in := s.App.Advice.CatalogueOf(r.Context(), l.d, l.d.Snapshot())
		for _, facet := range nearFacets {
			if !l.d.Has(facet) {
				continue
			}
			all := s.App.Advice.NearestTo(in, l.draft, facet, info.Says(l.file).String(), looks)
			page.Rows = append(page.Rows, nearRow{facet, desk.FacetTitle(facet), all[:min(len(all), maxNear)]})
		}
	}
	if page.Icons = l.icons(); page.Icons != "" {
		report, err := l.report(r)
		if err != nil {
			return err
		}
		page.Folders = report.Accents
	}
	s.part(w, r, "backdrop", "near", page)
	return nil
}

// icons are the pack that the look shows, or the first of them.
func (l lensed) icons() string {
	for _, s := range l.on.Surfaces() {
		if name := l.look.Of(desk.FacetIcons, s.ID); name != "" && s.Kind != "login" {
			return name
		}
	}
	return ""
}

// differing are the choices that are not on the draft, nor shown by all surfaces that follow them.
func (l lensed) differing(choices map[string]string) map[string]string {
	out := maps.Clone(choices)
	maps.DeleteFunc(out, func(facet, value string) bool {
		return !slices.ContainsFunc(l.on.Surfaces(), func(s desk.Surface) bool {
			_, has := s.Facet(facet)
			return has && l.before.Of(facet, s.ID) != value
		})
	})
	return out
}

// tintOf is the tint that a form asks for.
func tintOf(r *http.Request) (t backdrop.Tint, err error) {
	if t.Toward, err = colour.Parse(r.FormValue("toward")); err != nil {
		return t, refused(err)
	}
	percent, err := strconv.Atoi(r.FormValue("strength"))
	if t.Strength = float64(percent) / 100; err != nil || t.Valid() != nil {
		return t, refused(say.Errorf("a tint is from 0 to 100 percent strong, not %q", r.FormValue("strength")))
	}
	return t, nil
}

// ofSmall is the key of a backdrop made small.
type ofSmall struct{ ofBackdrop }

const smallWide = 480 // px of the longer side

// small is the backdrop made small, kept as long as its file stays as it is; nil if it cannot be read.
func (l lensed) small(ctx context.Context) image.Image {
	name := desk.Name(l.file)
	info, err := fs.Stat(l.on.Tree(), name)
	if err != nil || !info.Mode().IsRegular() || info.Size() > backdropbench.MaxBytes {
		return nil
	}
	key := ofSmall{ofBackdrop{l.on.Where(), name, info.ModTime().String(), info.Size()}}
	return cache.Of(l.on.Cache, key, cache.Always[image.Image], func() cache.Made[image.Image] {
		raw, err := fs.ReadFile(l.on.Tree(), name)
		if err != nil {
			return cache.Made[image.Image]{Brief: true}
		}
		im := imagefile.Scene(ctx, raw, smallWide)
		if im == nil {
			return cache.Made[image.Image]{Brief: true}
		}
		b := im.Bounds()
		k := min(float64(smallWide)/float64(max(b.Dx(), b.Dy(), 1)), 1)
		out := image.NewRGBA(image.Rect(0, 0, max(int(float64(b.Dx())*k), 1), max(int(float64(b.Dy())*k), 1)))
		draw.ApproxBiLinear.Scale(out, out.Rect, im, b, draw.Src, nil)
		return cache.Made[image.Image]{Value: out, Bytes: len(out.Pix), Brief: ctx.Err() != nil}
	})
}

// backdropTinted is the backdrop, small, as it would be tinted.
func (s *Server) backdropTinted(w http.ResponseWriter, r *http.Request) error {
	l, err := s.underTheLens(r)
	if err != nil {
		return err
	}
	t, err := tintOf(r)
	if err != nil {
		return err
	}
	im := l.small(r.Context())
	if im == nil {
		return missing(errNotHere)
	}
	out, err := t.Apply(r.Context(), im)
	if err != nil {
		return err
	}
	var b bytes.Buffer
	if err := jpeg.Encode(&b, out, &jpeg.Options{Quality: 88}); err != nil {
		return err
	}
	servePicture(w, r, "image/jpeg", b.Bytes())
	return nil
}

// changeBackdrop puts what is asked for on the draft, alone or with the colours that are proposed.
func (s *Server) changeBackdrop(w http.ResponseWriter, r *http.Request) error {
	if err := r.ParseForm(); err != nil {
		return refused(err)
	}
	l, err := s.underTheLens(r)
	if err != nil {
		return err
	}
	back := "/d/" + l.d.ID + "/compose?facet=" + desk.FacetBackdrop
	switch r.Form.Get("do") {
	case "tint":
		t, err := tintOf(r)
		if err != nil {
			return err
		}
		job, err := s.App.Layers.MakePicture(l.d, l.on, l.file, &t, nil, back)
		if err != nil {
			return refused(err)
		}
		job.By(jobs.Asked{URL: r.URL.Path, Form: r.PostForm})
		s.showJob(w, r, l.d.ID, job)
		return nil
	case "again":
		job, err := s.App.Layers.MakeAgain(l.d, l.on, l.file, back)
		if err != nil {
			return refused(err)
		}
		job.By(jobs.Asked{URL: r.URL.Path, Form: r.PostForm})
		s.showJob(w, r, l.d.ID, job)
		return nil
	}
	choices := maps.Clone(l.asked)
	if accent := r.Form.Get("accent"); accent != "" {
		choices[desk.FacetAccent] = accent
	}
	title := "backdrop " + path.Base(l.file)
	for _, facet := range nearFacets {
		if piece := r.Form.Get("near." + facet); piece != "" {
			choices[facet] = piece
		}
	}
	shade, folders := r.Form.Get("palette"), r.Form.Get("folders")
	if len(choices) == 0 && shade == "" && folders == "" {
		return refused(errNothingToDo)
	}
	for facet, value := range choices { // before anything is made
		if info, ok := desk.FacetOf(facet); ok {
			if err := info.Accepts(value); err != nil {
				return refused(err)
			}
		}
	}
	taken := layers.Taken{Choices: l.differing(choices), Folders: folders, Icons: cmp.Or(choices[desk.FacetIcons], l.icons())}
	then := desk.FacetBackdrop
	if shade == "" && folders == "" {
		if _, err := s.App.Drafts.ChooseAll(l.d, title, taken.Choices); err != nil {
			return refused(err)
		}
		to(w, r, "/d/"+l.d.ID+"/compose?facet="+then)
		return nil
	}
	if shade != "" {
		report, err := l.report(r)
		if err != nil {
			return err
		}
		made, ok := map[string]backdropbench.Proposed{"dark": report.Dark, "light": report.Light}[shade]
		if !ok {
			return refused(say.Errorf("a palette is dark or light, not %q", shade))
		}
		taken.Palette, taken.Name = &made.Palette, strings.TrimSuffix(path.Base(l.file), path.Ext(l.file))+"-"+shade
		taken.About, then = "Out of "+l.file+", made by Ivelt.", desk.FacetPalette
	}
	job, err := s.App.Layers.TakeOver(r.Context(), l.d, taken, "/d/"+l.d.ID+"/compose?facet="+then)
	if err != nil {
		return refused(err)
	}
	job.By(jobs.Asked{URL: r.URL.Path, Form: r.PostForm})
	s.showJob(w, r, l.d.ID, job)
	return nil
}
