package asking

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/outfit"
	"ivelt/core/preview"
	"ivelt/core/say"
)

// What a picture may be at most: px of a side, and how many times as large in pixels.
const (
	maxSide  = 8192
	maxScale = 8
)

type pictureFlags struct {
	scene, shade, state, size, theme string
	scale                            float64
}

func pictureCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var wanted given.OutfitFlag
	var f pictureFlags
	scenes := preview.SceneNames()
	var names []string
	c := &cobra.Command{
		Use:   "picture OUT.svg|OUT.png",
		Short: "Picture a desk, an outfit on it, or a theme in a folder",
		Long: "Picture a desk as it is, an outfit on it, or a theme that lies in a folder and is not\n" +
			"installed. It is the picture that the pages show: every icon, colour and letter in it is\n" +
			"computed from the pieces' own files.\n\nScenes: " + scenes + ".",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			o := outfit.Outfit{}
			if wanted.File != "" {
				if o, err = wanted.Open(); err != nil {
					return err
				}
			}
			if f.theme != "" {
				var done func()
				if d, done, err = withTheme(d, f.theme); err != nil {
					return err
				}
				defer done()
				o = o.With(desk.FacetWidgets, filepath.Base(filepath.Clean(f.theme)))
			}
			b, err := f.draw(c.Context(), d, o, args[0])
			if err != nil {
				return err
			}
			return os.WriteFile(args[0], b, 0o644)
		},
	}
	c.Flags().StringVar(&f.scene, "scene", preview.Scenes[0].Name, "what is pictured: "+scenes)
	c.Flags().StringVar(&f.shade, "shade", "", "light or dark; without it as the desk is set")
	c.Flags().StringVar(&f.state, "state", "", "a state that every control is in: hover, active, checked, focus, disabled or backdrop")
	c.Flags().StringVar(&f.size, "size", "", "width and height in px, 1280x800 (default: the scene's own)")
	c.Flags().Float64Var(&f.scale, "scale", 1, "how many pixels a px has in a PNG")
	c.Flags().StringVar(&f.theme, "theme", "", "a theme's folder, put into the picture without installing it")
	for _, s := range preview.Scenes {
		names = append(names, s.Name)
	}
	given.Completes(c, "scene", names...)
	given.Completes(c, "shade", "light", "dark")
	wanted.Add(c)
	flags.Add(c)
	return c
}

// draw makes the picture that a file's name asks for.
func (f pictureFlags) draw(ctx context.Context, d *desk.Desk, o outfit.Outfit, out string) ([]byte, error) {
	ext := strings.ToLower(path.Ext(out))
	if ext != ".svg" && ext != ".png" {
		return nil, fmt.Errorf("%s: a picture is an .svg or a .png", out)
	}
	i := slices.IndexFunc(preview.Scenes, func(s preview.Scene) bool { return s.Name == f.scene })
	if i < 0 {
		return nil, fmt.Errorf("there is no scene %q", f.scene)
	}
	w, h := preview.Scenes[i].Width, preview.Scenes[i].Height
	if f.size != "" {
		if n, err := fmt.Sscanf(f.size, "%dx%d", &w, &h); err != nil || n != 2 || min(w, h) < 200 || max(w, h) > maxSide {
			return nil, fmt.Errorf("--size %q: write width and height in px, each from 200 to %d, as 1280x800", f.size, maxSide)
		}
	}
	if f.scale < 0.1 || f.scale > maxScale || float64(max(w, h))*f.scale > 2*maxSide {
		return nil, fmt.Errorf("--scale is from 0.1 to %d, and a picture no larger than %d pixels", maxScale, 2*maxSide)
	}
	if f.shade != "" && f.shade != "light" && f.shade != "dark" {
		return nil, errors.New("--shade is light or dark")
	}
	if f.state != "" && !slices.ContainsFunc(preview.States, func(s struct {
		Name  string
		Title say.Word
	}) bool {
		return s.Name == f.state
	}) {
		return nil, fmt.Errorf("--state %q is none that a control can be in", f.state)
	}
	look := preview.Draft(ctx, d, o)
	look.Shade, look.State = f.shade, f.state
	svg := preview.DrawSized(d, look, f.scene, w, h)
	if err := ctx.Err(); err != nil || ext == ".svg" {
		return svg, err
	}
	return imagefile.PNG(ctx, svg, int(float64(w)*f.scale+0.5), int(float64(h)*f.scale+0.5))
}

// withTheme is a desk on which a theme's folder lies where surfaces look for themes. The
// function takes it away again.
func withTheme(d *desk.Desk, dir string) (*desk.Desk, func(), error) {
	if fi, err := os.Stat(dir); err != nil || !fi.IsDir() {
		return nil, nil, fmt.Errorf("--theme %s: name the folder of a theme", dir)
	}
	front, err := os.MkdirTemp("", "ivelt-theme")
	if err != nil {
		return nil, nil, err
	}
	done := func() { os.RemoveAll(front) }
	name := filepath.Base(filepath.Clean(dir))
	for _, place := range []string{".themes", ".local/share/themes"} {
		to := filepath.Join(front, filepath.FromSlash(d.HomePath), place, name)
		if err := os.MkdirAll(filepath.Dir(to), 0o755); err != nil {
			done()
			return nil, nil, err
		}
		if err := os.CopyFS(to, os.DirFS(dir)); err != nil {
			done()
			return nil, nil, fmt.Errorf("--theme %s: %w", dir, err)
		}
	}
	return d.Laid(front, nil), done, nil
}
