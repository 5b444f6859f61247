package web

import (
	"errors"
	"fmt"
	"ivelt/core/say"
	"net/http"
	"regexp"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/changes"
	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/unlock"
)

// lockPage is about a desk under its vendor's lock: what there is to be said before it is
// unlocked, and the way to a look step by step.
type lockPage struct {
	Frame
	Surface   desk.Surface
	Lock      *desk.Lock
	Report    unlock.Report
	Ready     bool         // nothing speaks against it
	For       string       // the look that it would be for, "" for none
	Here      []hereView   // what becomes of that here
	Undone    string       // what an update has undone
	Kept      string       // the look that a way led to and that was kept
	Journey   *journeyView // the way that the desk is on
	Console   bool         // a text console can be typed on here
	Typed     string
	Answer    string
	Simulated []simulatedView
	Wrong     string
}

// AgainSteps is how many steps lead to the same look again.
func (p lockPage) AgainSteps() int { return len(unlock.Again) }

// Signs are the sign and the word for the weight of what was found.
func (p lockPage) Signs() map[unlock.Weight][2]string {
	return map[unlock.Weight][2]string{unlock.Fine: {"ok", "fine"}, unlock.Mind: {"warning", "note"}, unlock.Stop: {"error", "stops it"}}
}

// HereSigns are the same for what becomes of a choice.
func (p lockPage) HereSigns() map[string][2]string {
	return map[string][2]string{"follows": {"ok", "follows"}, "unlocked": {"ok", "once unlocked"}, "nearest": {"later", "nearest"}, "cannot": {"info", "cannot"}}
}

// hereView is one choice of a look, and what becomes of it on the desk.
type hereView struct {
	Title say.Word
	Want  *say.Message
	State string // follows, unlocked, nearest, cannot
	Says  *say.Message
}

// journeyView is the way that a desk is on.
type journeyView struct {
	changes.Journey
	Name    string
	Steps   []lockStepView
	Reached bool
	WayBack []string
	File    string // where these lines lie
	Return  string // what goes back to the system's own mark, typed on a console
}

// lockStepView is one step of it.
type lockStepView struct {
	Step   unlock.Step
	Number int
	Title  say.Word
	Does   say.Message
	State  string      // done, now, later
	Check  say.Message // why it is not confirmed
	Ops    []plan.Op
	Act    say.Message // what the button says
	ByHand bool        // the person has to do it
}

// markName is what a name is like that may stand in a line to be typed.
var markName = regexp.MustCompile(`^[A-Za-z0-9][A-Za-z0-9_.-]*$`)

// simulatedView is what the world of a simulated desk does by itself.
type simulatedView struct{ Name, Says string }

func (s *Server) lock(w http.ResponseWriter, r *http.Request) error {
	page, err := s.lockView(r)
	if err != nil {
		return err
	}
	s.page(w, r, http.StatusOK, "lock", page)
	return nil
}

func (s *Server) lockView(r *http.Request) (lockPage, error) {
	f, err := s.frame(r, "lock", "match", "Ready to unlock?")
	if err != nil {
		return lockPage{}, err
	}
	surface, lock := f.Now.Locked()
	if lock == nil {
		return lockPage{}, missing(unlock.ErrNone)
	}
	page := lockPage{Frame: f, Surface: surface, Lock: lock, Console: f.Desk.Console != nil}
	if page.Report, err = s.App.Journeys.Report(r.Context(), f.Desk); err != nil {
		return page, err
	}
	page.Ready = !slices.ContainsFunc(page.Report.Found, func(found unlock.Finding) bool { return found.Weight == unlock.Stop })
	undone, last := s.App.Journeys.Undone(f.Desk)
	page.Undone = undone.String()
	o, err := s.lookToGoTo(f, page.Undone != "", last)
	if err != nil {
		return page, err
	}
	if len(o.Choices) > 0 {
		page.For, page.Here = o.Name, hereViews(f.Trying(), o)
	}
	for _, name := range []string{"update", "round"} {
		if f.Desk.Simulated[name] != nil {
			page.Simulated = append(page.Simulated, simulatedView{name, map[string]string{
				"update": "Bring " + surface.Title + " to its next version", "round": "Let the watchman go round"}[name]})
		}
	}
	j, err := s.App.Journeys.Of(f.Desk)
	if errors.Is(err, changes.ErrNoJourney) {
		return page, nil
	}
	if err == nil && j.Ended {
		if j.First != 0 {
			page.Kept = j.Outfit.Name
		}
		return page, nil
	}
	if err != nil {
		return page, err
	}
	page.Title = say.Line("On the way to %s", j.Outfit.Name)
	page.Here = hereViews(f.Trying(), j.Outfit)
	page.Journey, err = s.journeyView(r, page, j)
	return page, err
}

