package web

import (
	"fmt"
	"io/fs"
	"net/http"
	"net/url"
	"path"
	"strings"

	"github.com/go-chi/chi/v5"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/desk"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/pointerbench"
	"ivelt/core/xcursor"
	"ivelt/sign"
)

// benchPage is a pointer set under the lens.
type benchPage struct {
	Frame
	*pointerbench.Report
	Set      string
	Root     string
	Recipe   layer.Recipe // of the layer that clears what can be cleared
	Mends    bool         // there is something of that
	Pictures string       // the address of a shape's picture, without its file
}

// Of is the shape whose picture a role shows, nil if it shows none.
func (p benchPage) Of(file string) *pointerbench.Shape {
	for i := range p.Shapes {
		if p.Shapes[i].File == file {
			return &p.Shapes[i]
		}
	}
	return nil
}

// benched measures the pointer set that an address names.
func (s *Server) benched(r *http.Request, d *desks.Managed) (set, root string, report *pointerbench.Report, err error) {
	if set, err = pointerFolder(r.FormValue("set")); err != nil {
		return set, "", nil, refused(err)
	}
	root, err = (layer.Base{Kind: parcel.Pointer, Folder: set}).Find(d.Desk)
	if err != nil {
		return set, "", nil, missing(err)
	}
	o := pointerbench.Options{Asked: pointerbench.SizesIn(d.Desk), Inherited: pointerbench.Chain(d.Tree(), root, pointerbench.Bases(d.Desk))}
	if report, err = pointerbench.Measure(r.Context(), d.Tree(), root, o); err != nil {
		return set, root, nil, refused(err)
	}
	return set, root, report, nil
}

// pointerFolder is a name that a pointer set can have.
func pointerFolder(name string) (string, error) {
	if name == "" || strings.HasPrefix(name, ".") || strings.ContainsAny(name, "/\x00") {
		return "", fmt.Errorf("%q is no pointer set", name)
	}
	return name, nil
}

func (s *Server) bench(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "bench", "shelf", "Pointers under the lens")
	if err != nil {
		return err
	}
	set, root, report, err := s.benched(r, f.Desk)
	if err != nil {
		return err
	}
	page := benchPage{Frame: f, Report: report, Set: set, Root: root, Pictures: "/d/" + f.Desk.ID + "/bench/pointer.svg?set=" + url.QueryEscape(set) + "&file="}
	page.Recipe, page.Mends = report.Mend(set, set)
	s.page(w, r, http.StatusOK, "bench", page)
	return nil
}

// benchedPointer is the picture of one shape of a set, in all its sizes.
func (s *Server) benchedPointer(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	set, err := pointerFolder(r.FormValue("set"))
	if err != nil {
		return refused(err)
	}
	file, err := pointerFolder(r.FormValue("file"))
	if err != nil {
		return refused(err)
	}
	root, err := (layer.Base{Kind: parcel.Pointer, Folder: set}).Find(d.Desk)
	if err != nil {
		return missing(err)
	}
	tree := d.Tree()
	for _, at := range append([]string{root}, pointerbench.Chain(tree, root, pointerbench.Bases(d.Desk))...) {
		name := path.Join(at, "cursors", file)
		if info, err := fs.Stat(tree, name); err != nil || !info.Mode().IsRegular() || info.Size() > maxPointer {
			continue
		}
		raw, err := fs.ReadFile(tree, name)
		if err != nil {
			return err
		}
		of, err := xcursor.Parse(raw)
		if err != nil {
			return refused(err)
		}
		servePicture(w, r, "image/svg+xml", sign.Sizes(played(of)))
		return nil
	}
	return missing(errNotHere)
}

// maxPointer bounds a pointer's file that is drawn, in bytes.
const maxPointer = 32 << 20

// played are the pictures of a shape that a page plays: of each size the first.
func played(of *xcursor.File) (out []xcursor.Frame) {
	sizes := of.Sizes()
	for _, size := range sizes[:min(len(sizes), 16)] {
		frames := of.Frames(size)
		for _, im := range frames[:min(len(frames), shownSteps)] {
			out = append(out, xcursor.Frame{Size: size, Picture: of.Picture(im), HotX: im.HotX, HotY: im.HotY, Delay: int(im.Delay.Milliseconds())})
		}
	}
	return out
}

// mendPointers makes the layer that clears what can be cleared, and tries it on.
func (s *Server) mendPointers(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	set, root, report, err := s.benched(r, d)
	if err != nil {
		return err
	}
	recipe, some := report.Mend(set, set)
	if !some {
		return refused(fmt.Errorf("there is nothing in %s that could be mended", set))
	}
	job, err := s.App.Layers.Mend(d, root, recipe, "/d/"+d.ID+"/compose?facet="+desk.FacetPointer)
	if err != nil {
		return refused(err)
	}
	job.By(jobs.Asked{URL: r.URL.Path, Form: r.PostForm})
	s.showJob(w, r, d.ID, job)
	return nil
}
