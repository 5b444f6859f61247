package web

import (
	"bytes"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/app/drafts"
	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/say"
)

type reviewPage struct {
	Frame
	Change    plan.Plan // what is reviewed: of the draft, of one source, or of a going back
	Groups    []opGroup
	Out       int         // operations that are left out
	Mine      *plan.Plan  // the part that needs no administrator, if the other is not empty
	Theirs    *plan.Plan  // that other part
	AdminHere bool        // this Ivelt may do it all
	Answer    *answerView // what the match board would say
	Starts    []laterView // what has to start again
	WayBack   []plan.Hand // should a login screen not come up
	Then      string      // of an edit that is no draft: the page to come back to
	To        string      // where Apply sends it
	Hidden    [][2]string // fields that go with it
	Try       bool        // it can be tried
	Back      *backView   // of a going back
	Caches    []string    // folders of which programs' caches are made anew
	CanForce  bool        // something would not come up, and can be forced
	Forced    bool
	Packages  bool // the package manager does some of it
	Copies    bool // it copies something, so that a script alone is not all
	Acts      []drafts.Acting
	Warned    []string
	Grants    []grantView // folders that sandboxed programs could read from then on
}

// Turning says what of the look turns once it is applied; nothing of a going back.
func (p reviewPage) Turning() []say.Message {
	o, err := outfit.Parse([]byte(p.Change.Outfit))
	if err != nil || len(o.Turns()) == 0 || p.Back != nil {
		return nil
	}
	var out []say.Message
	if o.Turn != nil {
		out = append(out, say.Line("From then on it turns %s. Each turn belongs to this change: undo it, and they are undone.", o.Turn.Says()))
	}
	if s := o.Show; s != nil && len(s.Times) == 0 {
		out = append(out, say.Line("Another backdrop comes every %s. Undo this change, and the old one comes back.", everySays(s.Every)))
	} else if s != nil {
		out = append(out, say.Line("The backdrop goes with the time of day, %d of them. Undo this change, and the old one comes back.", len(s.Times)))
	}
	return out
}

// grantView is a folder that all programs of a runtime may read once a plan is carried out.
type grantView struct {
	Surface desk.Surface
	Folder  string   // as people write it
	For     string   // the piece that lies there
	Others  []string // names of the programs
	Toggle  string   // address of the review without it
}

// Does says what a plan that is reviewed comes to: "install 1 piece and apply 5 changes".
func (p reviewPage) Does(of plan.Plan) say.Message {
	pieces, changes := of.Tally()
	switch {
	case p.Back != nil:
		return say.Line("go back: %s", say.Many(pieces+changes, "change"))
	case pieces > 0 && changes > 0:
		return say.Line("install %s and apply %s", say.Many(pieces, "piece"), say.Many(changes, "change"))
	case pieces > 0:
		return say.Line("install %s", say.Many(pieces, "piece"))
	}
	return say.Line("apply %s", say.Many(changes, "change"))
}

// DoesMine says the same of the person's own part of it.
func (p reviewPage) DoesMine() say.Message { return say.Line("my part: %s", p.Does(*p.Mine)) }

// grantsOf are what the operations of a review grant.
func grantsOf(f Frame, groups []opGroup) (out []grantView) {
	for _, g := range groups {
		for _, op := range g.Ops {
			s, ok := f.Now.Surface(op.Surface)
			if !ok || op.Out {
				continue
			}
			for _, m := range op.Says.Parts("plan/and") {
				if m.Code != planning.GrantCode || len(m.Args) != 3 {
					continue
				}
				v := grantView{Surface: s, Folder: fmt.Sprint(m.Args[1]), For: fmt.Sprint(m.Args[2]), Toggle: op.Toggle}
				for _, p := range match.RuntimeOf(f.Now, s, f.Draft).Programs {
					v.Others = append(v.Others, p.Name)
				}
				out = append(out, v)
			}
		}
	}
	return out
}

type opGroup struct {
	Title say.Message
	Ops   []opView
}

type opView struct {
	plan.Op
	Shown  string
	Diff   []plan.DiffLine
	Verb   say.Message
	Listed string // address of the list of what is copied or taken away
	Out    bool   // it is left out
	Toggle string // address of the review with it left out, or put back; "" if it cannot be
	ID     string // of the element
}

// Plain reports whether an operation only makes a folder for what comes after it, of which
// nothing has to be said.
func (v opView) Plain() bool {
	return v.IsFolder() && v.Kind == plan.Folder && !v.Admin && len(v.Loses) == 0
}

// For is what an operation is for, or why it is done.
func (v opView) For() *say.Message {
	if v.Op.Says.Code == "" {
		return ref(say.Words(v.Op.Why))
	}
	return &v.Op.Says
}

type laterView struct {
	plan.Later
	Titles say.Message
	Can    []string // surfaces that Ivelt can start again
}

type answerView struct {
	*changes.Answer
	Cells []cellView // that would not follow
}

