package iconbench

import (
	"bytes"
	"context"
	"image"
	"math"
	"slices"

	"golang.org/x/image/draw"

	"ivelt/core/colour"
	"ivelt/core/imagefile"
)

// Look is how one icon looks, in numbers. Lengths are parts of the icon's side, lightness and
// chroma those of OKLCH. What is measured is common practice, no source.
type Look struct {
	F    [features]float64
	Kind string             // of icon, such as the folder "apps" that it lies in: one is compared with its kind
	Hist map[uint16]float64 // parts of what is drawn, by colour: how much of it is about that colour
}

// The measures of a look.
const (
	mFill     = iota // part of the square that is covered
	mWide            // how wide what is drawn is
	mTall            // and how tall
	mMiddle          // where its middle is, from the top
	mSolid           // part of its own box that is covered
	mCorners         // part of the corners of its box that is empty
	mThrough         // part of what is drawn that is half seen through, such as shadows
	mLight           // mean lightness
	mLightVar        // and how it varies
	mChroma
	mChromaVar
	mHues    // how many hues it has, as the exponent of their entropy
	mGrey    // part without a hue
	mWhite   // part that is nearly white
	mBlack   // and nearly black
	mFlat    // part of its inside that is of one tone with what is beside it
	mShade   // part that goes over gently
	mEdges   // part with a hard edge
	mTones   // how many tones, as a logarithm
	mRim     // how much lighter the rim is than the inside
	mRimHue  // chroma of the rim
	mFall    // how much lighter the upper half is than the lower
	mBlur    // how wide edges are, px
	mOutline // length of the outline squared over the area, as a logarithm
	mWeight  // how heavy it is: coverage times contrast to white and black ground
	mDots    // single pixels unlike all around: fine detail
	mSize    // the longer side of what is drawn
	mBottom  // room below it
	mLeft    // and on its left
	mShadow  // part that is dark, without a hue and seen through
	mRing    // how much lighter the outermost pixels are than those inside them
	mRing2   // and those than the next
	mDark    // the tenth of it that is darkest: lightness
	mBright  // and the lightest
	mStrong  // the tenth with most chroma
	mEven    // how alike its left and right halves are
	mVector  // 1 for a drawing, 0 for a bitmap
	mNative  // px that it is made for, as a power of two
	mParts   // how many shapes a drawing has, as a logarithm
	mRamps   // gradients to a shape
	mFilters // filters to a shape
	mStrokes // lines to a shape
	features
)

const side = 48

