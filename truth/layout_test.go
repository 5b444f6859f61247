package truth

import (
	"encoding/json"
	"fmt"
	"html"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/layout"
)

var dumped = regexp.MustCompile(`(?s)<pre>(.*)</pre>`)

// TestBarsAreLaidOutAsInTheBrowser: 500 bars by chance, with items that can be shortened and flexible
// space, at the start, in the middle and at the end, as Chromium lays out nested flex boxes of the same
// sizes (CSS Flexible Box Layout). Each item is at most a pixel apart (Debian: chromium).
func TestBarsAreLaidOutAsInTheBrowser(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(30, 4))
	const all = 500
	room := layout.Room{Padding: 6, Gap: 4, More: 20}
	var placed []layout.Placed
	var bars []layout.Bar
	var page strings.Builder
	page.WriteString(`<!doctype html><style>body{margin:0}.b{display:flex;box-sizing:border-box;padding:0 6px;gap:4px;height:20px}.s{display:flex;gap:4px}i{height:20px}</style><body>`)
	for range all {
		bar := layout.Bar{Edge: layout.Top, Thick: 20, Long: layout.Length{Of: layout.Fixed, N: 200 + r.IntN(1400)}}
		sizes := map[string]layout.Size{}
		for n := range 1 + r.IntN(12) {
			wants := float64(r.IntN(260))
			kind := []string{"windows", "title", "space", "stretch", "menu", "clock", "power"}[r.IntN(7)]
			size := layout.Size{Wants: wants, Least: wants}
			if k, _ := layout.KindOf(kind); k.Shortens {
				size.Least = float64(r.IntN(int(wants) + 1))
			}
			id := fmt.Sprint(n)
			sizes[id] = size
			bar.Items = append(bar.Items, layout.Item{Kind: kind, Side: layout.Aligns[r.IntN(3)], Options: []layout.Option{{Key: "id", Value: id}}})
		}
		measure := func(_ layout.Bar, i layout.Item, small bool) layout.Size {
			if small {
				return layout.Size{Wants: 16, Least: 16}
			}
			return sizes[layout.Get(i.Options, "id")]
		}
		out, _, _ := layout.Places([]layout.Bar{bar}, []layout.Screen{{Name: "A", Wide: 1600, High: 400}}, room, measure)
		require.Len(t, out, 1)
		placed, bars = append(placed, out[0]), append(bars, bar)
		how := map[int]layout.Form{}
		for _, p := range out[0].Items {
			how[p.Item] = p.How
		}
		sections, wants, least := map[layout.Align]string{}, map[layout.Align]float64{}, map[layout.Align]float64{}
		add := func(side layout.Align, item string, w, l float64) {
			if sections[side] != "" {
				w, l = w+room.Gap, l+room.Gap
			}
			sections[side] += item
			wants[side] += w
			least[side] += l
		}
		grows := map[layout.Align]bool{}
		for n, i := range bar.Items {
			size := sizes[layout.Get(i.Options, "id")]
			css, w, l := "", size.Wants, size.Least
			switch {
			case how[n] == layout.Behind:
				continue
			case how[n] == layout.Small:
				css, w, l = "flex:0 0 16px", 16, 16
			case i.Kind == "stretch":
				css, w, l, grows[i.Side] = "flex:1 1 0px;min-width:0", 0, 0, true
			default:
				css = fmt.Sprintf("flex:0 1 %gpx;min-width:%gpx", size.Wants, size.Least)
			}
			add(i.Side, fmt.Sprintf(`<i data-n="%d" style="%s"></i>`, n, css), w, l)
		}
		if !out[0].More.Empty() {
			add(layout.End, `<i data-n="-1" style="flex:0 0 20px"></i>`, room.More, room.More)
		}
		middle := sections[layout.Middle] != ""
		fmt.Fprintf(&page, `<div class="b" style="width:%dpx">`, out[0].At.Dx())
		for _, side := range layout.Aligns {
			if sections[side] == "" && (side == layout.Middle || !middle) {
				continue
			}
			css := fmt.Sprintf("flex:0 1 %gpx", wants[side])
			switch {
			case middle && side != layout.Middle:
				css = "flex:1 1 0px"
			case side == layout.Start, grows[side], !middle && sections[layout.Start] == "":
				css = fmt.Sprintf("flex:1 1 %gpx", wants[side])
			}
			css += fmt.Sprintf(";min-width:%gpx", least[side])
			if side == layout.End {
				css += ";justify-content:flex-end"
			}
			fmt.Fprintf(&page, `<div class="s" style="%s">%s</div>`, css, sections[side])
		}
		page.WriteString("</div>")
	}
	page.WriteString(`<script>const all=[...document.querySelectorAll(".b")].map(b=>Object.fromEntries([...b.querySelectorAll("i")].map(i=>[i.dataset.n,[i.getBoundingClientRect().left,i.getBoundingClientRect().right]])));
document.body.innerHTML="<pre>"+JSON.stringify(all)+"</pre>"</script>`)
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "a.html"), []byte(page.String()), 0o600))
	text := output(t, tool(t, "chromium-headless-shell", "chromium-headless-shell", "--no-sandbox", "--disable-gpu", "--window-size=1700,800", "--user-data-dir="+filepath.Join(dir, "profile"), "--dump-dom", "file://"+filepath.Join(dir, "a.html")))
	var theirs []map[string][2]float64
	found := dumped.FindStringSubmatch(text)
	require.NotNil(t, found)
	require.NoError(t, json.Unmarshal([]byte(html.UnescapeString(found[1])), &theirs))
	require.Len(t, theirs, all)
	items := 0
	for n, p := range placed {
		check := func(id string, from, to int) {
			require.InDelta(t, theirs[n][id][0], from, 1, "bar %d, item %s: %v of %v: %s", n, id, theirs[n][id], p, bars[n])
			require.InDelta(t, theirs[n][id][1], to, 1, "bar %d, item %s: %v of %v: %s", n, id, theirs[n][id], p, bars[n])
			items++
		}
		for _, i := range p.Items {
			if i.How != layout.Behind && i.At.Max.X < p.At.Max.X-6 { // what is cut off at its end aside
				check(fmt.Sprint(i.Item), i.At.Min.X-p.At.Min.X, i.At.Max.X-p.At.Min.X)
			}
		}
	}
	t.Logf("%d items on %d bars", items, all)
	require.Greater(t, items, 1500)
}
