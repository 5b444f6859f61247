package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/advice"
	"ivelt/app/desks"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/judge"
	"ivelt/core/match"
	"ivelt/core/palette"
	"ivelt/core/plan"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// surfacePage is the address of the page that is about a surface alone, "" if it
// has none.
func surfacePage(d *desks.Managed, s desk.Surface) string {
	kind := ""
	switch {
	case s.Lock != nil:
		return "/d/" + d.ID + "/lock"
	case s.Greeter != nil:
		kind = "login"
	case s.Sandbox != nil:
		kind = "sandbox"
	case s.Kind == "terminal":
		kind = "terminal"
	default:
		return ""
	}
	return "/d/" + d.ID + "/" + kind + "/" + s.ID
}

// surfaceFrame is the frame of such a page, and its surface.
func (s *Server) surfaceFrame(r *http.Request, page string) (Frame, desk.Surface, error) {
	f, err := s.frame(r, page, "match", "")
	if err != nil {
		return f, desk.Surface{}, err
	}
	surface, ok := f.Desk.Surface(chi.URLParam(r, "surface"))
	if !ok || !strings.Contains(surfacePage(f.Desk, surface), "/"+page+"/") {
		return f, surface, errors.New("this desk has no such surface")
	}
	f.Title = say.Words(surface.Title)
	return f, surface, nil
}

// settingView is one thing that a surface is told, with what it could be told.
type settingView struct {
	desk.FacetInfo
	Facet      string
	Shows      *say.Message
	Kind       string // of piece that Find has for it, "" if it is none
	Where, Why string // where it is set, and the address of why
	Options    []fine.Option
	Now        string // what it would be set to
	Problem    string
	OnDraft    bool
	State      match.State
	Word       say.Word
}

// settingsOf are what a surface is told, for its own page.
func (s *Server) settingsOf(f Frame, surface desk.Surface) ([]settingView, error) {
	d := f.Desk
	o, draft, err := s.App.Drafts.Wanted(d)
	if err != nil {
		return nil, err
	}
	var out []settingView
	for _, of := range surface.Facets {
		c := match.CompareTo(f.Now, surface, of.Name, o)
		v := settingView{Facet: of.Name, Now: c.Reading.Value, Shows: shows(of.Name, c.Reading.Value), Why: whyAddress(d, surface.ID, of.Name), State: c.State, Word: word[c.State]}
		if want := draft.WantOn(surface.ID, of.Name); want != "" {
			v.Now, v.OnDraft = want, true
		}
		if p := c.Reading.Problem; p != nil {
			v.Problem = p.Text
		}
		if at := c.Reading.Source; at.Path != "" {
			v.Where = fmt.Sprintf("%s:%d", d.Show(at.Path), at.Line)
		}
		v.Options = fine.Options(f.Now, surface, of, v.Now)
		v.FacetInfo, _ = desk.FacetOf(of.Name)
		if v.Takes == desk.TakesPiece || v.Takes == desk.TakesFont {
			v.Kind = string(advice.KindOf(of.Name))
		}
		out = append(out, v)
	}
	return out, nil
}

// loginPage is about one login screen.
type loginPage struct {
	Frame
	Surface  desk.Surface
	Settings []settingView
	Shown    string // address of what it shows now, where that is known
	Fatal    *reading.Problem
	WouldBe  *reading.Problem // the same, of the draft
	Restart  bool
	Pending  bool // it shows something else than it is told
	Dark     bool // it did not come up
	Console  bool
	WayBack  []plan.Hand
	Typed    string // on the console, and what it answered
	Answer   string
	Failed   bool

	OpenNow, OpenDraft bool // nobody is asked who they are: now, with the draft
}

func (s *Server) login(w http.ResponseWriter, r *http.Request) error {
	page, err := s.loginView(r)
	if err != nil {
		return missing(err)
	}
	s.page(w, r, http.StatusOK, "login", page)
	return nil
}

