// Package web serves Ivelt's pages. Handlers are grouped by stage of the work,
// one file a stage; pages and the parts that htmx swaps come from the same
// templates.
package web

import (
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"html/template"
	"io/fs"
	"log/slog"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"ivelt/app"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/cache"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/language"
	"ivelt/core/match"
	"ivelt/core/outfit"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/core/preview"
	"ivelt/core/say"
	"ivelt/core/shown"
	"ivelt/store"
)

//go:embed templates static
var embedded embed.FS

// Server serves the pages of an [app.App].
type Server struct {
	App   *app.App
	Hosts []string // further host names it answers to, besides loopback
	// Secret is what a browser has to bring, see [Owner]; "" lets everybody in that
	// reaches it.
	Secret string

	// Languages are those of the pages; [New] has them without anybody's own.
	Languages *Languages

	beads *cache.Cache // by their hash
}

// New returns a server ready to be used as a handler through [Server.Handler].
func New(a *app.App) (*Server, error) {
	s := &Server{App: a, Languages: NewLanguages("", ""), beads: cache.New(cache.Bounds{Bytes: 8 << 20, Age: time.Hour})}
	if _, err := s.Languages.pages(nil); err != nil {
		return nil, err
	}
	return s, nil
}

// Handler returns the routes.
func (s *Server) Handler() http.Handler {
	r := chi.NewRouter()
	r.Use(Logged(s.App.Log), Recovered(s.App.Log), Bodies, KnownHost(s.Hosts), http.NewCrossOriginProtection().Handler, ContentPolicy)
	r.Use(HeadAsGet)
	if s.Secret != "" {
		r.Use(s.Owner(s.Secret))
	}
	static, _ := fs.Sub(embedded, "static")
	r.Handle("/static/*", http.StripPrefix("/static/", cached(http.FileServerFS(static))))
	r.Get("/", func(w http.ResponseWriter, r *http.Request) {
		first, stage := s.App.Desks()[0], "/find"
		if first.Keep != nil || s.firstVisit() { // a desk is looked at before anything is looked for
			stage = "/start"
		}
		http.Redirect(w, r, "/d/"+first.ID+stage, http.StatusSeeOther)
	})
	r.Get("/jobs/{job}", s.do(s.job))
	r.Post("/jobs/{job}/cancel", s.do(s.cancelJob))
	r.Post("/jobs/{job}/pause", s.do(s.pauseJob))
	r.Post("/jobs/{job}/resume", s.do(s.resumeJob))
	r.Get("/market/{market}/{entry}/picture", s.do(s.marketPicture))
	r.Route("/d/{desk}", func(r chi.Router) {
		r.Get("/start", s.do(s.start))
		r.Post("/writing", s.do(s.allow))
		r.Post("/session", s.do(s.session))
		r.Get("/find", s.do(s.find))
		r.Post("/fetch", s.do(s.fetch))
		r.Post("/try", s.do(s.tryOn))
		r.Get("/find/{market}/{entry}", s.do(s.closer))
		r.Post("/taste", s.do(s.tasteOfPicture))
		r.Post("/pin", s.do(s.pin))
		r.Get("/compare", s.do(s.compare))
		r.Get("/markets", s.do(s.markets))
		r.Post("/markets", s.do(s.changeMarkets))
		r.Post("/bring", s.do(s.bring))
		r.Post("/bring/here", s.do(s.bringHere))
		r.Post("/bring/unlock", s.do(s.unlock))
		r.Get("/parcel/{sha}", s.do(s.parcel))
		r.Get("/came", s.do(s.came))
		r.Get("/parcel/{sha}/tag.svg", s.do(s.parcelTag))
		r.Post("/parcel/{sha}/install", s.do(s.install))
		r.Get("/parcel/{sha}/convert", s.do(s.convert))
		r.Post("/parcel/{sha}/convert", s.do(s.makeConverted))
		r.Get("/parcel/{sha}/convert.zip", s.do(s.downloadConverted))
		r.Get("/parcel/{sha}/pointer.svg", s.do(s.convertedPointer))
		r.Post("/convert", s.do(s.convertHere))
		r.Get("/effects", s.do(s.effects))
		r.Post("/effects", s.do(s.changeEffects))
		r.Get("/effects/played.svg", s.do(s.effectPlayed))
		r.Get("/halves", s.do(s.halves))
		r.Post("/halves", s.do(s.changeHalves))
		r.Get("/backdrop", s.do(s.backdrop))
		r.Post("/backdrop", s.do(s.changeBackdrop))
		r.Get("/backdrop/near", s.do(s.backdropNear))
		r.Get("/backdrop/picture.svg", s.do(s.backdropPicture))
		r.Get("/backdrop/tinted.jpg", s.do(s.backdropTinted))
		r.Get("/backdrop/screen.svg", s.do(s.backdropScreen))
		r.Get("/arrange", s.do(s.arrange))
		r.Post("/arrange", s.do(s.changeArrangement))
		r.Get("/arrange/screen.svg", s.do(s.arrangeScreen))
		r.Get("/bench/font", s.do(s.benchType))
		r.Post("/bench/font", s.do(s.mendType))
		r.Get("/bench/font.png", s.do(s.benchLine))
		r.Get("/bench/icons", s.do(s.benchIcons))
		r.Post("/bench/icons", s.do(s.changeIcons))
		r.Post("/bench/icons/compare", s.do(s.compareIcons))
		r.Get("/bench/icon", s.do(s.benchIcon))
		r.Get("/bench/left", s.do(s.leftOver))
		r.Post("/bench/left", s.do(s.letGoOfLeft))
		r.Get("/bench/pointer", s.do(s.bench))
		r.Post("/bench/pointer", s.do(s.mendPointers))
		r.Get("/bench/pointer.svg", s.do(s.benchedPointer))
		r.Get("/shelf", s.do(s.shelf))
		r.Post("/remove", s.do(s.remove))
		r.Post("/rename", s.do(s.rename))
		r.Post("/layer", s.do(s.rebuildLayer))
		r.Get("/tag.svg", s.do(s.packTag))
		r.Get("/compose", s.do(s.compose))
		r.Post("/draft", s.do(s.choose))
		r.Post("/draft/drop", s.do(s.dropDraft))
		r.Get("/sheet", s.do(s.sheet))
		r.Get("/judge", s.do(s.judge))
		r.Get("/judge/other", s.do(s.judgeOther))
		r.Post("/judge", s.do(s.fixJudged))
		r.Get("/sheet.png", s.do(s.poster))
		r.Get("/sheet.svg", s.do(s.poster))
		r.Get("/outfit.toml", s.do(s.outfitFile))
		r.Get("/outfit.txt", s.do(s.outfitFile))
		r.Get("/outfit.zip", s.do(s.outfitArchive))
		r.Post("/outfit", s.do(s.openOutfit))
		r.Post("/parcel/{sha}/open", s.do(s.openBundle))
		r.Get("/parcel/{sha}/bundle", s.do(s.bundle))
		r.Post("/parcel/{sha}/take", s.do(s.takeBundle))
		r.Get("/suggest", s.do(s.suggest))
		r.Get("/complete", s.do(s.complete))
		r.Get("/complete/{manner}", s.do(s.judgeProposal))
		r.Post("/complete", s.do(s.takeComplete))
		r.Post("/missing", s.do(s.getMissing))
		r.Get("/looks", s.do(s.looks))
		r.Post("/looks", s.do(s.changeLook))
		r.Get("/picture.svg", s.do(s.picture))
		r.Get("/picture/notes", s.do(s.pictureNotes))
		r.Get("/ask", s.do(s.ask))
		r.Get("/dyed", s.do(s.dyed))
		r.Post("/making", s.do(s.changeLayer))
		r.Post("/dye", s.do(s.dye))
		r.Get("/bead", s.do(s.bead))
		r.Get("/review", s.do(s.review))
		r.Post("/apply", s.do(s.apply))
		r.Post("/keep", s.do(s.keep))
		r.Get("/plan/{plan}/{op}", s.do(s.planFiles))
		r.Get("/hand-over/{file}", s.do(s.handOver))
		r.Post("/administer", s.do(s.administer))
		r.Get("/administrator/{plan}", s.do(s.administratorsPart))
		r.Post("/package", s.do(s.installPackage))
		r.Get("/match", s.do(s.match))
		r.Get("/why/{surface}/{facet}", s.do(s.why))
		r.Post("/why/{surface}/{facet}", s.do(s.whyStep))
		r.Post("/mend", s.do(s.fix))
		r.Post("/step", s.do(s.applyStep))
		r.Post("/except", s.do(s.except))
		r.Post("/draft/all", s.do(s.takeAll))
		r.Post("/draft/worn", s.do(s.wearDraft))
		r.Get("/login/{surface}", s.do(s.login))
		r.Get("/login/{surface}/screen.svg", s.do(s.loginScreen))
		r.Post("/login/{surface}/type", s.do(s.loginType))
		r.Get("/sandbox/{surface}", s.do(s.sandbox))
		r.Post("/sandbox/{surface}", s.do(s.changeGrant))
		r.Get("/terminal/{surface}", s.do(s.terminal))
		r.Post("/terminal/{surface}", s.do(s.changeTerminal))
		r.Get("/lock", s.do(s.lock))
		r.Post("/lock", s.do(s.changeLock))
		r.Post("/lock/type", s.do(s.lockType))
		r.Get("/learn", s.do(s.learn))
		r.Post("/learn", s.do(s.changeLearn))
		r.Post("/learn/allow", s.do(s.allowDescriptor))
		r.Get("/source", s.do(s.source))
		r.Post("/restart", s.do(s.restart))
		r.Get("/history", s.do(s.history))
		r.Post("/history", s.do(s.changeHistory))
		r.Get("/back/{checkpoint}", s.do(s.reviewBack))
		r.Post("/back", s.do(s.back))
		r.Get("/let-go/{checkpoint}", s.do(s.reviewPurge))
		r.Get("/language", s.do(s.languages))
		r.Post("/language", s.do(s.chooseLanguage))
		r.Get("/language/ivelt.pot", s.do(s.translations))
		r.Get("/go", s.do(s.goAnywhere))
		r.Post("/unstick", s.do(s.unstick))
		r.Post("/noticed", s.do(s.noticed))
	})
	r.NotFound(s.do(func(http.ResponseWriter, *http.Request) error { return missing(errors.New("there is no such page")) }))
	return r
}

