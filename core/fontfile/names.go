package fontfile

import (
	"cmp"
	"encoding/binary"
	"slices"
	"strings"
	"unicode/utf16"

	"golang.org/x/text/encoding/charmap"
)

// nameRecord is one name of the name table (OpenType 1.9, "Naming table").
type nameRecord struct {
	platform, encoding, language, id int
	text                             []byte
}

// Platforms of names, and the languages on them that are English.
const (
	unicodePlatform, macintosh, iso, platform3 = 0, 1, 2, 3
	macEnglish, english3                       = 0, 0x409
)

// What of a name table is read at most: those there are have a few hundred names.
const (
	maxNames    = 4096
	maxNameText = 1 << 20 // bytes, all together
)

// nameRecords are those of a name table, in the order that fontconfig takes them in: of a
// platform and an ID by encoding, then English first, then by language (fontconfig 2.14.1,
// fcfreetype.c, name_mapping_cmp).
func nameRecords(table []byte) []nameRecord {
	if len(table) < 6 {
		return nil
	}
	count, store := min(word(table, 2), maxNames), word(table, 4)
	var out []nameRecord
	room := maxNameText
	for i := range count {
		at := 6 + 12*i
		if at+12 > len(table) {
			break
		}
		r := table[at:]
		from, size := store+word(r, 10), word(r, 8)
		if from+size > len(table) || size == 0 || size > room {
			continue
		}
		room -= size
		out = append(out, nameRecord{word(r, 0), word(r, 2), word(r, 4), word(r, 6), table[from : from+size]})
	}
	slices.SortStableFunc(out, func(a, b nameRecord) int {
		return cmp.Or(cmp.Compare(a.platform, b.platform), cmp.Compare(a.id, b.id), cmp.Compare(a.encoding, b.encoding), cmp.Compare(a.rank(), b.rank()))
	})
	return out
}

func (r nameRecord) rank() int {
	if r.platform == macintosh && r.language == macEnglish || r.platform == platform3 && r.language == english3 {
		return -1
	}
	return r.language
}

// says is the name; "" for one in letters that are not read: those of Asian code pages.
func (r nameRecord) says() string {
	switch {
	case r.platform == unicodePlatform, r.platform == platform3 && (r.encoding == 0 || r.encoding == 1 || r.encoding == 10), r.platform == iso && r.encoding == 1:
		units := make([]uint16, len(r.text)/2)
		for i := range units {
			units[i] = binary.BigEndian.Uint16(r.text[2*i:])
		}
		return strings.Trim(string(utf16.Decode(units)), " ")
	case r.platform == macintosh && r.encoding == 0:
		text, err := charmap.Macintosh.NewDecoder().Bytes(r.text)
		if err != nil {
			return ""
		}
		return strings.Trim(string(text), " ")
	case r.platform == iso:
		text, err := charmap.ISO8859_1.NewDecoder().Bytes(r.text)
		if err != nil {
			return ""
		}
		return strings.Trim(string(text), " ")
	}
	return ""
}

// namesOf are the names that a font has under some IDs, the preferred first, each once
// whatever its blanks and its case: in every language, platform 3 before the
// others (fontconfig 2.14.1, fcfreetype.c, platform_order and nameid_order).
func namesOf(records []nameRecord, ids ...int) (out []string) {
	known := map[string]bool{}
	for _, platform := range []int{platform3, unicodePlatform, macintosh, iso} {
		for _, id := range ids {
			for _, r := range records {
				if r.platform != platform || r.id != id {
					continue
				}
				name := r.says()
				if plain := strings.ToLower(strings.ReplaceAll(name, " ", "")); name != "" && !known[plain] {
					known[plain] = true
					out = append(out, name)
				}
			}
		}
	}
	return out
}
