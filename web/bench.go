package web

import (
	"context"
	"image"
	"io/fs"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/pointerbench"
	"ivelt/core/pointerset"
	"ivelt/core/preview"
	"ivelt/core/say"
	"ivelt/core/xcursor"
	"ivelt/sign"
)

// benchPage is a pointer set under the lens.
type benchPage struct {
	Frame
	*pointerbench.Report
	Set      string
	Parcel   string // of one that is not in place
	Piece    string
	Wishes   pointerbench.Wishes // what would clear the findings
	Mends    bool                // there is something of that
	Extends  bool                // the set is a layer that takes it in
	Others   []pointerShape      // pictures that no role shows
	Pictures string              // the address of a shape's picture, without its file
}

// pointerShape is a shape as the page offers it.
type pointerShape struct{ *pointerbench.Shape }

// Largest is its largest picture.
func (s pointerShape) Largest() pointerbench.Size { return s.Sizes[len(s.Sizes)-1] }

// Times is how many times as large its largest picture is shown when its hot spot is moved.
func (s pointerShape) Times() int { return max(192/max(s.Largest().Width, s.Largest().Height, 1), 1) }

// Of is the shape whose picture a role shows, nil if it shows none.
func (p benchPage) Of(file string) *pointerShape {
	for i := range p.Shapes {
		if p.Shapes[i].File == file && len(p.Shapes[i].Sizes) > 0 {
			return &pointerShape{&p.Shapes[i]}
		}
	}
	return nil
}

// Hot is where the hot spot of a shape would be: where it is expected, if it is not there.
func (p benchPage) Hot(s *pointerShape) image.Point {
	if at, ok := p.Wishes.Hot[s.File]; ok {
		return at
	}
	return image.Pt(s.Largest().HotX, s.Largest().HotY)
}

// Motion is how a shape would move.
func (p benchPage) Motion(file string) pointerset.Motion { return p.Wishes.Motion[file] }

// Twins reports whether something is drawn twice.
func (p benchPage) Twins() bool {
	return slices.ContainsFunc(p.Shapes, func(s pointerbench.Shape) bool { return s.Twin != "" && s.Wrong == "" && s.Set == "" })
}

// Moves reports whether the hot spot of a shape would be moved.
func (p benchPage) Moves(file string) bool { _, ok := p.Wishes.Hot[file]; return ok }

// Made are the sizes that would be made, as they are typed.
func (p benchPage) Made() string {
	var out []string
	for _, n := range p.Wishes.Sizes {
		out = append(out, strconv.Itoa(n))
	}
	return strings.Join(out, ", ")
}

// Lends are the files whose pictures a role that is missing could show.
func (p benchPage) Lends() (out []string) {
	for _, s := range p.Shapes {
		if s.Set == "" && s.Wrong == "" {
			out = append(out, s.File)
		}
	}
	return out
}

// underLens is a pointer set that is looked at.
type underLens struct {
	set, root     string
	tree          fs.FS
	inherited     []string
	parcel, piece string // of one that is not in place
}

// pointerUnderLens is the pointer set that an address names, of the desk or of a parcel.
func (s *Server) pointerUnderLens(r *http.Request, d *desks.Managed) (u underLens, err error) {
	if sha := r.FormValue("parcel"); sha != "" {
		row, err := s.App.Library.Parcel(sha)
		if err != nil {
			return u, missing(err)
		}
		piece, err := library.PieceOf(row, r.FormValue("piece"))
		if err != nil {
			return u, missing(err)
		}
		if piece.Kind != parcel.Pointer {
			return u, refused(say.Errorf("%s is no pointer set", piece.Name))
		}
		p, err := s.App.Library.Open(r.Context(), row)
		if err != nil {
			return u, err
		}
		return underLens{piece.Folder, piece.Root, p, pointerbench.Chain(p, piece.Root, []string{path.Dir(piece.Root)}), sha, r.FormValue("piece")}, nil
	}
	if u.set, err = pointerFolder(r.FormValue("set")); err != nil {
		return u, refused(err)
	}
	if u.root, err = (layer.Base{Kind: parcel.Pointer, Folder: u.set}).Find(d.Desk); err != nil {
		return u, missing(err)
	}
	u.tree = d.Tree()
	u.inherited = pointerbench.Chain(u.tree, u.root, pointerbench.Bases(d.Desk))
	return u, nil
}

// benched measures a pointer set.
func (u underLens) benched(ctx context.Context, d *desks.Managed) (*pointerbench.Report, error) {
	report, err := pointerbench.Measure(ctx, u.tree, u.root, pointerbench.Options{Asked: pointerbench.SizesIn(d.Desk), Inherited: u.inherited})
	if err != nil {
		return nil, refused(err)
	}
	return report, nil
}

