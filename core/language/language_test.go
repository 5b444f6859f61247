package language_test

import (
	"os"
	"path/filepath"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/core/language"
	"ivelt/core/po"
	"ivelt/core/say"
)

func read(t *testing.T, entries ...po.Entry) (*language.Language, []language.Problem) {
	t.Helper()
	l, wrong, err := language.Read(po.Write([]string{"Language: de_AT", "Plural-Forms: nplurals=2; plural=n != 1;"}, entries))
	require.NoError(t, err)
	return l, wrong
}

// TestAMessageInALanguage: its arguments in the order that the language needs, a message within
// it, words and nouns that are counted; and English for what the language has not.
func TestAMessageInALanguage(t *testing.T) {
	l, wrong := read(t,
		po.Entry{Context: "match/where/line", ID: say.Format("match/where/line"), Text: []string{"Zeile %[2]d von %[1]s,"}},
		po.Entry{ID: "Windows", Text: []string{"Fenster"}},
		po.Entry{ID: "%d file", Plural: "%d files", Text: []string{"%d Datei", "%d Dateien"}},
		po.Entry{ID: "%s is full: %s", Text: []string{"Voll ist %s: %s"}},
		po.Entry{ID: "it is locked", Text: []string{"es ist gesperrt"}},
	)
	require.Empty(t, wrong)
	require.Equal(t, []string{"de-AT", "Österreichisches Deutsch", "ltr", "de"}, []string{l.Name(), l.Title, l.Direction(), l.Short()})
	require.Equal(t, "Zeile 12 von ~/.profile,", say.Of("match/where/line", "~/.profile", 12).In(l))
	require.Equal(t, "Fenster", say.Word("Windows").In(l))
	require.Equal(t, "fenster: 1 Datei, 3 Dateien", say.Line("%s: %s, %s", say.Lower("Windows"), say.Many(1, "file"), say.Many(3, "file")).In(l))
	require.Equal(t, "Voll ist ~/a: es ist gesperrt", say.Fault(say.Errorf("%s is full: %w", "~/a", say.Errorf("it is locked"))).In(l))
	require.Equal(t, "Shelf", say.Word("Shelf").In(l))
	has, of := l.Covers()
	require.Positive(t, has)
	require.Greater(t, of, 2000)
}

// TestWhatATranslatorCannotDo: what would lose an argument, break a page, or hide something is not
// used, and told.
func TestWhatATranslatorCannotDo(t *testing.T) {
	for _, c := range []struct {
		what string
		e    po.Entry
		says string
	}{
		{"an argument less", po.Entry{Context: "x", ID: "%s in %d", Text: []string{"%s"}}, "needs each once"},
		{"one of another kind", po.Entry{Context: "x", ID: "%s in %d", Text: []string{"%d in %s"}}, "needs each once"},
		{"one twice", po.Entry{Context: "x", ID: "%s", Text: []string{"%[1]s %[1]s"}}, "needs each once"},
		{"a lone sign", po.Entry{Context: "x", ID: "%d %%", Text: []string{"%d %"}}, "stands for nothing"},
		{"a value less", po.Entry{ID: "{Name} is new", Text: []string{"neu"}}, "needs each once"},
		{"elements crossed", po.Entry{ID: "<1>a</1> <2>b</2>", Text: []string{"<1>a<2></1>b</2>"}}, "ends what does not begin"},
		{"a letter that turns the text", po.Entry{ID: "a", Text: []string{"a\u202eb"}}, "cannot be seen"},
		{"a letter for a terminal", po.Entry{ID: "a", Text: []string{"\x1b[2J"}}, "cannot be seen"},
		{"a book", po.Entry{ID: "a", Text: []string{string(make([]byte, 400))}}, "far longer"},
	} {
		l, wrong := read(t, c.e)
		require.Len(t, wrong, 1, c.what)
		require.ErrorContains(t, wrong[0].Err, c.says, c.what)
		_, ok := l.Said(c.e.Context, c.e.ID, "", 1)
		require.False(t, ok, c.what)
	}
	_, wrong := read(t,
		po.Entry{ID: "<1>{Name}</1> of {Title}", Text: []string{"{Title}: <1>{Name}</1> & <b>"}},
		po.Entry{ID: "100 %", Text: []string{"100 %"}},
		po.Entry{Context: "x", ID: "%s, %d %%", Text: []string{"%[2]d %% von %[1]s"}},
	)
	require.Empty(t, wrong)
	for text, says := range map[string]string{
		"msgid \"a\"\nmsgstr \"b\"\n":                          "does not say which language",
		"msgid \"\"\nmsgstr \"Language: no such tongue\\n\"\n": "not known",
	} {
		_, _, err := language.Read([]byte(text))
		require.ErrorContains(t, err, says)
	}
}