// lookToGoTo is the look that unlocking would be for: the draft, else what was undone.
func (s *Server) lookToGoTo(f Frame, undone bool, last changes.Journey) (outfit.Outfit, error) {
	if len(f.Draft.Choices) > 0 || !undone {
		return f.Draft, nil
	}
	worn, err := s.App.Drafts.Worn(f.Desk)
	if err != nil || len(worn.Choices) == 0 {
		return last.Outfit, err
	}
	return worn, nil
}

// hereViews are the fates of a look's choices as pages write them.
func hereViews(d *desk.Desk, o outfit.Outfit) (out []hereView) {
	for _, of := range match.Fates(d, o) {
		v := hereView{Title: desk.FacetTitle(of.Facet), Want: shows(of.Facet, of.Want), State: string(of.Fate)}
		switch {
		case of.Fate == match.Nearest:
			v.Says = shows(of.NearFacet, of.Near)
		case of.Fate == match.Cannot:
			why := say.Line("nothing here has such a setting")
			if of.Why != "" {
				why = say.Words(of.Why)
			}
			v.Says = &why
		}
		out = append(out, v)
	}
	return out
}

// steps are what each is called, what it does, and what its button says; %s is the system.
var lockSteps = map[unlock.Step][3]say.Word{
	unlock.StepMark:     {"A mark of the system's own", "%s keeps all of itself as it is now, so that its console can go back to that, whatever becomes of Ivelt.", "Have %s make a mark"},
	unlock.StepDefaults: {"Everything at its default", "What you have set is taken out, and kept.", "Put it at its defaults"},
	unlock.StepUnlock:   {"Unlock", "%s is told of your key, by the way that fits its version.", "Tell %s of your key"},
	unlock.StepRestart:  {"Restart, and see that it took", "Nothing else is changed until %s has come up and says that it takes your key.", "Restart %s"},
	unlock.StepLook:     {"The look", "Its themes are made, signed with your key, and set with all else of it.", "Set the look"},
	unlock.StepShown:    {"Restart, and see that it shows", "%s comes up once more; the match board tells whether it shows the look.", "Restart %s"},
}

func (s *Server) journeyView(r *http.Request, page lockPage, j changes.Journey) (*journeyView, error) {
	v := &journeyView{Journey: j, Name: j.Outfit.Name, Reached: j.Next() == "", WayBack: j.Way.Console()}
	if len(v.WayBack) > 0 {
		v.File = page.Desk.Show(j.Way.Folder(page.Desk.Desk) + "/lines.txt")
	}
	if l := page.Lock.Marks; l != nil && l.Return != "" {
		i := slices.IndexFunc(page.Report.Marks, func(m unlock.Mark) bool {
			return m.Err == nil && !slices.Contains(j.Begun.Marks, m.Name) && markName.MatchString(m.Name)
		})
		if i >= 0 {
			v.Return = "sudo " + strings.ReplaceAll(l.Return, "{mark}", page.Report.Marks[i].Name)
		}
	}
	title := page.Surface.Title
	named := func(text say.Word) say.Message {
		if strings.Contains(string(text), "%s") {
			return say.Line(text, title)
		}
		return text.Message()
	}
	for i, step := range j.Steps() {
		says := lockSteps[step]
		one := lockStepView{Step: step, Number: i + 1, Title: says[0], Does: named(says[1]), Act: named(says[2]), State: "later"}
		switch {
		case slices.Contains(j.Done, step):
			one.State = "done"
		case step == j.Next():
			one.State = "now"
			why, err := s.App.Journeys.Check(r.Context(), page.Desk)
			if err != nil {
				return nil, err
			}
			one.Check = why
			p, err := s.App.Journeys.Plan(r.Context(), page.Desk)
			if err != nil {
				one.Check = say.Fault(err)
			}
			folder := j.Way.Folder(page.Desk.Desk)
			for _, op := range p.Ops {
				if op.Kind != plan.Folder && !strings.HasPrefix(op.Path, folder+"/") {
					one.Ops = append(one.Ops, op)
				}
			}
			if len(one.Ops) > 0 {
				one.Check = say.Message{} // it is not taken yet
			}
			one.ByHand = step.Restarts() && !page.Desk.CanRestart(page.Surface.ID) || step == unlock.StepMark && page.Desk.Mark == nil
			if one.ByHand {
				one.Act = say.Line("I have done it: look")
			}
		}
		v.Steps = append(v.Steps, one)
	}
	return v, nil
}

