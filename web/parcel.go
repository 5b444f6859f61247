package web

import (
	"fmt"
	"io/fs"
	"net/http"
	"net/url"
	"path"
	"slices"

	"github.com/go-chi/chi/v5"

	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/app/markets"
	"ivelt/core/desk"
	"ivelt/core/iconbench"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/planning"
	"ivelt/core/say"
	"ivelt/sign"
	"ivelt/store"
)

type parcelPage struct {
	Frame
	Parcel store.ParcelRow
	Pieces []pieceView
	Notes  []parcel.Note
	Tree   *folderView
	Others bool
	Update bool     // what is in place is an older version
	Second bool     // one folder does not serve all who look
	Sealed []string // surfaces that follow no link
	Ready  int      // pieces that are not in place yet
	// Package is the system's that the parcel is, if it is not installed; "" for any other.
	Package, PackageVersion string
	For                     string // the facet it was brought for; "" for none
	Tries                   bool   // there is something in it to be tried on
	ForEveryone             bool   // which is found only where everyone reads
}

// Licences are those of its pieces, each once; what the market says of it if they tell none.
func (p parcelPage) Licences() []string {
	var out []string
	for _, v := range p.Pieces {
		if v.Licence != "" && !slices.Contains(out, v.Licence) {
			out = append(out, v.Licence)
		}
	}
	if len(out) == 0 && p.Parcel.Licence != "" {
		out = append(out, p.Parcel.Licence)
	}
	return out
}

// Goes lists the folders the pieces would go to, each once, with the reason.
func (p parcelPage) Goes(scope place.Scope) []place.Placement {
	var out []place.Placement
	for _, v := range p.Pieces {
		for _, pl := range v.Placements {
			folder := pl
			folder.Path = path.Dir(pl.Path)
			if pl.Scope == scope && !pl.Link && !slices.ContainsFunc(out, func(q place.Placement) bool { return q.Path == folder.Path }) {
				out = append(out, folder)
			}
		}
	}
	return out
}

type pieceView struct {
	parcel.Piece
	Placements []place.Placement
	Picture    string
	Key        string             // tells it from the others in the parcel
	InPlace    bool               // the same is in the home already
	Other      bool               // something else of that name is
	Difference library.Difference // to it
	Hides      []string           // places of other copies it would come before
	LinkShare  int                // percent
	Weighed    []markets.Need     // what it needs, weighed against the desk
	Describes  []describedLine    // what a descriptor would read and write, in words
	Absent     bool               // the program that it describes is not on the desk
	Kept       []int              // sizes that the set in place was converted to, if somebody chose them
}

// Converts reports whether it is a pointer set that is converted when it is installed.
func (v pieceView) Converts() bool {
	return v.Kind == parcel.Pointer && slices.Contains(v.Parts, "cur")
}

// describe says what a descriptor would read and write on the desk.
func (v *pieceView) describe(f Frame, p *parcel.Parcel) {
	b, err := fs.ReadFile(p, v.Only[0])
	if err != nil {
		return
	}
	s, err := desk.ParseCame(b, f.Now)
	if err != nil {
		v.Notes = append(v.Notes, parcel.Refused(path.Base(v.Only[0]), err))
		return
	}
	v.Absent = len(f.Now.Present([]desk.Surface{s})) == 0
	var before []string // said of the one that is in place
	if have, ok := f.Now.Surface(s.ID); ok && have.Came != nil {
		for _, m := range have.Came.Reach.Says(f.Now) {
			before = append(before, m.String())
		}
	}
	for _, m := range s.Reach().Says(f.Now) {
		v.Describes = append(v.Describes, describedLine{m, before != nil && !slices.Contains(before, m.String())})
	}
}

// describedLine is one thing that a descriptor would read, write or start.
type describedLine struct {
	say.Message
	New bool // the one that is in place does not
}

// folderView is one folder of the parcel's tree.
type folderView struct {
	Name    string
	Piece   string // the piece whose root it is
	Open    bool
	Count   int // of all files below
	Bytes   int64
	Folders []*folderView
	Files   []fileView
	More    int // files not listed
}

type fileView struct {
	Name string
	Size int64
	Link string
}

func (s *Server) openParcel(r *http.Request) (store.ParcelRow, *parcel.Parcel, error) {
	row, err := s.App.Library.Parcel(chi.URLParam(r, "sha"))
	if err != nil {
		return row, nil, say.Errorf("this parcel is not in the library any more (%w). Fetch it again from Find", err)
	}
	p, err := s.App.Library.Open(r.Context(), row)
	return row, p, err
}

