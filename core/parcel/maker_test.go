package parcel_test

import (
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/parcel"
)

// TestMaker: the first who is named in a list of authors, however the list is written.
func TestMaker(t *testing.T) {
	for text, want := range map[string]string{
		"Mara Vliet <mara@example.org>\nIsa Holm\n":        "Mara Vliet",
		"# Authors\n\n* Isa Holm (drawing)\n":              "Isa Holm",
		"Authors:\n========\n\n  - Mara Vliet, Isa Holm\n": "Mara Vliet, Isa Holm",
		"\xff\xfe\x00": "", "": "", "#\n": "",
		strings.Repeat("These are the terms. ", 9): "",
		strings.Repeat("a", 70<<10):                "",
	} {
		require.Equal(t, want, parcel.Maker(fstest.MapFS{"Salt/AUTHORS": {Data: []byte(text)}}, "Salt"), "%.40q", text)
	}
	require.Empty(t, parcel.Maker(fstest.MapFS{"Salt/AUTHORS/x": {}}, "Salt"))
	require.Equal(t, "Isa", parcel.Maker(fstest.MapFS{"Salt/AUTHORS.md": {Data: []byte("Isa")}}, "Salt"))
}
