package gresource_test

import (
	"bytes"
	_ "embed"
	"encoding/binary"
	"io/fs"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/gresource"
)

// Bundles made by GLib's own compiler are read in package truth; here are those
// that no compiler makes.

func TestWhatIsNoBundle(t *testing.T) {
	for _, text := range []string{"", "GVariant", "GVariant\x00\x00\x00\x00\x00\x00\x00\x00\x18\x00\x00\x00\xff\xff\x00\x00", "tnairaVG\x00\x00\x00\x00\x00\x00\x00\x00\x18\x00\x00\x00\x20\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00",
		"GVariant\x07\x00\x00\x00\x00\x00\x00\x00\x18\x00\x00\x00\x20\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00"} {
		_, err := gresource.Open([]byte(text))
		require.ErrorIs(t, err, gresource.ErrBundle, "%q", text)
	}
	empty, err := gresource.Open([]byte("GVariant\x00\x00\x00\x00\x00\x00\x00\x00\x18\x00\x00\x00\x20\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00"))
	require.NoError(t, err)
	require.Empty(t, empty.Names())
}

func FuzzParse(f *testing.F) {
	f.Add([]byte("GVariant\x00\x00\x00\x00\x00\x00\x00\x00\x18\x00\x00\x00\x20\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00"))
	// One item: its name is its own parent.
	f.Add([]byte("GVariant\x00\x00\x00\x00\x00\x00\x00\x00\x18\x00\x00\x00\x3c\x00\x00\x00\x00\x00\x00\x00\x01\x00\x00\x00\x00\x00\x00\x00" +
		"\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x04\x00v\x00\x00\x00\x00\x00\x10\x00\x00\x00"))
	f.Fuzz(func(t *testing.T, data []byte) {
		b, err := gresource.Open(data)
		if err != nil {
			return
		}
		for _, name := range b.Names() {
			_, _ = b.Read(name)
		}
	})
}

// reef is what GLib's compiler (glib-compile-resources of Debian's libglib2.0-dev-bin 2.74)
// makes of two style sheets, of which one is to be compressed.
//
//go:embed testdata/reef.gresource
var reef []byte

// TestFilesOfABundle are read whole, and what is damaged is told.
func TestFilesOfABundle(t *testing.T) {
	b, err := gresource.Open(reef)
	require.NoError(t, err)
	require.Equal(t, []string{"/org/example/Reef/gtk.css", "/org/example/Reef/long.css"}, slices.DeleteFunc(b.Names(), func(n string) bool { return !strings.HasSuffix(n, ".css") }))
	got, err := b.Read("/org/example/Reef/gtk.css")
	require.NoError(t, err)
	require.Equal(t, "@define-color sea #102030;\n", string(got))
	long, err := b.Read("/org/example/Reef/long.css")
	require.NoError(t, err)
	require.Equal(t, strings.Repeat("window { color: red; }\n", 40)+"\n", string(long))
	_, err = b.Read("/org/example/Reef/gone.css")
	require.ErrorIs(t, err, fs.ErrNotExist)
	_, err = b.Read("/org/")
	require.ErrorIs(t, err, fs.ErrNotExist, "a folder is no file")

	size := binary.LittleEndian.AppendUint32(nil, uint32(len(long)))
	at := bytes.Index(reef, append(size, 1, 0, 0, 0))
	require.Positive(t, at)
	for what, damage := range map[string]func(b []byte){
		"more than it says":   func(b []byte) { b[at]-- },
		"less than it says":   func(b []byte) { b[at]++ },
		"far too much":        func(b []byte) { b[at+3] = 0x7f },
		"not compressed":      func(b []byte) { b[at+4] = 0 },
		"no compressed data":  func(b []byte) { b[at+8] = 0 },
		"damaged in the data": func(b []byte) { b[at+14] ^= 0xff },
	} {
		bad := bytes.Clone(reef)
		damage(bad)
		b, err := gresource.Open(bad)
		require.NoError(t, err, what)
		_, err = b.Read("/org/example/Reef/long.css")
		require.ErrorIs(t, err, gresource.ErrBundle, what)
	}
}