func opViews(d *desks.Managed, p plan.Plan, diff bool) []opView {
	var out []opView
	for i, op := range p.Ops {
		v := opView{Op: op, Shown: d.Show(op.Path), ID: fmt.Sprintf("op-%d", i)}
		if op.Source != nil {
			v.Listed = fmt.Sprintf("/d/%s/plan/%s/%d", d.ID, p.ID, i)
		}
		switch op.Kind {
		case plan.Folder:
			v.Verb = say.Line("Make the folder")
		case plan.Copy:
			v.Verb = say.Line("Copy %s to", say.Many(op.Files, "file"))
			if op.Files == 0 {
				v.Verb = say.Line("Put back")
			}
		case plan.Link:
			v.Verb = say.Line("Link")
		case plan.Remove:
			v.Verb = say.Line("Remove")
			if op.Files > 0 {
				v.Verb = say.Line("Remove %s in", say.Many(op.Files, "file"))
			}
			if diff && op.Before.Kind == "file" {
				old, _ := d.Tree().ReadFile(desk.Name(op.Path))
				v.Diff = plan.Diff(old, nil)
			}
		case plan.AsIs:
			v.Verb = say.Line("Keep")
		case plan.Package:
			v.Verb = say.Line("Install the")
			if op.After.Kind == "" {
				v.Verb = say.Line("Remove the")
			}
			v.Shown += " " + op.After.Hash + op.Before.Hash
		case plan.Set:
			v.Verb = say.Line("Set the")
			if op.After.Kind == "" {
				v.Verb = say.Line("Reset the")
			}
			if diff {
				v.Diff = plan.Diff(op.Before.Line(), op.After.Line())
			}
		case plan.Write:
			v.Verb = say.Line("Edit")
			if op.Before.Kind == "" {
				v.Verb = say.Line("Write")
			}
			if diff {
				old, _ := d.Tree().ReadFile(desk.Name(op.Path))
				v.Diff = plan.Diff(old, op.Content)
			}
		}
		out = append(out, v)
	}
	return out
}

func (s *Server) review(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "review", "compose", "Review")
	if err != nil {
		return err
	}
	reviewed, err := s.App.Review.Draft(r.Context(), f.Desk, r.URL.Query()["out"], planning.Options{Force: r.URL.Query().Get("force") != ""})
	if err != nil {
		return refused(err)
	}
	page := s.reviewOf(r, f, reviewed)
	page.To, page.Try = "/d/"+f.Desk.ID+"/apply", true
	page.Acts = drafts.WhatActs(f.Now, f.Draft)
	page.Forced = r.URL.Query().Get("force") != ""
	page.CanForce = !page.Forced && planning.Forceable(f.Now, f.Draft, reviewed.Whole)
	s.page(w, r, http.StatusOK, "review", page)
	return nil
}

// reviewOf is the page of a plan of which operations can be left out.
func (s *Server) reviewOf(r *http.Request, f Frame, rv changes.Reviewed) reviewPage {
	page := changeOf(f, rv.Whole)
	page.Change, page.AdminHere, page.Warned = rv.Plan, f.Desk.AdminHere(), rv.Warned
	page.Copies = slices.ContainsFunc(rv.Plan.Ops, func(op plan.Op) bool { return op.Kind == plan.Copy })
	if len(rv.Theirs.Ops) > 0 {
		page.Mine, page.Theirs = &rv.Mine, &rv.Theirs
	}
	if f.Desk.Refresh != nil {
		for _, c := range rv.Plan.Caches() {
			page.Caches = append(page.Caches, f.Desk.Show(c.Folder))
		}
	}
	page.Starts, page.WayBack = latersOf(f.Desk, rv.Plan), rv.Plan.WayBack(f.Now)
	out := r.URL.Query()["out"]
	for g := range page.Groups {
		for i := range page.Groups[g].Ops {
			v := &page.Groups[g].Ops[i]
			v.Out = !slices.ContainsFunc(rv.Plan.Ops, func(op plan.Op) bool { return op.Path == v.Path && op.Kind == v.Kind })
			if v.Out {
				page.Out++
			}
			if v.IsFolder() {
				continue // it goes with what is in it
			}
			q := r.URL.Query()
			q.Del("out")
			for _, p := range out {
				if p != v.Path {
					q.Add("out", p)
				}
			}
			if !slices.Contains(out, v.Path) {
				q.Add("out", v.Path)
			}
			v.Toggle = r.URL.Path + "?" + q.Encode()
		}
	}
	page.Grants = grantsOf(f, page.Groups)
	if rv.Answer != nil {
		page.Answer = &answerView{Answer: rv.Answer}
		for _, c := range rv.Answer.Open {
			page.Answer.Cells = append(page.Answer.Cells, cellOf(nil, f.Desk, c, f.Draft))
		}
	}
	return page
}

// ToRestart is how many surfaces have to be started again.
func (p reviewPage) ToRestart() (n int) {
	for _, l := range p.Starts {
		n += len(l.Surfaces)
	}
	return n
}

