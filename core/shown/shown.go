// Package shown makes what strangers wrote harmless to look at: characters that move
// the cursor, end a line, speak to a terminal, or change the direction of what is around
// them (Unicode Standard Annex #9, section 2) are shown as what they are.
package shown

import (
	"bytes"
	"fmt"
	"io"
	"strings"
	"unicode"
	"unicode/utf8"
)

// directions are the characters that change the direction of text, and the separators
// that end a line or a paragraph.
const directions = "\u061c\u200e\u200f\u2028\u2029\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069"

func harmful(r rune) bool { return unicode.IsControl(r) || strings.ContainsRune(directions, r) }

// Line is a text in one line: what is harmful in it is written as an escape, "\u202e".
func Line(s string) string {
	if strings.IndexFunc(s, harmful) < 0 && utf8.ValidString(s) {
		return s
	}
	var b strings.Builder
	for _, r := range strings.ToValidUTF8(s, "\ufffd") {
		if harmful(r) {
			escape(&b, r)
			continue
		}
		b.WriteRune(r)
	}
	return b.String()
}

// Plain reports whether a text has nothing harmful in it but the ends of its lines and
// tabs.
func Plain(text []byte) bool {
	return utf8.Valid(text) && bytes.IndexFunc(text, func(r rune) bool { return r != '\n' && r != '\t' && harmful(r) }) < 0
}

// Lines is the same of each text of a list.
func Lines(all []string) []string {
	for i := range all {
		all[i] = Line(all[i])
	}
	return all
}

// Name is a name that a file can have and a setting can hold: what is harmful in it is a
// dash.
func Name(s string) string {
	return strings.Map(func(r rune) rune {
		if harmful(r) {
			return '-'
		}
		return r
	}, s)
}

func escape(b io.Writer, r rune) {
	switch r {
	case '\n':
		io.WriteString(b, `\n`)
	case '\r':
		io.WriteString(b, `\r`)
	case '\t':
		io.WriteString(b, " ")
	default:
		fmt.Fprintf(b, `\u%04x`, r)
	}
}

// Page writes a page of HTML. In what is between its tags only line ends and tabs are left
// as they are; what is in attributes comes back in forms and addresses and stays.
func Page(to io.Writer, page []byte) error {
	var b bytes.Buffer
	for tag := false; len(page) > 0; {
		end := bytes.IndexByte(page, '<')
		if tag {
			end = bytes.IndexByte(page, '>')
		}
		if end < 0 {
			end = len(page)
		}
		if tag {
			b.Write(page[:end])
		} else {
			write(&b, page[:end], func(_ int, r rune) bool { return r == '\n' || r == '\t' || r == '\r' })
		}
		page, tag = page[end:], !tag
	}
	_, err := b.WriteTo(to)
	return err
}

// Writer writes to a terminal, where only line ends and tabs are left as they are, and a
// carriage return at the beginning of what is written at once. In JSON the escapes stand
// for the same characters.
func Writer(to io.Writer) io.Writer { return writer{to} }

type writer struct{ to io.Writer }

func (w writer) Write(text []byte) (int, error) {
	var b bytes.Buffer
	write(&b, text, func(at int, r rune) bool { return r == '\n' || r == '\t' || r == '\r' && at == 0 })
	if _, err := b.WriteTo(w.to); err != nil {
		return 0, err
	}
	return len(text), nil
}

// write writes a text with what is harmful as escapes, but for what stays.
func write(b *bytes.Buffer, text []byte, stays func(at int, r rune) bool) {
	for at := 0; at < len(text); {
		r, size := utf8.DecodeRune(text[at:])
		if r == utf8.RuneError && size == 1 || stays(at, r) || !harmful(r) {
			b.Write(text[at : at+size])
		} else {
			escape(b, r)
		}
		at += size
	}
}
