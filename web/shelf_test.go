package web_test

import (
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/layer"
	"ivelt/core/parcel"
)

var (
	shelved = regexp.MustCompile(`<li class="tag tag-small[^"]*" id="([^"]+)"`)
	picked  = regexp.MustCompile(`class="pick"[^>]*aria-checked="(true|false)"[^>]*id="([^"]+)"`)
)

func ids(re *regexp.Regexp, group int, page string) (out []string) {
	for _, m := range re.FindAllStringSubmatch(page, -1) {
		out = append(out, m[group])
	}
	return out
}

// TestShelfOfAllKinds: every kind that some surface finds, each piece once, sifted by words,
// kind and whose it is; a theme is renamed; what a saved look names says so.
func TestShelfOfAllKinds(t *testing.T) {
	v := newStage(t).visit()
	shelf := func(query string) []string {
		page, _ := v.get("/d/dunlin/shelf?" + query)
		return ids(shelved, 1, page)
	}
	all := shelf("")
	for _, id := range []string{"widgets-Saltpan", "icons-Foreshore", "icons-Glasswort", "pointer-Sandpiper", "font-Estuary Sans", "login-Slack-Water"} {
		require.Contains(t, all, id)
	}
	require.Less(t, len(shelf("only=mine")), len(all))
	require.Equal(t, all[:len(shelf("only=mine"))], shelf("only=mine"), "one's own come first")
	require.Equal(t, []string{"pointer-Sandpiper"}, shelf("kind=pointer"))
	require.Equal(t, []string{"icons-Glasswort"}, shelf("q=glass+icon"))
	require.Empty(t, shelf("only=newer"))
	byKind := shelf("sort=kind")
	require.ElementsMatch(t, all, byKind)
	require.Less(t, slices.Index(byKind, "widgets-Saltpan"), slices.Index(byKind, "icons-Foreshore"))
	require.Less(t, slices.Index(byKind, "icons-Foreshore"), slices.Index(byKind, "pointer-Sandpiper"))
	byName := shelf("sort=name&kind=icons")
	require.True(t, slices.IsSorted(byName), "%v", byName)
	page, _ := v.get("/d/dunlin/shelf?q=nothinglikethis")
	require.Contains(t, page, "Nothing found")

	dir := filepath.Join(v.world.Dunlin.Home, ".themes/Saltpan")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "index.theme"), []byte("[Desktop Entry]\nType=X\nName=Saltpan\n"), 0o644))
	v.post("/d/dunlin/rename", url.Values{"path": {"/home/mara/.themes/Saltpan"}, "name": {"White crust"}})
	b, err := os.ReadFile(filepath.Join(dir, "index.theme"))
	require.NoError(t, err)
	require.Equal(t, "[Desktop Entry]\nType=X\nName=White crust\n", string(b))

	// What a saved look names would be missed.
	v.get("/d/avocet/find")
	_, at := v.post("/d/avocet/fetch", url.Values{"entry": {"limpet"}})
	v.post(at+"/install", url.Values{"piece": {"pointer Limpet Limpet"}, "scope": {"mine"}})
	v.post("/d/avocet/draft", url.Values{"facet": {"pointer"}, "piece": {"Limpet"}})
	v.post("/d/avocet/looks", url.Values{"do": {"keep"}, "name": {"Low tide"}})
	v.post("/d/avocet/draft/drop", nil)
	page, _ = v.get("/d/avocet/shelf?kind=pointer")
	require.Contains(t, page, "named in the saved look “Low tide”")
	page, _ = v.get("/d/avocet/shelf?sort=latest")
	require.Equal(t, "pointer-Limpet", ids(shelved, 1, page)[0])

	// By maker: as the market says, as a font says of itself, as a list of authors says; the
	// others last.
	require.NoError(t, os.WriteFile(filepath.Join(v.world.Avocet.System, "usr/share/icons/Foreshore/AUTHORS"), []byte("Aagje Brandt <a@example.org>\n"), 0o644))
	page, _ = v.get("/d/avocet/shelf?sort=maker")
	heads := ids(regexp.MustCompile(`<li class="wall-group">\s*<h2>([^<]*)</h2>`), 1, page)
	require.Equal(t, "Aagje Brandt", heads[0])
	require.Equal(t, "Maker not given", heads[len(heads)-1])
	require.True(t, slices.IsSortedFunc(heads[:len(heads)-1], func(a, b string) int { return strings.Compare(strings.ToLower(a), strings.ToLower(b)) }), "%q", heads)
	limpet, err := v.app.Record.Origins("avocet")
	require.NoError(t, err)
	require.Contains(t, heads, limpet[len(limpet)-1].From.Maker)
	page, _ = v.get("/d/avocet/shelf?q=aagje")
	require.Equal(t, []string{"icons-Foreshore"}, ids(shelved, 1, page))
}

