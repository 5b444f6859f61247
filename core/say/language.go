package say

import (
	"fmt"
	"strings"
)

// Word is a word or line of Ivelt's own that has no code: a title, or what a state is called. It is
// its English, and shown as the person's language has it.
type Word string

// Language says Ivelt's English in another language; false where it has no words for it.
type Language interface {
	// Said is what is said for a text; code tells texts of the same words apart, and is "" for those
	// without. plural is "" where no number decides.
	Said(code, text, plural string, n int) (string, bool)
}

// In is the message in a language; nil is English. What an argument says of itself is said in it,
// too.
func (m Message) In(l Language) string {
	switch m.Code {
	case "":
		return ""
	case "words":
		return fmt.Sprint(m.Args...)
	case "word", "many", "fault":
		return m.alone(l)
	}
	e, ok := words[m.Code]
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
		if m, ok := a.(Message); ok {
			out[i] = m.In(l)
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
	case m.Code == "many" && len(m.Args) == 2:
		n, _ := m.Args[0].(int)
		one, several := Counted(fmt.Sprint(m.Args[1]))
		return fmt.Sprintf(in(l, "", one, several, n), n)
	}
	if m.Code == "fault" && len(m.Args) > 0 {
		text := fmt.Sprint(m.Args[0])
		return fmt.Sprintf(in(l, "", text, "", 1), inner(l, m.Args[1:])...)
	}
	return m.Code
}

// Message is the word as a message.
func (w Word) Message() Message { return Message{Code: "word", Args: []any{string(w)}} }

// In is the word in a language; nil is English.
func (w Word) In(l Language) string { return in(l, "", string(w), "", 1) }

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