func (s *Server) parcel(w http.ResponseWriter, r *http.Request) error {
	f, err := s.frame(r, "parcel", "find", "")
	if err != nil {
		return err
	}
	row, p, err := s.openParcel(r)
	if err != nil {
		return missing(err)
	}
	contents, err := library.Contents(row)
	if err != nil {
		return err
	}
	f.Title = say.Words(row.Title)
	page := parcelPage{Frame: f, Parcel: row, Notes: contents.Notes}
	if facet := r.URL.Query().Get("for"); f.Desk.Has(facet) {
		page.For, page.ForEveryone = facet, forEveryone(f.Desk, facet)
	}
	roots := map[string]string{}
	for _, pc := range contents.Pieces {
		v := pieceView{Piece: pc, Placements: place.Placements(pc, f.Now), Picture: pieceTag(f.Desk.ID, row.SHA256, pc), Key: library.PieceKey(pc)}
		if target, err := place.Target(pc, f.Now, place.Mine); err == nil {
			v.InPlace, v.Other = planning.Compare(r.Context(), f.Desk.Desk, p, pc, target)
			v.Hides = place.Hides(pc, f.Now, target)
			page.Others = page.Others || v.Other
			if of, ok := s.App.Pieces.LayerAt(r.Context(), f.Desk.Desk, target); ok && v.Other && v.Converts() && of.Recipe.Convert != nil {
				v.Kept = of.Recipe.Convert.Sizes
			}
			if v.Other {
				if d, err := s.App.Pieces.Differences(r.Context(), f.Desk, row, p, pc, target); err == nil {
					v.Difference = d
					page.Update = page.Update || d.Update
				}
			}
		}
		for _, pl := range v.Placements {
			page.Second = page.Second || pl.Link
			for _, s := range pl.Copy {
				if !slices.Contains(page.Sealed, s) {
					page.Sealed = append(page.Sealed, s)
				}
			}
		}
		if !v.InPlace {
			page.Ready++
		}
		if pc.Files > 0 {
			v.LinkShare = 100 * pc.Links / pc.Files
		}
		if v.Weighed, err = s.App.Markets.Needs(f.Desk, contents, pc); err != nil {
			return err
		}
		if pc.Kind == parcel.Descriptor {
			v.describe(f, p)
		} else {
			page.Tries = true
		}
		if pc.Only == nil {
			roots[pc.Root] = pc.Name
		}
		page.Pieces = append(page.Pieces, v)
	}
	if err := s.packageOf(f, row, &page); err != nil {
		return err
	}
	page.Tree = folder(p, ".", roots)
	page.Tree.Name = row.Name
	s.page(w, r, http.StatusOK, "parcel", page)
	return nil
}

// packageOf tells whether a parcel is a package of the desk's own system, which could be
// installed.
func (s *Server) packageOf(f Frame, row store.ParcelRow, page *parcelPage) error {
	systems, err := s.App.Markets.Systems()
	if err != nil || !systems[row.Market] || f.Desk.Manager == nil || f.Desk.Packaged()[row.Entry].Has != "" {
		return err
	}
	page.Package, page.PackageVersion = row.Entry, row.Version
	return nil
}

// pieceTag is the address of the picture of a piece of a parcel.
func pieceTag(deskID, sha string, pc parcel.Piece) string {
	return fmt.Sprintf("/d/%s/parcel/%s/tag.svg?piece=%s", deskID, sha, url.QueryEscape(library.PieceKey(pc)))
}

const maxFiles = 12 // listed of one folder

func folder(p *parcel.Parcel, name string, roots map[string]string) *folderView {
	v := &folderView{Name: path.Base(name), Piece: roots[name]}
	entries, err := p.ReadDir(name)
	if err != nil {
		return v
	}
	for _, e := range entries {
		full := path.Join(name, e.Name())
		if e.IsDir() {
			sub := folder(p, full, roots)
			v.Folders = append(v.Folders, sub)
			v.Count += sub.Count
			v.Bytes += sub.Bytes
			continue
		}
		v.Count++
		file := fileView{Name: e.Name()}
		if fi, err := e.Info(); err == nil {
			file.Size = fi.Size()
			v.Bytes += fi.Size()
		}
		if e.Type()&fs.ModeSymlink != 0 {
			file.Link, _ = p.ReadLink(full)
		}
		if len(v.Files) < maxFiles {
			v.Files = append(v.Files, file)
		} else {
			v.More++
		}
	}
	// Folders on the way to a piece are shown open.
	v.Open = slices.ContainsFunc(v.Folders, func(f *folderView) bool { return f.Open || f.Piece != "" })
	return v
}

func (s *Server) parcelTag(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	row, p, err := s.openParcel(r)
	if err != nil {
		return missing(err)
	}
	pc, err := library.PieceOf(row, r.FormValue("piece"))
	if err != nil {
		return missing(err)
	}
	if pc.Kind != parcel.Icons {
		servePicture(w, r, "image/svg+xml", sign.Piece(r.Context(), p, pc))
		return nil
	}
	b, err := iconbench.OnTrial(d.Desk, p, row.SHA256, pc.Root)
	if err != nil {
		return missing(err)
	}
	servePicture(w, r, "image/svg+xml", sign.Tag(r.Context(), b.Tree, b.Icons, 6, 2, 64, 48))
	return nil
}

func (s *Server) install(w http.ResponseWriter, r *http.Request) error {
	d, err := s.App.Desk(chi.URLParam(r, "desk"))
	if err != nil {
		return err
	}
	if err := r.ParseForm(); err != nil {
		return refused(err)
	}
	how := library.How{Scope: place.Scope(r.FormValue("scope")), Exists: planning.Exists(r.FormValue("exists")), Second: planning.Second(r.FormValue("second")), Lose: r.FormValue("lose") != ""}
	if how.Scope == place.Everyone && !d.AdminHere() {
		p, err := s.App.Pieces.InstallPlan(r.Context(), d, chi.URLParam(r, "sha"), r.Form["piece"], how)
		if err == nil {
			err = s.App.Plans.Keep(p)
		}
		if err != nil {
			return refused(err)
		}
		to(w, r, handOverPage(d.ID, p.ID))
		return nil
	}
	job, err := s.App.Pieces.Install(d, chi.URLParam(r, "sha"), r.Form["piece"], how, "/d/"+d.ID+"/shelf")
	if err != nil {
		return refused(err)
	}
	job.By(jobs.Asked{URL: r.URL.Path, Form: r.PostForm})
	s.showJob(w, r, d.ID, job)
	return nil
}
