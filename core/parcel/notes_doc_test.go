package parcel

import (
	"ivelt/core/say"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestEveryNoteCodeIsDocumented(t *testing.T) {
	doc, err := os.ReadFile("../../docs/notes.md")
	require.NoError(t, err)
	for name, level := range levels {
		require.Contains(t, string(doc), "| `"+name+"` | "+string(level)+" | "+strings.ReplaceAll(say.Format("parcel/"+name), "%s", "…")+" |")
	}
}
