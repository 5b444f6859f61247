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
	return l.jobs.Start("Tint "+path.Base(file), func(ctx context.Context, j *jobs.Job) error {
		j.Step("Tinting "+path.Base(file), "pictures")
		raw, err := fs.ReadFile(on.Tree(), desk.Name(file))
		if err != nil {
			return err
		}
		im := whole(ctx, raw)
		if im == nil {
			return errors.Join(ctx.Err(), fmt.Errorf("%s cannot be read", file))
		}
		made, err := t.Apply(ctx, im)
		if err != nil {
			return err
		}
		picture, ext, err := encoded(made)
		if err != nil {
			return err
		}
		percent := int(100*t.Strength + 0.5)
		picture = imagefile.Noted(picture, fmt.Sprintf("Made by Ivelt: %s, tinted %d %% towards %s (sha256:%x)", file, percent, t.Toward.Hex(), sha256.Sum256(raw)))
		stem := strings.TrimSuffix(path.Base(file), path.Ext(file))
		row, err := l.pieces.KeepFile(ctx, fmt.Sprintf("%s-%s-%d%s", stem, strings.TrimPrefix(t.Toward.Hex(), "#"), percent, ext), picture)
		if err != nil {
			return err
		}
		return l.overlays.TryWithin(ctx, j, d, row.SHA256, desk.FacetBackdrop, then)
	}), nil
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
