package po_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/po"
	"ivelt/core/within"
)

const header = "msgid \"\"\nmsgstr \"\"\n\"Language: cs\\n\"\n\"Plural-Forms: nplurals=3; plural=(n==1) ? 0 : (n>=2 && n<=4) ? 1 : 2;\\n\"\n\n"

// TestACatalogueIsRead: texts over several lines, contexts, plural forms by the rule of the header,
// notes and places; and what is fuzzy is not used (GNU gettext manual, "Fuzzy Entries").
func TestACatalogueIsRead(t *testing.T) {
	c, err := po.Read([]byte(header + `#. a verb
#: web/a.html web/b.html:3
msgctxt "verb"
msgid "Match"
msgstr ""
"Srov"
"nat \"vše\"\n"

msgid "Match"
msgstr "Shoda"
msgid "%d file"
msgid_plural "%d files"
msgstr[0] "%d soubor"
msgstr[1] "%d soubory"
msgstr[2] "%d souborů"

#, fuzzy
msgid "Shelf"
msgstr "Deska"

#~ msgid "gone"
#~ msgstr "pryč"
msgid "Find"
msgstr ""
`))
	require.NoError(t, err)
	require.Equal(t, "cs", c.Language)
	require.Len(t, c.Entries, 4)
	require.Equal(t, po.Entry{Note: "a verb", Where: []string{"web/a.html", "web/b.html:3"}, Context: "verb", ID: "Match", Text: []string{"Srovnat \"vše\"\n"}}, c.Entries[0])
	said, ok := c.Get("", "Match")
	require.True(t, ok)
	require.Equal(t, "Shoda", said)
	for n, want := range map[int]string{0: "%d souborů", 1: "%d soubor", 3: "%d soubory", 5: "%d souborů", -2: "%d soubory"} {
		said, ok = c.GetN("", "%d file", n)
		require.True(t, ok)
		require.Equal(t, want, said, n)
	}
	for _, id := range []string{"Shelf", "gone", "Find", "nothing"} {
		_, ok = c.Get("", id)
		require.False(t, ok, id)
	}
	again, err := po.Read(po.Write([]string{"Language: cs", "Plural-Forms: nplurals=3; plural=n==1 ? 0 : 1;"}, c.Entries))
	require.NoError(t, err)
	require.Equal(t, c.Entries, again.Entries, "what is written is read again")
}

// TestWhatIsNoCatalogue is said with its line.
func TestWhatIsNoCatalogue(t *testing.T) {
	for text, says := range map[string]string{
		"msgid \"a\nmsgstr \"b\"\n":                "line 1: the text does not end",
		"msgid \"a\"\nmsgstr \"\\q\"\n":            "line 2: the text does not end",
		"hello\n":                                  "line 1: it is neither",
		"\"lone\"\n":                               "line 1: it is neither",
		"msgctxt \"x\"\nmsgstr \"b\"\n":            "has no msgid",
		"msgid \"a\"\nmsgid \"b\"\nmsgstr \"c\"\n": "line 2: msgid stands here twice",
		"msgid \"a\"\nmsgstr[10] \"c\"\n":          "line 2: it is neither",
		"msgid \"a\"\nmsgid_plural \"b\"\nmsgstr[0] \"c\"\nmsgstr[1] \"d\"\n":                            "has no Plural-Forms",
		"msgid \"\"\nmsgstr \"Plural-Forms: nplurals=99; plural=0;\\n\"\n":                               "99 plural forms",
		"msgid \"\"\nmsgstr \"Plural-Forms: nplurals=2; plural=fork();\\n\"\n":                           "not understood",
		"msgid \"\"\nmsgstr \"Plural-Forms: nplurals=2; plural=" + strings.Repeat("(", 40) + "n;\\n\"\n": "brackets do not match",
		"msgid \"\"\nmsgstr \"Plural-Forms: nplurals=2; plural=n%0==1;\\n\"\n":                           "divides by nothing",
		strings.Repeat("#\n", 5<<20): "more than 8 MB",
	} {
		_, err := po.Read([]byte(text))
		require.ErrorIs(t, err, po.ErrCatalogue, "%.60q", text)
		require.ErrorContains(t, err, says, "%.60q", text)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(header + "msgid \"%d file\"\nmsgid_plural \"%d files\"\nmsgstr[0] \"a\"\nmsgstr[2] \"b\"\n"))
	f.Add([]byte("msgid \"\"\nmsgstr \"Plural-Forms: nplurals=2; plural=n%0==1;\\n\"\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		c, err := po.Read(b)
		if err != nil {
			return
		}
		for _, e := range c.Entries {
			for _, n := range []int{0, 1, 2, 5, 11, 101} {
				c.GetN(e.Context, e.ID, n)
			}
		}
		again, err := po.Read(po.Write([]string{"Plural-Forms: nplurals=2; plural=n!=1;"}, c.Entries))
		if err != nil || len(again.Entries) != len(c.Entries) {
			t.Fatal(err, len(again.Entries), len(c.Entries))
		}
	})
}

// TestALongTextIsReadInTime: one of many lines, and as many notes, cost as much as they are
// long.
func TestALongTextIsReadInTime(t *testing.T) {
	for _, line := range []string{"\"aaa\"\n", "#. a\n", "#: a\n"} {
		text := []byte("msgid \"\"\n" + strings.Repeat("\"aaa\"\n", 3) + strings.Repeat(line, 300_000))
		within.Reason(t, len(text), func() { _, _ = po.Read(text) })
	}
}
