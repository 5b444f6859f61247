package market_test

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/market"
	"ivelt/core/within"
)

func sum(text string) string {
	s := sha256.Sum256([]byte(text))
	return hex.EncodeToString(s[:])
}

// byHand is a market as a person writes one: two parcels, a picture.
func byHand() (fstest.MapFS, map[string]any) {
	picture := "\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x01\x00\x00\x00\x01\x08\x06\x00\x00\x00\x1f\x15\xc4\x89"
	fsys := fstest.MapFS{"a.zip": {Data: []byte("one")}, "b/b.tar.gz": {Data: []byte("other")}, "p.png": {Data: []byte(picture)}}
	version := func(file, text string) map[string]any {
		return map[string]any{"version": "1", "date": "2026-01-01", "file": file, "size": len(text), "sha256": sum(text)}
	}
	return fsys, map[string]any{"format": 1, "name": "Mine", "entries": []any{
		map[string]any{"id": "a", "kind": "icons", "name": "A", "versions": []any{version("a.zip", "one")}, "pictures": []any{map[string]any{"state": "normal", "file": "p.png"}}},
		map[string]any{"id": "b", "kind": "theme", "name": "B", "variant_of": "a", "versions": []any{version("b/b.tar.gz", "other")}, "companions": []any{map[string]any{"kind": "icons", "name": "A", "entry": "a"}}},
	}}
}

func check(t *testing.T, fsys fstest.MapFS, index any) []string {
	t.Helper()
	b, err := json.Marshal(index)
	require.NoError(t, err)
	if text, ok := index.(string); ok {
		b = []byte(text)
	}
	fsys["index.json"] = &fstest.MapFile{Data: b}
	found, err := market.Check(t.Context(), fsys, func(v market.Version) error {
		if strings.Contains(string(fsys[v.File].Data), "damaged") {
			return errors.New("it is damaged")
		}
		return nil
	})
	require.NoError(t, err)
	var out []string
	for _, m := range found {
		out = append(out, fmt.Sprintf("%s%s %s: %s", m.File, m.At, m.Entry, m.Text))
	}
	return out
}

// TestNewestLike: of one's own channel; a version nobody lists any more counts as a stable one.
func TestNewestLike(t *testing.T) {
	e := market.Entry{Versions: []market.Version{{Version: "4", Stability: "nightly"}, {Version: "3", Stability: "testing"}, {Version: "2"}, {Version: "1.5", Stability: "crashes"}, {Version: "1"}, {Version: "0.9", Stability: "nightly"}}}
	for has, newest := range map[string]string{"1": "2", "1.5": "2", "2": "2", "0.9": "4", "3": "3", "0.1": "2", "": "2"} {
		v, ok := e.NewestLike(has)
		require.True(t, ok)
		require.Equal(t, newest, v.Version, has)
	}
	_, ok := market.Entry{Versions: []market.Version{{Version: "1", Stability: "nightly"}}}.NewestLike("0.1")
	require.False(t, ok)
}

func TestAMarketMadeByHand(t *testing.T) {
	fsys, index := byHand()
	require.Empty(t, check(t, fsys, index))
	index["pages"] = []any{"more.json"}
	fsys["more.json"] = &fstest.MapFile{Data: []byte(`{"format":1,"entries":[]}`)}
	require.Empty(t, check(t, fsys, index))
}

// TestCheckNamesEachMistake makes one mistake at a time.
func TestCheckNamesEachMistake(t *testing.T) {
	type m = map[string]any
	for what, c := range map[string]struct {
		spoil func(index, a, version m)
		says  string
	}{
		"no name":              {func(x, _, _ m) { delete(x, "name") }, "index.json/name : the market has no name"},
		"another format":       {func(x, _, _ m) { x["format"] = 3 }, "index.json/format : value must be 1"},
		"no kind":              {func(_, a, _ m) { delete(a, "kind") }, "index.json/entries/0 a: missing property 'kind'"},
		"an unknown kind":      {func(_, a, _ m) { a["kind"] = "hats" }, "index.json/entries/0/kind a: value must be one of"},
		"an id twice":          {func(_, a, _ m) { a["id"] = "b" }, "index.json/entries/1/id b: this id is taken"},
		"a date that is none":  {func(_, _, v m) { v["date"] = "2026-13-01" }, "index.json/entries/0/versions/0/date a: "},
		"a path that climbs":   {func(_, _, v m) { v["file"] = "../a.zip" }, "index.json/entries/0/versions/0/file a: "},
		"an address as a file": {func(_, _, v m) { v["file"] = "http://x/a.zip" }, "index.json/entries/0/versions/0/file a: "},
		"a missing parcel":     {func(_, _, v m) { v["file"] = "c.zip" }, "a: the parcel c.zip is not there"},
		"a wrong size":         {func(_, _, v m) { v["size"] = 9 }, "/versions/0/size a: a.zip has 3 bytes, not 9"},
		"a wrong checksum":     {func(_, _, v m) { v["sha256"] = sum("x") }, "/versions/0/sha256 a: the SHA-256 of a.zip is " + sum("one")},
		"a missing picture":    {func(_, a, _ m) { a["pictures"] = []any{m{"state": "normal", "file": "q.png"}} }, "/pictures/0/file a: the picture q.png is not there"},
		"no picture":           {func(_, a, _ m) { a["pictures"] = []any{m{"state": "normal", "file": "a.zip"}} }, "/pictures/0/file a: a.zip is not a picture"},
		"a variant of nothing": {func(_, a, _ m) { a["variant_of"] = "z" }, `/variant_of a: there is no other entry "z"`},
		"a companion not here": {func(_, a, _ m) { a["companions"] = []any{m{"kind": "icons", "name": "Z", "entry": "z"}} }, `/companions/0/entry a: there is no entry "z"`},
		"likes out of order": {func(_, a, _ m) {
			a["likes"] = []any{m{"date": "2026-02-01", "count": 1}, m{"date": "2026-01-01", "count": 2}}
		}, "/likes/1/date a: likes are counted oldest first"},
		"a hue of 400":     {func(_, a, _ m) { a["looks"] = m{"hue": 400} }, "/looks/hue a: "},
		"a missing page":   {func(x, _, _ m) { x["pages"] = []any{"none.json"} }, "none.json : the file is not there"},
		"a damaged parcel": {func(_, _, v m) { v["file"], v["size"], v["sha256"] = "bad.zip", 7, sum("damaged") }, "a: it is damaged"},
		"versions out of order": {func(_, a, v m) {
			a["versions"] = []any{v, m{"version": "2", "date": "2026-05-01", "file": "a.zip", "size": 3, "sha256": sum("one")}}
		}, "/versions/1/date a: versions are listed newest first"},
	} {
		fsys, index := byHand()
		fsys["bad.zip"] = &fstest.MapFile{Data: []byte("damaged")}
		a := index["entries"].([]any)[0].(m)
		c.spoil(index, a, a["versions"].([]any)[0].(m))
		found := check(t, fsys, index)
		require.NotEmpty(t, found, what)
		require.Contains(t, strings.Join(found, "\n"), c.says, what)
	}
	fsys, _ := byHand()
	require.Contains(t, check(t, fsys, `{"format":1,`)[0], "it is not JSON")
	found, err := market.Check(t.Context(), fstest.MapFS{}, nil)
	require.NoError(t, err)
	require.Len(t, found, 1)
}

