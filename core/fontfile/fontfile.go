// Package fontfile reads what font files say of themselves: family, style,
// weight, width and slant, from the tables name, OS/2 and head of OpenType
// (ISO/IEC 14496-22). Collections hold several faces.
package fontfile

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"strings"

	ot "github.com/go-text/typesetting/font/opentype"
	"github.com/go-text/typesetting/font/opentype/tables"
)

// ErrFormat: the bytes are not a font, or a damaged one.
var ErrFormat = errors.New("not a font file")

// Face is one face of a font file.
type Face struct {
	Families []string // the typographic family first, then the one older programs use, then those in other languages
	Styles   []string // in the same order
	FullName string
	Version  string
	Licence  string
	Maker    string
	Weight   int // 1 to 1000, 400 is regular (OS/2 usWeightClass)
	Width    int // 1 to 9, 5 is normal (OS/2 usWidthClass)
	Italic   bool
	Oblique  bool
	Variable bool
	Fixed    bool // every letter is as wide as the next
	// Sharing is what the font's own flags allow: "", or "restricted" if they
	// forbid embedding (OS/2 fsType bit 1).
	Sharing string
	// Embedding are those flags whole (OS/2 fsType).
	Embedding int
}

// Family returns the name a person knows the face by.
func (f Face) Family() string { return f.Families[0] }

// Style returns the style within the family.
func (f Face) Style() string { return f.Styles[0] }

// IsFont reports whether a file that starts so may be a font.
func IsFont(head []byte) bool {
	if len(head) < 4 {
		return false
	}
	switch string(head[:4]) {
	case "\x00\x01\x00\x00", "OTTO", "true", "ttcf":
		return true
	}
	return false
}

// Source is what a font is read from: only the tables that are needed are.
type Source = ot.Resource

// Parse reads all faces of a font held in memory.
func Parse(b []byte) ([]Face, error) { return Read(bytes.NewReader(b)) }

// Read reads all faces of a font.
func Read(r Source) (faces []Face, err error) {
	var head [4]byte
	if _, err := r.ReadAt(head[:], 0); err != nil || !IsFont(head[:]) {
		return nil, fmt.Errorf("%w: its first bytes are those of no TrueType, OpenType or collection", ErrFormat)
	}
	if err := checkSizes(r); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrFormat, err)
	}
	loaders, err := ot.NewLoaders(r)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrFormat, err)
	}
	for _, l := range loaders {
		f, err := face(l)
		if err != nil {
			return nil, fmt.Errorf("%w: %w", ErrFormat, err)
		}
		faces = append(faces, f)
	}
	if len(faces) == 0 {
		return nil, fmt.Errorf("%w: it has no face", ErrFormat)
	}
	return faces, nil
}

var errSizes = errors.New("its table directory names more than the file holds")

// checkSizes holds the sizes a font's directories claim (OpenType 1.9, "Table
// Directory" and "TTC Header") against that of the file, so that reading a
// table takes no more memory than there are bytes.
func checkSizes(r Source) error {
	size, err := r.Seek(0, io.SeekEnd)
	if err != nil {
		return err
	}
	if _, err := r.Seek(0, io.SeekStart); err != nil {
		return err
	}
	head := make([]byte, 12)
	if _, err := r.ReadAt(head, 0); err != nil {
		return err
	}
	fonts := []int64{0}
	if string(head[:4]) == "ttcf" {
		count := int64(binary.BigEndian.Uint32(head[8:]))
		if count > maxFaces || 12+4*count > size {
			return errSizes
		}
		offsets := make([]byte, 4*count)
		if _, err := r.ReadAt(offsets, 12); err != nil {
			return err
		}
		fonts = nil
		for i := range count {
			fonts = append(fonts, int64(binary.BigEndian.Uint32(offsets[4*i:])))
		}
	}
	for _, at := range fonts {
		if _, err := r.ReadAt(head, at); err != nil {
			return err
		}
		long := 16 * int64(binary.BigEndian.Uint16(head[4:]))
		if at+12+long > size {
			return errSizes
		}
		records := make([]byte, long)
		if _, err := r.ReadAt(records, at+12); err != nil {
			return err
		}
		for ; len(records) > 0; records = records[16:] {
			if int64(binary.BigEndian.Uint32(records[12:])) > size {
				return errSizes
			}
		}
	}
	return nil
}

// maxFaces bounds a collection; the largest there are have a few dozen.
const maxFaces = 1024

// Name IDs of the name table.
const (
	idFamily, idStyle, idFull, idVersion       = 1, 2, 4, 5
	idMaker, idLicence                         = 8, 13
	idTypographicFamily, idTypographicSubStyle = 16, 17
	idSlopedFamily, idSlopedStyle              = 21, 22
)

func face(l *ot.Loader) (Face, error) {
	raw, err := l.RawTable(ot.MustNewTag("name"))
	if err != nil {
		return Face{}, err
	}
	names, _, err := tables.ParseName(raw)
	if err != nil {
		return Face{}, err
	}
	name := func(id tables.NameID) string { return strings.TrimSpace(names.Name(id)) }
	records := nameRecords(raw)
	f := Face{
		Families: namesOf(records, idSlopedFamily, idTypographicFamily, idFamily),
		Styles:   namesOf(records, idSlopedStyle, idTypographicSubStyle, idStyle),
		FullName: name(idFull), Version: name(idVersion), Maker: name(idMaker), Licence: name(idLicence),
		Weight: 400, Width: 5, Variable: l.HasTable(ot.MustNewTag("fvar")),
	}
	if len(f.Families) == 0 {
		return Face{}, errors.New("it has no family name")
	}
	if len(f.Styles) == 0 {
		f.Styles = []string{"Regular"}
	}
	if os2, err := l.RawTable(ot.MustNewTag("OS/2")); err == nil && len(os2) >= 64 {
		f.Weight, f.Width = word(os2, 4), word(os2, 6)
		f.Italic, f.Oblique = word(os2, 62)&1 != 0, word(os2, 62)&(1<<9) != 0
		f.Embedding = word(os2, 8)
		if f.Embedding&0xf == 2 {
			f.Sharing = "restricted"
		}
	} else if head, err := l.RawTable(ot.MustNewTag("head")); err == nil && len(head) >= 46 {
		if word(head, 44)&1 != 0 {
			f.Weight = 700
		}
		f.Italic = word(head, 44)&2 != 0
	}
	f.Fixed = fixed(l)
	f.Italic, f.Oblique = f.Italic || f.Oblique, false
	for _, s := range f.Styles { // what a style is called goes before what the tables say (fontconfig 2.14.1, fcfreetype.c, FcContainsSlant)
		s = strings.ToLower(s)
		if strings.Contains(s, "italic") || strings.Contains(s, "kursiv") {
			f.Italic, f.Oblique = true, false
			break
		}
		if strings.Contains(s, "oblique") {
			f.Italic, f.Oblique = false, true
			break
		}
	}
	return f, nil
}

// fixed reports whether all letters of a face are equally wide, as its tables say:
// isFixedPitch of post, or one width for all in hmtx (OpenType 1.9, "post" and "hhea").
// fc-scan looks at the letters themselves; one face in a hundred is another to it.
func fixed(l *ot.Loader) bool {
	if post, err := l.RawTable(ot.MustNewTag("post")); err == nil && len(post) >= 16 && (word(post, 12) != 0 || word(post, 14) != 0) {
		return true
	}
	hhea, err := l.RawTable(ot.MustNewTag("hhea"))
	return err == nil && len(hhea) >= 36 && word(hhea, 34) == 1
}

func word(b []byte, at int) int { return int(b[at])<<8 | int(b[at+1]) }
