package imagefile_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/imagefile"
)

func TestMediaTypeLooksAtTheBytes(t *testing.T) {
	for text, want := range map[string]string{
		"\x89PNG\r\n\x1a\n rest": "image/png", "\xff\xd8\xff\xe0": "image/jpeg", "<?xml version='1.0'?>\n<!-- x --><svg>": "image/svg+xml",
		"\xef\xbb\xbf <svg>": "image/svg+xml", "<html><p>": "", "": "", "GIF89a": "", "svg": "",
	} {
		require.Equal(t, want, imagefile.MediaType([]byte(text)), text)
	}
}