// TestTheNearestLanguageIsChosen among those there are (RFC 4647; RFC 9110, 12.5.4).
func TestTheNearestLanguageIsChosen(t *testing.T) {
	var all []*language.Language
	for _, tag := range []string{"pt_BR", "sr", "he"} {
		l, _, err := language.Read(po.Write([]string{"Language: " + tag}, nil))
		require.NoError(t, err)
		all = append(all, l)
	}
	require.Equal(t, "rtl", all[2].Direction())
	all = append(all, language.Made()...)
	for wish, want := range map[string]string{
		"": "en", "en-GB,en;q=0.8": "en", "fr,en;q=0.5": "en", "pt-PT": "pt-BR", "de;q=0.4,he;q=0.9": "he", "sr-Latn": "en", "xx-not,???": "en",
		"en-XA": "en-XA", "ar-XB": "ar-XB", "ar": "en", "ar-EG,en;q=0.1": "en",
	} {
		require.Equal(t, want, language.Choose(all, wish).Name(), wish)
	}
}

// TestTheMadeUpLanguages say everything there is: one in longer words, one from right to left, with
// six plural forms.
func TestTheMadeUpLanguages(t *testing.T) {
	for _, l := range language.Made() {
		has, of := l.Covers()
		require.Equal(t, of, has, l.Tag)
		_, wrong, err := language.Read(language.MadeUp(l.Tag, language.Entries()))
		require.NoError(t, err)
		require.Empty(t, wrong, l.Tag)
		require.True(t, l.Made())
	}
	longer, mirrored := language.Made()[0], language.Made()[1]
	shelf := say.Word("Shelf").In(longer)
	require.NotContains(t, shelf, "Shelf")
	require.GreaterOrEqual(t, utf8.RuneCountInString(shelf), 10, "a short text twice as long")
	require.Equal(t, "سهيلف", say.Word("Shelf").In(mirrored))
	require.Equal(t, "rtl", mirrored.Direction())
	forms := map[string]bool{}
	for _, n := range []int{0, 1, 2, 3, 11, 100} {
		said := say.Many(n, "file").In(mirrored)
		require.NotContains(t, said, "file")
		forms[said] = true
	}
	require.Len(t, forms, 6)
}

// TestAFolderOfCatalogues: each is read for itself, and what is none is told.
func TestAFolderOfCatalogues(t *testing.T) {
	dir := t.TempDir()
	put := func(name, text string) {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600))
	}
	put("nb.po", "msgid \"\"\nmsgstr \"Language: nb\\n\"\n\nmsgid \"Shelf\"\nmsgstr \"Hylle\"\n")
	put("x.po", "hello")
	put("note.txt", "hello")
	require.NoError(t, unix.Mkfifo(filepath.Join(dir, "pipe.po"), 0o600))
	files, err := language.Own(dir)
	require.NoError(t, err)
	require.Len(t, files, 3)
	require.Equal(t, "Hylle", say.Word("Shelf").In(files[0].Language))
	require.Error(t, files[1].Err)
	require.ErrorIs(t, files[2].Err, po.ErrCatalogue)
	none, err := language.Own(filepath.Join(dir, "nowhere"))
	require.NoError(t, err)
	require.Empty(t, none)
}
