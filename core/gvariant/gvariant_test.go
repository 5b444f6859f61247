package gvariant_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/gvariant"
)

// Worked examples of the GVariant Specification 1.0, section 2.5.3, as they are
// remembered; values that GLib itself has written are read in package truth.
func TestTheSpecificationsExamples(t *testing.T) {
	for _, c := range []struct {
		kind, data string
		want       any
	}{
		{"s", "hello world\x00", "hello world"},
		{"ms", "hello world\x00\x00", "hello world"},
		{"ms", "", nil},
		{"ab", "\x01\x00\x00\x01\x01", []any{true, false, false, true, true}},
		{"(si)", "foo\x00\xff\xff\xff\xff\x04", []any{"foo", int64(-1)}},
		{"a(si)", "hi\x00\x00\xfe\xff\xff\xff\x03\x00\x00\x00bye\x00\xff\xff\xff\xff\x04\x09\x15", []any{[]any{"hi", int64(-2)}, []any{"bye", int64(-1)}}},
		{"as", "i\x00can\x00has\x00strings?\x00\x02\x06\x0a\x13", []any{"i", "can", "has", "strings?"}},
		{"{si}", "a key\x00\x00\x00\x02\x02\x00\x00\x06", [2]any{"a key", int64(514)}},
		{"((ys)as)", "ican\x00has\x00strings?\x00\x04\x0d\x05", []any{[]any{uint64('i'), "can"}, []any{"has", "strings?"}}},
		{"(yy)", "\x70\x80", []any{uint64(0x70), uint64(0x80)}},
		{"ai", "\x04\x00\x00\x00\x02\x01\x00\x00", []any{int64(4), int64(258)}},
		{"v", "\x2a\x00\x00\x00\x00i", int64(42)},
		{"()", "\x00", []any{}},
	} {
		got, err := gvariant.Parse(c.kind, []byte(c.data))
		require.NoError(t, err, c.kind)
		require.Equal(t, c.want, got, c.kind)
	}
	for kind, data := range map[string]string{"s": "no end", "i": "\x01", "as": "a\x00\x09", "(si)": "\x00", "(": "", "z": "", "a": "", "v": "\x00", "{si}": "\xff"} {
		_, err := gvariant.Parse(kind, []byte(data))
		require.ErrorIs(t, err, gvariant.ErrValue, "%q", kind)
	}
}

func TestText(t *testing.T) {
	for _, c := range []struct {
		kind, text string
		want       any
	}{
		{"s", `'it\'s'`, "it's"}, {"s", `"a\tb\u00fc"`, "a\tbü"}, {"i", "uint32 0x20", int64(32)}, {"u", "5", uint64(5)}, {"b", "true", true}, {"d", "1.25", 1.25}, {"s", " string 'x' ", "x"},
		{"s", "'open", nil}, {"s", "bare", nil}, {"i", "'5'", nil}, {"i", "99999999999", nil}, {"u", "-1", nil}, {"b", "1", nil}, {"s", `'a' 'b'`, nil}, {"as", "['a']", nil}, {"s", "'\xb4'", nil}, {"s", "'\x00'", nil},
	} {
		got, err := gvariant.ParseText(c.kind, c.text)
		require.Equal(t, c.want, got, c.text)
		require.Equal(t, c.want == nil, err != nil, c.text)
	}
	for _, v := range []string{"plain", "it's", `both ' and "`, "a\nb\\c", "\x01ü"} {
		back, err := gvariant.ParseText("s", gvariant.Text(v))
		require.NoError(t, err)
		require.Equal(t, v, back)
	}
}

func FuzzParse(f *testing.F) {
	f.Add("a(si)", []byte("hi\x00\x00\xfe\xff\xff\xff\x03\x00\x00\x00bye\x00\xff\xff\xff\xff\x04\x09\x15"))
	f.Add("(s(yau)m{sv})", []byte("x\x00\x00\x01\x02"))
	f.Fuzz(func(t *testing.T, kind string, data []byte) {
		_, _ = gvariant.Parse(kind, data)
		if v, err := gvariant.ParseText("s", string(data)); err == nil {
			back, err := gvariant.ParseText("s", gvariant.Text(v))
			if err != nil || back != v {
				t.Errorf("%q was written as %s", v, gvariant.Text(v))
			}
		}
	})
}
