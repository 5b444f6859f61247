package web_test

import (
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ivelt/core/language"
	"ivelt/web"
	"ivelt/web/browsertest"
)

// cutOff are parts of a page that reach beyond it, or beyond what hides what does not fit.
const cutOff = `((of) => {
	const known = new Map(), style = (e) => known.get(e) ?? known.set(e, getComputedStyle(e)).get(e);
	const hides = (e) => ["hidden", "clip"].includes(style(e).overflowX);
	const scrolls = (e) => ["auto", "scroll"].includes(style(e).overflowX);
	return [...document.querySelectorAll(of + " :is(a, button, select, input, label, p, h1, h2, h3, li, td, th, span, b, dt, dd, legend, summary)")].filter(e => {
		const at = e.getBoundingClientRect();
		if (at.width < 2 || at.height < 2 || e.closest(".visually-hidden, dialog:not([open]), .skip, details:not([open]) > :not(summary)")) return false;
		if (hides(e) && e.scrollWidth > e.clientWidth + 1 && style(e).textOverflow !== "ellipsis") return true;
		for (let p = e.parentElement; p && p !== document.body; p = p.parentElement) {
			if (scrolls(p)) return false;
			const box = p.getBoundingClientRect();
			if (hides(p) && e.children.length === 0 && style(p).textOverflow !== "ellipsis" && (at.right > box.right + 2 || at.left < box.left - 2)) return true;
		}
		return at.right > innerWidth + 1 || at.left < -1;
	}).map(e => e.tagName + "." + e.className + " " + e.innerText).slice(0, 5);
})`

// written is what a page says, but for what is not for translating.
const written = `(() => {
	const out = [], no = "script, style, code, kbd, svg, pre, textarea, .mono, [translate=no], bdi[lang], dialog";
	const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
	for (let n = walk.nextNode(); n; n = walk.nextNode()) if (!n.parentElement.closest(no)) out.push(n.data.trim().replace(/\s+/g, " "));
	for (const e of document.querySelectorAll("body [title], body [aria-label], body [placeholder], body [alt]")) if (!e.closest(no))
		for (const a of ["title", "aria-label", "placeholder", "alt"]) out.push(e.getAttribute(a) ?? "");
	return [...new Set(out)].filter(t => /[a-z]{2} [a-z]{2}/i.test(t));
})()`

// texts are the lines of Ivelt's pages in English.
var texts = sync.OnceValue(func() map[string]bool {
	out := map[string]bool{}
	for _, e := range language.Entries() {
		if !strings.HasPrefix(e.Where[0], "core/preview/") { // what is in pictures is called as programs of the desk are, too
			out[e.ID] = true
		}
	}
	return out
})

// inLanguage goes through a page in a language: it is said in it, nothing is cut off, no choice is
// sent in its words, and axe-core finds nothing.
func inLanguage(t *testing.T, b *browser, at string, l *language.Language, whole bool) {
	t.Helper()
	of, within := `document.querySelector("#work")`, `("#work")` // all around it is the same on every page
	if whole {
		of, within = "document", `("body")`
	}
	b.Is(`(document.cookie = "language=` + l.Tag + `; path=/", true)`)
	defer b.Is(`(document.cookie = "language=; path=/; max-age=0", true)`)
	b.Open(at)
	require.Equal(t, []string{l.Tag, l.Direction()}, browsertest.Value[[]string](b.Browser, `[document.documentElement.lang, document.documentElement.dir]`), at)
	assert.True(t, b.Is(`[...document.querySelectorAll("option")].every(o => o.hasAttribute("value"))`), at)
	for _, text := range browsertest.Value[[]string](b.Browser, written) {
		assert.False(t, texts()[text], "%s in %s says in English: %s", at, l.Tag, text)
	}
	for _, width := range []int64{390, 1280} {
		b.Do(chromedp.EmulateViewport(width, 800))
		assert.True(t, b.Is(`document.documentElement.scrollWidth <= innerWidth`), "%s scrolls sideways at %d px in %s", at, width, l.Tag)
		assert.Empty(t, browsertest.Value[[]string](b.Browser, cutOff+within), "%s in %s is cut off at %d px", at, l.Tag, width)
	}
	loadAxe(t, b)
	assert.Empty(t, axeSays(b, of, wcag), "%s in %s", at, l.Tag)
}

// TestATranslatorsWay: a catalogue in the person's folder is offered, used where the browser asks
// for it, and what is wrong with it is told; an error and a plan are said in it, too.
func TestATranslatorsWay(t *testing.T) {
	s := newStage(t)
	dir := filepath.Join(t.TempDir(), "languages")
	s.server.Languages = web.NewLanguages(dir, "")
	v := s.visit()
	get := func(path string) string {
		r, err := http.NewRequestWithContext(t.Context(), http.MethodGet, v.url+path, nil)
		require.NoError(t, err)
		r.Header.Set("Accept-Language", "de-CH,de;q=0.8,en;q=0.5")
		page, _ := v.read(v.client.Do(r))
		return page
	}
	require.Contains(t, get("/d/avocet/language"), `lang="en"`)
	require.NoError(t, os.MkdirAll(dir, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "de.po"), []byte(`msgid ""
msgstr "Language: de\nPlural-Forms: nplurals=2; plural=n != 1;\n"

msgid "Nothing to compare yet"
msgstr "Noch nichts zu <b>vergleichen</b>"

msgid "Undo <1>u</1>"
msgstr "Zurück"

msgid "there is no such page"
msgstr "diese Seite gibt es nicht"

msgid "Windows"
msgstr "Fenster"
`), 0o644))
	page := get("/d/avocet/language")
	require.Contains(t, page, `<html lang="de" dir="ltr"`)
	require.Contains(t, page, "Deutsch")
	require.Contains(t, page, "1 text cannot be used")
	require.Contains(t, page, "It needs each once: </1&gt; <1&gt;.")
	page = get("/d/avocet/compare")
	require.Contains(t, page, "Noch nichts zu <b&gt;vergleichen</b&gt;", "what a translator writes is text")
	page = get("/d/avocet/nowhere")
	require.Contains(t, page, "Diese Seite gibt es nicht.")
	page = get("/d/avocet/match")
	require.Contains(t, page, "Fenster")
	page, _ = v.post("/d/avocet/language", url.Values{"language": {"xx"}})
	require.Contains(t, page, `no language "xx"`)
	pot, code := v.bytes("/d/avocet/language/ivelt.pot")
	require.Equal(t, http.StatusOK, code)
	require.Equal(t, language.Template(), pot)
}
