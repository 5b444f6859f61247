package given

import (
	"errors"
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"ivelt/app/drafts"
	"ivelt/core/desk"
	"ivelt/core/outfit"
)

// ReadOutfit reads the outfit in a file; one that cannot be read is told by its file's name.
func ReadOutfit(file string) (outfit.Outfit, error) {
	b, err := ReadFile(file)
	if err != nil {
		return outfit.Outfit{}, err
	}
	o, err := outfit.Parse(b)
	if err != nil {
		return o, fmt.Errorf("%s: %w", file, err)
	}
	return o, nil
}

// OutfitFlag is the file of an outfit.
type OutfitFlag struct {
	File string
	acts bool
}

// Add lets a command be given an outfit.
func (f *OutfitFlag) Add(c *cobra.Command) {
	c.Flags().StringVar(&f.File, "outfit", "", "an outfit file")
}

// AddActs is for commands that put it on.
func (f *OutfitFlag) AddActs(c *cobra.Command) {
	f.Add(c)
	c.Flags().BoolVar(&f.acts, "acts", false, "take what does more than change how things look, too: a program that is started, a session, the question at sign-in")
}

// ForWearing reads it without what does something, unless that is asked for.
func (f *OutfitFlag) ForWearing(told io.Writer, d *desk.Desk) (outfit.Outfit, error) {
	o, err := f.Open()
	if err != nil || f.acts {
		return o, err
	}
	o, does := drafts.Harmless(d, o)
	for _, what := range does {
		fmt.Fprintf(told, "ivelt: left out, as it changes more than the look: %s; --acts includes it\n", what)
	}
	return o, nil
}

// Open reads the outfit as it is written.
func (f *OutfitFlag) Open() (outfit.Outfit, error) {
	if f.File == "" {
		return outfit.Outfit{}, errors.New("name an outfit with --outfit FILE")
	}
	return ReadOutfit(f.File)
}