// address is what names it in an address.
func (u underLens) address() string {
	if u.parcel != "" {
		return url.Values{"parcel": {u.parcel}, "piece": {u.piece}}.Encode()
	}
	return url.Values{"set": {u.set}}.Encode()
}

// pointerFolder is a name that a pointer set can have.
func pointerFolder(name string) (string, error) {
	if name == "" || strings.HasPrefix(name, ".") || strings.ContainsAny(name, "/\x00") {
		return "", say.Errorf("%q is no pointer set", name)
	}
	return name, nil
}

func (s *Server) bench(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "bench", "shelf", "Pointers under the lens")
	if err != nil {
		return err
	}
	u, err := s.pointerUnderLens(r, f.Desk)
	if err != nil {
		return err
	}
	report, err := u.benched(r.Context(), f.Desk)
	if err != nil {
		return err
	}
	page := benchPage{Frame: f, Report: report, Set: u.set, Parcel: u.parcel, Piece: u.piece, Wishes: report.Proposed(), Pictures: "/d/" + f.Desk.ID + "/bench/pointer.svg?" + u.address() + "&file="}
	var recipe layer.Recipe
	if recipe, page.Mends = report.Mend(u.set, u.set); u.parcel == "" {
		_, _, page.Extends, err = layer.Extended(f.Desk.Desk, u.root, recipe)
		page.Mends = page.Mends && err == nil
	}
	for i := range report.Shapes {
		shown := slices.ContainsFunc(report.Roles, func(role pointerbench.Role) bool { return role.File == report.Shapes[i].File })
		if !shown && len(report.Shapes[i].Sizes) > 0 {
			page.Others = append(page.Others, pointerShape{&report.Shapes[i]})
		}
	}
	s.page(w, r, http.StatusOK, "bench", page)
	return nil
}

// benchedPointer is the picture of one shape of a set: in all its sizes on three grounds, or the
// largest alone, as it is.
func (s *Server) benchedPointer(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	file, err := pointerFolder(r.FormValue("file"))
	if err != nil {
		return refused(err)
	}
	u, err := s.pointerUnderLens(r, d)
	if err != nil {
		return err
	}
	for _, at := range append([]string{u.root}, u.inherited...) {
		name := path.Join(at, "cursors", file)
		if info, err := fs.Stat(u.tree, name); err != nil || !info.Mode().IsRegular() || info.Size() > maxPointer {
			continue
		}
		raw, err := fs.ReadFile(u.tree, name)
		if err != nil {
			return err
		}
		of, err := xcursor.Parse(raw)
		if err != nil {
			return refused(err)
		}
		frames := played(of, r.FormValue("still") != "")
		if r.FormValue("one") != "" {
			return servePNG(w, r, frames[len(frames)-1].Picture)
		}
		servePicture(w, r, "image/svg+xml", sign.Sizes(frames, "#fafaf7", "#23252b", s.backdropColour(r, d)))
		return nil
	}
	return missing(errNotHere)
}

// backdropColour is the mean colour of the desk's backdrop, as the draft has it.
func (s *Server) backdropColour(r *http.Request, d *desks.Managed) string {
	const plain = "#7d8a8f"
	draft, err := s.App.Drafts.Draft(d)
	if err != nil {
		return plain
	}
	on := s.App.Overlays.Trying(d, draft).Snapshot()
	look := preview.Draft(r.Context(), on, draft)
	for _, surface := range on.Surfaces() {
		if file := look.Of(desk.FacetBackdrop, surface.ID); file != "" {
			if mean, ok := preview.MeanColour(r.Context(), on, desk.Name(file)); ok {
				return mean.Hex()
			}
		}
	}
	return plain
}

// maxPointer bounds a pointer's file that is drawn, in bytes.
const maxPointer = 32 << 20

// played are the pictures of a shape that a page plays, of each size the first, or one of each.
func played(of *xcursor.File, still bool) (out []xcursor.Frame) {
	most := shownSteps
	if still {
		most = 1
	}
	sizes := of.Sizes()
	for _, size := range sizes[:min(len(sizes), 16)] {
		frames := of.Frames(size)
		for _, im := range frames[:min(len(frames), most)] {
			out = append(out, xcursor.Frame{Size: size, Picture: of.Picture(im), HotX: im.HotX, HotY: im.HotY, Delay: int(im.Delay.Milliseconds())})
		}
	}
	return out
}