// noticed puts away what was said, once it was read.
func (s *Server) noticed(w http.ResponseWriter, r *http.Request) error {
	upTo, err := strconv.ParseUint(r.FormValue("upto"), 10, 32)
	if err != nil {
		return refused(err)
	}
	if err := s.App.Notices.Seen(uint(upTo)); err != nil {
		return err
	}
	to(w, r, "/d/"+url.PathEscape(chi.URLParam(r, "desk"))+"/match")
	return nil
}

// Frame is what every page shows around its work.
type Frame struct {
	Page     string
	Stage    string
	Title    say.Message
	Theme    string // light, dark or "" for what the browser prefers
	Language *language.Language
	Desk     *desks.Managed
	Now      *desk.Desk // the same, looked at once for the whole page
	Desks    []*desks.Managed
	Dressed  say.Message
	Draft    outfit.Outfit
	Plan     *plan.Plan // of the draft
	Tried    *desk.Desk // the desk with what the draft tries on, where that is more than there is
	ToPlace  []string   // pieces it would put in place first
	Short    []shortView
	Changes  int    // that the plan makes, besides putting pieces in place
	ToStart  int    // surfaces that show it only once they are started again
	Picture  string // address of the picture without look
	Scene    string
	Notices  []store.NoticeRow
	Stuck    *stuckView     // what keeps the desk from being changed
	Trial    *changes.Trial // what is tried just now
	ReadOnly bool
	Outdated int  // pieces of which there is a newer version
	Swap     bool // rendered for htmx: parts outside the work are swapped too
}

