package imagefile

import (
	"encoding/binary"
	"hash/crc32"
)

// maxNote is how long a note in a picture may be, in bytes.
const maxNote = 60_000

// Note is what [Noted] has written into a picture, "" for nothing.
func Note(raw []byte) string {
	switch MediaType(raw) {
	case "image/jpeg":
		if len(raw) < 6 || raw[2] != 0xff || raw[3] != 0xfe {
			return ""
		}
		n := int(binary.BigEndian.Uint16(raw[4:]))
		if n < 2 || len(raw) < 4+n {
			return ""
		}
		return string(raw[6 : 4+n])
	case "image/png":
		const head, before = 8 + 25, "iTXtComment\x00\x00\x00\x00\x00"
		if len(raw) < head+4+len(before) {
			return ""
		}
		n := int(binary.BigEndian.Uint32(raw[head:])) + 4
		if body := raw[head+4:]; n >= len(before) && n <= min(len(body), maxNote+len(before)) && string(body[:len(before)]) == before {
			return string(body[len(before):n])
		}
	}
	return ""
}

// Noted is a PNG or JPEG with a note of where it came from, which programs show as its comment: a
// segment COM (ITU-T T.81, B.2.4.5), a chunk iTXt (PNG, third edition, 11.3.3.4). Any other is returned
// as it is, and so is one whose note would be too long.
func Noted(raw []byte, note string) []byte {
	if len(note) > maxNote {
		return raw
	}
	switch MediaType(raw) {
	case "image/jpeg":
		out := append([]byte{}, raw[:2]...)
		out = append(out, 0xff, 0xfe)
		out = binary.BigEndian.AppendUint16(out, uint16(len(note)+2))
		return append(append(out, note...), raw[2:]...)
	case "image/png":
		const head = 8 + 25 // the signature and IHDR
		if len(raw) < head {
			return raw
		}
		body := append([]byte("iTXtComment\x00\x00\x00\x00\x00"), note...)
		out := append([]byte{}, raw[:head]...)
		out = binary.BigEndian.AppendUint32(out, uint32(len(body)-4))
		out = append(out, body...)
		out = binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(body))
		return append(out, raw[head:]...)
	}
	return raw
}
