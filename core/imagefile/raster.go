package imagefile

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"io"
	"runtime"

	_ "golang.org/x/image/webp"

	"ivelt/core/svgraster"
)

// What unpacking a picture may take. One of 7680 × 4320 pixels, the largest screens', has
// 33 million.
const (
	MaxPixels  = 40_000_000
	maxDecoded = 144 << 20 // bytes
	large      = 32 << 20  // bytes, before which room is made
)

// PNG is a drawing of our own as a PNG of a size in pixels.
func PNG(ctx context.Context, svg []byte, w, h int) ([]byte, error) {
	im, err := svgraster.Draw(ctx, svg, w, h, svgraster.Options{
		Decode: func(raw []byte) (image.Image, error) { return Decode(ctx, raw) },
	})
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = png.Encode(&b, im)
	return b.Bytes(), err
}

// Decode reads a PNG, JPEG or WebP, turned as it is to be shown. One that would take too much is [ErrCostly]; once ctx
// has ended it fails with its error.
func Decode(ctx context.Context, raw []byte) (image.Image, error) { return decode(raw, ctx.Err) }

// Readable reads all of a PNG, JPEG or WebP, to tell whether that can be done.
func Readable(raw []byte) error {
	_, err := decode(raw, func() error { return nil })
	return err
}

// decode reads a picture until it has ended otherwise.
func decode(raw []byte, ended func() error) (image.Image, error) {
	takes, err := affordable(raw)
	if err != nil {
		return nil, err
	}
	if takes > large { // what was unpacked before and is done with would else lie beside it
		runtime.GC()
	}
	im, kind, err := image.Decode(&steadily{ended, raw})
	if err != nil {
		return nil, err
	}
	if kind == "webp" {
		im = asStudio(im)
	}
	return Upright(im, Turn(raw)), nil
}

// steadily gives bytes a few at a time, until it has ended.
type steadily struct {
	ended func() error
	raw   []byte
}

func (s *steadily) Read(b []byte) (int, error) {
	if err := s.ended(); err != nil {
		return 0, err
	}
	if len(s.raw) == 0 {
		return 0, io.EOF
	}
	n := copy(b[:min(len(b), 4096)], s.raw)
	s.raw = s.raw[n:]
	return n, nil
}

// affordable tells by the head of a PNG, JPEG or WebP what it takes to unpack it, or why it
// may not be.
func affordable(raw []byte) (takes int, err error) {
	c, kind, err := image.DecodeConfig(bytes.NewReader(raw))
	if err != nil {
		return 0, err
	}
	perPixel := 4
	switch c.ColorModel {
	case color.RGBA64Model, color.NRGBA64Model:
		perPixel = 8
	case color.Gray16Model:
		perPixel = 2
	case color.GrayModel:
		perPixel = 1
	}
	if _, ok := c.ColorModel.(color.Palette); ok {
		perPixel = 1
	}
	switch {
	case kind == "png" && len(raw) > 28 && raw[28] != 0: // interlaced: each pass is a picture of its own
		perPixel *= 2
	case kind == "jpeg":
		perPixel = perPixelOf(raw)
	}
	pixels := c.Width * c.Height
	if takes = pixels * perPixel; pixels > MaxPixels || takes > maxDecoded {
		return 0, fmt.Errorf("%w: %d × %d pixels", ErrCostly, c.Width, c.Height)
	}
	return takes, nil
}

// perPixelOf is what a pixel of a JPEG takes while it is unpacked, in bytes: of a
// progressive one all coefficients are held, at four bytes each (ITU-T T.81, B.2.2).
func perPixelOf(raw []byte) int {
	for at := 2; at+18 <= len(raw) && raw[at] == 0xff; {
		size := int(binary.BigEndian.Uint16(raw[at+2:]))
		switch raw[at+1] {
		case 0xc0, 0xc1:
			return 4
		case 0xc2:
			sum, most := 0, 1
			for i := range min(int(raw[at+9]), 4) {
				if at+11+3*i >= len(raw) {
					break
				}
				n := int(raw[at+11+3*i]>>4) * int(raw[at+11+3*i]&15)
				sum, most = sum+n, max(most, n)
			}
			return 5 * sum / most
		}
		at += 2 + size
	}
	return 20
}

// Raster reads a PNG, JPEG or WebP as it is, or draws an SVG so that its longer
// side has size px. It returns nil for what is none of them, or would take too much, and
// once ctx has ended.
func Raster(ctx context.Context, raw []byte, size int) (im image.Image) {
	if _, _, err := image.DecodeConfig(bytes.NewReader(raw)); err == nil {
		if im, err = Decode(ctx, raw); err != nil {
			return nil
		}
		return im
	}
	if errors.Is(check(ctx.Err, raw, maxInside), ErrCostly) || ctx.Err() != nil {
		return nil
	}
	out, err := svgraster.Fit(ctx, raw, size, bounded(ctx, maxPaint))
	if err != nil {
		return nil
	}
	return out
}

// Large draws an SVG as [Raster] does, at up to sixteen times the work: for a job that can be waited for.
// It returns nil for one that would take more, and once ctx has ended.
func Large(ctx context.Context, raw []byte, size int) image.Image {
	if errors.Is(check(ctx.Err, raw, maxInside), ErrCostly) || ctx.Err() != nil {
		return nil
	}
	out, err := svgraster.Fit(ctx, raw, size, bounded(ctx, 16*maxPaint))
	if err != nil {
		return nil
	}
	return out
}

func bounded(ctx context.Context, work int) svgraster.Options {
	return svgraster.Options{
		Work: work, Decode: func(inside []byte) (image.Image, error) { return decode(inside, ctx.Err) },
	}
}

// maxElement bounds what measuring or drawing one element takes: a dozen are drawn for a page.
const maxElement = maxPaint / 12

// Elements reads an SVG whose elements are drawn alone. Errors are [ErrCostly], those of
// svgraster, or the context's.
func Elements(ctx context.Context, raw []byte) (*svgraster.Drawing, error) {
	if err := check(ctx.Err, raw, maxInside); errors.Is(err, ErrCostly) || ctx.Err() != nil {
		return nil, errors.Join(err, ctx.Err())
	}
	return svgraster.Read(ctx, raw, bounded(ctx, maxElement))
}

// maxPaint bounds what drawing a picture takes, in pixels that are filled. Half a second or
// one of work; of real icons the dearest takes as much at 640 px.
const maxPaint = 200_000_000
