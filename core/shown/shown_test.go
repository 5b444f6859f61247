package shown_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/shown"
)

func TestWhatIsHarmfulIsShownAsWhatItIs(t *testing.T) {
	for text, want := range map[string]string{
		"Reedbed":                "Reedbed",
		"Tern\nrm -rf ~":         `Tern\nrm -rf ~`,
		"\x1b[2J\x1b]0;x\a":      `\u001b[2J\u001b]0;x\u0007`,
		"gnp.\u202egvs":          `gnp.\u202egvs`,
		"a\u2066b\u2069 \u2028c": `a\u2066b\u2069 \u2028c`,
		"\u0085 \u009b1m":        `\u0085 \u009b1m`,
		"bad \xff bytes":         "bad \ufffd bytes",
		"שלום, שלום — naïve 日本 🌊":     "שלום, שלום — naïve 日本 🌊",
		"tab\there, and a\r carriage": `tab here, and a\r carriage`,
	} {
		require.Equal(t, want, shown.Line(text))
	}
	require.Equal(t, "Tern-rm-[2J-x", shown.Name("Tern\nrm\x1b[2J\u202ex"))

	var b bytes.Buffer
	fmt.Fprint(shown.Writer(&b), "\rin 3 s\tline\n\x1b[31mred\u202e\n")
	require.Equal(t, "\rin 3 s\tline\n\\u001b[31mred\\u202e\n", b.String())
	b.Reset()
	name := "x\x1b\u202ey"
	require.NoError(t, json.NewEncoder(shown.Writer(&b)).Encode(name))
	var again string
	require.NoError(t, json.Unmarshal(b.Bytes(), &again))
	require.Equal(t, name, again, "in JSON it is the same")

	b.Reset()
	require.NoError(t, shown.Page(&b, []byte("<option value=\"x\u202ey\" title='a &gt; b'>\r\n\tx\u202ey</option>\x1b[1m &lt;")))
	require.Equal(t, "<option value=\"x\u202ey\" title='a &gt; b'>\r\n\tx\\u202ey</option>\\u001b[1m &lt;", b.String())
}
