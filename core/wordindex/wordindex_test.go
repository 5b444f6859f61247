package wordindex_test

import (
	"database/sql"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/text/unicode/norm"
	_ "modernc.org/sqlite"

	"ivelt/core/wordindex"
)

// TestAsSQLiteFindsThem: words, their beginnings and marks over letters, against FTS5 of
// SQLite itself (its tokenizer unicode61), on texts of many scripts; by one index and by many
// that were joined.
func TestAsSQLiteFindsThem(t *testing.T) {
	db, err := sql.Open("sqlite", ":memory:")
	require.NoError(t, err)
	defer db.Close()
	db.SetMaxOpenConns(1)
	_, err = db.Exec("CREATE VIRTUAL TABLE words USING fts5(a, b, tokenize='unicode61 remove_diacritics 2')")
	require.NoError(t, err)
	r := rand.New(rand.NewPCG(7, 8))
	parts := strings.Fields("Über schön naïve Ærø łódź ÅNGSTRÖM crème brûlée e\u0301te\u0301 Straße İstanbul ΣΙΣΥΦΟΣ Привет 日本語 שלום مرحبا ½ x² №5 a_b c-d it's 3.14 gtk-4.0 C++ résumé\tend end,end ABC abc aBc ﬁne ǅ Ⅷ ① 𝔘𝔫𝔦 \u200bzero ñandú coöperate sand sandy sands sanderling")
	type text struct{ a, b string }
	var texts []text
	for i := range 3000 {
		pick := func() string {
			var out []string
			for range 1 + r.IntN(5) {
				out = append(out, parts[r.IntN(len(parts))])
			}
			return strings.Join(out, " ")
		}
		x := text{pick(), pick()}
		texts = append(texts, x)
		_, err := db.Exec("INSERT INTO words(rowid, a, b) VALUES (?, ?, ?)", i+1, x.a, x.b)
		require.NoError(t, err)
	}
	whole := wordindex.NewBuilder()
	var joined *wordindex.Index
	for from := 0; from < len(texts); from += 700 {
		some := wordindex.NewBuilder()
		for i := from; i < min(from+700, len(texts)); i++ {
			whole.Add(int32(i), texts[i].a, texts[i].b)
			some.Add(int32(i), texts[i].a, texts[i].b)
		}
		if joined == nil {
			joined = some.Index()
		} else {
			joined = wordindex.Join(joined, some.Index())
		}
	}
	one := whole.Index()
	again, ok := wordindex.Of(one.Terms, one.Ends, one.All)
	require.True(t, ok)
	asked := map[string]bool{}
	for _, p := range parts {
		for _, w := range wordindex.Words(p) {
			for n := range len([]rune(w)) {
				asked[string([]rune(w)[:n+1])] = true
			}
		}
	}
	require.Greater(t, len(asked), 100)
	compared := 0
	for w := range asked {
		for _, whole := range []bool{false, true} {
			expression := `"` + w + `"`
			if !whole {
				expression += "*"
			}
			rows, err := db.Query("SELECT rowid FROM words WHERE words MATCH ? ORDER BY rowid", expression)
			require.NoError(t, err)
			var want []int32
			for rows.Next() {
				var id int32
				require.NoError(t, rows.Scan(&id))
				want = append(want, id-1)
			}
			require.NoError(t, rows.Close())
			for name, x := range map[string]*wordindex.Index{"one": one, "joined": joined, "again": again} {
				got := wordindex.NewBits(len(texts))
				x.Mark(w, whole, got)
				require.Equal(t, want, slices.Collect(got.All), "%s: %s", name, expression)
				require.Equal(t, len(want), got.Count())
				if !whole {
					require.Equal(t, len(want) > 0, x.Begins(w))
				}
			}
			compared++
		}
	}
	t.Logf("%d expressions, each held against FTS5", compared)
}

// TestWordsOfOtherScripts are taken as people type them, where SQLite parts them.
func TestWordsOfOtherScripts(t *testing.T) {
	for text, want := range map[string]string{"ёлка": "елка", "Σίσυφος": "σισυφος", "हिन्दी भाषा": "हिन्दी भाषा", "שָׁלוֹם": "שלום", "مَرْحَبًا": "مرحبا", "東京 2024": "東京 2024", "": ""} {
		require.Equal(t, want, norm.NFC.String(strings.Join(wordindex.Words(text), " ")), text)
	}
}

// TestParts that are no index are refused, whatever a file says.
func TestParts(t *testing.T) {
	for _, c := range []struct {
		terms []string
		ends  []uint32
		all   []int32
	}{
		{[]string{"a"}, nil, nil}, {[]string{"a"}, []uint32{2}, []int32{1}}, {[]string{"a", "b"}, []uint32{1, 0}, nil}, {nil, nil, []int32{1}}, {[]string{"a", "b"}, []uint32{2, 1}, []int32{1}},
	} {
		_, ok := wordindex.Of(c.terms, c.ends, c.all)
		require.False(t, ok, fmt.Sprint(c))
	}
	_, ok := wordindex.Of(nil, nil, nil)
	require.True(t, ok)
}

func TestMisspelt(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want int
	}{{"tern", "tern", 0}, {"tern", "turn", 1}, {"tern", "tren", 1}, {"tern", "terns", 1}, {"tern", "ern", 1}, {"sandpiper", "sandpipper", 1}, {"tern", "gull", 3}, {"über", "uber", 1}} {
		require.Equal(t, c.want, min(wordindex.Misspelt(c.a, c.b, 2), 3), c.a+" "+c.b)
		require.Equal(t, c.want, min(wordindex.Misspelt(c.b, c.a, 2), 3), c.a+" "+c.b)
	}
	// What is passed over by its letters would not be near either.
	b := wordindex.NewBuilder()
	r := rand.New(rand.NewPCG(3, 4))
	var all []string
	for i := range 4000 {
		w := ""
		for range 3 + r.IntN(6) {
			w += string("abdeéirsü2"[r.IntN(10)])
		}
		w = strings.ToValidUTF8(w, "x")
		all = append(all, w)
		b.Add(int32(i), w)
	}
	x := b.Index()
	for _, w := range all[:60] {
		for most := 1; most <= 2; most++ {
			got := map[string]int{}
			x.Near(w, most, func(term string, off int) { got[term] = off })
			for _, term := range x.Terms {
				off := wordindex.Misspelt(w, term, most)
				is, near := got[term]
				require.Equal(t, off <= most, near, w+" "+term)
				if near {
					require.Equal(t, off, is)
				}
			}
		}
	}
}
