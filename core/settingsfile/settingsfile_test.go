package settingsfile

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
)

// messy calls f with every file of testdata: forms that the standards and the manuals of
// programs show, as people leave them.
func messy(t testing.TB, f func(form Form, name string, b []byte)) {
	for _, form := range Forms() {
		files, err := filepath.Glob("testdata/" + string(form) + "/*")
		require.NoError(t, err)
		require.GreaterOrEqual(t, len(files), 10, form)
		for _, file := range files {
			b, err := os.ReadFile(file)
			require.NoError(t, err)
			f(form, file, b)
		}
	}
}

// between are the letters in which two texts differ, as far as they begin and end alike.
func between(a, b []byte) (gone, come []byte) {
	start := 0
	for start < len(a) && start < len(b) && a[start] == b[start] {
		start++
	}
	end := 0
	for end < len(a)-start && end < len(b)-start && a[len(a)-1-end] == b[len(b)-1-end] {
		end++
	}
	return a[start : len(a)-end], b[start : len(b)-end]
}

// TestOneValueIsEdited: in every file each value is set to several texts, taken out, and
// one is added beside it. No other letter changes.
func TestOneValueIsEdited(t *testing.T) {
	edits, refused := map[Form]int{}, map[Form]int{}
	messy(t, func(form Form, name string, b []byte) {
		values, err := Parse(form, b)
		require.NoError(t, err, name)
		for _, v := range values {
			at := fmt.Sprintf("%s, line %d: %s %s", name, v.Line, v.Group, v.Key)
			require.Equal(t, bytes.Count(b[:v.from], []byte("\n"))+1, v.Line, at)
			last, _ := Lookup(values, v.Group, v.Key)
			if last.from != v.from {
				continue // another of that name counts
			}
			for _, text := range []string{"New", "Two Words", "12.5", "true", "#c0ffee", "Möwe", `it's`, `say "so"`, `back\slash`, "~x: [y] {z}", "", "-", "null", "a # b"} {
				edited, err := Set(form, b, v.Group, v.Key, text, How{})
				if err != nil {
					require.ErrorIs(t, err, ErrEdit, at)
					require.True(t, v.fixed || text != "New", "%s: %s", at, err)
					refused[form]++
					continue
				}
				edits[form]++
				now, err := Parse(form, edited)
				require.NoError(t, err, at)
				set, _ := Lookup(now, v.Group, v.Key)
				require.Equal(t, text, set.Text, at)
				gone, _ := between(b, edited)
				require.LessOrEqual(t, len(gone), v.to-v.from, at)
				if !utf8.ValidString(v.Text) || strings.ContainsFunc(v.Text, unicode.IsControl) {
					continue
				}
				back, err := Set(form, edited, v.Group, v.Key, v.Text, How{})
				require.NoError(t, err, at)
				if again, _ := between(b, back); !strings.Contains(string(b[v.from:v.to]), `\`) && !strings.Contains(string(b[v.from:v.to]), "&") {
					require.True(t, len(again) == 0 || string(back[v.from:v.from+1]) == `"`, "%s: %s", at, back)
				}
			}
			less, found, err := Remove(form, b, v.Group, v.Key)
			if err != nil {
				require.ErrorIs(t, err, ErrEdit, at)
				refused[form]++
				continue
			}
			require.True(t, found, at)
			edits[form]++
			if gone, come := between(b, less); last.cut == v.cut && !twice(values, v) {
				require.Empty(t, come, at)
				from, to := v.whole(form, b)
				require.Contains(t, string(b[from:to])+string(b[from:to]), string(gone), at)
			}
		}
		groups := map[string]bool{"": true, "brand/new": true}
		for _, v := range values {
			groups[v.Group] = true
		}
		for group := range groups {
			for _, how := range []How{{}, {Bare: true}} {
				more, err := Set(form, b, group, "brand-new", "12", how)
				if err != nil {
					require.ErrorIs(t, err, ErrEdit, name)
					refused[form]++
					continue
				}
				edits[form]++
				gone, _ := between(b, more)
				require.LessOrEqual(t, len(bytes.TrimSpace(gone)), 0, "%s: %s:\n%s", name, group, more)
				back, found, err := Remove(form, more, group, "brand-new")
				if bytes.Contains(more, []byte("{brand-new")) { // YAML in braces
					require.ErrorIs(t, err, ErrEdit)
					continue
				}
				require.NoError(t, err, "%s: %s:\n%s", name, group, more)
				require.True(t, found)
				if slices.ContainsFunc(values, func(v Value) bool { return v.Group == group }) && len(b) > 0 && b[len(b)-1] == '\n' {
					require.Equal(t, string(b), string(back), "%s: %s", name, group)
				}
			}
		}
	})
	for _, form := range Forms() {
		t.Logf("%-6s %5d edits; %4d that cannot be made by themselves were refused", form, edits[form], refused[form])
		require.Greater(t, edits[form], 200, form)
	}
}

