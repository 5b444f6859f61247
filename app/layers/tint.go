package layers

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"image/png"
	"io/fs"
	"path"
	"regexp"
	"strconv"
	"strings"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/backdrop"
	"ivelt/core/colour"
	"ivelt/core/desk"
	"ivelt/core/imagefile"
)

// drawnWide is how wide a drawing may be made whose tint is a picture, px: as large as can be afforded.
var drawnWide = []int{2560, 1920, 1280}

// madeFrom is the note in a tinted picture.
var madeFrom = regexp.MustCompile(`^Made by Ivelt: (/.*), tinted (\d{1,3}) % towards (#[0-9a-f]{6}) \(sha256:([0-9a-f]{64})\)$`)

// Made is what a picture that was tinted was made from, and how.
type Made struct {
	File    string // the picture
	Tint    backdrop.Tint
	Percent int // how strong
	sum     string
}

// MadeFrom is what a picture was made from; false if it was not tinted here.
func MadeFrom(raw []byte) (m Made, ok bool) {
	found := madeFrom.FindStringSubmatch(imagefile.Note(raw))
	if found == nil {
		return m, false
	}
	m.File, m.sum = found[1], found[4]
	m.Percent, _ = strconv.Atoi(found[2])
	m.Tint.Strength = float64(m.Percent) / 100
	var err error
	m.Tint.Toward, err = colour.Parse(found[3])
	return m, err == nil && m.Tint.Valid() == nil
}

// Changed reports whether the picture that it was made from is another one by now.
func (m Made) Changed(on *desk.Desk) bool {
	raw, err := fs.ReadFile(on.Tree(), desk.Name(m.File))
	return err == nil && fmt.Sprintf("%x", sha256.Sum256(raw)) != m.sum
}

// Tint starts making a tinted picture of a backdrop, a file of its own that says what it was made of, and
// tries it on. on is the desk with what is tried on; then is where a page goes on.
func (l *Layers) Tint(d *desks.Managed, on *desk.Desk, file string, t backdrop.Tint, then string) (*jobs.Job, error) {
	if err := t.Valid(); err != nil {
		return nil, err
	}
	percent := int(100*t.Strength + 0.5)
	return l.remake("Tint "+path.Base(file), d, on, file, fmt.Sprintf("%s-%d", strings.TrimPrefix(t.Toward.Hex(), "#"), percent), fmt.Sprintf("tinted %d %% towards %s", percent, t.Toward.Hex()),
		func(ctx context.Context, im image.Image) (*image.NRGBA, error) { return t.Apply(ctx, im) }, then), nil
}

// remake starts making a picture of another one, a file of its own whose name ends with what was
// done and which says how, and tries it on.
func (l *Layers) remake(title string, d *desks.Managed, on *desk.Desk, file, suffix, how string, work func(context.Context, image.Image) (*image.NRGBA, error), then string) *jobs.Job {
	return l.jobs.Start(title, func(ctx context.Context, j *jobs.Job) error {
		j.Step(title, "pictures")
		raw, err := fs.ReadFile(on.Tree(), desk.Name(file))
		if err != nil {
			return err
		}
		im := whole(ctx, raw)
		if im == nil {
			return errors.Join(ctx.Err(), fmt.Errorf("%s cannot be read", file))
		}
		made, err := work(ctx, im)
		if err != nil {
			return err
		}
		picture, ext, err := encoded(made)
		if err != nil {
			return err
		}
		picture = imagefile.Noted(picture, fmt.Sprintf("Made by Ivelt: %s, %s (sha256:%x)", file, how, sha256.Sum256(raw)))
		row, err := l.pieces.KeepFile(ctx, fmt.Sprintf("%s-%s%s", strings.TrimSuffix(path.Base(file), path.Ext(file)), suffix, ext), picture)
		if err != nil {
			return err
		}
		return l.overlays.TryWithin(ctx, j, d, row.SHA256, desk.FacetBackdrop, then)
	})
}

// Soften starts making a picture that is darker or lighter along one of its edges, and tries it on;
// as [Layers.Tint].
func (l *Layers) Soften(d *desks.Managed, on *desk.Desk, file string, s backdrop.Soft, then string) (*jobs.Job, error) {
	if err := s.Valid(); err != nil {
		return nil, err
	}
	how, edge := "lightened", "upper"
	if s.Dark {
		how = "darkened"
	}
	if s.Bottom {
		edge = "lower"
	}
	percent := int(100*s.Strength + 0.5)
	return l.remake("Soften "+path.Base(file), d, on, file, fmt.Sprintf("%s-%d", how, percent), fmt.Sprintf("%s %d %% along its %s edge", how, percent, edge),
		func(ctx context.Context, im image.Image) (*image.NRGBA, error) { return s.Apply(ctx, im) }, then), nil
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
