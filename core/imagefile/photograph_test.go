package imagefile_test

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image"
	"image/png"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/imagefile"
)

// FuzzPhotograph: whatever a picture says of how it is turned and of its colours, it is read or refused,
// and its size is that of what is read.
func FuzzPhotograph(f *testing.F) {
	var b bytes.Buffer
	require.NoError(f, png.Encode(&b, image.NewRGBA(image.Rect(0, 0, 3, 2))))
	plain := b.Bytes()
	exif := "Exif\x00\x00MM\x00*\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00"
	f.Add(plain, []byte(exif[6:]), "eXIf")
	f.Add(plain, []byte("p\x00\x00x\x9c\x03\x00\x00\x00\x00\x01"), "iCCP")
	f.Add(plain, []byte(exif[6:20]), "eXIf")
	f.Fuzz(func(t *testing.T, raw, chunk []byte, kind string) {
		if len(kind) == 4 && len(raw) > 33 { // a chunk behind the head
			with := append([]byte{}, raw[:33]...)
			n := len(chunk)
			with = append(with, byte(n>>24), byte(n>>16), byte(n>>8), byte(n))
			with = append(append(with, kind...), chunk...)
			with = binary.BigEndian.AppendUint32(with, crc32.ChecksumIEEE(with[37:]))
			raw = append(with, raw[33:]...)
		}
		by := imagefile.Turn(raw)
		require.True(t, by >= 1 && by <= 8)
		im, err := imagefile.Photograph(t.Context(), raw)
		if err != nil {
			return
		}
		w, h := imagefile.Size(raw)
		require.Equal(t, image.Pt(int(w), int(h)), im.Bounds().Size())
		if r := im.Bounds(); !r.Empty() {
			im.At(r.Min.X, r.Min.Y).RGBA()
			im.At(r.Max.X-1, r.Max.Y-1).RGBA()
		}
	})
}
