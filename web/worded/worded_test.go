package worded_test

import (
	"html/template"
	"strings"
	"testing"
	"text/template/parse"

	"github.com/stretchr/testify/require"

	"ivelt/web/worded"
)

var funcs = template.FuncMap{
	"said": func(v any) any { return v }, "saidHere": func(v any) any { return v }, "word": strings.ToUpper,
	"many": func(int, string) string { return "7 files" },
}

// lines are the IDs of a page's lines.
func lines(t *testing.T, page string) (out []string) {
	t.Helper()
	set := map[string]*parse.Tree{}
	tree := parse.New("page")
	tree.Mode = parse.SkipFuncCheck
	_, err := tree.Parse(page, "", "", set)
	require.NoError(t, err)
	found, err := worded.Lines(tree)
	require.NoError(t, err)
	for _, l := range found {
		out = append(out, l.ID)
	}
	return out
}

// TestLinesOfAPage are what a translator reads: whole sentences, with what stands in them.
func TestLinesOfAPage(t *testing.T) {
	for page, want := range map[string][]string{
		`<p>The shelf
		  shows <b>all</b>.</p>`: {"The shelf shows <1>all</1>."},
		`<p>{{.Name}} is in <a href="/x?{{.Q}}">{{.Title}}</a>{{if .New}}, and new{{end}}.</p>`:   {", and new", "{Name} is in <1>{Title}</1>{part}."},
		`<a href="/a">Find</a> <a href="/b">Shelf</a>`:                                            {"Find", "Shelf"},
		`<button class="x" title="Keep {{.Name}}">Keep <kbd>K</kbd></button>`:                     {"Keep {Name}", "Keep"},
		`<b>{{.A}}</b> <span class="quiet">{{.B}}</span> · 3`:                                     nil,
		`<img alt="A picture"><input placeholder="Search" value="kept">`:                          {"A picture", "Search"},
		`<p>{{many .N "look"}} here</p><!-- not this --><script>let a = "nor this"</script>`:      {"%d look", "{many} here"},
		`<svg><title>no</title></svg><code>no</code><p translate="no">no</p><p>yes</p>`:           {"yes"},
		`<p>{{or .A "the default"}}</p>{{if .B}}<p>Two</p>{{else}}<ul><li>Three</li></ul>{{end}}`: {"the default", "Two", "Three"},
		`<a {{if .B}}title="is &amp; was"{{end}} href="{{if .C}}/c{{end}}">&lt;one&gt; two</a>`:   {"is & was", "<one> two"},
		`<p>same <i>{{.A}}</i> {{.B}} {{.A}}</p>`:                                                 {"same <1>{A}</1> {B} {A2}"},
	} {
		require.Equal(t, want, lines(t, page), page)
	}
	_, err := worded.Lines(template.Must(template.New("").Parse(`{{if .A}}<a href="{{else}}<b class="{{end}}x">y`)).Tree)
	require.ErrorContains(t, err, "begins in one part of a choice")
}

// TestAPageInALanguage: what stands in a line goes where the language has it, and what a translator
// wrote is text.
func TestAPageInALanguage(t *testing.T) {
	said := map[string]string{
		"{Name} is in <1>{Title}</1>{part}.": "<1>{Title}</1> hat {Name}{part} & <script>",
		", and new":                          " (neu)",
		"Open {Name}":                        `"{Name}" öffnen`,
		"{many} here":                        "hier {many}",
	}
	page := `<p title="Open {{.Name}}">{{.Name}} is in <a href="/x">{{.Title}}</a>{{if .New}}, and new{{end}}.</p> <i>left</i> {{many 7 "file"}} here {{or "" "none"}}`
	tmpl := template.Must(template.New("page").Funcs(funcs).Parse(page))
	require.NoError(t, worded.Say(tmpl, func(id string) (string, bool) { out, ok := said[id]; return out, ok }))
	var b strings.Builder
	require.NoError(t, tmpl.Execute(&b, map[string]any{"Name": `<"Reef">`, "Title": "Find", "New": true}))
	require.Equal(t, `<p title="&#34;&lt;&#34;Reef&#34;&gt;&#34; öffnen"><a href="/x">Find</a> hat &lt;&#34;Reef&#34;&gt; (neu) &amp; &lt;script&gt;</p> <i>left</i> 7 files here NONE`, b.String())
}