func twice(values []Value, v Value) bool {
	n := 0
	for _, other := range values {
		if other.Group == v.Group && other.Key == v.Key {
			n++
		}
	}
	return n > 1
}

// TestLinesAreUnderstood: how manuals of programs show their lines.
func TestLinesAreUnderstood(t *testing.T) {
	got := map[string]string{}
	messy(t, func(form Form, name string, b []byte) {
		values, err := Parse(form, b)
		require.NoError(t, err)
		for _, v := range values {
			got[strings.TrimPrefix(name, "testdata/")+" "+v.Group+" "+v.Key] = v.Text
		}
	})
	for at, want := range map[string]string{
		"lines/no-section.conf  font":                     "Estuary Sans:size=11",
		"lines/no-section.conf colors alpha":              "0.92",
		"lines/key-value.conf  font_family":               "Estuary Mono",
		"lines/key-value.conf  foreground":                "#dddddd",
		"lines/key-value.conf  map":                       "ctrl+shift+c copy_to_clipboard",
		"lines/quoted.conf  set font":                     "Estuary Sans 11",
		"lines/quoted.conf  set default-bg":               "#101417",
		"lines/quoted.conf  set window-title-basename":    `a "quoted" word`,
		"lines/quoted.conf  set statusbar-h-padding":      "0",
		"lines/colon.conf  icon-theme":                    "Shingle",
		"lines/colon.conf  address":                       "http://example.org/a:b",
		"lines/colon.conf  time":                          "12:30",
		"lines/colon.conf  empty":                         "",
		"lines/blocks.conf general border_size":           "2",
		"lines/blocks.conf general col.active":            "rgba(33ccffee) 45deg",
		"lines/blocks.conf general/snap enabled":          "false",
		"lines/blocks.conf bar/colors background":         "#000000",
		"lines/blocks.conf  font":                         "pango:Estuary Sans 10",
		"lines/dos.conf Look font":                        "Estuary Sans",
		"lines/semicolons.conf * background-color":        "#101417",
		"lines/semicolons.conf window width":              "50%",
		"lines/semicolons.conf window border":             "2px solid",
		"lines/continued.conf  name":                      "Wrack",
		"lines/continued.conf  last":                      "1",
		"lines/twice.conf  theme":                         "B",
		"lines/twice.conf more color":                     "red",
		"lines/odd.conf  export EDITOR":                   "ed",
		"lines/odd.conf  set -g status-bg":                "colour236",
		"lines/odd.conf  set-option -g pane-border-style": "fg=#303030",
		"lines/odd.conf  key":                             "more",
		"lines/odd.conf  k":                               "v",
		"json/comments.json  height":                      "30",
		"json/comments.json modules-left 1":               "b",
		"json/escapes.json  key~1with~0both":              "1",
		"json/escapes.json  unicode":                      "ü😀",
		"json/array.json 1 mode":                          "1920x1080",
		"toml/tables-in-lists.toml products/2 name":       "Nail",
		"toml/tables-in-lists.toml products/2/part/0 id":  "x",
		"toml/terminal.toml font/normal family":           "Estuary Mono",
		"toml/dotted.toml fruit/apple/taste sweet":        "true",
		"yaml/terminal.yaml window/padding y":             "4",
		"yaml/spec-2-3.yaml hr 1":                         "Sammy Sosa",
		"yaml/quotes.yaml  a":                             "it's",
		"yaml/umlauts.yaml fenster größe":                 "11",
		"xml/settings.xml config/theme name":              "Wrack",
		"xml/settings.xml config/theme/font[2] size":      "8",
		"xml/properties.xml channel[@name='xsettings']/property[@name='Gtk']/property[@name='FontName'] @value": "Sans 10",
		"xml/same.xml k/bind[@key='W-b'][2] run": "z",
		"xml/entities.xml s b":                   "Fish & Chips ü",
		"xml/blanks.xml o name":                  "Wrack",
	} {
		require.Contains(t, got, at)
		require.Equal(t, want, got[at], at)
	}
}

