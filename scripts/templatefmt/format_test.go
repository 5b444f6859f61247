package main

import (
	"bytes"
	"html/template"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

const crowded = `{{define "work"}}<section class="a"><h1>Tide   tables</h1>{{if .All}}<ul class="list of many">{{range .All}}<li><b>{{.}}</b>, <i>at</i><span>sea</span>{{if eq . "low"}} <em>low water, which is when much lies dry and the birds come, and people too</em>{{else}}<em>not now, and not for a long while to come, as the tables say</em>{{end}}</li>{{end}}</ul>{{else}}<p>None.</p>{{end}}<pre>
 kept  as
   it is</pre><textarea name="t">
a</textarea><p>A text that is so long that it has to be broken somewhere, at a blank of course and nowhere else, <code>x</code>.</p><img src="a.png" alt="a picture with a description that goes on and on" width="100" height="20" loading="lazy" class="wide"></section>{{end}}`

// shows is what a browser would make of a page: blanks that do not show count for nothing.
func shows(t *testing.T, text string, data any) string {
	t.Helper()
	tmpl, err := template.New("").Parse(text)
	require.NoError(t, err)
	var out bytes.Buffer
	require.NoError(t, tmpl.ExecuteTemplate(&out, "work", data))
	s := out.String()
	var kept []string
	s = regexp.MustCompile(`(?s)<(pre|textarea)\b.*?</(pre|textarea)>`).ReplaceAllStringFunc(s, func(m string) string { kept = append(kept, m); return "<kept>" })
	s = regexp.MustCompile(`\s+`).ReplaceAllString(s, " ")
	s = regexp.MustCompile(` ?(</?(?:section|ul|li|p|h1|kept)\b[^>]*>) ?`).ReplaceAllString(s, "$1")
	return strings.TrimSpace(s) + strings.Join(kept, "\n")
}

// TestLayingOutChangesNoPage: the same is shown, whatever is in it, in lines that are not too
// long; laying out what is laid out changes nothing.
func TestLayingOutChangesNoPage(t *testing.T) {
	out, err := Format(crowded)
	require.NoError(t, err)
	require.NotEqual(t, crowded, out)
	require.Contains(t, out, "\n  <section class=\"a\">\n    <h1>Tide tables</h1>\n")
	require.Contains(t, out, "<pre>\n kept  as\n   it is</pre>")
	for line := range strings.Lines(out) {
		require.LessOrEqual(t, len([]rune(strings.TrimSuffix(line, "\n"))), width, line)
	}
	for _, all := range [][]string{nil, {"high"}, {"low", "high"}} {
		require.Equal(t, shows(t, crowded, map[string]any{"All": all}), shows(t, out, map[string]any{"All": all}))
	}
	again, err := Format(out)
	require.NoError(t, err)
	require.Equal(t, out, again)
}

// TestEveryTemplateIsLaidOut: what the command checks, and that it says what is wrong.
func TestEveryTemplateIsLaidOut(t *testing.T) {
	for _, pattern := range []string{"../../web/templates/*.html", "../../web/templates/*/*.html", "../../web/static/css/*.css", "../../web/static/js/*.js"} {
		files, err := filepath.Glob(pattern)
		require.NoError(t, err)
		require.NotEmpty(t, files)
		for _, file := range files {
			require.NoError(t, run(file, false), file)
		}
	}
	dir := t.TempDir()
	at := filepath.Join(dir, "a.html")
	require.NoError(t, os.WriteFile(at, []byte("<ul><li>a</li><li>b</li></ul>\n"), 0o644))
	require.ErrorContains(t, run(at, false), "not laid out")
	require.NoError(t, run(at, true))
	require.NoError(t, run(at, false))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "a.css"), []byte(strings.Repeat("x", width+1)), 0o644))
	require.ErrorContains(t, run(filepath.Join(dir, "a.css"), false), "line 1 has 121 columns")
	require.Error(t, run(filepath.Join(dir, "gone.html"), false))
	for _, broken := range []string{"<p", "{{if .", "<p>{{if .A}}</p>", "<!-- no end", "{{end}}"} {
		_, err := Format(broken)
		require.Error(t, err, broken)
	}
}