// frame is what a page of a desk shows around its work, with what the draft would change.
func (s *Server) frame(r *http.Request, page, stage string, title say.Word) (Frame, error) {
	f, err := s.chrome(r, page, stage, title)
	if err == nil && len(f.Draft.Choices) > 0 {
		err = f.plan(r.Context(), s.App)
	}
	return f, err
}

// chrome is the frame without what takes planning.
func (s *Server) chrome(r *http.Request, page, stage string, title say.Word) (Frame, error) {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return Frame{}, err
	}
	f := Frame{
		Page: page, Stage: stage, Title: title.Message(), Desk: d, Desks: s.App.Desks(), Dressed: s.App.Drafts.Dressed(d),
		Language: s.Languages.Of(r), ReadOnly: !d.Writable(), Scene: "close", Now: d.Snapshot(),
	}
	if stuck, ok := s.App.Applier.Settle(d); ok {
		f.Stuck = stuckOf(d, stuck)
	}
	f.Notices = s.App.Notices.All() // after it: it may have something to say
	if newer, err := s.App.Markets.Newer(d); err == nil {
		f.Outdated = len(newer)
	}
	if t, ok := s.App.Trials.Of(d); ok {
		f.Trial = &t
	}
	if page == "compose" {
		f.Scene = "desk"
	}
	if c, err := r.Cookie("theme"); err == nil && (c.Value == "light" || c.Value == "dark") {
		f.Theme = c.Value
	}
	f.Draft, err = s.App.Drafts.Draft(d)
	return f, err
}

