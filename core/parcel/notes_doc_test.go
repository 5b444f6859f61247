package parcel

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestEveryNoteCodeIsDocumented(t *testing.T) {
	doc, err := os.ReadFile("../../docs/notes.md")
	require.NoError(t, err)
	for name, c := range codes {
		require.Contains(t, string(doc), "| `"+name+"` | "+string(c.level)+" | "+strings.ReplaceAll(c.text, "%s", "…")+" |")
	}
}
