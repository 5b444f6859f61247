package sharing

import (
	"fmt"
	"os"
	"path"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"ivelt/app/library"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/imagefile"
	"ivelt/core/outfit"
	"ivelt/core/preview"
	"ivelt/core/worn"
)

func sheetCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var wanted given.OutfitFlag
	var title string
	c := &cobra.Command{
		Use:   "sheet OUT.png|OUT.svg",
		Short: "One picture of a look to show to others: the desk, and each piece with version, maker and licence",
		Long: fmt.Sprintf("One picture of the look of a desk, or of an outfit on it, to show to others, %d × %d px: the\n"+
			"desk, and the name, version, maker and licence of each piece, as far as they are known.", preview.PosterWidth, preview.PosterHeight),
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			ctx, ext := c.Context(), strings.ToLower(path.Ext(args[0]))
			if ext != ".png" && ext != ".svg" {
				return fmt.Errorf("%s: a picture is an .svg or a .png", args[0])
			}
			d, err := flags.Open(ctx)
			if err != nil {
				return err
			}
			pieces, err := flags.Pieces(ctx, d)
			if err != nil {
				return err
			}
			o, look := outfit.Outfit{}, preview.Worn(ctx, d)
			if wanted.File == "" {
				o = worn.Of(d, library.Known(pieces))
				o.Name = "The look of " + d.Title
			} else {
				if o, err = wanted.Open(); err != nil {
					return err
				}
				look = preview.Draft(ctx, d, o)
			}
			if title != "" {
				o.Name = title
			}
			b := library.PosterOf(o.Name, o, pieces, time.Now()).Draw(d, look)
			if ext == ".png" {
				if b, err = imagefile.PNG(ctx, b, preview.PosterWidth, preview.PosterHeight); err != nil {
					return err
				}
			}
			if err := ctx.Err(); err != nil {
				return err
			}
			return os.WriteFile(args[0], b, 0o644)
		},
	}
	c.Flags().StringVar(&title, "title", "", "what the picture is called (default: the outfit's name, or the desk's)")
	wanted.Add(c)
	flags.Add(c)
	return c
}
