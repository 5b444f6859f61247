package layers

import (
	"context"
	"errors"
	"path"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/app/library"
	"ivelt/core/desk"
	"ivelt/core/iconbench"
	"ivelt/core/layer"
	"ivelt/core/parcel"
	"ivelt/core/say"
)

// Mine is the pack of one's own over a pack of a desk: the pack itself if it is one, the one that is
// there already, or else a new one without changes. trying is the desk with what is tried on.
func Mine(trying *desk.Desk, pack string) (layer.Recipe, error) {
	at, err := (layer.Base{Kind: parcel.Icons, Folder: pack}).Find(trying)
	if err != nil {
		return layer.Recipe{}, err
	}
	mine := pack + "-Mine"
	for _, folder := range []string{pack, mine} {
		own, err := (layer.Base{Kind: parcel.Icons, Folder: folder}).Find(trying)
		if err != nil {
			continue
		}
		r, is, err := layer.At(trying, parcel.Icons, own)
		if err != nil {
			return r, err
		}
		if is && (folder == pack || r.Base.Folder == pack) {
			return r, nil
		}
		if folder == mine {
			return r, say.Errorf("there is a pack %s that was not made over %s", mine, pack)
		}
	}
	return layer.Recipe{Name: path.Base(at) + ", with my icons", Folder: mine, Base: layer.Base{Kind: parcel.Icons, Folder: pack}}, nil
}

// Icons starts changing single icons of a pack: in the pack of one's own over it, see [Mine], which
// is tried on, or set in the place of the one that is there. Changes without a picture take those
// of their name away. then is where a page goes on.
func (l *Layers) Icons(ctx context.Context, d *desks.Managed, pack string, changes []layer.Icon, then string) (*jobs.Job, error) {
	draft, err := l.drafts.Draft(d)
	if err != nil {
		return nil, err
	}
	r, err := Mine(l.overlays.Trying(d, draft), pack)
	if err != nil {
		return nil, err
	}
	for _, c := range changes {
		if r = r.Without(c.Name); c.Like != "" || c.Picture != "" {
			r = r.With(c)
		}
	}
	if err := r.Valid(); err != nil {
		return nil, err
	}
	root, err := r.Base.Find(d.Desk)
	if err != nil {
		return nil, say.Errorf("%w: put %s in place first", err, r.Base.Folder)
	}
	_, err = (layer.Base{Kind: parcel.Icons, Folder: r.Folder}).Find(d.Desk)
	if placed := err == nil; placed && r.Size() > 0 {
		_, job, err := l.pieces.Layer(ctx, d, r, false, then)
		return job, err
	}
	if r.Size() == 0 {
		return nil, errors.New("that was its last change: take " + r.Folder + " off in Compose, or away on the shelf")
	}
	return l.jobs.Start("Change icons of "+pack, func(ctx context.Context, j *jobs.Job) error {
		j.Then(then)
		j.Step("Making "+r.Name, "files")
		origins, err := l.record.Origins(d.ID)
		if err != nil {
			return err
		}
		if r.Base, err = library.DescribeBase(ctx, d.Desk, parcel.Icons, root, origins); err != nil {
			return err
		}
		return l.dye(ctx, j, d, root, r, true)
	}), nil
}

// Compare starts comparing the pictures of a pack with each other, to tell which are out of place:
// [iconbench.Bench.Compared] has the answer from then on. then is where a page goes on.
func (l *Layers) Compare(d *desk.Desk, pack, then string) *jobs.Job {
	return l.jobs.Start("Compare the icons of "+pack, func(ctx context.Context, j *jobs.Job) error {
		j.Then(then)
		b, err := iconbench.On(d, pack)
		if err != nil {
			return err
		}
		j.Step("Looking at each picture", "icons")
		_, err = b.OutOfPlace(ctx, b.Look().Coverage, func(done, all int) { j.At(int64(done), int64(all)) })
		return err
	})
}
