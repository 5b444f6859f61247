package web

import (
	"errors"
	"net/http"
	"regexp"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/learning"
	"ivelt/core/desk"
	"ivelt/core/learn"
	"ivelt/core/say"
)

// learnPage leads through learning where a program keeps its settings.
type learnPage struct {
	Frame
	Kinds    [][2]say.Word
	Restarts [][2]say.Word
	Begun    bool
	About    learn.About
	Places   string // as they were named
	Found    learning.Found
	Likely   []changeView
	Noise    []changeView
	Lessons  []lessonView
	Groups   []facetGroup
	Wrong    error // what could not be done
	Came     []describedView
	Broken   []error // descriptors that cannot be used
}

// describedView is a program whose descriptor came from somebody else.
type describedView struct {
	desk.Surface
	Says   []say.Message // what it reads and writes
	Starts bool          // it would start something, or does
}

// changeView is one value that differs.
type changeView struct {
	learn.Change
	Shown string // its file
	Name  string // of the setting, with the group it stands in
	Guess string
	Asks  []wordView // what its values mean, once the facet is said
}

// wordView asks what a value means.
type wordView struct {
	Says  string
	Words []string
	Last  bool // it may be left open
}

type lessonView struct {
	learn.Lesson
	Title say.Word
	Shown string
	Means string // in Ivelt's word, where that is another
}

// facetGroup are facets that are chosen from together.
type facetGroup struct {
	Title  say.Word
	Facets []desk.FacetInfo
}

// facetGroups sort the facets for a list: those of any program, of bars and shells, of
// terminals, of login screens.
var facetGroups = func() []facetGroup {
	groups := []facetGroup{{Title: "Any program"}, {Title: "A bar or a shell"}, {Title: "A terminal"}, {Title: "A login screen"}}
	of := map[string]int{}
	for i, list := range [][]string{
		{desk.FacetBar, desk.FacetBarEdge, desk.FacetBarHeight, desk.FacetOpacity, desk.FacetBlur, desk.FacetSaturation, desk.FacetBackdrop, desk.FacetFrame, desk.FacetNotices, desk.FacetMenuIcon, desk.FacetWorkspaces, desk.FacetIconSize},
		{desk.FacetPalette, desk.FacetGround, desk.FacetGroundBlur, desk.FacetEdges, desk.FacetColumns, desk.FacetRows, desk.FacetProfile, desk.FacetStart},
		{desk.FacetLogin, desk.FacetLoginGround, desk.FacetLoginIcons, desk.FacetLoginPointer, desk.FacetLoginSize, desk.FacetLoginFont, desk.FacetPerson, desk.FacetPane, desk.FacetNumLock, desk.FacetSession, desk.FacetSignIn},
	} {
		for _, name := range list {
			of[name] = i + 1
		}
	}
	for _, f := range desk.Facets {
		g := &groups[of[f.Name]]
		g.Facets = append(g.Facets, f)
	}
	return groups
}()

func (s *Server) learn(w http.ResponseWriter, r *http.Request) error {
	page, err := s.learnView(r, "", "")
	if err != nil {
		return err
	}
	s.page(w, r, http.StatusOK, "learn", page)
	return nil
}

// allowDescriptor shows the plan by which a descriptor that came from others may start programs, or no
// longer.
func (s *Server) allowDescriptor(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "review", "match", "Review")
	if err != nil {
		return err
	}
	p, err := s.App.Review.Allow(f.Desk, r.FormValue("surface"), r.FormValue("may") == "yes")
	if err != nil {
		return refused(err)
	}
	s.stepPage(w, r, f, p, "/d/"+f.Desk.ID+"/learn")
	return nil
}

