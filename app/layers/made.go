package layers

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"image/png"
	"io/fs"
	"path"
	"strings"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/backdrop"
	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/say"
)

// drawnWide is how wide a drawing may be made whose tint is a picture, px: as large as can be afforded.
var drawnWide = []int{2560, 1920, 1280}

// MakePicture starts making a picture of another one, a file of its own that says what it was made of and
// how, and tries it on. on is the desk with what is tried on; then is where a page goes on.
func (l *Layers) MakePicture(d *desks.Managed, on *desk.Desk, file string, tint *backdrop.Tint, soft *backdrop.Soft, then string) (*jobs.Job, error) {
	title := "Tint " + path.Base(file)
	if tint != nil {
		if err := tint.Valid(); err != nil {
			return nil, err
		}
	} else {
		if err := soft.Valid(); err != nil {
			return nil, err
		}
		title = "Soften " + path.Base(file)
	}
	return l.jobs.Start(title, func(ctx context.Context, j *jobs.Job) error {
		j.Step(title, "pictures")
		raw, err := fs.ReadFile(on.Tree(), desk.Name(file))
		if err != nil {
			return err
		}
		im := whole(ctx, raw)
		if im == nil {
			return errors.Join(ctx.Err(), say.Errorf("%s cannot be read", file))
		}
		making := backdrop.MakingOf(file, raw, tint, soft)
		made, err := making.Apply(ctx, im)
		if err != nil {
			return err
		}
		picture, ext, err := encoded(made)
		if err != nil {
			return err
		}
		name := fmt.Sprintf("%s-%s%s", strings.TrimSuffix(path.Base(file), path.Ext(file)), making.Ending(), ext)
		row, err := l.pieces.KeepFile(ctx, name, imagefile.Noted(picture, making.Note()))
		if err != nil {
			return err
		}
		return l.overlays.TryWithin(ctx, j, d, row.SHA256, desk.FacetBackdrop, then)
	}), nil
}

// MakeAgain starts making anew what is worn of a picture that has changed since, as it was made.
func (l *Layers) MakeAgain(d *desks.Managed, on *desk.Desk, file, then string) (*jobs.Job, error) {
	raw, err := fs.ReadFile(on.Tree(), desk.Name(file))
	if err != nil {
		return nil, err
	}
	made, ok := backdrop.MadeOf(imagefile.Note(raw))
	if !ok {
		return nil, say.Errorf("%s was not made here of another picture", file)
	}
	return l.MakePicture(d, on, made.File, made.Tint, made.Soft, then)
}

// whole is a picture in its own size, or a drawing as large as can be afforded; nil if it cannot be read.
func whole(ctx context.Context, raw []byte) image.Image {
	if imagefile.MediaType(raw) != "image/svg+xml" {
		return imagefile.Scene(ctx, raw, 0)
	}
	for _, wide := range drawnWide {
		if im := imagefile.Large(ctx, raw, wide); im != nil {
			return im
		}
	}
	return nil
}

// encoded is a picture as a file, and how its name ends.
func encoded(im *image.NRGBA) (raw []byte, ext string, err error) {
	var b bytes.Buffer
	if im.Opaque() {
		err = jpeg.Encode(&b, im, &jpeg.Options{Quality: 92})
		return b.Bytes(), ".jpg", err
	}
	err = png.Encode(&b, im)
	return b.Bytes(), ".png", err
}
