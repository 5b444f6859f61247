package web

import (
	"cmp"
	"fmt"
	"html/template"
	"io/fs"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode"

	"github.com/go-chi/chi/v5"

	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/language"
	"ivelt/core/preview"
	"ivelt/core/say"
	"ivelt/web/worded"
)

// languageName is what the cookie of a chosen language is called.
const languageName = "language"

// Languages are those that the pages can be read in: English, the made-up ones, and those that
// translators' files in a folder have.
type Languages struct {
	dir, wish string
	madeUp    []*language.Language

	mu    sync.Mutex
	files []language.File
	err   error                                                // of reading them
	all   []*language.Language                                 // besides English
	made  map[*language.Language]map[string]*template.Template // pages, by name
}

// NewLanguages reads the catalogues of a folder, none for "". wish is the language of the setting,
// "" for what the browser asks for.
func NewLanguages(dir, wish string) *Languages {
	ls := &Languages{dir: dir, wish: wish, madeUp: language.Made(), made: map[*language.Language]map[string]*template.Template{}}
	ls.readAgain()
	return ls
}

// readAgain reads the folder as it is now.
func (ls *Languages) readAgain() {
	var files []language.File
	var err error
	if ls.dir != "" {
		files, err = language.Own(ls.dir)
	}
	ls.mu.Lock()
	defer ls.mu.Unlock()
	ls.files, ls.err, ls.all = files, err, nil
	for _, f := range files {
		if f.Language != nil {
			ls.all = append(ls.all, f.Language)
		}
	}
	ls.all = append(ls.all, ls.madeUp...)
	maps.DeleteFunc(ls.made, func(l *language.Language, _ map[string]*template.Template) bool {
		return l != nil && !slices.Contains(ls.all, l)
	})
}

// each is all of them, English first.
func (ls *Languages) each() []*language.Language {
	ls.mu.Lock()
	defer ls.mu.Unlock()
	return append([]*language.Language{nil}, ls.all...)
}

// Of is the language of a request: the one chosen on a page, that of the setting, or what comes
// nearest to what the browser asks for.
func (ls *Languages) Of(r *http.Request) *language.Language {
	all := ls.each()
	if c, err := r.Cookie(languageName); err == nil {
		for _, l := range all {
			if l.Name() == c.Value {
				return l
			}
		}
	}
	return language.Choose(all[1:], cmp.Or(ls.wish, r.Header.Get("Accept-Language")))
}

// pages are the templates in a language, made when they are first asked for.
func (ls *Languages) pages(l *language.Language) (map[string]*template.Template, error) {
	ls.mu.Lock()
	defer ls.mu.Unlock()
	if all, ok := ls.made[l]; ok {
		return all, nil
	}
	all, err := pagesIn(l)
	if err == nil {
		ls.made[l] = all
	}
	return all, err
}

func pagesIn(l *language.Language) (map[string]*template.Template, error) {
	said := func(t *template.Template) error {
		if l == nil {
			return nil
		}
		return worded.Say(t, func(id string) (string, bool) { return l.Said("", id, "", 1) })
	}
	parts, err := template.New("").Funcs(funcs).Funcs(funcsIn(l)).ParseFS(embedded, "templates/parts/*.html", "templates/layout.html")
	if err != nil {
		return nil, err
	}
	names, err := fs.Glob(embedded, "templates/*.html")
	if err != nil {
		return nil, err
	}
	door, err := template.New("door.html").Funcs(funcs).Funcs(funcsIn(l)).ParseFS(embedded, "templates/door/door.html")
	if err == nil {
		err = said(door)
	}
	if err != nil {
		return nil, err
	}
	out := map[string]*template.Template{"door": door}
	for _, name := range names {
		page := strings.TrimSuffix(strings.TrimPrefix(name, "templates/"), ".html")
		if page == "layout" {
			continue
		}
		t, err := template.Must(parts.Clone()).ParseFS(embedded, name)
		if err != nil {
			return nil, err
		}
		if err := said(t); err != nil {
			return nil, err
		}
		out[page] = t
	}
	return out, nil
}

// funcsIn are the functions of templates whose words depend on the language.
func funcsIn(l *language.Language) template.FuncMap {
	return template.FuncMap{
		"many":     func(n int, noun string) string { return say.Many(n, noun).In(l) },
		"title":    func(facet string) string { return desk.FacetTitle(facet).In(l) },
		"says":     func(facet, value string) string { return fine.Says(facet, value).In(l) },
		"day":      func(t time.Time) string { return say.Day(t.Local()).In(l) },
		"list":     func(items any) string { return strings.Join(each(l, items), say.Word(", ").In(l)) },
		"some":     func(items any) string { return say.Few(l, each(l, items)) },
		"words":    words,
		"word":     func(w any) string { return say.Word(fmt.Sprint(w)).In(l) },
		"said":     func(v any) any { return setOff(l, v) },
		"saidHere": func(v any) any { return spoken(l, v) },
		"lower":    func(w any) string { return say.Lowered(fmt.Sprint(spoken(l, w))) },
		"capital":  func(w any) string { return say.Uppered(fmt.Sprint(spoken(l, w))) },
		"sentence": func(v any) string { return sentence(l, v) },
	}
}