// learnView is the page; asking is the place of a change whose facet is said, and whose
// values are to be told in Ivelt's words.
func (s *Server) learnView(r *http.Request, asking, facet string) (learnPage, error) {
	f, err := s.frame(r, "learn", "match", "A program of your own")
	if err != nil {
		return learnPage{}, err
	}
	page := learnPage{
		About: learn.About{Kind: "program", Restart: "program"},
		Frame: f, Kinds: learning.Kinds, Groups: facetGroups, Places: f.Desk.Show(f.Desk.First("{config}/")),
		Restarts: [][2]say.Word{{"program", "when it is started again"}, {"", "at once"}, {"shell", "when the shell is started again"}, {"session", "after signing in again"}, {"machine", "after the computer is started again"}},
	}
	for _, surface := range f.Desk.Surfaces() {
		if surface.Came != nil {
			reach := surface.Came.Reach
			page.Came = append(page.Came, describedView{surface, reach.Says(f.Now), len(reach.Starts) > 0})
		}
	}
	page.Broken = f.Desk.Broken()
	talk := s.App.Learning.Of(f.Desk.Desk)
	if talk == nil {
		return page, nil
	}
	page.Begun, page.About, page.Places, page.Found = true, talk.About, strings.Join(talk.Asked, ", "), talk.Now()
	view := func(c learn.Change) changeView {
		v := changeView{Change: c, Shown: f.Desk.Show(c.Path), Name: nameOf(c), Guess: talk.Guess(c)}
		if c.Place() == asking {
			v.Guess = facet
			words, _ := learn.Needs(facet)
			v.Asks = []wordView{{Says: c.To, Words: words}}
			if !c.New && c.From != c.To {
				v.Asks = append(v.Asks, wordView{Says: c.From, Words: words, Last: true})
			}
		}
		return v
	}
	for _, c := range page.Found.Likely {
		page.Likely = append(page.Likely, view(c))
	}
	for _, c := range page.Found.Noise {
		page.Noise = append(page.Noise, view(c))
	}
	for _, l := range page.Found.Lessons {
		page.Lessons = append(page.Lessons, lessonView{Lesson: l, Title: desk.FacetTitle(l.Facet), Shown: f.Desk.Show(l.Path), Means: l.Words[l.To]})
	}
	return page, nil
}

// nameOf is the way to a setting in its file.
func nameOf(c learn.Change) string {
	if c.Group == "" {
		return c.Key
	}
	return strings.ReplaceAll(c.Group, "/", " › ") + " › " + c.Key
}

var notInID = regexp.MustCompile(`[^a-z0-9]+`)

// idOf makes an ID of what a program is called.
func idOf(title string) string {
	return strings.Trim(notInID.ReplaceAllString(strings.ToLower(title), "-"), "-")
}

// changeLearn begins learning, looks again, hears what a change was, takes it back, and
// keeps or forgets all of it.
func (s *Server) changeLearn(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	here := "/d/" + d.ID + "/learn"
	talk := s.App.Learning.Of(d.Desk)
	do := r.FormValue("do")
	if talk == nil && do != "begin" {
		return conflict(errors.New("nothing is being learned on this desk: begin again"))
	}
	asking, facet := "", ""
	switch do {
	case "begin":
		title := strings.TrimSpace(r.FormValue("title"))
		about := learn.About{ID: idOf(title), Title: title, Kind: r.FormValue("kind"), Restart: r.FormValue("restart")}
		if !slices.ContainsFunc(learning.Kinds, func(k [2]say.Word) bool { return string(k[0]) == about.Kind }) {
			about.Kind = "program"
		}
		var places []string
		for place := range strings.SplitSeq(r.FormValue("places"), ",") {
			if place = strings.TrimSpace(place); place != "" {
				places = append(places, place)
			}
		}
		err = s.App.Learning.Begin(r.Context(), d.Desk, about, places)
	case "again":
		_, err = talk.Again(r.Context())
	case "teach":
		facet = r.FormValue("facet")
		c, ok := talk.Change(r.FormValue("change"))
		if !ok {
			err = learning.ErrChange
			break
		}
		words := map[string]string{}
		for _, says := range []string{c.To, c.From} {
			if word := r.FormValue("means " + says); word != "" {
				words[says] = word
			}
		}
		if _, needed := learn.Needs(facet); needed && words[c.To] == "" {
			asking = c.Place()
			break
		}
		err = talk.Teach(c.Place(), facet, words)
	case "forget":
		talk.Forget(r.FormValue("facet"))
	case "stop":
		s.App.Learning.End(d.Desk)
	case "write":
		var at string
		if at, err = talk.Write(); err == nil {
			s.App.Learning.End(d.Desk)
			s.App.Notices.Add(d, "%s is read on %s from now on. What was learned is in %s.", talk.About.Title, d.Title, d.Show(at))
			here = "/d/" + d.ID + "/match"
		}
	default:
		err = errNothingToDo
	}
	if err == nil && asking == "" {
		to(w, r, here)
		return nil
	}
	page, fault := s.learnView(r, asking, facet)
	if fault != nil {
		return fault
	}
	status := http.StatusOK
	if err != nil {
		page.Wrong, status = err, http.StatusBadRequest
		if !page.Begun {
			page.About = learn.About{Title: r.FormValue("title"), Kind: r.FormValue("kind"), Restart: r.FormValue("restart")}
			page.Places = r.FormValue("places")
		}
	}
	s.page(w, r, status, "learn", page)
	return nil
}