// TestAWallOfMany: of 300 pieces a wall shows the first, with what is chosen and what is in
// use among them, and finds the others by their words.
func TestAWallOfMany(t *testing.T) {
	v := newStage(t).visit()
	for i := range 300 {
		dir := v.home(fmt.Sprintf(".themes/Pier-%03d/gtk-3.0", i))
		require.NoError(t, os.MkdirAll(dir, 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, "gtk.css"), nil, 0o644))
	}
	v.post("/d/avocet/draft", url.Values{"facet": {"widgets"}, "piece": {"Pier-250"}})
	page, _ := v.get("/d/avocet/compose")
	on := ids(picked, 2, page)
	require.Len(t, on, 12)
	require.Contains(t, on, "widgets-Pier-250", "it is chosen")
	require.Contains(t, on, "widgets-Saltpan", "it is in use")
	require.Contains(t, page, "Show all 3")
	page, _ = v.get("/d/avocet/compose?facet=widgets&q=pier-07")
	require.Len(t, ids(picked, 2, page), 10)
	page, _ = v.get("/d/avocet/compose?facet=widgets&all=1")
	require.Greater(t, len(ids(picked, 2, page)), 300)
	require.Contains(t, strings.Join(ids(picked, 2, page), " "), "widgets-Adwaita", "what is built in can be chosen")
	for _, twin := range []string{"Pier-301", "Pier-302"} {
		dir := v.home(".themes/" + twin)
		require.NoError(t, os.MkdirAll(filepath.Join(dir, "gtk-3.0"), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, "gtk-3.0/gtk.css"), nil, 0o644))
		require.NoError(t, os.WriteFile(filepath.Join(dir, "index.theme"), []byte("[Desktop Entry]\nName=Jetty\n"), 0o644))
	}
	page, _ = v.get("/d/avocet/compose?facet=widgets&q=jetty")
	require.Equal(t, 2, strings.Count(page, "<b>Jetty</b>"))
	require.Contains(t, page, `<span class="tag-line mono">Pier-302</span>`, "twins are told apart by what programs ask for")
	page, _ = v.get("/d/avocet/compose?facet=ground")
	require.Contains(t, page, `id="fine-ground"`, "a fine setting leads to its group")
	require.NotContains(t, page, `id="fine-hinting"`)
}

// TestGoAnywhere leads to pages, settings, programs and pieces by the words people have for
// them, what begins with them first.
func TestGoAnywhere(t *testing.T) {
	v := newStage(t).visit()
	v.get("/d/avocet/find")
	for words, leads := range map[string]string{
		"hist": "/d/avocet/history", "undo": "/d/avocet/history", "transparency": "/d/avocet/compose?facet=opacity", "cursor size": "/d/avocet/compose?facet=pointer-size",
		"wallpaper": "/d/avocet/compose?facet=backdrop", "monospace": "/d/avocet/compose?facet=font-mono", "smooth": "/d/avocet/compose?facet=antialias", "foresh": "/d/avocet/shelf?q=Foreshore",
		"limpet": "/d/avocet/find?q=Limpet", "bittern": "/d/avocet/terminal/bittern",
	} {
		page, _ := v.get("/d/avocet/go?q=" + url.QueryEscape(words))
		require.Contains(t, strings.ReplaceAll(page, "&amp;", "&"), `href="`+leads+`"`, words)
	}
	page, _ := v.get("/d/avocet/go?q=match")
	require.Regexp(t, `^\s*<a href="/d/avocet/match"`, page)
	require.Contains(t, page, "<kbd>g m</kbd>")
	page, _ = v.get("/d/avocet/go?q=")
	require.NotContains(t, page, "<a")
}

// TestALayerOnTheShelf: a layer says what it lies over, and what of it no longer fits; it is
// built again over an updated theme, and going back brings the one before.
func TestALayerOnTheShelf(t *testing.T) {
	v := newStage(t).visit()
	d, err := v.app.Desk("dunlin")
	require.NoError(t, err)
	r := layer.Recipe{
		Name: "White crust, large", Folder: "Saltpan-Large", Base: layer.Base{Kind: parcel.Theme, Folder: "Saltpan"},
		Rules: []layer.Rule{{Parts: []string{"samphire"}, Selector: "panel", Set: map[string]string{"font-size": "11pt", "padding": "0 9px"}}},
	}
	root, err := layer.Base{Kind: parcel.Theme, Folder: "Saltpan"}.Find(d.Desk)
	require.NoError(t, err)
	r, _, err = layer.Rebased(t.Context(), d.Tree(), root, r)
	require.NoError(t, err)
	_, job, err := v.app.Pieces.Layer(t.Context(), d, r, false, "")
	require.NoError(t, err)
	require.NoError(t, job.Wait())
	page, _ := v.get("/d/dunlin/shelf?kind=theme")
	require.Contains(t, page, "a layer over Saltpan</li>")
	require.NotContains(t, page, "Build again")

	home := v.world.Dunlin.Home
	sheet := filepath.Join(home, ".themes/Saltpan/samphire/bar.css")
	b, err := os.ReadFile(sheet)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(sheet, []byte(strings.Replace(string(b), "padding: 0 12px", "padding: 0 20px", 1)), 0o644))
	page, _ = v.get("/d/dunlin/shelf?kind=theme")
	require.Contains(t, page, "a layer over Saltpan, which has changed since")
	require.Contains(t, page, "the theme changed panel { padding } from 0 12px to 0 20px; the layer says 0 9px")
	v.post("/d/dunlin/layer", url.Values{"path": {"/home/mara/.themes/Saltpan-Large"}})
	page, _ = v.get("/d/dunlin/shelf?kind=theme")
	require.Contains(t, page, "a layer over Saltpan</li>")
	laid := func(name string) string {
		b, err := os.ReadFile(filepath.Join(home, ".themes/Saltpan-Large/samphire", name))
		require.NoError(t, err)
		return string(b)
	}
	require.Contains(t, laid("bar.base.css"), "padding: 0 20px")
	require.Contains(t, laid("bar.css"), "font-size: 11pt")

	page, _ = v.post("/d/dunlin/layer", url.Values{"path": {"/home/mara/.themes/Saltpan"}})
	require.Contains(t, page, "That is no layer over another theme")
	require.NoError(t, os.WriteFile(filepath.Join(home, ".themes/Saltpan-Large/layer.toml"), []byte("format = 1\nname ="), 0o644))
	page, _ = v.get("/d/dunlin/shelf?kind=theme")
	require.Contains(t, page, "its recipe cannot be used: not a layer's recipe")
}