// changeLock begins a journey, takes its next step, goes back or keeps what it led to, and does
// what the world of a simulated desk does.
func (s *Server) changeLock(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	here := "/d/" + d.ID + "/lock"
	var job *jobs.Job
	switch do := r.FormValue("do"); do {
	case "begin", "again":
		f, e := s.chrome(r, "lock", "match", "")
		if e != nil {
			return e
		}
		_, last := s.App.Journeys.Undone(d)
		o, e := s.lookToGoTo(f, do == "again", last)
		if e != nil {
			return e
		}
		err = s.App.Journeys.Begin(r.Context(), d, o, do == "again")
	case "step":
		job, err = s.App.Journeys.Take(d, unlock.Step(r.FormValue("step")), here)
	case "back":
		job, err = s.App.Journeys.GoBack(d, here)
	case "keep":
		err = s.App.Journeys.Keep(r.Context(), d)
	case "update", "round":
		if d.Simulated[do] == nil {
			return refused(errors.New("this desk is not simulated: its world does that by itself"))
		}
		var said string
		if said, err = d.Simulated[do](); err == nil {
			s.App.Notices.Add(d, "%s", said)
		}
	default:
		return refused(errNothingToDo)
	}
	switch {
	case errors.Is(err, changes.ErrNoJourney), errors.Is(err, changes.ErrOnTheWay), errors.Is(err, changes.ErrOtherStep), errors.Is(err, changes.ErrCannot):
		return conflict(err)
	case err != nil:
		return refused(err)
	case job != nil:
		s.showJob(w, r, d.ID, job)
	default:
		to(w, r, here)
	}
	return nil
}

// lockType does what is typed on the text console of a desk under a lock, line by line, and
// stops where one fails but for folders that are not empty.
func (s *Server) lockType(w http.ResponseWriter, r *http.Request) error {
	page, err := s.lockView(r)
	if err == nil && !page.Console {
		err = missing(errors.New("there is no text console here: press Ctrl, Alt and F3 on the computer itself"))
	}
	if err != nil {
		return err
	}
	lines := strings.FieldsFunc(r.FormValue("lines"), func(c rune) bool { return c == '\n' || c == '\r' })
	if len(lines) > 5000 {
		return refused(errors.New("that is more than 5000 lines"))
	}
	var answers []string
	for _, line := range lines {
		answer, err := page.Desk.Console(page.Surface.ID, line)
		if err != nil {
			answers = append(answers, fmt.Sprintf("%s: %v", line, err))
			if !strings.Contains(line, "rmdir ") {
				break
			}
		} else if answer != "" {
			answers = append(answers, answer)
		}
	}
	if page, err = s.lockView(r); err != nil {
		return err
	}
	page.Typed, page.Answer = strings.Join(lines, "\n"), strings.Join(answers, "\n")
	s.page(w, r, http.StatusOK, "lock", page)
	return nil
}