// look measures a picture drawn at [side] px; false if nothing is in it.
func look(im image.Image) (out Look, ok bool) {
	var a, l, ca, cb, ch [side][side]float64
	out.Hist = map[uint16]float64{}
	b := im.Bounds()
	offX, offY := (side-b.Dx())/2, (side-b.Dy())/2
	var area, top, sumL, sumLL, sumC, sumCC, through, grey, white, black, midY float64
	x0, y0, x1, y1 := side, side, 0, 0
	var hues [24]float64
	var shadow float64
	var lights, chromas []float64
	var hued float64
	tones := map[uint16]bool{}
	var last struct{ r, g, b, a uint32 } // what is beside each other is often of one colour
	var li, aa, bb, chroma float64
	for y := range side {
		for x := range side {
			px, py := b.Min.X+x-offX, b.Min.Y+y-offY
			if !image.Pt(px, py).In(b) {
				continue
			}
			r, g, bl, al := im.At(px, py).RGBA()
			if al < 0x0a00 {
				continue
			}
			of := float64(al)
			if now := (struct{ r, g, b, a uint32 }{r, g, bl, al}); now != last {
				last = now
				li, aa, bb = colour.Colour{R: float64(r) / of, G: float64(g) / of, B: float64(bl) / of}.Lab()
				chroma = math.Hypot(aa, bb)
			}
			w := of / 0xffff
			a[y][x], l[y][x], ca[y][x], cb[y][x], ch[y][x] = w, li, aa, bb, chroma
			area += w
			midY += w * float64(y)
			if w > 0.06 {
				x0, y0, x1, y1 = min(x0, x), min(y0, y), max(x1, x+1), max(y1, y+1)
			}
			if w < 0.9 {
				through += w
				if li < 0.25 && chroma < 0.05 {
					shadow += w
				}
			}
			lights, chromas = append(lights, li), append(chromas, chroma)
			sumL, sumLL, sumC, sumCC = sumL+w*li, sumLL+w*li*li, sumC+w*chroma, sumCC+w*chroma*chroma
			switch {
			case chroma < colour.Grey:
				grey += w
			default:
				h := math.Atan2(bb, aa)/(2*math.Pi) + 1
				hues[int(h*24)%24] += w * chroma
				hued += w * chroma
			}
			if li > 0.95 {
				white += w
			}
			if li < 0.3 {
				black += w
			}
			if w > 0.9 {
				key := uint16(min(li*16, 15))<<8 | uint16(min(max(aa*25+8, 0), 15))<<4 | uint16(min(max(bb*25+8, 0), 15))
				out.Hist[key] += w
				fine := uint16(li*31)<<10 | uint16(min(max(aa*50+16, 0), 31))<<5 | uint16(min(max(bb*50+16, 0), 31))
				tones[fine] = true
				top++
			}
		}
	}
	if area < 4 || x1 <= x0 {
		return out, false
	}
	for key := range out.Hist {
		out.Hist[key] /= max(top, 1)
	}
	var flat, shade, hard, inner, rimL, rimN, rimC, inL, inN, upL, upN, downL, downN, blurN, blurSum, edge, dots, weight float64
	at := func(y, x int) float64 {
		if x < 0 || y < 0 || x >= side || y >= side {
			return 0
		}
		return a[y][x]
	}
	rims := near(&a)
	for y := range side {
		for x := range side {
			w := a[y][x]
			if w >= 0.5 {
				for _, d := range [][2]int{{0, 1}, {1, 0}, {0, -1}, {-1, 0}} {
					if at(y+d[0], x+d[1]) < 0.5 {
						edge++
					}
				}
			}
			if w == 0 {
				continue
			}
			weight += w * math.Abs(l[y][x]-0.6)
			if w < 0.6 {
				continue
			}
			if rims[y][x] {
				rimL, rimC, rimN = rimL+l[y][x], rimC+ch[y][x], rimN+1
			} else {
				inL, inN = inL+l[y][x], inN+1
			}
			if y < (y0+y1)/2 {
				upL, upN = upL+l[y][x], upN+1
			} else {
				downL, downN = downL+l[y][x], downN+1
			}
			if at(y, x+1) < 0.9 || at(y+1, x) < 0.9 || at(y, x-1) < 0.9 || at(y-1, x) < 0.9 {
				continue
			}
			dist := func(yy, xx int) float64 {
				return math.Sqrt((l[y][x]-l[yy][xx])*(l[y][x]-l[yy][xx]) + (ca[y][x]-ca[yy][xx])*(ca[y][x]-ca[yy][xx]) + (cb[y][x]-cb[yy][xx])*(cb[y][x]-cb[yy][xx]))
			}
			g := max(dist(y, x+1), dist(y+1, x))
			least := min(dist(y, x+1), dist(y+1, x), dist(y, x-1), dist(y-1, x))
			inner++
			switch {
			case g < 0.004:
				flat++
			case g < 0.04:
				shade++
			default:
				hard++
			}
			if least > 0.04 {
				dots++
			}
			// An edge's width: what it goes over in all, over its steepest step.
			if g > 0.06 && x >= 2 && x < side-2 && y >= 2 && y < side-2 {
				whole := max(dist2(l, y, x-2, y, x+2), dist2(l, y-2, x, y+2, x))
				blurSum, blurN = blurSum+whole/g, blurN+1
			}
		}
	}
	of := func(n, all float64) float64 {
		if all == 0 {
			return 0
		}
		return n / all
	}
	w, h := float64(x1-x0), float64(y1-y0)
	f := &out.F
	f[mFill] = area / (side * side)
	f[mWide], f[mTall] = w/side, h/side
	f[mMiddle] = midY / area / side
	f[mSolid] = area / (w * h)
	f[mCorners] = corners(&a, x0, y0, x1, y1)
	f[mThrough] = through / area
	f[mLight] = sumL / area
	f[mLightVar] = math.Sqrt(max(sumLL/area-f[mLight]*f[mLight], 0))
	f[mChroma] = sumC / area
	f[mChromaVar] = math.Sqrt(max(sumCC/area-f[mChroma]*f[mChroma], 0))
	entropy := 0.0
	for _, n := range hues {
		if p := of(n, hued); p > 0 {
			entropy -= p * math.Log(p)
		}
	}
	if hued > 0 {
		f[mHues] = math.Exp(entropy)
	}
	f[mGrey], f[mWhite], f[mBlack] = grey/area, white/area, black/area
	f[mFlat], f[mShade], f[mEdges], f[mDots] = of(flat, inner), of(shade, inner), of(hard, inner), of(dots, inner)
	f[mTones] = math.Log1p(float64(len(tones)))
	f[mRim], f[mRimHue] = of(rimL, rimN)-of(inL, inN), of(rimC, rimN)
	if inN == 0 {
		f[mRim] = 0
	}
	f[mFall] = of(upL, upN) - of(downL, downN)
	f[mBlur] = of(blurSum, blurN)
	f[mOutline] = math.Log1p(edge * edge / area)
	f[mWeight] = weight / (side * side)
	f[mSize], f[mBottom], f[mLeft] = max(w, h)/side, float64(side-y1)/side, float64(x0)/side
	f[mShadow] = shadow / area
	var ring [3]float64
	var ringN [3]float64
	for y := range side {
		for x := range side {
			if a[y][x] < 0.75 {
				continue
			}
			for d := range 3 {
				if at(y+d+1, x) < 0.5 || at(y-d-1, x) < 0.5 || at(y, x+d+1) < 0.5 || at(y, x-d-1) < 0.5 {
					ring[d] += l[y][x]
					ringN[d]++
					break
				}
			}
		}
	}
	if ringN[0] > 0 && ringN[1] > 0 {
		f[mRing] = ring[0]/ringN[0] - ring[1]/ringN[1]
		if ringN[2] > 0 {
			f[mRing2] = ring[1]/ringN[1] - ring[2]/ringN[2]
		}
	}
	slices.Sort(lights)
	slices.Sort(chromas)
	f[mDark], f[mBright], f[mStrong] = lights[len(lights)/10], lights[len(lights)*9/10], chromas[len(chromas)*9/10]
	var unlike float64
	for y := y0; y < y1; y++ {
		for x := x0; x < (x0+x1)/2; x++ {
			m := x1 - 1 - (x - x0)
			unlike += math.Abs(a[y][x]*l[y][x]-a[y][m]*l[y][m]) + math.Abs(a[y][x]-a[y][m])
		}
	}
	f[mEven] = unlike / area
	return out, true
}

