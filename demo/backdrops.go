package demo

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
)

// shore is what a backdrop of the demo is drawn from: a sky from its top down to
// the horizon, water from there, and what stands in it.
type shore struct {
	name        string
	sky, water  [3]string
	sun         string
	sunX, sunY  float64 // px of 1920 × 1200
	hills, near string
	seed        uint64
}

var shores = []shore{
	{"low-water", [3]string{"#7ba6b8", "#c7d6d2", "#f0e3cd"}, [3]string{"#b9c9c4", "#7fa3a6", "#3f6770"}, "#fff6df", 1370, 470, "#6f8f93", "#31505a", 7},
	{"after-the-lamp", [3]string{"#101b2c", "#22344c", "#5a5a70"}, [3]string{"#3a4560", "#1b2a3f", "#0b141f"}, "#f0d9a8", 540, 420, "#1c2b3d", "#0c1521", 21},
	{"red-buoy", [3]string{"#e8c9b0", "#f1dcc6", "#f9ecd8"}, [3]string{"#d8b9a4", "#a98a86", "#5d5163"}, "#fffaf0", 960, 560, "#b08f88", "#4a4254", 35},
}

// svg draws the shore, 1920 × 1200.
func (s shore) svg() []byte {
	const w, h, horizon = 1920, 1200, 640
	r := rand.New(rand.NewPCG(s.seed, 1))
	var b strings.Builder
	fmt.Fprintf(&b, "<!-- SPDX-License-Identifier: CC0-1.0 -->\n"+`<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d" viewBox="0 0 %d %d"><defs>`, w, h, w, h)
	for _, g := range []struct {
		id string
		c  [3]string
	}{{"s", s.sky}, {"w", s.water}} {
		fmt.Fprintf(&b, `<linearGradient id="%s" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="%s"/><stop offset="0.55" stop-color="%s"/><stop offset="1" stop-color="%s"/></linearGradient>`, g.id, g.c[0], g.c[1], g.c[2])
	}
	fmt.Fprintf(&b, `<radialGradient id="g"><stop offset="0" stop-color="%s" stop-opacity="0.9"/><stop offset="0.25" stop-color="%s" stop-opacity="0.35"/><stop offset="1" stop-color="%s" stop-opacity="0"/></radialGradient></defs>`, s.sun, s.sun, s.sun)
	fmt.Fprintf(&b, `<path d="M0 0H%dV%dH0Z" fill="url(#s)"/><circle cx="%g" cy="%g" r="520" fill="url(#g)"/><circle cx="%g" cy="%g" r="42" fill="%s"/>`, w, horizon+2, s.sunX, s.sunY, s.sunX, s.sunY, s.sun)
	// Hills far off, paler the farther.
	for layer := range 3 {
		fmt.Fprintf(&b, `<path d="M0 %d`, horizon+2)
		at := r.Float64() * 6
		for x := 0; x <= w; x += 40 {
			t := float64(x)/260 + at
			fmt.Fprintf(&b, "L%d %.1f", x, horizon-float64(14+layer*4)-float64(26-layer*6)*math.Abs(math.Sin(t)+0.5*math.Sin(2.3*t+float64(layer))))
		}
		fmt.Fprintf(&b, `L%d %dZ" fill="%s" opacity="%.2f"/>`, w, horizon+2, s.hills, 0.28+0.2*float64(layer))
	}
	fmt.Fprintf(&b, `<path d="M0 %dH%dV%dH0Z" fill="url(#w)"/>`, horizon, w, h)
	// The light on the water, and ripples that widen towards us.
	fmt.Fprintf(&b, `<g fill="%s">`, s.sun)
	for i := range 46 {
		y := horizon + 8 + math.Pow(float64(i)/46, 1.7)*540
		wide := (16 + (y-horizon)*0.24) * (0.5 + r.Float64())
		fmt.Fprintf(&b, `<ellipse cx="%.1f" cy="%.1f" rx="%.1f" ry="%.1f" opacity="%.2f"/>`, s.sunX+(r.Float64()-0.5)*(y-horizon)*0.35, y, wide, 1+(y-horizon)*0.008, 0.5-0.4*float64(i)/46)
	}
	b.WriteString(`</g>`)
	fmt.Fprintf(&b, `<g fill="%s">`, s.near)
	for i := range 90 {
		y := horizon + 14 + math.Pow(float64(i)/90, 1.5)*530
		fmt.Fprintf(&b, `<ellipse cx="%.1f" cy="%.1f" rx="%.1f" ry="%.1f" opacity="0.10"/>`, r.Float64()*w, y, (30+(y-horizon)*0.5)*(0.5+r.Float64()), 1+(y-horizon)*0.007)
	}
	b.WriteString(`</g>`)
	// A row of posts that runs out into the water.
	for i := range 9 {
		k := math.Pow(0.8, float64(i))
		x, y := 1560-float64(i)*30+360*k-300, horizon+40+470*k
		fmt.Fprintf(&b, `<path d="M%.1f %.1fl%.1f %.1fh%.1fl%.1f %.1fz" fill="%s" opacity="%.2f"/><ellipse cx="%.1f" cy="%.1f" rx="%.1f" ry="%.1f" fill="%s" opacity="0.25"/>`,
			x, y, -2*k, -190*k, 20*k, 6*k, 190*k, s.near, 0.55+0.45*k, x+14*k, y+8*k, 40*k, 5*k, s.near)
	}
	b.WriteString(`</svg>`)
	return []byte(b.String())
}