// Trying is the desk with what the draft tries on, looked at once for the whole page.
func (f *Frame) Trying() *desk.Desk { return cmp.Or(f.Tried, f.Now) }

// plan adds what the draft would change, and what would not follow it.
func (f *Frame) plan(ctx context.Context, a *app.App) (err error) {
	if f.ToPlace, err = a.Overlays.ToPlace(f.Desk, f.Draft); err != nil {
		return err
	}
	trying := f.Now
	if with := a.Overlays.Trying(f.Desk, f.Draft); len(with.Layers) > len(f.Desk.Layers) {
		trying = with.Snapshot()
		f.Tried = trying
	}
	p, err := planning.Dress(ctx, trying, f.Draft)
	if err != nil {
		return err
	}
	f.Plan, f.Short = &p, shortOf(planning.Shortfalls(trying, f.Draft, p))
	_, f.Changes = p.Tally()
	for _, l := range p.Later(f.Desk.Desk) {
		f.ToStart += len(l.Surfaces)
	}
	return nil
}

// shortView is a choice that some surfaces cannot follow, with the reasons.
type shortView struct {
	Facet   string
	Whys    []say.Message
	Nearest []match.Shortfall // of which something is offered instead
}

// shortOf gathers what falls short by choice.
func shortOf(all []match.Shortfall) (out []shortView) {
	for _, s := range all {
		i := slices.IndexFunc(out, func(v shortView) bool { return v.Facet == s.Facet })
		if i < 0 {
			i, out = len(out), append(out, shortView{Facet: s.Facet})
		}
		out[i].Whys = say.Together(append(out[i].Whys, s.Says))
		if s.Nearest != "" {
			out[i].Nearest = append(out[i].Nearest, s)
		}
	}
	return out
}

// UpTo is the last of the notices that are told.
func (f Frame) UpTo() uint { return f.Notices[len(f.Notices)-1].ID }

// DeskLinks are the desks, with the address of the same stage on each.
func (f Frame) DeskLinks() []pickView {
	var out []pickView
	for i, d := range f.Desks {
		stage := f.Stage
		if stage == "" {
			stage = "find"
		}
		v := pickView{Title: say.Words(d.Title), Address: "/d/" + d.ID + "/" + stage, Here: d == f.Desk}
		if i > 0 && f.Desks[i-1] == f.Desk || i == 0 && f.Desks[len(f.Desks)-1] == f.Desk {
			v.Next = len(f.Desks) > 1
		}
		out = append(out, v)
	}
	return out
}

// Facets lists what the draft has, for its side list.
func (f Frame) Facets() []FacetRow {
	var out []FacetRow
	for _, t := range desk.Facets {
		if want := f.Draft.Want(t.Name); want != "" {
			out = append(out, FacetRow{t.Name, t.Title, choiceSays(f.Draft, t.Name)})
		}
	}
	return out
}

