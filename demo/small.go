package demo

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"strings"
)

// The demo's small pieces: further themes' colours, palettes, a login theme,
// and an archive with a password.

var (
	saltLight  = themeColours{"#f7f8f8", "#2c3640", "#ffffff", "#3d7ea6", "#ffffff", "#cdd5da", "#e9eef0", 0}
	saltDark   = themeColours{"#222a31", "#dfe7ec", "#1b2228", "#6db3d8", "#0e1a22", "#39444d", "#2a343c", 0}
	groyneDark = themeColours{"#2b2a2d", "#e7e0d4", "#222124", "#dd9a45", "#241a0d", "#454347", "#343236", 7}
)

// palette is an X resource file: eight colours and their brighter forms.
func palette(name, licence, ground, ink string) files {
	var b strings.Builder
	fmt.Fprintf(&b, "! %s, a terminal palette. %s\n*.background: %s\n*.foreground: %s\n", name, licence, ground, ink)
	for i, c := range []string{
		"#2b3038", "#c65f52", "#6d9b6a", "#d0a04f", "#5688b0", "#9a76b3", "#4f9c98", "#b9b4a8",
		"#565d68", "#dd7a6c", "#8ab886", "#e3b96d", "#73a5cc", "#b592cc", "#6fb8b4", "#efe9dc",
	} {
		fmt.Fprintf(&b, "*.color%d: %s\n", i, c)
	}
	return files{name + "/" + name + ".Xresources": []byte(b.String())}
}

// lamplight is a theme for Lantern, the login screen.
func lamplight() (files, error) {
	picture, err := reedsAtDawn()
	return files{
		"Lamplight/login.theme": []byte("[Login Theme]\nName=Lamplight\nVersion=0.2\nLicence=CC0-1.0\nBackdrop=reeds.png\nInk=#f3f0e6\nPanel=#262c28\n"),
		"Lamplight/reeds.png":   picture,
		"Lamplight/panel.svg":   []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 32 32"><path d="M4 4H28V28H4Z" fill="#262c28"/></svg>`),
		"Lamplight/README.md":   []byte("Put this where Lantern looks for its themes.\n"),
		"Lamplight/LICENSE":     []byte("CC0-1.0\n"),
	}, err
}

// lockedZip writes a zip in the traditional encryption (APPNOTE 6.3, section
// 6.1), its members stored as they are.
func lockedZip(tree files, password string) ([]byte, error) {
	var out, dir bytes.Buffer
	le := binary.LittleEndian
	names := tree.names()
	for _, name := range names {
		text := tree[name]
		sum := crc32.ChecksumIEEE(text)
		sealed := seal(text, sum, password)
		at := out.Len()
		head := le.AppendUint16(nil, 20)
		for _, v := range []uint16{1, 0, 0, 0x5c75} { // encrypted, stored, a date
			head = le.AppendUint16(head, v)
		}
		for _, v := range []uint32{sum, uint32(len(sealed)), uint32(len(text))} {
			head = le.AppendUint32(head, v)
		}
		head = le.AppendUint16(head, uint16(len(name)))
		head = le.AppendUint16(head, 0)
		out.WriteString("PK\x03\x04")
		out.Write(head)
		out.WriteString(name)
		out.Write(sealed)
		dir.WriteString("PK\x01\x02\x14\x03")
		dir.Write(head)
		rest := make([]byte, 14)
		le.PutUint32(rest[6:], 0o100644<<16)
		le.PutUint32(rest[10:], uint32(at))
		dir.Write(rest)
		dir.WriteString(name)
	}
	end := []byte("PK\x05\x06\x00\x00\x00\x00")
	end = le.AppendUint16(end, uint16(len(names)))
	end = le.AppendUint16(end, uint16(len(names)))
	end = le.AppendUint32(end, uint32(dir.Len()))
	end = le.AppendUint32(end, uint32(out.Len()))
	end = le.AppendUint16(end, 0)
	out.Write(dir.Bytes())
	out.Write(end)
	return out.Bytes(), nil
}

func seal(text []byte, sum uint32, password string) []byte {
	keys := [3]uint32{0x12345678, 0x23456789, 0x34567890}
	step := func(crc uint32, b byte) uint32 { return crc32.IEEETable[byte(crc)^b] ^ crc>>8 }
	turn := func(b byte) {
		keys[0] = step(keys[0], b)
		keys[1] = (keys[1]+keys[0]&0xff)*134775813 + 1
		keys[2] = step(keys[2], byte(keys[1]>>24))
	}
	for i := range len(password) {
		turn(password[i])
	}
	plain := append([]byte("elevenbytes"), byte(sum>>24))
	plain = append(plain, text...)
	out := make([]byte, len(plain))
	for i, b := range plain {
		k := uint16(keys[2]) | 2
		out[i] = b ^ byte(k*(k^1)>>8)
		turn(b)
	}
	return out
}
