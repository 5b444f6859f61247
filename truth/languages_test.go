package truth

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/language"
	"ivelt/core/po"
)

// lookup asks Python's own reader of catalogues (Debian: python3, module gettext) what is said for
// messages, of several too, in a compiled one.
const lookup = `
import gettext, json, sys
t = gettext.GNUTranslations(open(sys.argv[1], "rb"))
out = []
for context, id, plural, numbers in json.load(sys.stdin):
    if plural:
        out += [t.npgettext(context, id, plural, n) if context else t.ngettext(id, plural, n) for n in numbers]
    else:
        out.append(t.pgettext(context, id) if context else t.gettext(id))
json.dump(out, sys.stdout)
`

// compiled is a catalogue as msgfmt (Debian: gettext) compiles it, after it found nothing wrong.
func compiled(t *testing.T, text []byte) string {
	t.Helper()
	dir := t.TempDir()
	in, out := filepath.Join(dir, "x.po"), filepath.Join(dir, "x.mo")
	require.NoError(t, os.WriteFile(in, text, 0o600))
	said, err := exec.Command("msgfmt", "--check-format", "--check-domain", "-o", out, in).CombinedOutput()
	require.NoError(t, err, "%s", said)
	return out
}

func asked(t *testing.T, mo string, questions [][4]any) (out []string) {
	t.Helper()
	q, err := json.Marshal(questions)
	require.NoError(t, err)
	c := exec.Command("python3", "-c", lookup, mo)
	c.Stdin = strings.NewReader(string(q))
	b, err := c.Output()
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(b, &out))
	return out
}

// TestCataloguesAreReadAsGettextDoes: all that Ivelt says, in its made-up languages.
func TestCataloguesAreReadAsGettextDoes(t *testing.T) {
	t.Parallel()
	compiled(t, language.Template())
	compared := 0
	for _, tag := range []string{language.Longer, language.Mirrored} {
		text := language.MadeUp(tag, language.Entries())
		c, err := po.Read(text)
		require.NoError(t, err)
		var questions [][4]any
		var want []string
		for _, e := range language.Entries() {
			questions = append(questions, [4]any{e.Context, e.ID, e.Plural, []int{0, 1, 2, 5, 11, 100}})
			if e.Plural == "" {
				said, _ := c.Get(e.Context, e.ID)
				want = append(want, said)
				continue
			}
			for _, n := range []int{0, 1, 2, 5, 11, 100} {
				said, _ := c.GetN(e.Context, e.ID, n)
				want = append(want, said)
			}
		}
		got := asked(t, compiled(t, text), questions)
		require.Equal(t, len(want), len(got))
		for i := range want {
			require.Equal(t, got[i], want[i], tag)
		}
		compared += len(want)
	}
	t.Logf("%d messages as gettext reads them", compared)
}

// TestPluralRulesAreThoseOfGettext: those that msginit (Debian: gettext) writes for languages, for
// numbers to a thousand.
func TestPluralRulesAreThoseOfGettext(t *testing.T) {
	t.Parallel()
	numbers := make([]int, 1001)
	for i := range numbers {
		numbers[i] = i
	}
	rule := regexp.MustCompile(`Plural-Forms: nplurals=(\d); [^"]*`)
	known, refused := 0, 0
	for _, tag := range strings.Fields("ar cs de fr ga ja lt lv nb pl pt_BR ro ru sl uk vi") {
		dir := t.TempDir()
		require.NoError(t, os.WriteFile(filepath.Join(dir, "x.pot"), po.Write([]string{"Content-Type: text/plain; charset=UTF-8"}, []po.Entry{{ID: "a"}}), 0o600))
		c := exec.Command("msginit", "--no-translator", "-l", tag, "-i", "x.pot", "-o", "x.po")
		c.Dir = dir
		said, err := c.CombinedOutput()
		require.NoError(t, err, "%s", said)
		text, err := os.ReadFile(filepath.Join(dir, "x.po"))
		require.NoError(t, err)
		header := rule.FindString(strings.ReplaceAll(string(text), "\"\n\"", ""))
		header = strings.TrimSuffix(header, `\n`)
		if header == "" {
			continue
		}
		n := int(rule.FindStringSubmatch(header)[1][0] - '0')
		e := po.Entry{ID: "%d file", Plural: "%d files"}
		for i := range n {
			e.Text = append(e.Text, "%d form "+string(rune('a'+i)))
		}
		made := po.Write([]string{"Language: " + tag, "Content-Type: text/plain; charset=UTF-8", header}, []po.Entry{e})
		read, err := po.Read(made)
		if err != nil {
			refused++
			t.Errorf("%s: %s: %v", tag, header, err)
			continue
		}
		for i, want := range asked(t, compiled(t, made), [][4]any{{"", e.ID, e.Plural, numbers}}) {
			got, _ := read.GetN("", e.ID, i)
			require.Equal(t, want, got, "%s, %d: %s", tag, i, header)
		}
		known++
	}
	require.Greater(t, known, 12)
	t.Logf("the rules of %d languages agree for 1001 numbers each, %d are not understood", known, refused)
}