func (s *Server) loginView(r *http.Request) (loginPage, error) {
	f, surface, err := s.surfaceFrame(r, "login")
	if err != nil {
		return loginPage{}, err
	}
	d := f.Desk
	page := loginPage{Frame: f, Surface: surface, Fatal: reading.Fatal(f.Now, surface), Restart: d.CanRestart(surface.ID), Console: d.Console != nil}
	if page.Settings, err = s.settingsOf(f, surface); err != nil {
		return page, err
	}
	for _, of := range surface.Facets {
		told := reading.Told(f.Now, surface, of)
		page.Pending = page.Pending || told.Pending != ""
		if of.Name == desk.FacetSignIn {
			page.OpenNow, page.OpenDraft = told.Value == desk.ByItself, f.Draft.WantOn(surface.ID, of.Name) == desk.ByItself
		}
	}
	if d.Screens[surface.ID] != nil {
		page.Shown = surfacePage(d, surface) + "/screen.svg"
		if b, err := d.Screens[surface.ID](); err == nil {
			page.Dark = strings.Contains(string(b), "Text console")
		}
	}
	for _, of := range surface.Facets {
		if want := f.Draft.WantOn(surface.ID, of.Name); want != "" && page.WouldBe == nil {
			if reading.Possible(f.Now, surface, of, want) != nil {
				page.WouldBe = reading.Why(f.Now, surface, of, want)
			}
		}
	}
	page.WayBack = plan.HandsOf(f.Now, surface)
	return page, nil
}

// loginScreen sends what a login screen shows now; with ?of=draft what it would
// show, drawn by Ivelt.
func (s *Server) loginScreen(w http.ResponseWriter, r *http.Request) error {
	f, surface, err := s.surfaceFrame(r, "login")
	var b []byte
	switch {
	case err != nil:
	case r.URL.Query().Get("of") == "told":
		b = preview.Login(f.Now, preview.Told(r.Context(), f.Now, f.Draft, surface), surface)
	case f.Desk.Screens[surface.ID] == nil:
		err = errors.New("what it shows is not known here")
	default:
		b, err = f.Desk.Screens[surface.ID]()
	}
	if err != nil {
		return missing(err)
	}
	w.Header().Set("Content-Type", "image/svg+xml")
	w.Header().Set("Cache-Control", "no-store")
	_, _ = w.Write(b)
	return nil
}

// loginType does what is typed on the text console.
func (s *Server) loginType(w http.ResponseWriter, r *http.Request) error {
	page, err := s.loginView(r)
	if err == nil && !page.Console {
		err = errors.New("there is no text console here: press Ctrl, Alt and F3 on the computer itself")
	}
	if err != nil {
		return missing(err)
	}
	line := r.FormValue("line")
	answer, failed := page.Desk.Console(page.Surface.ID, line)
	if page, err = s.loginView(r); err != nil {
		return err
	}
	page.Typed, page.Answer = line, answer
	if failed != nil {
		page.Answer, page.Failed = failed.Error(), true
	}
	s.page(w, r, http.StatusOK, "login", page)
	return nil
}

// sandboxPage is about one runtime of sandboxed programs.
type sandboxPage struct {
	Frame
	Surface desk.Surface
	match.Runtime
}

// AllRead reports whether every program can read all that is set for it.
func (p sandboxPage) AllRead() bool {
	return !slices.ContainsFunc(p.Programs, func(of match.Sandboxed) bool {
		return slices.ContainsFunc(of.Sees, func(s match.Sees) bool { return !s.OK })
	})
}

// grantList is what is granted to one of its programs, or to all for "".
type grantList struct {
	Page    sandboxPage
	Program string
	Grants  []match.Granted
}

func (s *Server) sandbox(w http.ResponseWriter, r *http.Request) error {
	f, surface, err := s.surfaceFrame(r, "sandbox")
	if err != nil {
		return missing(err)
	}
	o, _, err := s.App.Drafts.Wanted(f.Desk)
	if err != nil {
		return err
	}
	s.page(w, r, http.StatusOK, "sandbox", sandboxPage{f, surface, match.RuntimeOf(f.Now, surface, o)})
	return nil
}

func (s *Server) changeGrant(w http.ResponseWriter, r *http.Request) error {
	f, surface, err := s.surfaceFrame(r, "sandbox")
	if err != nil {
		return missing(err)
	}
	p, err := s.App.Review.Grant(f.Desk, surface.ID, r.FormValue("program"), r.FormValue("folder"), r.FormValue("do") == "back")
	if err != nil {
		return refused(err)
	}
	f.Page = "review"
	s.stepPage(w, r, f, p, surfacePage(f.Desk, surface))
	return nil
}

// terminalPage is about one terminal.
type terminalPage struct {
	Frame
	Surface  desk.Surface
	Settings []settingView
	Palette  string
	Own      bool // it wears colours that are in no file
	Held     []heldView
	Bad      int
	Remaps   bool // the palette is the one it is told, and can be made readable
	Opacity  int
	Through  *throughView
	Profile  string
	Profiles []profileView
	Start    string
	StartBad error
}

type heldView struct {
	palette.Held
	Hex, To  string // what it could be instead, "" if it can be read
	Ratio    string
	Readable bool
}