// TestLinesAreAddedInTheManner of those that are there, or of one that is given.
func TestLinesAreAddedInTheManner(t *testing.T) {
	for _, c := range []struct {
		form       Form
		old, group string
		how        How
		want       string
	}{
		{Lines, "", "", How{Like: `set key "value"`}, "set font \"New\"\n"},
		{Lines, "", "", How{Like: "key value"}, "font New\n"},
		{Lines, "", "Look", How{}, "[Look]\nfont=New\n"},
		{Lines, "a = 'b'\nc = 'd'\n[s]\nx=1\n", "", How{}, "a = 'b'\nc = 'd'\nfont = 'New'\n[s]\nx=1\n"},
		{Lines, "[s]\nx: 1\n", "", How{}, "font: New\n[s]\nx: 1\n"},
		{Lines, "bar {\n\tpos top\n}\n", "bar", How{}, "bar {\n\tpos top\n\tfont New\n}\n"},
		{Lines, "bar {\n}\n", "bar", How{}, "bar {\n    font=New\n}\n"},
		{Lines, "a { b 1\n}\nx {\n y 2\n}\n", "c/d", How{}, "a { b 1\n}\nx {\n y 2\n}\nc {\n    d {\n        font New\n    }\n}\n"},
		{JSON, "", "a/b", How{}, "{\n  \"a\": {\n    \"b\": {\n      \"font\": \"New\"\n    }\n  }\n}\n"},
		{JSON, "{\n\t\"a\": 1 // last\n}", "", How{}, "{\n\t\"a\": 1,\n\t\"font\": \"New\" // last\n}"},
		{JSON, "{\n\t\"a\": 1,\n}", "", How{}, "{\n\t\"a\": 1,\n\t\"font\": \"New\",\n}"},
		{TOML, "a = 1\n[t]\nb = 2\n\n[u]\n", "t", How{}, "a = 1\n[t]\nb = 2\nfont = \"New\"\n\n[u]\n"},
		{TOML, "a = 1", "x/y z", How{}, "a = 1\n\n[x.\"y z\"]\nfont = \"New\""},
		{YAML, "", "a/b", How{}, "a:\n  b:\n    font: \"New\"\n"},
		{YAML, "a:\n    b: 1\n    c:\n    - 2\n", "a", How{Bare: true}, "a:\n    b: 1\n    font: New\n    c:\n    - 2\n"},
		{XML, "<a>\n\t<b/>\n</a>", "a/c[@name='x']", How{}, "<a>\n\t<b/>\n\t<c name=\"x\">\n\t\t<font>New</font>\n\t</c>\n</a>"},
	} {
		out, err := Set(c.form, []byte(c.old), c.group, "font", "New", c.how)
		if strings.HasPrefix(c.how.Like, "set ") {
			out, err = Set(c.form, []byte(c.old), c.group, "set font", "New", c.how)
		}
		require.NoError(t, err, c.old)
		require.Equal(t, c.want, string(out))
	}
}

func TestWhatIsNoSettingsFileIsRefused(t *testing.T) {
	for _, c := range []struct {
		form Form
		b    string
		want error
	}{
		{JSON, "{", ErrSyntax}, {JSON, "12", ErrSyntax}, {JSON, "{} {}", ErrSyntax}, {JSON, strings.Repeat("[", 200_000), ErrTooMuch},
		{TOML, "a = ", ErrSyntax}, {TOML, "a = 1\na = 2", ErrSyntax}, {TOML, "x = " + strings.Repeat("[", 100_000), ErrTooMuch},
		{YAML, "a: b: c", ErrSyntax}, {YAML, "\ta", ErrSyntax}, {YAML, strings.Repeat("- ", 5000) + "x", ErrTooMuch},
		{XML, "<a>", ErrSyntax}, {XML, "<a></b>", ErrSyntax}, {XML, "text", ErrSyntax}, {XML, strings.Repeat("<a>", 5000), ErrTooMuch},
		{JSON, "\"\xff\"", ErrSyntax}, {"ini", "", ErrSyntax}, {Lines, strings.Repeat("a", MaxBytes+1), ErrTooMuch},
	} {
		_, err := Parse(c.form, []byte(c.b))
		require.ErrorIs(t, err, c.want, "%s %.40q", c.form, c.b)
	}
	_, err := Set(Lines, []byte("a=1\n"), "", "a", "two\nlines", How{})
	require.ErrorIs(t, err, ErrEdit)
	_, err = Set(YAML, []byte("a: |\n  x\n"), "", "a", "y", How{})
	require.ErrorIs(t, err, ErrEdit)
}

func FuzzParse(f *testing.F) {
	messy(f, func(form Form, _ string, b []byte) { f.Add(uint8(slices.Index(Forms(), form)), b) })
	f.Fuzz(func(t *testing.T, n uint8, b []byte) {
		form := Forms()[int(n)%len(Forms())]
		values, err := Parse(form, b)
		if err != nil {
			return
		}
		for _, v := range values[:min(len(values), 4)] {
			if v.from < 0 || v.from > v.to || v.to > len(b) || v.Line < 1 {
				t.Fatal(v)
			}
			if out, err := Set(form, b, v.Group, v.Key, "New", How{}); err == nil {
				now, err := Parse(form, out)
				if set, ok := Lookup(now, v.Group, v.Key); err != nil || !ok || set.Text != "New" {
					t.Fatalf("%v: %q", err, out)
				}
			}
			_, _, _ = Remove(form, b, v.Group, v.Key)
			_, _ = Set(form, b, v.Group, "fresh", "New", How{Bare: true})
		}
	})
}
