package preview

import (
	"unicode"

	"github.com/go-text/typesetting/language"

	"ivelt/core/fontbook"
	"ivelt/core/say"
	"ivelt/core/typeset"
)

// maxOthers is how many fonts are asked for letters that one has not.
const maxOthers = 60

// Set sets a line of text; letters that its face has not are of another font of the desk, or of one
// that Ivelt carries, as programs show them too.
func (c *Canvas) Set(face *typeset.Face, text string, size float64) typeset.Line {
	return face.SetIn(text, size, c.instead)
}

// instead is a face that has a letter: first those that stand for any text, then by name; nil for
// none.
func (c *Canvas) instead(r rune) *typeset.Face {
	script := language.LookupScript(r)
	if known, ok := c.others[script]; ok && (known == nil || known.Has(r)) {
		return known
	}
	var candidates []fontbook.Face
	if plain, ok := c.fonts.Instead(c.D, "sans-serif", 400, false); ok {
		candidates = append(candidates, plain)
	}
	candidates = append(candidates, c.fonts.Families()...)
	for _, f := range candidates[:min(len(candidates), maxOthers)] {
		if face := loadFace(c.D, f); face != nil && face.Has(r) {
			c.others[script] = face
			return face
		}
	}
	c.others[script] = nil
	if own := fallback()[0]; own.Has(r) {
		c.others[script] = own
	}
	return c.others[script]
}

// said is a word of a picture in the person's language, if the desk has letters for it.
func (c *Canvas) said(face *typeset.Face, text string) string {
	if c.look.Language == nil {
		return text
	}
	said := say.Word(text).In(c.look.Language)
	for _, r := range said {
		if !unicode.IsSpace(r) && !unicode.IsControl(r) && !face.Has(r) && c.instead(r) == nil {
			return text
		}
	}
	return said
}
