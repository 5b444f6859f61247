package web

import (
	"bytes"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"

	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/pointerset"
	"ivelt/core/say"
	"ivelt/sign"
)

// convertPage shows what becomes of a pointer set in the other family's format, before it is made.
type convertPage struct {
	Frame
	library.Conversion
	Back     string // the parcel's page
	Here     string // this page, without what was chosen
	Key      string
	Choices  []choice // sizes
	Scales   []string
	Pictures string // the address of a pointer's picture, without its role
}

// offered are the sizes that can be ticked, px, besides those of the set.
var offered = []int{16, 20, 24, 28, 32, 36, 40, 48, 64, 72, 96, 128}

// conversionOf looks at the pointer set that an address names, in the sizes that it asks for.
func (s *Server) conversionOf(r *http.Request) (library.Conversion, error) {
	row, err := s.App.Library.Parcel(chi.URLParam(r, "sha"))
	if err != nil {
		return library.Conversion{}, missing(err)
	}
	if err := r.ParseForm(); err != nil {
		return library.Conversion{}, refused(err)
	}
	o := pointerset.Options{As: pointerset.Format(r.Form.Get("as"))}
	if o.As != "" && o.As != pointerset.Cur && o.As != pointerset.XCursor {
		return library.Conversion{}, refused(say.Errorf("%q is no format of pointers", o.As))
	}
	for _, text := range r.Form["size"] {
		n, err := strconv.Atoi(text)
		if err != nil {
			return library.Conversion{}, refused(say.Errorf("%q is no size", text))
		}
		o.Sizes = append(o.Sizes, n)
	}
	if err := scaled(&o, r.Form["scale"]); err != nil {
		return library.Conversion{}, refused(err)
	}
	out, err := s.App.Library.Conversion(r.Context(), row, r.Form.Get("piece"), o)
	if err != nil {
		return out, refused(err)
	}
	return out, nil
}

// scaled has each size made for each of some scales; what was asked for is those sizes from then on.
func scaled(o *pointerset.Options, scales []string) error {
	if len(scales) == 0 {
		return nil
	}
	from := o.Sizes
	if len(from) == 0 {
		from = pointerset.Usual
	}
	o.Sizes = nil
	for _, text := range scales {
		by, err := strconv.ParseFloat(text, 64)
		if err != nil || !(by >= 0.5 && by <= 8) {
			return say.Errorf("%q is no scale, from 0.5 to 8", text)
		}
		for _, size := range from {
			o.Sizes = append(o.Sizes, int(math.Round(float64(size)*by)))
		}
	}
	slices.Sort(o.Sizes)
	o.Sizes = slices.Compact(o.Sizes)
	return nil
}

// displayScales are the scales that can be ticked.
var displayScales = []string{"1", "1.25", "1.5", "2", "3"}

func (s *Server) convert(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "convert", "find", "Convert pointers")
	if err != nil {
		return err
	}
	c, err := s.conversionOf(r)
	if err != nil {
		return err
	}
	page := convertPage{Frame: f, Conversion: c, Key: r.Form.Get("piece"), Scales: displayScales, Back: "/d/" + f.Desk.ID + "/parcel/" + c.InParcel.SHA256}
	page.Here = page.Back + "/convert"
	asked := url.Values{"piece": {page.Key}, "as": {string(c.As)}}
	for _, size := range c.Options.Sizes {
		asked.Add("size", strconv.Itoa(size))
	}
	page.Pictures = page.Back + "/pointer.svg?" + asked.Encode() + "&role="
	sizes, made := slices.Clone(offered), map[int]bool{}
	for _, p := range c.Pointers {
		sizes = append(sizes, p.Sizes...)
		for _, size := range p.Making() {
			sizes, made[size] = append(sizes, size), true
		}
	}
	slices.Sort(sizes)
	for _, size := range slices.Compact(sizes) {
		page.Choices = append(page.Choices, choice{Value: strconv.Itoa(size), Title: say.Words(strconv.Itoa(size)), Count: -1, Chosen: made[size]})
	}
	s.page(w, r, http.StatusOK, "convert", page)
	return nil
}

// shownSteps is how many pictures of a moving pointer the page plays.
const shownSteps = 48

// convertedPointer is the picture of one pointer as it will be, in all its sizes.
func (s *Server) convertedPointer(w http.ResponseWriter, r *http.Request) error {
	c, err := s.conversionOf(r)
	if err != nil {
		return err
	}
	for _, p := range c.Pointers {
		if p.Role.Name == r.Form.Get("role") {
			frames, err := p.Shown(shownSteps)
			if err != nil {
				return refused(err)
			}
			servePicture(w, r, "image/svg+xml", sign.Sizes(frames))
			return nil
		}
	}
	return missing(errNotHere)
}

// makeConverted makes a parcel of what becomes of a set, and leads to it.
func (s *Server) makeConverted(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	c, err := s.conversionOf(r)
	if err != nil {
		return err
	}
	job := s.App.Library.Convert(c, func(sha string) string { return "/d/" + d.ID + "/parcel/" + sha })
	job.By(jobs.Asked{URL: r.URL.Path, Form: r.PostForm})
	s.showJob(w, r, d.ID, job)
	return nil
}

// download sends what becomes of a set as a zip.
func (s *Server) downloadConverted(w http.ResponseWriter, r *http.Request) error {
	c, err := s.conversionOf(r)
	if err != nil {
		return err
	}
	var b bytes.Buffer
	if err := c.Write(r.Context(), &b); err != nil {
		return refused(err)
	}
	w.Header().Set("Content-Type", "application/zip")
	w.Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", c.Folder+".zip"))
	_, _ = b.WriteTo(w)
	return nil
}

// convertHere looks into a pointer set that is in place, to convert it.
func (s *Server) convertHere(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	name, err := pointerFolder(r.FormValue("set"))
	if err != nil {
		return refused(err)
	}
	set := layer.Base{Kind: parcel.Pointer, Folder: name}
	root, err := set.Find(d.Desk)
	if err != nil {
		return missing(err)
	}
	row, err := s.App.Library.Refer(r.Context(), d.HostPath(desk.Path(root)), nil)
	if err != nil {
		return refused(err)
	}
	contents, err := library.Contents(row)
	if err != nil {
		return err
	}
	for _, pc := range contents.Pieces {
		if pc.Kind == parcel.Pointer {
			asked := url.Values{"piece": {library.PieceKey(pc)}}
			if of, ok := s.App.Pieces.LayerAt(r.Context(), d.Desk, desk.Path(root)); ok && of.Recipe.Convert != nil {
				for _, size := range of.Recipe.Convert.Sizes {
					asked.Add("size", strconv.Itoa(size))
				}
			}
			to(w, r, "/d/"+d.ID+"/parcel/"+row.SHA256+"/convert?"+asked.Encode())
			return nil
		}
	}
	return refused(say.Errorf("there is no pointer in %s that can be converted", set.Folder))
}
