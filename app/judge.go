package app

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
	"strings"

	"golang.org/x/image/draw"

	"ivelt/app/jobs"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/judge"
	"ivelt/core/plan"
	"ivelt/core/preview"
)

// Judge judges the draft of a desk, or what it wears if there is none.
func (a *App) Judge(ctx context.Context, d *Desk) ([]judge.Verdict, error) {
	o, err := a.Draft(d)
	if err != nil {
		return nil, err
	}
	seen := a.Trying(d, o)
	return judge.Of(seen, preview.Draft(seen, o).Until(ctx)), context.Cause(ctx)
}

// JudgeOther judges the same in the other shade, which is "" if there is no other.
func (a *App) JudgeOther(ctx context.Context, d *Desk) (found []judge.Verdict, shade string, err error) {
	o, err := a.Draft(d)
	if err != nil {
		return nil, "", err
	}
	seen := a.Trying(d, o)
	look := preview.Draft(seen, o)
	turned := look
	for _, s := range d.Surfaces {
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
	for _, s := range d.Surfaces {
		if _, has := s.Facet(desk.FacetDark); has {
			turned = turned.With(desk.FacetDark, s.ID, shade)
		}
	}
	return judge.Of(seen, turned.Until(ctx)), shade, context.Cause(ctx)
}

// errNoRemedy: what was asked for is not proposed any more.
var errNoRemedy = errors.New("this is not proposed any more: the look has changed since")

// remedyOf finds a remedy of what is judged now.
func (a *App) remedyOf(ctx context.Context, d *Desk, code, surface string, is func(judge.Remedy) bool) (judge.Verdict, judge.Remedy, error) {
	now, err := a.Judge(ctx, d)
	if err != nil {
		return judge.Verdict{}, judge.Remedy{}, err
	}
	for _, v := range now {
		for _, r := range v.Remedies {
			if string(v.Code) == code && v.Surface == surface && is(r) {
				return v, r, nil
			}
		}
	}
	return judge.Verdict{}, judge.Remedy{}, errNoRemedy
}

// ReviewSheet plans to put the lines that a verdict proposes into the person's own
// style sheets.
func (a *App) ReviewSheet(ctx context.Context, d *Desk, code, surface string) (plan.Plan, error) {
	v, r, err := a.remedyOf(ctx, d, code, surface, func(r judge.Remedy) bool { return r.Sheet != "" })
	if err != nil {
		return plan.Plan{}, err
	}
	pl, err := plan.OwnSheet(d.Desk, append([]string{v.Surface}, v.Also...), v.Facet, r.Sheet)
	if err != nil {
		return pl, err
	}
	return pl, a.keepPlan(pl)
}

// ReviewColours plans to give the terminal's palette the colours that a verdict
// proposes.
func (a *App) ReviewColours(ctx context.Context, d *Desk, code, surface string) (plan.Plan, error) {
	v, r, err := a.remedyOf(ctx, d, code, surface, func(r judge.Remedy) bool { return r.Colours != nil })
	if err != nil {
		return plan.Plan{}, err
	}
	to := map[int]colour.Colour{}
	for i, hex := range r.Colours {
		if to[i], err = colour.Parse(hex); err != nil {
			return plan.Plan{}, err
		}
	}
	s, _ := d.Surface(v.Surface)
	pl, err := plan.Remap(d.Desk, s, to)
	if err != nil {
		return pl, err
	}
	return pl, a.keepPlan(pl)
}

// Crop starts making the part of the backdrop that a verdict proposes a picture of
// its own and putting it on the draft.
func (a *App) Crop(ctx context.Context, d *Desk, code, surface, then string) (*jobs.Job, error) {
	_, r, err := a.remedyOf(ctx, d, code, surface, func(r judge.Remedy) bool { return r.Crop != nil })
	if err != nil {
		return nil, err
	}
	o, err := a.Draft(d)
	if err != nil {
		return nil, err
	}
	raw, err := fs.ReadFile(a.Trying(d, o).Tree(), desk.Name(r.Crop.Picture))
	if err != nil {
		return nil, err
	}
	return a.Jobs.Start("Crop the backdrop", func(ctx context.Context, j *jobs.Job) error {
		name := strings.TrimSuffix(path.Base(r.Crop.Picture), path.Ext(r.Crop.Picture))
		archive, err := cropped(ctx, raw, *r.Crop, fmt.Sprintf("%s-from-%.0f-%.0f", name, 100*r.Crop.X, 100*r.Crop.Y))
		if err != nil {
			return err
		}
		sha, err := a.bring(ctx, j, name+"-part.zip", bytes.NewReader(archive), int64(len(archive)), "")
		if err != nil {
			return err
		}
		j.Then(then)
		return a.tryOn(ctx, j, d, sha)
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
