package asking

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/icontheme"
	"ivelt/core/reading"
)

func iconCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var theme string
	var size, scale int
	var asJSON bool
	var paths []string
	c := &cobra.Command{
		Use:   "icon --theme NAME [--size N] [--scale S] [ICON…]",
		Short: "Tell where the icon lookup ends, one path a line; - for none",
		Long:  "Tell where the icon lookup of GTK 3 ends, one path a line, - for none.\nIf no ICON is given, lines \"NAME SIZE SCALE\" are read from standard input.",
		RunE: func(c *cobra.Command, args []string) error {
			if theme == "" {
				return errors.New("name the icon theme with --theme")
			}
			if size < 1 || scale < 1 {
				return errors.New("--size and --scale must be 1 or more")
			}
			x, host, err := iconIndex(c.Context(), flags, theme, paths)
			if err != nil {
				return err
			}
			out := bufio.NewWriter(c.OutOrStdout())
			defer out.Flush()
			missing := false
			found := []iconReport{}
			answer := func(name string, size, scale int) {
				path := "-"
				if icon, ok := x.Lookup(name, size, scale); ok {
					path = host(icon.Path)
				} else {
					missing = true
				}
				if asJSON {
					found = append(found, iconReport{name, size, scale, strings.TrimPrefix(path, "-")})
					return
				}
				fmt.Fprintln(out, path)
			}
			for _, name := range args {
				answer(name, size, scale)
			}
			if len(args) == 0 {
				if err := askLines(c.InOrStdin(), answer); err != nil {
					return err
				}
			}
			if asJSON {
				if err := given.PrintJSON(out, found); err != nil {
					return err
				}
			}
			if missing {
				return given.ErrFindings
			}
			return nil
		},
	}
	c.Flags().StringVar(&theme, "theme", "", "folder name of the icon theme")
	c.Flags().IntVar(&size, "size", 48, "size in px")
	c.Flags().IntVar(&scale, "scale", 1, "scale of the display")
	given.Answers[[]iconReport](c, &asJSON, "icon")
	c.Flags().StringArrayVar(&paths, "path", nil, "a base folder to look in instead of the desk's; may be repeated")
	flags.Add(c)
	return c
}

type iconReport struct {
	Name  string `json:"name"`
	Size  int    `json:"size"`
	Scale int    `json:"scale"`
	Path  string `json:"path"`
}

// iconIndex returns an index and how to write its paths for this machine.
func iconIndex(ctx context.Context, flags given.DeskFlags, theme string, paths []string) (*icontheme.Index, func(string) string, error) {
	if len(paths) > 0 {
		if flags.Home == "" && flags.Name == "" {
			flags.Home = "/" // base folders alone need no desk
		}
		d, err := flags.Open(ctx)
		if err != nil {
			return nil, nil, err
		}
		var bases []string
		for _, p := range paths {
			abs, err := filepath.Abs(p)
			if err != nil {
				return nil, nil, err
			}
			bases = append(bases, desk.Name(filepath.ToSlash(abs)))
		}
		d.System, d.Home, d.HomePath = "/", "/", "/"
		x := icontheme.NewIndex(icontheme.Config{FS: d.Tree(), Bases: bases, Theme: theme, Also: lookup(d).Also})
		return x, func(name string) string { return "/" + name }, nil
	}
	d, err := flags.Open(ctx)
	if err != nil {
		return nil, nil, err
	}
	return reading.IconIndex(d, lookup(d), theme), func(name string) string { return d.HostPath(desk.Path(name)) }, nil
}

// lookup is how GTK 3 looks icons up on the desk.
func lookup(d *desk.Desk) desk.Lookup {
	s, _ := d.Surface("gtk3")
	f, _ := s.Facet(desk.FacetIcons)
	return f.Lookup
}

func askLines(r io.Reader, answer func(name string, size, scale int)) error {
	in := bufio.NewScanner(r)
	for n := 1; in.Scan(); n++ {
		f := strings.Fields(in.Text())
		if len(f) == 0 {
			continue
		}
		if len(f) != 3 {
			return fmt.Errorf("line %d: want NAME SIZE SCALE, have %q", n, in.Text())
		}
		size, err1 := strconv.Atoi(f[1])
		scale, err2 := strconv.Atoi(f[2])
		if err := errors.Join(err1, err2); err != nil || size < 1 || scale < 1 {
			return fmt.Errorf("line %d: size and scale must be whole numbers of 1 or more: %q", n, in.Text())
		}
		answer(f[0], size, scale)
	}
	return in.Err()
}