// mendPointers makes a layer over a set with what is wished of it, and tries it on.
func (s *Server) mendPointers(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if err := r.ParseForm(); err != nil {
		return refused(err)
	}
	u, err := s.pointerUnderLens(r, d)
	if err != nil {
		return err
	}
	if u.parcel != "" {
		return refused(say.Errorf("put %s in place first", u.set))
	}
	report, err := u.benched(r.Context(), d)
	if err != nil {
		return err
	}
	wishes := report.Proposed()
	if r.Form.Get("own") != "" {
		if wishes, err = wished(r.Form); err != nil {
			return refused(err)
		}
	}
	recipe, err := report.Recipe(u.set, u.set, wishes)
	if err != nil {
		return refused(err)
	}
	if recipe.Size() == 0 {
		return refused(say.Errorf("there is nothing to be changed in %s", u.set))
	}
	then := "/d/" + d.ID + "/compose?facet=" + desk.FacetPointer
	if _, _, extends, err := layer.Extended(d.Desk, u.root, recipe); err == nil && extends {
		then = "/d/" + d.ID + "/bench/pointer?" + u.address() // it is built in its place, and measured again
	}
	job, err := s.App.Layers.Mend(r.Context(), d, u.root, recipe, then)
	if err != nil {
		return refused(err)
	}
	job.By(jobs.Asked{URL: r.URL.Path, Form: r.PostForm})
	s.showJob(w, r, d.ID, job)
	return nil
}

// maxSizes is how many sizes are made at once.
const maxSizes = 12

// moved is how a pointer is to move, of its fields in a form.
func moved(form url.Values, file string) (m pointerset.Motion, err error) {
	whole := func(key string) (n int) {
		if text := strings.TrimSpace(form.Get(key + "." + file)); text != "" && err == nil {
			if n, err = strconv.Atoi(text); err != nil || n < 1 {
				err = say.Errorf("%s: %s is a whole number from 1 on, not %q", file, key, text)
			}
		}
		return n
	}
	m = pointerset.Motion{Back: form.Get("back."+file) != "", Pictures: whole("pictures"), Turn: time.Duration(min(whole("turn"), 1<<20)) * time.Millisecond}
	for text := range strings.FieldsFuncSeq(form.Get("without."+file), listed) {
		n, wrong := strconv.Atoi(text)
		if wrong != nil {
			return m, say.Errorf("%s: pictures that are left out are whole numbers, such as 3, 4: not %q", file, text)
		}
		m.Without = append(m.Without, n)
	}
	if err == nil {
		if err = m.Valid(); err != nil {
			err = say.Errorf("%s: %w", file, err)
		}
	}
	return m, err
}

// listed is what numbers in a list are parted by.
func listed(r rune) bool { return r == ',' || r == ' ' || r == ';' }

// wished are the wishes of a form: like.ROLE, the hot spots that were moved, how pointers move, sizes,
// the hand.
func wished(form url.Values) (pointerbench.Wishes, error) {
	w := pointerbench.Wishes{Name: strings.TrimSpace(form.Get("name")), Like: map[string]string{}, Hot: map[string]image.Point{}, Motion: map[string]pointerset.Motion{}, Twins: form.Get("twins") != ""}
	w.Names, w.Outline, w.LeftHand = form.Get("names") != "", form.Get("outline") != "", form.Get("left") != ""
	for key := range form {
		if role, ok := strings.CutPrefix(key, "like."); ok && form.Get(key) != "" {
			w.Like[role] = form.Get(key)
		}
		if file, ok := strings.CutPrefix(key, "turn."); ok {
			m, err := moved(form, file)
			if err != nil {
				return w, err
			}
			if !m.None() {
				w.Motion[file] = m
			}
		}
		file, ok := strings.CutPrefix(key, "x.")
		if !ok || form.Get(key)+","+form.Get("y."+file) == form.Get("was."+file) {
			continue
		}
		x, errX := strconv.Atoi(form.Get(key))
		y, errY := strconv.Atoi(form.Get("y." + file))
		if errX != nil || errY != nil {
			return w, say.Errorf("%s: the hot spot is at two whole numbers of px", file)
		}
		w.Hot[file] = image.Pt(x, y)
	}
	for text := range strings.FieldsFuncSeq(form.Get("sizes"), listed) {
		n, err := strconv.Atoi(strings.TrimSuffix(text, "px"))
		if err != nil || n < 8 || n > 256 || len(w.Sizes) >= maxSizes {
			return w, say.Errorf("sizes are whole numbers from 8 to 256 px, up to %d of them: not %q", maxSizes, text)
		}
		w.Sizes = append(w.Sizes, n)
	}
	return w, nil
}
