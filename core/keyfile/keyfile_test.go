package keyfile_test

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/keyfile"
)

func TestLookupTakesTheLastOfSeveral(t *testing.T) {
	f, err := keyfile.Parse([]byte("# top\n[A]\nk = one\n[B]\nk=two\n[A]\n k\t=\t three \n"))
	require.NoError(t, err)
	e, ok := f.Lookup("A", "k")
	require.True(t, ok)
	require.Equal(t, keyfile.Entry{Key: "k", Value: "three ", Line: 7}, e)
	require.Equal(t, "two", f.Get("B", "k"))
	require.Equal(t, []string{"A", "B"}, f.Groups())
	require.Len(t, f.Entries("A"), 2)
	_, ok = f.Lookup("C", "k")
	require.False(t, ok)
}

func TestListKeepsBlanksAsGKeyFileDoes(t *testing.T) {
	f, err := keyfile.Parse([]byte("[A]\nk=a, b,,c,\nempty=\n"))
	require.NoError(t, err)
	require.Equal(t, []string{"a", " b", "", "c"}, f.List("A", "k", ','))
	require.Empty(t, f.List("A", "empty", ','))
}

func TestParseNamesTheLine(t *testing.T) {
	for text, line := range map[string]int{
		"[A]\nk=v\njust words\n": 3, "k=v\n": 1, "[A]\n\n[B\n": 3, "[A]\n=v\n": 2, "[]\n": 1, "[A] x\n": 1, "# ok\n[A]\nk\n": 3,
	} {
		_, err := keyfile.Parse([]byte(text))
		var se *keyfile.SyntaxError
		require.ErrorAs(t, err, &se, text)
		require.ErrorIs(t, err, keyfile.ErrSyntax)
		require.Equal(t, line, se.Line, text)
	}
}

func TestSetTouchesNothingElse(t *testing.T) {
	for _, c := range []struct{ before, group, key, value, after string }{
		{"[A]\nk = v\n", "A", "k", "w", "[A]\nk = w\n"},
		{"[A]\r\n  k\t= v  \r\nx=y", "A", "k", "w", "[A]\r\n  k\t= w\r\nx=y"},
		{"[A]\nk=1\nk=2\n", "A", "k", "3", "[A]\nk=1\nk=3\n"},
		{"[A]\na=1\n\n# about B\n[B]\nb=2\n", "A", "k", "v", "[A]\na=1\nk=v\n\n# about B\n[B]\nb=2\n"},
		{"[A]\r\na=1", "A", "k", "v", "[A]\r\na=1\r\nk=v"},
		{"[A]\na=1", "B", "k", "v", "[A]\na=1\n\n[B]\nk=v\n"},
		{"", "A", "k", "v", "[A]\nk=v\n"},
		{"# only this", "A", "k", "v", "# only this\n\n[A]\nk=v\n"},
		{"[A]\nk=v\n", "A", "k", " tab\tback\\slash\n", "[A]\nk=\\stab\\tback\\\\slash\\n\n"},
	} {
		f, err := keyfile.Parse([]byte(c.before))
		require.NoError(t, err)
		f.Set(c.group, c.key, c.value)
		require.Equal(t, c.after, string(f.Bytes()), c.before)
		again, err := keyfile.Parse(f.Bytes())
		require.NoError(t, err)
		require.Equal(t, c.value, again.Get(c.group, c.key), c.before)
	}
}

// TestEditsAreLossless sets and removes keys in files as messy as people leave
// them, and compares line by line.
func TestEditsAreLossless(t *testing.T) {
	pieces := []string{
		"# a comment", "", "   ", "[Settings]", "[Other]", "k=v", " k = v ", "key=ü", "long=" + strings.Repeat("x", 5000),
		"k[fr]=w", "\tindented=1", "#k=off", "weird key=yes", "x= # no comment", `esc=\t\n\\`,
	}
	for seed := range uint64(500) {
		r := rand.New(rand.NewPCG(seed, 1))
		end := []string{"\n", "\r\n"}[r.IntN(2)]
		lines := []string{"# top", "[Settings]"}
		for range r.IntN(12) {
			lines = append(lines, pieces[r.IntN(len(pieces))])
		}
		text := strings.Join(lines, end) + []string{"", end}[r.IntN(2)]
		f, err := keyfile.Parse([]byte(text))
		require.NoError(t, err, "seed %d", seed)
		require.Equal(t, text, string(f.Bytes()), "seed %d", seed)
		old, had := f.Lookup("Settings", "k")
		f.Set("Settings", "k", "NEW")
		before, after := strings.SplitAfter(text, "\n"), strings.SplitAfter(string(f.Bytes()), "\n")
		if had {
			require.Len(t, after, len(before), "seed %d", seed)
			for i := range before {
				if i != old.Line-1 {
					require.Equal(t, before[i], after[i], "seed %d, line %d", seed, i+1)
				}
			}
		}
		require.Equal(t, "NEW", f.Get("Settings", "k"))
		if had {
			continue
		}
		require.True(t, f.Remove("Settings", "k"))
		require.Equal(t, strings.TrimSuffix(text, end), strings.TrimSuffix(string(f.Bytes()), end), "seed %d: removing what was added", seed)
	}
}

func FuzzParse(f *testing.F) {
	f.Add([]byte("[A]\nk=v\n"))
	f.Add([]byte("\xef\xbb\xbf[A]\r\nk = v"))
	f.Add([]byte("[A]\n[A]\nk\x00=\xff\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		kf, err := keyfile.Parse(b)
		if err != nil {
			require.ErrorIs(t, err, keyfile.ErrSyntax)
			return
		}
		require.True(t, bytes.Equal(b, kf.Bytes()), "lossless")
		for _, g := range kf.Groups() {
			for _, e := range kf.Entries(g) {
				kf.Set(g, e.Key, "new "+e.Value)
				require.Equal(t, "new "+e.Value, kf.Get(g, e.Key), fmt.Sprint(g, e))
			}
		}
		_, err = keyfile.Parse(kf.Bytes())
		require.NoError(t, err, "an edited key file is a key file")
	})
}
