package imagefile

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/color"
)

// Turn is how a picture is to be turned and mirrored before it is shown: the value of the tag
// Orientation (Exif 2.32, 4.6.4 A; TIFF 6.0). 1 leaves it, up to 4 it keeps its width and height, from
// 5 to 8 it changes them for each other. It is 1 where nothing, or nothing that can be, is said.
func Turn(raw []byte) int {
	tiff := exif(raw)
	if len(tiff) < 8 {
		return 1
	}
	var order binary.ByteOrder = binary.LittleEndian
	if string(tiff[:2]) == "MM" {
		order = binary.BigEndian
	} else if string(tiff[:2]) != "II" {
		return 1
	}
	at := int64(order.Uint32(tiff[4:]))
	if order.Uint16(tiff[2:]) != 42 || at+2 > int64(len(tiff)) {
		return 1
	}
	entries := int(order.Uint16(tiff[at:]))
	for i := range entries {
		e := at + 2 + 12*int64(i)
		if e+12 > int64(len(tiff)) {
			break
		}
		const orientation, short = 0x0112, 3
		if order.Uint16(tiff[e:]) == orientation && order.Uint16(tiff[e+2:]) == short {
			if n := int(order.Uint16(tiff[e+8:])); n >= 1 && n <= 8 {
				return n
			}
			break
		}
	}
	return 1
}

// exif is what a JPEG, PNG or WebP says of itself by Exif, from the TIFF header on; nil for nothing.
func exif(raw []byte) []byte {
	header := []byte("Exif\x00\x00")
	switch MediaType(raw) {
	case "image/jpeg": // Exif 2.32, 4.5.4: the segment APP1
		for at := 2; at+4 <= len(raw) && raw[at] == 0xff && raw[at+1] != 0xda; {
			size := int(binary.BigEndian.Uint16(raw[at+2:]))
			if size < 2 || at+2+size > len(raw) {
				break
			}
			if in, ok := bytes.CutPrefix(raw[at+4:at+2+size], header); ok && raw[at+1] == 0xe1 {
				return in
			}
			at += 2 + size
		}
	case "image/png": // Extensions to the PNG specification 1.5, 3.7: eXIf
		for at := 8; at+12 <= len(raw); {
			size := int64(binary.BigEndian.Uint32(raw[at:]))
			if int64(at)+12+size > int64(len(raw)) {
				break
			}
			if string(raw[at+4:at+8]) == "eXIf" {
				return raw[at+8 : at+8+int(size)]
			}
			at += 12 + int(size)
		}
	case "image/webp": // WebP container specification (RFC 9649, 2.7.1.5)
		for at := 12; at+8 <= len(raw); {
			size := int64(binary.LittleEndian.Uint32(raw[at+4:]))
			if int64(at)+8+size > int64(len(raw)) {
				break
			}
			if string(raw[at:at+4]) == "EXIF" {
				return bytes.TrimPrefix(raw[at+8:at+8+int(size)], header)
			}
			at += 8 + int(size+size%2)
		}
	}
	return nil
}

// turned is a picture as it is to be shown.
type turned struct {
	image.Image
	by int
}

// Upright is a picture turned as [Turn] says.
func Upright(im image.Image, by int) image.Image {
	if by < 2 || by > 8 {
		return im
	}
	return turned{im, by}
}

func (t turned) Bounds() image.Rectangle {
	size := t.Image.Bounds().Size()
	if t.by >= 5 {
		size.X, size.Y = size.Y, size.X
	}
	return image.Rectangle{Max: size}
}

func (t turned) At(x, y int) color.Color {
	b := t.Image.Bounds()
	right, bottom := b.Dx()-1, b.Dy()-1
	switch t.by {
	case 2:
		x = right - x
	case 3:
		x, y = right-x, bottom-y
	case 4:
		y = bottom - y
	case 5:
		x, y = y, x
	case 6:
		x, y = y, bottom-x
	case 7:
		x, y = right-y, bottom-x
	case 8:
		x, y = right-y, x
	}
	return t.Image.At(b.Min.X+x, b.Min.Y+y)
}
