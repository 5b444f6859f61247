package judge

import (
	"image"

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

// most is how much of a picture's height is softened at most: more is another picture.
const most = 0.5

// soften finds by how little the backdrop has to be darker, or lighter, behind the bar alone, for
// something to be well there on all monitors.
func (j *judging) soften(s desk.Surface, well func([]where) bool) (best Soft, ok bool) {
	of := j.scenery()
	edge, thickness, has := j.barOf()
	mode, cut, _ := preview.Lies(j.d, j.look)
	if !has || len(of) != 1 || mode == backdrop.Tile || mode == backdrop.None {
		return best, false
	}
	var sizes []image.Point
	for _, m := range j.monitors() {
		sizes = append(sizes, image.Pt(m.Width, m.Height))
	}
	best.Picture, best.Bottom = of[0].path, edge == "bottom"
	for i, laid := range backdrop.Across(mode, of[0].w, of[0].h, backdrop.Row(sizes), cut) {
		under := (float64(thickness) - laid.Drawn.Y) / laid.Drawn.H
		if best.Bottom {
			under = 1 - (float64(sizes[i].Y-thickness)-laid.Drawn.Y)/laid.Drawn.H
		}
		best.Until = max(best.Until, under+0.01)
	}
	if !(best.Until > 0 && best.Until <= most) {
		return best, false
	}
	tries := func(percent int, of image.Image, w, h float64, k int) bool {
		best.Strength = float64(percent) / 100
		im, err := best.Apply(j.look.Context(), of)
		return err == nil && well(j.strips(s, []*scenery{{best.Picture, im, w, h, ""}}, image.Rectangle{}, k))
	}
	whole := of[0].im.Bounds()
	least := image.NewRGBA(image.Rect(0, 0, min(triedAt, whole.Dx()), max(whole.Dy()*min(triedAt, whole.Dx())/max(whole.Dx(), 1), 1)))
	draw.ApproxBiLinear.Scale(least, least.Rect, of[0].im, whole, draw.Src, nil)
	for percent := step; percent <= 100; percent += step {
		for _, best.Dark = range []bool{true, false} {
			if tries(percent, least, of[0].w, of[0].h, tried) && tries(percent, of[0].im, of[0].w, of[0].h, heldAt) {
				return best, true
			}
		}
	}
	return best, false
}
