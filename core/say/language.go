package say

import (
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Word is a word or line of Ivelt's own that has no code: a title, or what a state is called. It is
// its English, and shown as the person's language has it.
type Word string

// Language says Ivelt's English in another language; false where it has no words for it.
type Language interface {
	// Said is what is said for a text; code tells texts of the same words apart, and is "" for those
	// without. plural is "" where no number decides.
	Said(code, text, plural string, n int) (string, bool)
	// A language may have SetOff(string) string besides, which marks what stands in a message and is
	// no words of the language: names, paths.
}

// In is the message in a language; nil is English. What an argument says of itself is said in it,
// too.
func (m Message) In(l Language) string {
	switch m.Code {
	case "":
		return ""
	case "words":
		return fmt.Sprint(inner(l, m.Args)...)
	case "word", "many", "line", "join", "lower", "upper":
		return m.alone(l)
	}
	e, ok := words()[m.Code]
	if !ok {
		return m.Code
	}
	n := 0
	if e.Plural != "" {
		for _, a := range m.Args {
			if whole, ok := a.(int); ok {
				n = whole
				break
			}
		}
	}
	return fmt.Sprintf(in(l, m.Code, e.ID, e.Plural, n), inner(l, m.Args)...)
}

// inner are arguments with the messages among them said.
func inner(l Language, args []any) []any {
	out := make([]any, len(args))
	for i, a := range args {
		out[i] = a
		switch a := a.(type) {
		case Message:
			out[i] = a.In(l)
		case string:
			if off, ok := l.(interface{ SetOff(string) string }); ok {
				out[i] = aside{a, off.SetOff}
			}
		}
	}
	return out
}

// in is what a language has for a text, or the text.
func in(l Language, code, text, plural string, n int) string {
	if l != nil {
		if said, ok := l.Said(code, text, plural, n); ok {
			return said
		}
	}
	if plural != "" && n != 1 {
		return plural
	}
	return text
}

// alone is a message that has its words with it.
func (m Message) alone(l Language) string {
	switch {
	case m.Code == "word" && len(m.Args) == 1:
		return in(l, "", fmt.Sprint(m.Args[0]), "", 1)
	case m.Code == "lower" && len(m.Args) == 1:
		return Lowered(in(l, "", fmt.Sprint(m.Args[0]), "", 1))
	case m.Code == "upper" && len(m.Args) == 1:
		return Uppered(in(l, "", fmt.Sprint(m.Args[0]), "", 1))
	case m.Code == "many" && len(m.Args) == 2:
		n, _ := m.Args[0].(int)
		one, several := Counted(fmt.Sprint(m.Args[1]))
		return fmt.Sprintf(in(l, "", one, several, n), n)
	}
	if m.Code == "line" && len(m.Args) > 0 {
		text := fmt.Sprint(m.Args[0])
		return fmt.Sprintf(in(l, "", text, "", 1), inner(l, m.Args[1:])...)
	}
	if m.Code == "join" && len(m.Args) > 0 {
		var parts []string
		for _, a := range inner(l, m.Args[1:]) {
			parts = append(parts, fmt.Sprint(a))
		}
		return strings.Join(parts, in(l, "", fmt.Sprint(m.Args[0]), "", 1))
	}
	return m.Code
}

// Line is a message that has no code: its English, with the verbs of package fmt for arguments, is
// what other languages know it by.
func Line(format Word, args ...any) Message {
	return Message{"line", append([]any{string(format)}, taken(args)...)}
}

// Join is several things after each other, with a text between them.
func Join(between Word, all ...Message) Message {
	args := []any{string(between)}
	for _, m := range all {
		args = append(args, m)
	}
	return Message{"join", args}
}

// few is how many of many are named.
const few = 5

// Few lists the first few of many, in a language.
func Few(l Language, items []string) string {
	comma := Word(", ").In(l)
	if len(items) > few+1 {
		return Of("list/and-more", strings.Join(items[:few], comma), len(items)-few).In(l)
	}
	return strings.Join(items, comma)
}

// Message is the word as a message.
func (w Word) Message() Message { return Message{Code: "word", Args: []any{string(w)}} }

// In is the word in a language; nil is English.
func (w Word) In(l Language) string { return in(l, "", string(w), "", 1) }

// Lower is a title within a line: it begins with a small letter, in languages that have them.
func Lower(title Word) Message { return Message{Code: "lower", Args: []any{string(title)}} }

// Upper is a word that begins a sentence.
func Upper(w Word) Message { return Message{Code: "upper", Args: []any{string(w)}} }

// Many is a number with its noun, "1 file", "3 files".
func Many(n int, noun string) Message { return Message{Code: "many", Args: []any{n, noun}} }

// Counted are the texts of one and of several of a noun, with %d for the number.
func Counted(noun string) (one, several string) {
	one = "%d " + noun
	if stem, ok := strings.CutSuffix(noun, "y"); ok && !strings.HasSuffix(stem, "a") {
		return one, "%d " + stem + "ies"
	}
	return one, one + "s"
}

// aside is what stands in a message and is marked, whichever verb writes it.
type aside struct {
	text string
	off  func(string) string
}

// Format implements [fmt.Formatter].
func (a aside) Format(f fmt.State, verb rune) {
	text := a.text
	if verb == 'q' {
		text = strconv.Quote(text)
	}
	_, _ = io.WriteString(f, a.off(text))
}

// Lowered is a text with a small first letter, unless it begins with an abbreviation.
func Lowered(s string) string {
	first, n := utf8.DecodeRuneInString(s)
	if second, _ := utf8.DecodeRuneInString(s[n:]); unicode.IsUpper(second) {
		return s // an abbreviation
	}
	return string(unicode.ToLower(first)) + s[n:]
}

// Uppered is a text with a large first letter.
func Uppered(s string) string {
	first, n := utf8.DecodeRuneInString(s)
	if n == 0 {
		return s
	}
	return string(unicode.ToUpper(first)) + s[n:]
}