// words takes texts for Ivelt's own, where it has them.
func words(items []string) (out []say.Word) {
	for _, text := range items {
		out = append(out, say.Word(text))
	}
	return out
}

// spoken is a value in a language: what is words is said in it, and all else stands as it is.
func spoken(l *language.Language, v any) any {
	switch v := v.(type) {
	case say.Message:
		return v.In(l)
	case *say.Message:
		if v == nil {
			return ""
		}
		return v.In(l)
	case say.Word:
		return v.In(l)
	case interface{ Says() say.Word }:
		return v.Says().In(l)
	}
	return v
}

// setOff is the same between tags: where text goes from right to left, what is no words of the
// language has an element of its own, so that neither turns the other's direction (HTML Living
// Standard, 4.5.24 "The bdi element").
func setOff(l *language.Language, v any) any {
	if l.Direction() != "rtl" {
		return spoken(l, v)
	}
	marking := settingOff{l}
	var text string
	switch v := v.(type) {
	case string:
		text = marking.SetOff(v)
	case say.Message:
		text = v.In(marking)
	case *say.Message:
		if v == nil {
			return ""
		}
		text = v.In(marking)
	default:
		return spoken(l, v)
	}
	return template.HTML(elements.Replace(template.HTMLEscapeString(text)))
}

// settingOff is a language that marks what is no words of it, by letters that nobody's are.
type settingOff struct{ *language.Language }

var (
	unmarked = strings.NewReplacer("\ue000", "", "\ue001", "")
	elements = strings.NewReplacer("\ue000", "<bdi>", "\ue001", "</bdi>")
)

// SetOff marks a text.
func (settingOff) SetOff(text string) string {
	if !strings.ContainsFunc(text, unicode.IsLetter) {
		return text // numbers go with what stands around them
	}
	return "\ue000" + unmarked.Replace(text) + "\ue001"
}

// inLanguage is a look whose pictures have the words of a request's language.
func (s *Server) inLanguage(r *http.Request, look preview.Look) preview.Look {
	if l := s.Languages.Of(r); l != nil {
		look.Language = l
	}
	return look
}

// shows is a value of a facet as pages write it; nil for none.
func shows(facet, value string) *say.Message {
	return ref(fine.Says(facet, value))
}

// ref is what templates take for something that may be left unsaid; nil for nothing.
func ref(m say.Message) *say.Message {
	if m.Code == "" {
		return nil
	}
	return &m
}

// each are the items of a list, each in a language.
func each(l *language.Language, items any) (out []string) {
	switch items := items.(type) {
	case []string:
		return items
	case []say.Word:
		for _, w := range items {
			out = append(out, w.In(l))
		}
	case []say.Message:
		for _, m := range items {
			out = append(out, m.In(l))
		}
	default:
		panic(fmt.Sprintf("no list: %T", items))
	}
	return out
}

// languagePage offers the languages there are.
type languagePage struct {
	Frame
	All    []languageView
	Files  []language.File
	Err    error
	Folder string
	Total  int // messages there are
}

type languageView struct {
	Tag, Title, Direction string
	Has                   int // messages that it has
	Made, Here            bool
}

func (s *Server) languages(w http.ResponseWriter, r *http.Request) error {
	s.Languages.readAgain()
	f, err := s.chrome(r, "language", "", "Language")
	if err != nil {
		return err
	}
	ls := s.Languages
	ls.mu.Lock()
	page := languagePage{Frame: f, Files: ls.files, Err: ls.err, Folder: ls.dir, Total: len(language.Entries())}
	ls.mu.Unlock()
	for _, l := range ls.each() {
		v := languageView{Tag: l.Name(), Title: "English", Direction: l.Direction(), Has: page.Total, Here: l.Name() == f.Language.Name(), Made: l.Made()}
		if l != nil {
			v.Title = l.Title
			if !l.Made() {
				v.Has, _ = l.Covers()
			}
		}
		page.All = append(page.All, v)
	}
	s.page(w, r, http.StatusOK, "language", page)
	return nil
}

// chooseLanguage keeps, in this browser, which language its pages are in; "" for what it asks for.
func (s *Server) chooseLanguage(w http.ResponseWriter, r *http.Request) error {
	c := &http.Cookie{Name: languageName, Value: r.FormValue("language"), Path: "/", MaxAge: int(cookieFor / time.Second), HttpOnly: true, SameSite: http.SameSiteStrictMode}
	if c.Value == "" {
		c.MaxAge = -1
	} else if !slices.ContainsFunc(s.Languages.each(), func(l *language.Language) bool { return l.Name() == c.Value }) {
		return refused(say.Errorf("there is no language %q here", c.Value))
	}
	http.SetCookie(w, c)
	to(w, r, "/d/"+url.PathEscape(chi.URLParam(r, "desk"))+"/language")
	return nil
}

// translations is the catalogue to translate, for downloading.
func (s *Server) translations(w http.ResponseWriter, _ *http.Request) error {
	w.Header().Set("Content-Type", "text/x-gettext-translation-template; charset=utf-8")
	w.Header().Set("Content-Disposition", `attachment; filename="ivelt.pot"`)
	_, err := w.Write(language.Template())
	return err
}