func TestReadLeavesOutWhatCannotBeUsed(t *testing.T) {
	_, index := byHand()
	list := index["entries"].([]any)
	list[0].(map[string]any)["versions"].([]any)[0].(map[string]any)["file"] = "../../etc/shadow"
	index["pages"] = []any{"../x.json", "ok.json"}
	b, err := json.Marshal(index)
	require.NoError(t, err)
	x, skipped, err := market.Read(strings.NewReader(string(b)))
	require.NoError(t, err)
	require.Equal(t, 1, skipped)
	require.Len(t, x.Entries, 1)
	require.Equal(t, []string{"ok.json"}, x.Pages)
	_, _, err = market.Read(strings.NewReader("<html>"))
	require.ErrorIs(t, err, market.ErrDamaged)
	_, _, err = market.Read(strings.NewReader(`{"format":9}`))
	require.ErrorIs(t, err, market.ErrFormat)
}

func FuzzRead(f *testing.F) {
	_, index := byHand()
	b, _ := json.Marshal(index)
	f.Add(string(b))
	f.Add(`{"format":1,"entries":[{"versions":null}]}`)
	f.Fuzz(func(t *testing.T, text string) {
		within.Reason(t, len(text), func() {
			x, _, err := market.Read(strings.NewReader(text))
			if err != nil {
				return
			}
			for _, e := range x.Entries {
				require.NotEmpty(t, e.Newest().Version+e.Name)
				require.GreaterOrEqual(t, len(e.Versions), 1)
			}
		})
	})
}

// endless gives the same bytes over and over, and counts them.
type endless struct {
	text string
	gave int64
}

func (e *endless) Read(b []byte) (int, error) {
	n := copy(b, e.text)
	e.gave += int64(n)
	return n, nil
}

// TestAnIndexIsReadAnEntryAtATime: neither one of hundreds of MB, nor an entry or a name
// of such size, is taken into memory.
func TestAnIndexIsReadAnEntryAtATime(t *testing.T) {
	for what, c := range map[string]struct{ begins, goesOn string }{
		"an entry that does not end": {`{"format": 1, "entries": [{"id": "a", "name": "`, strings.Repeat("a", 4096)},
		"a name that does not end":   {`{"`, strings.Repeat("a", 4096)},
		"something else":             {`{"format": 1, "about": [`, strings.Repeat("[", 4096)},
		"entries without end":        {`{"format": 1, "entries": [{}`, strings.Repeat(`,{}`, 1000)},
	} {
		e := &endless{text: c.goesOn}
		_, _, err := market.Read(io.MultiReader(strings.NewReader(c.begins), e))
		require.Error(t, err, what)
		require.LessOrEqual(t, e.gave, int64(market.MaxIndex)+1<<20, what)
		if what != "entries without end" {
			require.Less(t, e.gave, int64(4<<20), what)
		}
	}
	x, skipped, err := market.Read(strings.NewReader(`{"entries": null, "format": 1, "name": "N", "pages": ["a.json", "../b"], "entries": [{"id": "x"}]}`))
	require.NoError(t, err)
	require.Equal(t, "N", x.Name)
	require.Equal(t, []string{"a.json"}, x.Pages)
	require.Equal(t, 1, skipped)
	for _, bad := range []string{"", "[]", "{", `{"entries": {}}`, `{"format": 1, "entries": [`, `{"format": 1, "entries": [{}] `, "null"} {
		_, _, err := market.Read(strings.NewReader(bad))
		require.ErrorIs(t, err, market.ErrDamaged, bad)
	}
}
