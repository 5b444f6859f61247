package judge

import (
	"image"
	"math"

	"golang.org/x/image/draw"

	"ivelt/core/backdrop"
	"ivelt/core/desk"
	"ivelt/core/preview"
)

// Soft is a backdrop that is softened along an edge.
type Soft struct {
	Picture string `json:"picture"` // its full path
	backdrop.Soft
}

// Kind names what is done: darkened, lightened or blurred.
func (s Soft) Kind() string {
	switch {
	case s.Blur > 0:
		return "blurred"
	case s.Dark:
		return "darkened"
	default:
		return "lightened"
	}
}

// most is how much of a picture is softened at most: more is another picture.
const most = 0.5

// blurs are how strongly a picture is blurred, of its height, that are looked through.
var blurs = []float64{0.005, 0.01, 0.02, 0.04, 0.08}

// soften finds by how little the backdrop has to be darker or lighter, or blurred, behind a site
// alone, for it to be well there on all monitors.
func (j *judging) soften(s site) (out []Soft) {
	of := j.scenery()
	mode, cut, _ := preview.Lies(j.d, j.look)
	if len(of) != 1 || mode == backdrop.Tile || mode == backdrop.None {
		return nil
	}
	soft := Soft{of[0].path, backdrop.Soft{Edge: s.edge}}
	for i, laid := range backdrop.Across(mode, of[0].w, of[0].h, desk.Places(j.monitors()), cut) {
		for _, place := range s.places(j.monitors()[i]) {
			at := place.at.Intersect(image.Rect(0, 0, int(laid.W), int(laid.H)))
			if at.Empty() {
				continue
			}
			under := (float64(at.Max.Y) - laid.Drawn.Y) / laid.Drawn.H
			switch s.edge {
			case "lower":
				under = 1 - (float64(at.Min.Y)-laid.Drawn.Y)/laid.Drawn.H
			case "left":
				under = (float64(at.Max.X) - laid.Drawn.X) / laid.Drawn.W
			case "right":
				under = 1 - (float64(at.Min.X)-laid.Drawn.X)/laid.Drawn.W
			}
			soft.Until = max(soft.Until, math.Ceil(1000*under+10)/1000)
		}
	}
	if !(soft.Until > 0 && soft.Until <= most) {
		return nil
	}
	does := func(of image.Image, w, h float64, k int) bool {
		im, err := soft.Apply(j.look.Context(), of)
		return err == nil && s.well(j.over(s, []*scenery{{soft.Picture, im, w, h, ""}}, image.Rectangle{}, k))
	}
	whole := of[0].im.Bounds()
	least := image.NewRGBA(image.Rect(0, 0, min(triedAt, whole.Dx()), max(whole.Dy()*min(triedAt, whole.Dx())/max(whole.Dx(), 1), 1)))
	draw.ApproxBiLinear.Scale(least, least.Rect, of[0].im, whole, draw.Src, nil)
	do := func() bool {
		return does(least, of[0].w, of[0].h, tried) && does(of[0].im, of[0].w, of[0].h, heldAt)
	}
	shade := func() bool {
		for percent := step; percent <= 100; percent += step {
			soft.Strength = float64(percent) / 100
			for _, soft.Dark = range []bool{true, false} {
				if do() {
					return true
				}
			}
		}
		return false
	}
	if shade() {
		out = append(out, soft)
	}
	soft.Strength, soft.Dark = 0, false
	for _, soft.Blur = range blurs {
		if do() {
			return append(out, soft)
		}
	}
	return out
}