func latersOf(d *desks.Managed, p plan.Plan) []laterView {
	var out []laterView
	for _, l := range p.Later(d.Desk) {
		v := laterView{Later: l}
		var titles []say.Message
		for _, id := range l.Surfaces {
			s, _ := d.Surface(id)
			titles = append(titles, s.Among())
			if d.CanRestart(id) {
				v.Can = append(v.Can, s.Title)
			}
		}
		v.Titles = say.Join(", ", titles...)
		out = append(out, v)
	}
	return out
}

// Blocked is what the change cannot bring about, what says the same of several surfaces once:
// a login screen or a shell that would not come up first.
func (p reviewPage) Blocked() (out []blockedView) {
	all := slices.Clone(p.Change.Blocked)
	grave := func(b plan.Blocked) int {
		if s, ok := p.Desk.Surface(b.Surface); ok && (s.Greeter != nil || s.Kind == "shell") {
			return 0
		}
		return 1
	}
	slices.SortStableFunc(all, func(a, b plan.Blocked) int { return grave(a) - grave(b) })
	for _, b := range all {
		if b.Says.Code == "" { // of a plan that was handed over without
			b.Says = say.Words(b.Why)
		}
		i := slices.IndexFunc(out, func(v blockedView) bool {
			return v.Remedy == b.Remedy && len(say.Together([]say.Message{v.Why, b.Says})) == 1
		})
		if i < 0 {
			out = append(out, blockedView{b.Says, b.Remedy, b.Fix})
			continue
		}
		out[i].Why = say.Together([]say.Message{out[i].Why, b.Says})[0]
	}
	return out
}

type blockedView struct {
	Why    say.Message
	Remedy string
	Fix    say.Message // the same, said
}

// changeOf is the page of a plan as it is.
func changeOf(f Frame, p plan.Plan) reviewPage {
	page := reviewPage{Frame: f, Change: p, Starts: latersOf(f.Desk, p)}
	for _, v := range opViews(f.Desk, p, true) {
		title := say.Line("Folders and pieces")
		if surface, ok := f.Desk.Surface(v.Surface); ok {
			title = surface.Full()
		}
		i := slices.IndexFunc(page.Groups, func(g opGroup) bool { return g.Title.String() == title.String() })
		if i < 0 {
			i = len(page.Groups)
			page.Groups = append(page.Groups, opGroup{Title: title})
		}
		page.Groups[i].Ops = append(page.Groups[i].Ops, v)
	}
	return page
}

// planFiles lists what one operation of a plan copies or takes away.
func (s *Server) planFiles(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	p, err := s.App.Plans.Get(d, chi.URLParam(r, "plan"))
	i, bad := strconv.Atoi(chi.URLParam(r, "op"))
	if err == nil && (bad != nil || i < 0 || i >= len(p.Ops)) {
		err = errors.New("the plan has no such operation")
	}
	if err != nil {
		return missing(err)
	}
	list, err := s.App.Review.Listing(r.Context(), p.Ops[i])
	if err != nil {
		return refused(err)
	}
	s.part(w, r, "review", "op-files", struct {
		First []apply.Entry
		More  int
	}{list[:min(len(list), maxListed)], max(0, len(list)-maxListed)})
	return nil
}

// maxListed is how many files of a tree are told at once.
const maxListed = 400

// handOver sends a plan as a file, or as a script.
func (s *Server) handOver(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	name := chi.URLParam(r, "file")
	id, form, _ := strings.Cut(name, ".")
	var b bytes.Buffer
	if err := s.App.Changes.HandOver(r.Context(), d, id, form, &b); err != nil {
		return refused(err)
	}
	w.Header().Set("Content-Type", map[string]string{"json": "application/json; charset=utf-8", "sh": "text/x-shellscript; charset=utf-8", "tar": "application/x-tar"}[form])
	w.Header().Set("Content-Disposition", `attachment; filename="`+name+`"`)
	_, _ = b.WriteTo(w)
	return nil
}

func (s *Server) apply(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	var try time.Duration
	if text := r.FormValue("try"); text != "" {
		seconds, err := strconv.Atoi(text)
		if err != nil || seconds < 3 || seconds > 3600 {
			return refused(say.Errorf("a look is tried for 3 to 3600 seconds, not %q", text))
		}
		try = time.Duration(seconds) * time.Second
	}
	job, err := s.App.Changes.Apply(d, r.FormValue("plan"), changes.How{Try: try, Lose: r.FormValue("lose") != "", Then: "/d/" + d.ID + "/match"})
	if err != nil {
		return refused(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}

// keep ends a trial: it stays, or is gone back on at once.
func (s *Server) keep(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	match := "/d/" + d.ID + "/match"
	tried, err := strconv.ParseUint(r.FormValue("tried"), 10, 32)
	if err != nil {
		return refused(errors.New("the request does not say what is tried"))
	}
	if r.FormValue("do") == "keep" {
		if err := s.App.Trials.Keep(d, uint(tried)); err != nil {
			return conflict(err)
		}
		to(w, r, match)
		return nil
	}
	job, err := s.App.Trials.End(d, uint(tried), match)
	if err != nil {
		return conflict(err)
	}
	s.showJob(w, r, d.ID, job)
	return nil
}
