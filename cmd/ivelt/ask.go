package main

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"runtime/debug"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/core/archive"
	"ivelt/core/desk"
	"ivelt/core/icontheme"
	"ivelt/core/parcel"
	"ivelt/core/place"
	"ivelt/core/reading"
)

// report is one object of `inspect --json`.
type report struct {
	Path    string        `json:"path"`
	Format  string        `json:"format"`
	Entries int           `json:"entries"`
	Bytes   int64         `json:"bytes"`
	Pieces  []pieceReport `json:"pieces"`
	Notes   []parcel.Note `json:"notes"`
}

type pieceReport struct {
	parcel.Piece
	Placements []place.Placement `json:"placements"`
}

func inspectCommand(p *Program) *cobra.Command {
	var asJSON bool
	var password string
	flags := p.desk()
	c := &cobra.Command{
		Use:   "inspect PATH…",
		Short: "Say which pieces a parcel holds, and where each would go",
		Args:  cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			d, err := flags.open(c.Context())
			if err != nil {
				return err
			}
			reports := []report{}
			for _, path := range args {
				r, err := inspect(c, path, password, d)
				if err != nil {
					return err
				}
				reports = append(reports, r)
			}
			if asJSON {
				err = printJSON(c.OutOrStdout(), reports)
			} else {
				for _, r := range reports {
					printReport(c.OutOrStdout(), r)
				}
			}
			if err != nil {
				return err
			}
			for _, r := range reports {
				for _, n := range r.Notes {
					if n.Level == parcel.Error {
						return errFindings
					}
				}
			}
			return nil
		},
	}
	c.Flags().StringVar(&password, "password", "", "password of an encrypted parcel")
	c.Flags().BoolVar(&asJSON, "json", false, "machine-readable")
	flags.add(c)
	return c
}

// briefly lets garbage lie in a command that soon ends, as long as there is
// little of it.
func briefly() {
	debug.SetGCPercent(400)
	debug.SetMemoryLimit(150 << 20)
}

func inspect(c *cobra.Command, path, password string, d *desk.Desk) (report, error) {
	briefly()
	p, err := parcel.Open(c.Context(), path, archive.Options{Password: password})
	if err != nil {
		return report{}, err
	}
	defer p.Close()
	found := p.Recognise(c.Context(), d.Parts()...)
	r := report{Path: path, Format: p.Format, Entries: len(p.Entries()), Bytes: p.Bytes, Pieces: []pieceReport{}, Notes: found.Notes}
	for _, pc := range found.Pieces {
		r.Pieces = append(r.Pieces, pieceReport{pc, place.Placements(pc, d)})
	}
	return r, nil
}

func printReport(w io.Writer, r report) {
	fmt.Fprintf(w, "%s  (%s, %d entries, %d bytes)\n", r.Path, r.Format, r.Entries, r.Bytes)
	for _, p := range r.Pieces {
		fmt.Fprintf(w, "  %s %s  (folder %s, in %s, %d files)\n", p.Kind, p.Name, p.Folder, p.Root, p.Files)
		for _, pl := range p.Placements {
			fmt.Fprintf(w, "    %-8s %s\n             %s\n", pl.Scope, pl.Path, pl.Reason)
		}
		for _, n := range p.Notes {
			fmt.Fprintf(w, "    %s: %s\n", n.Level, n.Text)
		}
	}
	for _, n := range r.Notes {
		fmt.Fprintf(w, "  %s: %s\n", n.Level, n.Text)
	}
}

func printJSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	e.SetEscapeHTML(false)
	return e.Encode(v)
}

func readCommand(p *Program) *cobra.Command {
	var asJSON bool
	flags := p.desk()
	c := &cobra.Command{
		Use:   "read",
		Short: "Tell what each surface of a desk shows, and what says so",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			d, err := flags.open(c.Context())
			if err != nil {
				return err
			}
			readings := reading.All(d)
			amiss := false
			for i := range readings {
				amiss = amiss || readings[i].Problem != nil
				toHost(d, &readings[i])
			}
			if asJSON {
				err = printJSON(c.OutOrStdout(), readings)
			} else {
				for _, r := range readings {
					printReading(c.OutOrStdout(), d, r)
				}
			}
			if err == nil && amiss {
				err = errFindings
			}
			return err
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "machine-readable")
	flags.add(c)
	return c
}

// toHost turns the desk's paths into those of this machine, which a script can
// open.
func toHost(d *desk.Desk, r *reading.Reading) {
	r.Resolved = d.HostPath(r.Resolved)
	r.Source.Path = d.HostPath(r.Source.Path)
	for i := range r.Chain {
		r.Chain[i].Path = d.HostPath(r.Chain[i].Path)
	}
}

func printReading(w io.Writer, d *desk.Desk, r reading.Reading) {
	s, _ := d.Surface(r.Surface)
	fmt.Fprintf(w, "%s, %s: %s\n", s.Title, r.Facet, r.Value)
	switch at := r.Source.Path; {
	case r.Source.Kind == "default":
		fmt.Fprintf(w, "  from the program's default\n")
	case at == "" && r.Source.Kind == "env":
		fmt.Fprintf(w, "  from the session's variable %s\n", r.Source.Key)
	case at == "":
		fmt.Fprintf(w, "  from the setting %s on the display\n", r.Source.Key)
	case r.Source.Line == 0:
		fmt.Fprintf(w, "  from %s, %s\n", at, r.Source.Key)
	default:
		fmt.Fprintf(w, "  from %s:%d\n", at, r.Source.Line)
	}
	if r.Resolved != "" {
		fmt.Fprintf(w, "  found in %s\n", r.Resolved)
	}
	if r.Pending != "" {
		fmt.Fprintf(w, "  still shows %s until the %s is restarted\n", r.Loaded, r.Pending)
	}
	if r.Problem != nil {
		fmt.Fprintf(w, "  ! %s\n", r.Problem.Text)
	}
}

func iconCommand(p *Program) *cobra.Command {
	flags := p.desk()
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
				if err := printJSON(out, found); err != nil {
					return err
				}
			}
			if missing {
				return errFindings
			}
			return nil
		},
	}
	c.Flags().StringVar(&theme, "theme", "", "folder name of the icon theme")
	c.Flags().IntVar(&size, "size", 48, "size in px")
	c.Flags().IntVar(&scale, "scale", 1, "scale of the display")
	c.Flags().BoolVar(&asJSON, "json", false, "machine-readable")
	c.Flags().StringArrayVar(&paths, "path", nil, "a base folder to look in instead of the desk's; may be repeated")
	flags.add(c)
	return c
}

type iconReport struct {
	Name  string `json:"name"`
	Size  int    `json:"size"`
	Scale int    `json:"scale"`
	Path  string `json:"path"`
}

// iconIndex returns an index and how to write its paths for this machine.
func iconIndex(ctx context.Context, flags deskFlags, theme string, paths []string) (*icontheme.Index, func(string) string, error) {
	if len(paths) > 0 {
		if flags.home == "" && flags.name == "" {
			flags.home = "/" // base folders alone need no desk
		}
		d, err := flags.open(ctx)
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
	d, err := flags.open(ctx)
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