// throughView tells how the ink can be read over what is behind the terminal.
type throughView struct {
	Ratio string
	OK    bool
	Least int // percent of opacity with which it could
}

type profileView struct {
	Name    string
	Default bool
	OnDraft bool
}

func (s *Server) terminal(w http.ResponseWriter, r *http.Request) error {
	f, surface, err := s.surfaceFrame(r, "terminal")
	if err != nil {
		return missing(err)
	}
	if r.URL.Query().Get("picture") != "" {
		w.Header().Set("Content-Type", "image/svg+xml")
		w.Header().Set("Cache-Control", "no-store")
		_, _ = w.Write(preview.Terminal(f.Now, preview.Told(r.Context(), f.Now, f.Draft, surface), surface.ID))
		return nil
	}
	page, err := s.terminalView(r.Context(), f, surface)
	if err != nil {
		return err
	}
	s.page(w, r, http.StatusOK, "terminal", page)
	return nil
}

func (s *Server) terminalView(ctx context.Context, f Frame, surface desk.Surface) (terminalPage, error) {
	d := f.Now
	page := terminalPage{Frame: f, Surface: surface}
	var err error
	if page.Settings, err = s.settingsOf(f, surface); err != nil {
		return page, err
	}
	look := preview.Told(ctx, f.Now, f.Draft, surface)
	page.Palette, page.Profile, page.Start = look.Of(desk.FacetPalette, surface.ID), look.Of(desk.FacetProfile, surface.ID), look.Of(desk.FacetStart, surface.ID)
	page.Opacity, _ = strconv.Atoi(look.Of(desk.FacetGround, surface.ID))
	p, ok := judge.PaletteOf(d, surface, page.Palette)
	page.Own = !ok
	of, _ := surface.Facet(desk.FacetPalette)
	page.Remaps = ok && d.Writable() && reading.Told(d, surface, of).Value == page.Palette
	if ok {
		for _, h := range p.Contrasts() {
			v := heldView{Held: h, Hex: h.Colour.Hex(), Ratio: fmt.Sprintf("%.1f", h.Contrast), Readable: h.Legible()}
			if !h.Legible() && !h.Quiet {
				v.To = p.Nearest(h.Colour).Hex()
				page.Bad++
			}
			page.Held = append(page.Held, v)
		}
		page.Through = throughOf(d, look, surface)
	}
	if of, has := surface.Facet(desk.FacetProfile); has {
		for _, name := range reading.Named(d, of.Lookup) {
			page.Profiles = append(page.Profiles, profileView{name, name == reading.Told(d, surface, of).Value, f.Draft.Want(desk.FacetProfile) == name})
		}
	}
	if of, has := surface.Facet(desk.FacetStart); has && page.Start != "" {
		if err := reading.Check(d, surface, of, page.Start); err != nil {
			page.StartBad = err
		}
	}
	return page, nil
}

// throughOf holds the ink against what the backdrop makes of the ground, nil if
// nothing shows through.
func throughOf(d *desk.Desk, look preview.Look, surface desk.Surface) *throughView {
	ratio, least, ok := judge.Through(d, look, surface)
	if !ok {
		return nil
	}
	return &throughView{Ratio: fmt.Sprintf("%.1f", ratio), OK: ratio >= palette.Legible, Least: least}
}

// changeTerminal plans to make colours readable, or a new profile.
func (s *Server) changeTerminal(w http.ResponseWriter, r *http.Request) error {
	f, surface, err := s.surfaceFrame(r, "terminal")
	if err != nil {
		return missing(err)
	}
	if name := strings.TrimSpace(r.FormValue("profile")); r.Form.Has("profile") {
		pl, err := s.App.Review.NewProfile(f.Desk, surface.ID, name)
		if err != nil {
			return refused(err)
		}
		f.Page = "review"
		s.stepPage(w, r, f, pl, surfacePage(f.Desk, surface))
		return nil
	}
	of, _ := surface.Facet(desk.FacetPalette)
	p, ok := judge.PaletteOf(f.Now, surface, reading.Told(f.Now, surface, of).Value)
	if !ok {
		return refused(errors.New("its colours are in no file: choose a palette first, and apply it"))
	}
	only := -1
	if text := r.FormValue("colour"); text != "" {
		if only, err = strconv.Atoi(text); err != nil || only < 0 || only > 15 {
			return refused(errors.New("a colour is a number from 0 to 15"))
		}
	}
	pl, err := s.App.Review.Remap(f.Desk, surface.ID, p, only)
	if err != nil {
		return refused(err)
	}
	f.Page = "review"
	s.stepPage(w, r, f, pl, surfacePage(f.Desk, surface))
	return nil
}
