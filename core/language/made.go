package language

import (
	"regexp"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"ivelt/core/po"
)

// The made-up languages, under the names that CLDR has for them (UTS #35, "Unknown or Invalid
// Identifiers" and its pseudo-locales).
const (
	Longer   = "en-XA" // English in longer words, with marks on its letters
	Mirrored = "ar-XB" // English in Arabic letters, from right to left
)

var madeUp = map[string]string{Longer: "Ļóónger Éénglish", Mirrored: "ميررورد ينغليسه"}

// rules are the plural rules of the made-up ones: those of English, and of Arabic, which has six
// forms (GNU gettext manual, "Plural forms"; CLDR, "Language Plural Rules").
var rules = map[string]struct {
	header string
	forms  int
}{
	Longer: {"nplurals=2; plural=n != 1;", 2},
	Mirrored: {
		"nplurals=6; plural=n==0 ? 0 : n==1 ? 1 : n==2 ? 2 : n%100>=3 && n%100<=10 ? 3 : n%100>=11 && n%100<=99 ? 4 : 5;", 6},
}

// Made are the made-up languages, said for all entries there are once they are asked for one.
func Made() (out []*Language) {
	for _, tag := range []string{Longer, Mirrored} {
		out = append(out, &Language{Tag: tag, Title: madeUp[tag], rtl: tag == Mirrored, words: sync.OnceValue(func() *po.Catalogue {
			c, err := po.Read(MadeUp(tag, Entries()))
			if err != nil {
				panic(err)
			}
			return c
		})})
	}
	return out
}

// MadeUp is the catalogue of a made-up language, as a translator would hand it in.
func MadeUp(tag string, entries []po.Entry) []byte {
	turn := longer
	if tag == Mirrored {
		turn = mirrored
	}
	var out []po.Entry
	for _, e := range entries {
		e.Text = []string{turned(e.ID, turn)}
		if e.Plural != "" {
			e.Text = nil
			for i := range rules[tag].forms {
				text := e.Plural
				if i == oneOf(tag) {
					text = e.ID
				}
				e.Text = append(e.Text, turned(text, turn))
			}
		}
		out = append(out, e)
	}
	return po.Write([]string{"Language: " + tag, "Content-Type: text/plain; charset=UTF-8", "Plural-Forms: " + rules[tag].header}, out)
}

// oneOf is which form is that of one.
func oneOf(tag string) int {
	if tag == Mirrored {
		return 1
	}
	return 0
}

// kept is what a text has to keep.
var kept = regexp.MustCompile(Marks.String() + "|" + verbs.String())

// turned is a text with all but what it has to keep turned into something else.
func turned(text string, turn func(part string, times float64) string) string {
	letters := utf8.RuneCountInString(kept.ReplaceAllString(text, ""))
	var b strings.Builder
	for text != "" {
		at := kept.FindStringIndex(text)
		if at == nil {
			at = []int{len(text), len(text)}
		}
		b.WriteString(turn(text[:at[0]], asLong(letters)) + text[at[0]:at[1]])
		text = text[at[1]:]
	}
	return b.String()
}

// asLong is how many times as long as English a text of so many letters can be in another language
// (W3C, "Text size in translation", the table of IBM, its lower bounds; from memory).
func asLong(letters int) float64 {
	switch {
	case letters <= 10:
		return 2
	case letters <= 20:
		return 1.8
	case letters <= 30:
		return 1.6
	case letters <= 50:
		return 1.4
	case letters <= 70:
		return 1.5
	}
	return 1.3
}

var accents = strings.NewReplacer(
	"a", "á", "c", "ç", "d", "đ", "e", "é", "g", "ğ", "h", "ĥ", "i", "í", "k", "ķ", "l", "ļ", "n", "ñ", "o", "ó", "r", "ŕ", "s", "š", "t", "ţ", "u", "ú", "w", "ŵ", "y", "ý", "z", "ž",
	"A", "Á", "C", "Ç", "D", "Đ", "E", "É", "G", "Ğ", "H", "Ĥ", "I", "Í", "K", "Ķ", "L", "Ļ", "N", "Ñ", "O", "Ó", "R", "Ŕ", "S", "Š", "T", "Ţ", "U", "Ú", "W", "Ŵ", "Y", "Ý", "Z", "Ž",
)

var word = regexp.MustCompile(`[\pL\pM]+`)

// longer has marks on the letters and says each word's vowels so often that the text is so many
// times as long.
func longer(part string, times float64) string {
	more := 0.0
	return word.ReplaceAllStringFunc(part, func(w string) string {
		more += float64(utf8.RuneCountInString(w)) * (times - 1)
		var b strings.Builder
		said := strings.ContainsAny(w, "aeiouy")
		for i, r := range w {
			b.WriteRune(r)
			again := strings.ContainsRune("aeiouy", r) || !said && i == 0
			for n := 0; again && n < 6 && more >= 1; n++ {
				b.WriteRune(unicode.ToLower(r))
				more--
			}
		}
		return accents.Replace(b.String())
	})
}

// mirrored writes English in letters that go from right to left, and join.
func mirrored(part string, _ float64) string { return arabic.Replace(strings.ToLower(part)) }

var arabic = strings.NewReplacer(
	"a", "ا", "b", "ب", "c", "ك", "d", "د", "e", "ي", "f", "ف", "g", "غ", "h", "ه", "i", "ي", "j", "ج", "k", "ك", "l", "ل", "m", "م",
	"n", "ن", "o", "و", "p", "ب", "q", "ق", "r", "ر", "s", "س", "t", "ت", "u", "و", "v", "ف", "w", "و", "x", "كس", "y", "ي", "z", "ز",
)
