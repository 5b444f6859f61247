package web

import (
	"bytes"
	"errors"
	"io/fs"
	"net/http"
	"strconv"
	"unicode/utf8"

	"ivelt/core/desk"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// sourcePage shows a file that a reading comes from.
type sourcePage struct {
	Frame
	Shown string // the path as people write it
	Lines []sourceLine
	Cut   bool // it is longer than what is shown
	// What the readings that come from it say.
	Readings []sourceReading
}

type sourceLine struct {
	Number int
	Text   string
	Marked bool
}

type sourceReading struct {
	Surface string
	Facet   say.Word
	Shows   *say.Message
	Line    int
}

const (
	maxSource      = 512 << 10 // bytes that are shown of a file
	maxSourceLines = 4000
)

// source shows a settings file, the line that a reading comes from marked. Only
// files that readings ask are shown.
func (s *Server) source(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "source", "match", "A settings file")
	if err != nil {
		return err
	}
	file := r.FormValue("file")
	asked := false
	page := sourcePage{Frame: f, Shown: f.Desk.Show(file)}
	for _, rd := range reading.All(f.Now) {
		for _, step := range rd.Chain {
			asked = asked || file != "" && step.Path == file
			if step.Path == file && step.State == reading.Wins {
				surface, _ := f.Desk.Surface(rd.Surface)
				page.Readings = append(page.Readings, sourceReading{surface.Title, desk.FacetTitle(rd.Facet), shows(rd.Facet, rd.Value), step.Line})
			}
		}
	}
	if !asked {
		return missing(errors.New("no setting of this desk is read from that file"))
	}
	b, err := fs.ReadFile(f.Desk.Tree(), desk.Name(file))
	if err != nil {
		return missing(err)
	}
	page.Cut = len(b) > maxSource
	b = b[:min(len(b), maxSource)]
	if bytes.IndexByte(b, 0) >= 0 || !utf8.Valid(bytes.ToValidUTF8(b, nil)) {
		return refused(errors.New("that file is no text"))
	}
	marked, _ := strconv.Atoi(r.FormValue("line"))
	for text := range bytes.Lines(b) {
		n := len(page.Lines) + 1
		if page.Cut = page.Cut || n > maxSourceLines; n > maxSourceLines {
			break
		}
		page.Lines = append(page.Lines, sourceLine{n, string(bytes.ToValidUTF8(bytes.TrimRight(text, "\r\n"), []byte("�"))), n == marked})
	}
	s.page(w, r, http.StatusOK, "source", page)
	return nil
}
