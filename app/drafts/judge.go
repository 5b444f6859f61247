package drafts

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/png"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"

	"golang.org/x/image/draw"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/judge"
	"ivelt/core/preview"
)

// Judge judges drafts.
type Judge struct {
	library  *library.Library
	drafts   *Drafts
	overlays *Overlays
	jobs     *jobs.List
}

// NewJudge returns a judge.
func NewJudge(l *library.Library, drafts *Drafts, overlays *Overlays, running *jobs.List) *Judge {
	return &Judge{l, drafts, overlays, running}
}

// Of judges the draft of a desk, or what it wears if there is none.
func (ju *Judge) Of(ctx context.Context, d *desks.Managed) ([]judge.Verdict, error) {
	o, err := ju.drafts.Draft(d)
	if err != nil {
		return nil, err
	}
	seen := ju.overlays.Trying(d, o)
	return judge.Of(seen, preview.Draft(ctx, seen, o)), context.Cause(ctx)
}

// Other judges the same in the other shade, which is "" if there is no other.
func (ju *Judge) Other(ctx context.Context, d *desks.Managed) (found []judge.Verdict, shade string, err error) {
	o, err := ju.drafts.Draft(d)
	if err != nil {
		return nil, "", err
	}
	seen := ju.overlays.Trying(d, o)
	look := preview.Draft(ctx, seen, o)
	turned := look
	for _, s := range d.Surfaces() {
		if _, has := s.Facet(desk.FacetDark); !has {
			continue
		}
		if shade == "" {
			shade = "dark"
		}
		if look.Of(desk.FacetDark, s.ID) == "dark" {
			shade = "light"
		}
	}
	if shade == "" {
		return nil, "", nil
	}
	for _, s := range d.Surfaces() {
		if _, has := s.Facet(desk.FacetDark); has {
			turned = turned.With(desk.FacetDark, s.ID, shade)
		}
	}
	found = slices.DeleteFunc(judge.Of(seen, turned), func(v judge.Verdict) bool { return v.Code == judge.OtherShade }) // nobody asked for it
	return found, shade, context.Cause(ctx)
}

// errNoFix: what was asked for is not proposed any more.
var errNoFix = errors.New("this is not proposed any more: the look has changed since")

// Fix finds a remedy of what is judged now.
func (ju *Judge) Fix(ctx context.Context, d *desks.Managed, code, surface string, is func(judge.Fix) bool) (judge.Verdict, judge.Fix, error) {
	now, err := ju.Of(ctx, d)
	if err != nil {
		return judge.Verdict{}, judge.Fix{}, err
	}
	for _, v := range now {
		for _, r := range v.Remedies {
			if string(v.Code) == code && v.Surface == surface && is(r) {
				return v, r, nil
			}
		}
	}
	return judge.Verdict{}, judge.Fix{}, errNoFix
}

// Crop starts making the part of the backdrop that a verdict proposes a picture of
// its own and putting it on the draft.
func (ju *Judge) Crop(ctx context.Context, d *desks.Managed, code, surface, then string) (*jobs.Job, error) {
	_, r, err := ju.Fix(ctx, d, code, surface, func(r judge.Fix) bool { return r.Crop != nil })
	if err != nil {
		return nil, err
	}
	o, err := ju.drafts.Draft(d)
	if err != nil {
		return nil, err
	}
	raw, err := fs.ReadFile(ju.overlays.Trying(d, o).Tree(), desk.Name(r.Crop.Picture))
	if err != nil {
		return nil, err
	}
	return ju.jobs.Start("Crop the backdrop", func(ctx context.Context, j *jobs.Job) error {
		name := strings.TrimSuffix(path.Base(r.Crop.Picture), path.Ext(r.Crop.Picture))
		archive, err := cropped(ctx, raw, *r.Crop, fmt.Sprintf("%s-from-%.0f-%.0f", name, 100*r.Crop.X, 100*r.Crop.Y))
		if err != nil {
			return err
		}
		sha, err := ju.library.TakeIn(ctx, j, name+"-part.zip", bytes.NewReader(archive), int64(len(archive)), "")
		if err != nil {
			return err
		}
		return ju.overlays.TryWithin(ctx, j, d, sha, "", then)
	}), nil
}

// leastBackdrop is how wide a picture has to be to be taken for a backdrop, px.
const leastBackdrop = 1280

// cropped is an archive with a part of a picture in it.
func cropped(ctx context.Context, raw []byte, c judge.Crop, name string) ([]byte, error) {
	im := imagefile.Raster(ctx, raw, 2*leastBackdrop)
	if im == nil {
		return nil, errors.New("the backdrop cannot be read any more")
	}
	from := c.Of(im.Bounds())
	if from.Empty() {
		return nil, errors.New("the backdrop is another one by now")
	}
	k := max(float64(leastBackdrop)/float64(from.Dx()), 1)
	out := image.NewRGBA(image.Rect(0, 0, int(float64(from.Dx())*k), int(float64(from.Dy())*k)))
	draw.CatmullRom.Scale(out, out.Rect, im, from, draw.Src, nil)
	var picture, archive bytes.Buffer
	if err := png.Encode(&picture, out); err != nil {
		return nil, err
	}
	z := zip.NewWriter(&archive)
	f, err := z.Create(name + ".png")
	if err == nil {
		_, err = io.Copy(f, &picture)
	}
	err = errors.Join(err, z.Close())
	return archive.Bytes(), err
}