// choiceSays is in words what an outfit has for a facet: one thing, one for each half, or a
// show.
func choiceSays(o outfit.Outfit, facet string) say.Message {
	says := fine.Says(facet, o.Want(facet))
	switch {
	case o.Paired(facet):
		return say.Line("%s by day, %s after dark", fine.Says(facet, o.WantIn(outfit.Light, facet)), fine.Says(facet, o.WantIn(outfit.Dark, facet)))
	case facet == desk.FacetBackdrop && o.Show != nil:
		return say.Line("pictures in turn, now %s", says)
	}
	return says
}

// AsIs names the facets that the draft leaves as they are.
func (f Frame) AsIs() say.Message {
	var out []say.Message
	for _, t := range desk.Facets {
		has := slices.ContainsFunc(f.Desk.Surfaces(), func(s desk.Surface) bool {
			_, ok := s.Facet(t.Name)
			return ok
		})
		if has && f.Draft.Want(t.Name) == "" {
			out = append(out, say.Lower(t.Title))
		}
	}
	return say.Join(", ", out...)
}

// Version tells pictures of different drafts apart.
func (f Frame) Version() string { return strings.Trim(etag(f.Draft.Bytes()), `"`) }

// Both tells that the look goes by the time of day, so both shades are pictured.
func (f Frame) Both() bool { return f.Draft.Want(desk.FacetDark) == "automatic" }

// Scenes are what can be pictured; of a page without a desk nothing.
func (f Frame) Scenes() []preview.Scene {
	if f.Now == nil {
		return nil
	}
	return preview.ScenesOf(f.Now)
}

// Folded tells that the picture is folded away at first: where one looks for pieces, until
// something is tried on.
func (f Frame) Folded() bool { return f.Page == "find" && len(f.Draft.Choices) == 0 }

// States are the states that controls can be pictured in.
func (f Frame) States() []struct {
	Name  string
	Title say.Word
} {
	return preview.States
}

// Look is what the picture shows at first: the draft, if there is one.
func (f Frame) Look() string {
	if f.Plan == nil {
		return "worn"
	}
	return "draft"
}

// FacetRow is one facet of the draft.
type FacetRow struct {
	Name  string
	Title say.Word
	Piece say.Message
}

// page renders a whole page. data has a field Frame.
func (s *Server) page(w http.ResponseWriter, r *http.Request, status int, page string, data any) {
	s.render(w, r, status, page, "layout", data)
}

// part renders one named template of a page, for htmx to swap in.
func (s *Server) part(w http.ResponseWriter, r *http.Request, page, name string, data any) {
	s.render(w, r, http.StatusOK, page, name, data)
}

