package plan

import (
	"strings"
)

// Quote is a text as one word of a shell.
func Quote(s string) string {
	if s != "" && strings.Trim(s, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_./") == "" {
		return s
	}
	return "'" + strings.ReplaceAll(s, "'", `'\''`) + "'"
}

// Requote is a word inside a text in single quotes, closed before and opened
// again.
func Requote(word string) string { return "'" + strings.ReplaceAll(word, "'", `'\''`) + "'" }

// Inner is a word as it stands inside single quotes.
func Inner(word string) string { return strings.ReplaceAll(word, "'", `'\''`) }