func dist2(l [side][side]float64, y, x, yy, xx int) float64 { return math.Abs(l[y][x] - l[yy][xx]) }

// near is where what is not covered by half is no further off than two pixels.
func near(a *[side][side]float64) (out [side][side]bool) {
	var along [side][side]bool
	for y := range side {
		for x := range side {
			for k := x - 2; k <= x+2 && !along[y][x]; k++ {
				along[y][x] = k < 0 || k >= side || a[y][k] < 0.5
			}
		}
	}
	for y := range side {
		for x := range side {
			for k := y - 2; k <= y+2 && !out[y][x]; k++ {
				out[y][x] = k < 0 || k >= side || along[k][x]
			}
		}
	}
	return out
}

// corners is the part of the four corners of a box, each an eighth of its sides, that is empty.
func corners(a *[side][side]float64, x0, y0, x1, y1 int) float64 {
	w, h := max((x1-x0)/8, 1), max((y1-y0)/8, 1)
	sum := 0.0
	for y := range h {
		for x := range w {
			sum += a[y0+y][x0+x] + a[y0+y][x1-1-x] + a[y1-1-y][x0+x] + a[y1-1-y][x1-1-x]
		}
	}
	return 1 - sum/float64(4*w*h)
}

// LookOf reads a picture and measures it; false for what cannot be read or has nothing in it.
func LookOf(ctx context.Context, raw []byte) (Look, bool) {
	im := imagefile.Raster(ctx, raw, side)
	if im == nil {
		return Look{}, false
	}
	w, h := im.Bounds().Dx(), im.Bounds().Dy()
	if w > side || h > side {
		k := float64(side) / float64(max(w, h))
		small := image.NewRGBA(image.Rect(0, 0, max(int(float64(w)*k), 1), max(int(float64(h)*k), 1)))
		draw.ApproxBiLinear.Scale(small, small.Bounds(), im, im.Bounds(), draw.Src, nil)
		im = small
	}
	l, ok := look(im)
	if ok {
		l.made(raw)
	}
	return l, ok
}

// made measures how a picture is made.
func (l *Look) made(raw []byte) {
	w, h := imagefile.Size(raw)
	l.F[mNative] = math.Log2(max(w, h, 1))
	if imagefile.MediaType(raw) != "image/svg+xml" {
		return
	}
	l.F[mVector] = 1
	count := func(of ...string) (n float64) {
		for _, text := range of {
			n += float64(bytes.Count(raw, []byte(text)))
		}
		return n
	}
	parts := 1 + count("<path", "<rect", "<circle", "<ellipse", "<use", "<polygon")
	l.F[mParts] = math.Log(parts)
	l.F[mRamps] = min(count("Gradient ", "Gradient>")/parts, 3)
	l.F[mFilters] = min(count("<filter")/parts, 3)
	l.F[mStrokes] = min((count("stroke=\"#", "stroke:#", "stroke:url"))/parts, 3)
}

// shapes are the measures of what an icon's outline and inside are like, whatever its colours.
var shapes = []int{mFill, mWide, mTall, mMiddle, mSolid, mCorners, mEven, mLight, mDark, mBright, mEdges}

// Like is how alike two looks are, from 0 to 1: by the colours that they have in common, and by
// their shapes. Common practice, no source.
func (l Look) Like(o Look) float64 {
	common := 0.0
	for key, part := range l.Hist {
		common += min(part, o.Hist[key])
	}
	apart := 0.0
	for _, j := range shapes {
		apart += math.Abs(l.F[j] - o.F[j])
	}
	return 0.6*common + 0.4*math.Exp(-6*apart/float64(len(shapes)))
}