func (s *Server) render(w http.ResponseWriter, r *http.Request, status int, page, name string, data any) {
	var b bytes.Buffer
	in := s.Languages.Of(r)
	pages, err := s.Languages.pages(in)
	if err == nil {
		err = pages[page].ExecuteTemplate(&b, name, data)
	}
	if err != nil {
		s.App.Log.ErrorContext(r.Context(), "render", "page", page, "error", err)
		http.Error(w, "Ivelt could not draw this page. This is a fault of Ivelt's own: "+err.Error(), http.StatusInternalServerError)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	w.Header().Set("Content-Language", in.Name())
	w.WriteHeader(status)
	_ = shown.Page(w, b.Bytes())
}

// fail says what happened and what to do, as a page or, to htmx, as a message.
func (s *Server) fail(w http.ResponseWriter, r *http.Request, status int, err error) {
	s.App.Log.LogAttrs(r.Context(), slog.LevelWarn, "refused", slog.String("path", r.URL.Path), slog.Int("status", status), slog.String("error", err.Error()))
	data := struct {
		Frame
		Error error
	}{Error: err}
	if r.Header.Get("HX-Request") != "" {
		w.Header().Set("HX-Reswap", "innerHTML")
		if field, ok := strings.CutPrefix(r.Header.Get("HX-Trigger"), "set-"); ok && statusOf(err) == http.StatusBadRequest {
			if _, known := desk.FacetOf(field); known { // beside what was typed
				w.Header().Set("HX-Retarget", "#says-"+field)
				s.part(w, r, "error", "said", data)
				return
			}
		}
		w.Header().Set("HX-Retarget", "#message")
		s.part(w, r, "error", "message", data)
		return
	}
	f, ferr := s.chrome(r, "error", "", "That did not work")
	if ferr != nil {
		f = Frame{Language: s.Languages.Of(r), Page: "error", Title: say.Line("That did not work"), Desk: s.App.Desks()[0], Desks: s.App.Desks()}
	}
	data.Frame = f
	s.page(w, r, status, "error", data)
}

// sentence writes an error, or what is said, as a sentence. A name of a file at its start stays as
// it is.
func sentence(l *language.Language, v any) string {
	m, ok := v.(say.Message)
	if err, is := v.(error); is {
		m, ok = say.Fault(err), true
	}
	if !ok {
		return fmt.Sprint(v)
	}
	t := strings.ReplaceAll(m.In(l), "\n", " ")
	if t == "" {
		return ""
	}
	if first, _, _ := strings.Cut(t, " "); !strings.ContainsAny(first, "./~_") {
		t = say.Uppered(t)
	}
	if !strings.HasSuffix(t, ".") {
		t += "."
	}
	return t
}

var errNothingToDo = errors.New("the request does not say what to do")

// to sends a browser on, or htmx, which would swap a redirect's page in.
func to(w http.ResponseWriter, r *http.Request, url string) {
	if r.Header.Get("HX-Request") != "" {
		w.Header().Set("HX-Redirect", url)
		return
	}
	http.Redirect(w, r, url, http.StatusSeeOther)
}

// assets names what is below static, so that a page asks anew for what an update changed.
var assets = func() string {
	sum := sha256.New()
	_ = fs.WalkDir(embedded, "static", func(name string, e fs.DirEntry, err error) error {
		if err == nil && !e.IsDir() {
			b, _ := fs.ReadFile(embedded, name)
			_, _ = sum.Write(b)
		}
		return nil
	})
	return hex.EncodeToString(sum.Sum(nil)[:6])
}()

func cached(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Cache-Control", "max-age=300")
		if r.URL.Query().Get("v") == assets {
			w.Header().Set("Cache-Control", "max-age=31536000, immutable")
		}
		h.ServeHTTP(w, r)
	})
}

var funcs = template.FuncMap{
	"size":   size,
	"clock":  func(t time.Time) string { return t.Local().Format("15:04") },
	"ceil":   func(d time.Duration) int { return int((d + time.Second - 1) / time.Second) },
	"points": fine.PointSize,
	"pair":   func(of, with any) map[string]any { return map[string]any{"Of": of, "With": with} },
	"grants": func(page sandboxPage, program string, grants []match.Granted) grantList {
		return grantList{page, program, grants}
	},
	"of":     func(d, of any) map[string]any { return map[string]any{"Desk": d, "Of": of} },
	"static": func(name string) string { return "/static/" + name + "?v=" + assets },
	"inc":    func(n int) int { return n + 1 },
	"add":    func(a, b int) int { return a + b },
	"left":   left,
	"rate":   func(r float64) string { return size(int64(r)) + "/s" },
	"short":  func(sha string) string { return sha[:min(12, len(sha))] },
}

// size writes bytes as people read them.
func size(n int64) string {
	switch {
	case n < 1000:
		return fmt.Sprintf("%d B", n)
	case n < 1000*1000:
		return fmt.Sprintf("%.0f kB", float64(n)/1000)
	}
	return fmt.Sprintf("%.1f MB", float64(n)/1e6)
}

// left writes how long a job will take at its rate.
func left(p jobs.Progress) string {
	if p.Rate <= 0 || p.Total <= p.Done {
		return ""
	}
	t := time.Duration(float64(p.Total-p.Done)/p.Rate) * time.Second
	if t < time.Second {
		return "less than a second"
	}
	return t.Round(time.Second).String()
}
