package web_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/colour"
	"ivelt/core/recolour"
	"ivelt/web/browsertest"
)

// TestColoursAreMovedAsTheBrowserMovesThem: 2,000 colours that are dyed, against the browser's
// own relative colours (css-color-5, oklch(from …)). Those that sRGB cannot show are left out
// of the comparison and counted: there each has its own way back.
func TestColoursAreMovedAsTheBrowserMovesThem(t *testing.T) {
	b := newStage(t).browsePlain()
	b.Open("/d/avocet/history")
	b.At("History")
	parse := func(text string) colour.Colour {
		c, err := colour.Parse(text)
		require.NoError(t, err)
		return c
	}
	d := recolour.Dye{From: parse("#3d7ea6"), To: parse("#8c6a78")}
	fl, fc, _ := d.From.LCH()
	tl, tc, th := d.To.LCH()
	r := rand.New(rand.NewPCG(26, 4))
	var all []string
	for range 2000 {
		all = append(all, colour.Of8(uint8(r.UintN(256)), uint8(r.UintN(256)), uint8(r.UintN(256))).Hex())
	}
	list, err := json.Marshal(all)
	require.NoError(t, err)
	said := browsertest.Value[[][]float64](b.Browser, fmt.Sprintf(`(() => {
		const el = document.body.appendChild(document.createElement("i"));
		const numbers = text => text.match(/-?[\d.]+(e-?\d+)?/g).map(Number);
		return %s.map(c => {
			el.style.color = "oklch(from " + c + " l c h)";
			const [l, ch] = numbers(getComputedStyle(el).color.replace("oklch", ""));
			const light = l <= %[2]v ? "calc(l * %[3]v)" : "calc(1 + (l - 1) * %[4]v)";
			el.style.color = "color(from oklch(from " + c + " " + light + " calc(c * %[5]v) %[6]v) srgb r g b)";
			return [l, ch, ...numbers(getComputedStyle(el).color.replace("srgb", "")).slice(0, 3)];
		});
	})()`, list, fl, tl/fl, (1-tl)/(1-fl), tc/fc, th))
	require.Len(t, said, len(all))
	held, beyond, grey := 0, 0, 0
	for i, text := range all {
		c := parse(text)
		l, chroma, _ := c.LCH()
		require.InDelta(t, said[i][0], l, 0.001, text)
		require.InDelta(t, said[i][1], chroma, 0.001, text)
		to := d.Of(c)
		theirs := said[i][2:]
		switch {
		case chroma < 0.031:
			grey++
		case min(theirs[0], theirs[1], theirs[2]) < -0.001 || max(theirs[0], theirs[1], theirs[2]) > 1.001:
			beyond++
		default:
			held++
			require.InDeltaSlice(t, theirs, []float64{to.R, to.G, to.B}, 0.004, "%s is %s", text, to.Hex())
		}
	}
	t.Logf("%d of %d colours as the browser moves them; %d cannot be shown, %d are grey", held, len(all), beyond, grey)
	require.Greater(t, held, 1500)
}
