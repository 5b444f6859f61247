package synonym_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/synonym"
)

// TestOf finds what people mean, also by the first letters of a word, and nothing by letters
// that could mean all kinds of things.
func TestOf(t *testing.T) {
	require.Equal(t, []string{"pointer", "mouse"}, synonym.Of("cursor"))
	require.Equal(t, []string{"backdrop", "background"}, synonym.Of("wallp"))
	require.Contains(t, synonym.Of("taskbar"), "bar")
	require.Contains(t, synonym.Of("bar"), "panel")
	require.Empty(t, synonym.Of("cu"))
	require.Empty(t, synonym.Of("shingle"))
}
