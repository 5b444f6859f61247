package backdrop

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"image"
	"math"
	"regexp"
	"strconv"
	"strings"

	"ivelt/core/colour"
)

// Made is what a picture is made of: another one, and how it was changed. It is told by the note that
// is kept in the picture.
type Made struct {
	File string // the full path of the other one
	Sum  string // its SHA-256, hex
	Tint *Tint  // one of both
	Soft *Soft
}

// The note in a picture that was made, and how it tells what was done.
var (
	noted   = regexp.MustCompile(`^Made by Ivelt: (/.*), ([^,]*) \(sha256:([0-9a-f]{64})\)$`)
	tinted  = regexp.MustCompile(`^tinted (\d{1,3}) % towards (#[0-9a-f]{6})$`)
	shaded  = regexp.MustCompile(`^(darkened|lightened) by (\d{1,3}) % along its (\w+) (\d{1,3}(?:\.\d)?) %$`)
	blurred = regexp.MustCompile(`^blurred by (\d{1,2}(?:\.\d)?) % along its (\w+) (\d{1,3}(?:\.\d)?) %$`)
)

// MakingOf is what is to be made of a picture, given its path and contents.
func MakingOf(file string, raw []byte, tint *Tint, soft *Soft) Made {
	return Made{file, fmt.Sprintf("%x", sha256.Sum256(raw)), tint, soft}
}

// Says tells how it was changed, in words that [MadeOf] reads.
func (m Made) Says() string {
	tenths := func(v float64) string { return strings.TrimSuffix(strconv.FormatFloat(100*v, 'f', 1, 64), ".0") }
	switch {
	case m.Tint != nil:
		return fmt.Sprintf("tinted %.0f %% towards %s", 100*m.Tint.Strength, m.Tint.Toward.Hex())
	case m.Soft != nil && m.Soft.Blur > 0:
		return fmt.Sprintf("blurred by %s %% along its %s %s %%", tenths(m.Soft.Blur), m.Soft.Edge, tenths(m.Soft.Until))
	case m.Soft != nil && m.Soft.Dark:
		return fmt.Sprintf("darkened by %.0f %% along its %s %s %%", 100*m.Soft.Strength, m.Soft.Edge, tenths(m.Soft.Until))
	case m.Soft != nil:
		return fmt.Sprintf("lightened by %.0f %% along its %s %s %%", 100*m.Soft.Strength, m.Soft.Edge, tenths(m.Soft.Until))
	}
	return "as it is"
}

// Note is what is kept in the picture.
func (m Made) Note() string {
	return fmt.Sprintf("Made by Ivelt: %s, %s (sha256:%s)", m.File, m.Says(), m.Sum)
}

// MadeOf reads such a note; false if it is none.
func MadeOf(note string) (m Made, ok bool) {
	found := noted.FindStringSubmatch(note)
	if found == nil {
		return m, false
	}
	m.File, m.Sum = found[1], found[3]
	part := func(text string) float64 { n, _ := strconv.ParseFloat(text, 64); return math.Round(10*n) / 1000 }
	if f := tinted.FindStringSubmatch(found[2]); f != nil {
		toward, err := colour.Parse(f[2])
		m.Tint = &Tint{Toward: toward, Strength: part(f[1])}
		return m, err == nil && m.Tint.Valid() == nil
	}
	if f := shaded.FindStringSubmatch(found[2]); f != nil {
		m.Soft = &Soft{Edge: f[3], Until: part(f[4]), Dark: f[1] == "darkened", Strength: part(f[2])}
	} else if f := blurred.FindStringSubmatch(found[2]); f != nil {
		m.Soft = &Soft{Edge: f[2], Until: part(f[3]), Blur: part(f[1])}
	}
	return m, m.Soft != nil && m.Soft.Valid() == nil
}

// Changed reports whether a picture is another one than it was made of.
func (m Made) Changed(raw []byte) bool { return fmt.Sprintf("%x", sha256.Sum256(raw)) != m.Sum }

// Apply is a picture as it is changed. Its errors are those of ctx.
func (m Made) Apply(ctx context.Context, im image.Image) (*image.NRGBA, error) {
	switch {
	case m.Tint != nil:
		return m.Tint.Apply(ctx, im)
	case m.Soft != nil:
		return m.Soft.Apply(ctx, im)
	}
	return nil, errors.New("nothing is to be made of it")
}

// Ending is what the name of the picture's file ends with.
func (m Made) Ending() string {
	switch {
	case m.Tint != nil:
		return fmt.Sprintf("%s-%.0f", strings.TrimPrefix(m.Tint.Toward.Hex(), "#"), 100*m.Tint.Strength)
	case m.Soft != nil && m.Soft.Blur > 0:
		return fmt.Sprintf("blurred-%s-%.0f", m.Soft.Edge, 1000*m.Soft.Blur)
	case m.Soft != nil && m.Soft.Dark:
		return fmt.Sprintf("darkened-%s-%.0f", m.Soft.Edge, 100*m.Soft.Strength)
	case m.Soft != nil:
		return fmt.Sprintf("lightened-%s-%.0f", m.Soft.Edge, 100*m.Soft.Strength)
	}
	return "made"
}
