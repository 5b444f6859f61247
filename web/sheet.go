package web

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path"
	"slices"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"ivelt/app/advice"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/fine"
	"ivelt/core/imagefile"
	"ivelt/core/outfit"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/planning"
	"ivelt/core/preview"
	"ivelt/core/say"
)

// sheetPage tells everything of a look on one page: what somebody asks who likes
// it.
type sheetPage struct {
	Frame
	Outfit outfit.Outfit
	Of     string // worn or draft
	Pieces []sheetRow
	Values []sheetRow
	Steps  []planning.HandStep // what files have to say
	Puts   []putView           // and where the pieces go, before that
	Shown  []preview.Scene
	Day    time.Time
}

type sheetRow struct {
	Title  say.Word
	Says   *say.Message
	Swatch string // a colour
	Choice outfit.Choice
	Except []exceptView
	Newer  *markets.Newer
}

// putView is where a piece goes by hand.
type putView struct {
	Piece  string
	Kind   say.Word
	Folder string
}

// putsOf tells where the pieces of an outfit go.
func putsOf(d *desk.Desk, o outfit.Outfit) []putView {
	var out []putView
	for _, info := range desk.Facets {
		kind, name := advice.KindOf(info.Name), o.Choices[info.Name].Piece
		if kind == "" || name == "" || slices.ContainsFunc(out, func(p putView) bool { return p.Piece == name && p.Kind == kind.Title() }) {
			continue
		}
		for _, p := range place.Placements(parcel.Piece{Kind: kind, Folder: name, Name: name}, d) {
			if p.Scope == place.Mine && !p.Link {
				out = append(out, putView{name, kind.Title(), path.Dir(p.Path)})
				break
			}
		}
	}
	return out
}

type exceptView struct {
	Surface say.Word
	Says    say.Message
}

// outfitOf is the look that a page or a file is asked for: what the desk wears, or
// the draft over it.
func (s *Server) outfitOf(f Frame, of string) (outfit.Outfit, error) {
	if of != "" && of != "worn" && of != "draft" {
		return outfit.Outfit{}, say.Errorf("%q is not a look; use worn or draft", of)
	}
	o, err := s.App.Drafts.AsWorn(f.Desk)
	if err != nil || of != "draft" {
		return o, err
	}
	if len(f.Draft.Choices) == 0 {
		return o, errors.New("the draft is empty: choose something in Compose first")
	}
	return s.App.Drafts.Described(f.Desk, f.Trying(), f.Draft)
}

// asked is the frame, and the look that a request is about.
func (s *Server) asked(r *http.Request) (f Frame, o outfit.Outfit, of string, err error) {
	if f, err = s.frame(r, "sheet", "compose", "Sheet"); err != nil {
		return f, o, "", err
	}
	of = r.URL.Query().Get("of")
	if o, err = s.outfitOf(f, of); err != nil {
		err = refused(err)
	}
	return f, o, of, err
}

// fileName is what a look is called as a file.
func fileName(f Frame, of, kind string) string {
	if of != "draft" {
		of = "worn"
	}
	return fmt.Sprintf(`attachment; filename="%s-%s.%s"`, f.Desk.ID, of, kind)
}

func (s *Server) sheet(w http.ResponseWriter, r *http.Request) error {
	f, o, of, err := s.asked(r)
	if err != nil {
		return err
	}
	page := sheetPage{Frame: f, Outfit: o, Of: "worn", Shown: preview.ScenesOf(f.Now), Day: time.Now()}
	newer, err := s.App.Markets.Newer(f.Desk)
	if err != nil {
		return err
	}
	page.Steps = planning.ByHand(f.Now, o)
	page.Puts = putsOf(f.Now, o)
	if of == "draft" {
		page.Of = of
	}
	for _, info := range desk.Facets {
		c, ok := o.Choices[info.Name]
		if !ok {
			continue
		}
		row := sheetRow{Title: info.Title, Says: shows(info.Name, o.Want(info.Name)), Choice: c}
		for i, n := range newer {
			if n.Piece.Folder == c.Piece && c.Piece != "" {
				row.Newer = &newer[i]
			}
		}
		if info.Takes == desk.TakesColour {
			row.Swatch = o.Want(info.Name)
		}
		for _, surface := range f.Desk.Surfaces() {
			if value, excepted := o.Excepted(surface.ID, info.Name); excepted {
				says := fine.Says(info.Name, value)
				if value == "" {
					says = say.Line("default")
				}
				row.Except = append(row.Except, exceptView{surface.Named(), says})
			}
		}
		if slices.Contains([]desk.Takes{desk.TakesPiece, desk.TakesFont, desk.TakesPicture}, info.Takes) {
			page.Pieces = append(page.Pieces, row)
		} else {
			page.Values = append(page.Values, row)
		}
	}
	s.page(w, r, http.StatusOK, "sheet", page)
	return nil
}

