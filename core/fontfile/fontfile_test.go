package fontfile_test

import (
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/gobolditalic"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/fontfile"
	"ivelt/core/within"
)

func TestAFaceSaysWhatItIs(t *testing.T) {
	faces, err := fontfile.Parse(gobolditalic.TTF)
	require.NoError(t, err)
	require.Len(t, faces, 1)
	f := faces[0]
	require.Equal(t, "Go", f.Family())
	require.Equal(t, "Bold Italic", f.Style())
	require.True(t, f.Italic)
	require.False(t, f.Variable)
	for _, cut := range []int{0, 3, 11, 100, 5000} {
		_, err := fontfile.Parse(goregular.TTF[:cut])
		require.ErrorIs(t, err, fontfile.ErrFormat)
	}
}

func FuzzParse(f *testing.F) {
	f.Add(goregular.TTF[:4096])
	f.Add([]byte("ttcf\x00\x01\x00\x00\x00\x00\x00\x01\x00\x00\x00\x0c"))
	f.Add([]byte("\x00\x01\x00\x00\x00\x02\x05\x14\x00\x00\x00\x20name\x00\x00\x00\x00\x00\x00\x00\x20\xa5\x00\x02\x20")) // a table of 2.7 GB
	f.Fuzz(func(t *testing.T, b []byte) {
		within.Reason(t, len(b), func() {
			faces, err := fontfile.Parse(b)
			if err != nil {
				require.ErrorIs(t, err, fontfile.ErrFormat)
				return
			}
			for _, face := range faces {
				require.NotEmpty(t, face.Family())
				require.NotEmpty(t, face.Style())
			}
		})
	})
}