// poster sends the look as one picture to be shown to others, SVG or PNG.
func (s *Server) poster(w http.ResponseWriter, r *http.Request) error {
	f, o, of, err := s.asked(r)
	if err != nil {
		return err
	}
	pieces, err := s.App.Record.Origins(f.Desk.ID)
	if err != nil {
		return err
	}
	title, seen := "The look of "+f.Desk.Title, f.Now
	look := preview.Worn(r.Context(), seen)
	if of == "draft" {
		title, seen = o.Name, s.App.Overlays.Trying(f.Desk, o)
		look = preview.Draft(r.Context(), seen, o)
	}
	svg := library.PosterOf(title, o, pieces, time.Now()).Draw(seen, look)
	if err := context.Cause(r.Context()); err != nil {
		return err
	}
	kind, body := "svg", svg
	if strings.HasSuffix(r.URL.Path, ".png") {
		kind = "png"
		if body, err = imagefile.PNG(r.Context(), svg, preview.PosterWidth, preview.PosterHeight); err != nil {
			return err
		}
	}
	w.Header().Set("Content-Type", map[string]string{"svg": "image/svg+xml", "png": "image/png"}[kind])
	if r.URL.Query().Get("save") != "" {
		w.Header().Set("Content-Disposition", fileName(f, of, kind))
	}
	_, _ = w.Write(body)
	return nil
}

// outfitFile sends a look as an outfit file, or as plain text.
func (s *Server) outfitFile(w http.ResponseWriter, r *http.Request) error {
	f, o, of, err := s.asked(r)
	if err != nil {
		return err
	}
	body, kind := o.Bytes(), "toml"
	if strings.HasSuffix(r.URL.Path, ".txt") {
		kind = "txt"
		body = []byte(o.Text(func(id string) string {
			surface, _ := f.Desk.Surface(id)
			return surface.Title
		}) + byHand(f.Now, o))
	}
	w.Header().Set("Content-Type", map[string]string{"toml": "application/toml; charset=utf-8", "txt": "text/plain; charset=utf-8"}[kind])
	w.Header().Set("Content-Disposition", fileName(f, of, kind))
	_, _ = w.Write(body)
	return nil
}

// byHand is how a look is put on without Ivelt, in plain words.
func byHand(d *desk.Desk, o outfit.Outfit) string {
	var b strings.Builder
	b.WriteString("\nBy hand\n\n")
	n := 0
	for _, p := range putsOf(d, o) {
		n++
		fmt.Fprintf(&b, "%d. Put %s (%s) into %s.\n", n, p.Piece, p.Kind, p.Folder)
	}
	for _, s := range planning.ByHand(d, o) {
		n++
		fmt.Fprintf(&b, "%d. In %s, for %s:\n", n, s.Path, strings.Join(s.Surfaces, ", "))
		for line := range strings.Lines(s.Lines) {
			b.WriteString("     " + line)
		}
	}
	fmt.Fprintf(&b, "%d. Start again what read those files, or sign out and in.\n", n+1)
	return b.String()
}

// maxOutfit bounds an outfit file, in bytes.
const maxOutfit = 1 << 20

// openOutfit makes an outfit file the draft.
func (s *Server) openOutfit(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	r.Body = http.MaxBytesReader(w, r.Body, maxOutfit)
	file, _, err := r.FormFile("outfit")
	if err != nil {
		return refused(errors.New("no file came with this, or one larger than an outfit is"))
	}
	defer file.Close()
	text, err := io.ReadAll(file)
	if err == nil {
		err = s.App.Drafts.TakeOutfit(d, text)
	}
	if err != nil {
		return refused(err)
	}
	to(w, r, "/d/"+d.ID+"/compose")
	return nil
}

// outfitArchive sends a look with its pieces.
func (s *Server) outfitArchive(w http.ResponseWriter, r *http.Request) error {
	f, o, of, err := s.asked(r)
	if err != nil {
		return err
	}
	// In a file first: what goes wrong is said, and not sent half.
	tmp, err := os.CreateTemp("", "ivelt-outfit-")
	if err != nil {
		return err
	}
	defer os.Remove(tmp.Name())
	defer tmp.Close()
	if _, err = s.App.Bundles.Export(r.Context(), f.Desk, o, tmp); err == nil {
		_, err = tmp.Seek(0, io.SeekStart)
	}
	if err != nil {
		return refused(err)
	}
	w.Header().Set("Content-Type", "application/zip")
	w.Header().Set("Content-Disposition", fileName(f, of, "zip"))
	_, _ = io.Copy(w, tmp)
	return nil
}
