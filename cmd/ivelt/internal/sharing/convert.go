package sharing

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/archive"
	"ivelt/core/parcel"
	"ivelt/core/pointerset"
)

func convertCommand() *cobra.Command {
	c := &cobra.Command{Use: "convert", Short: "Make a pointer set for the other family of systems"}
	c.AddCommand(convertPointerCommand())
	return c
}

// conversion is what `convert pointer --json` prints.
type conversion struct {
	Name     string            `json:"name"`
	As       pointerset.Format `json:"as"`
	Pointers []convertedFile   `json:"pointers"`
	Left     []leftFile        `json:"left"`
	Others   []string          `json:"others"`
	Lost     []string          `json:"lost"`
}

type convertedFile struct {
	Role  string `json:"role"`
	File  string `json:"file"`
	Sizes []int  `json:"sizes"`
	Made  []int  `json:"made"`
	Steps int    `json:"steps"`
}

type leftFile struct {
	File string `json:"file"`
	Why  string `json:"why"`
}

func convertPointerCommand() *cobra.Command {
	var o pointerset.Options
	var as, piece, password string
	var asJSON, look bool
	c := &cobra.Command{
		Use:   "pointer FROM TO",
		Short: "Convert a pointer set: .cur and .ani files to Xcursor files, or back",
		Long: "Convert a pointer set of a folder or a parcel, and write it into a new folder, or into an archive\n" +
			"if TO ends in .zip. What is lost is said. With --look nothing is written, and TO is left out.",
		Example: "  ivelt convert pointer Tern.zip ~/.local/share/icons/Tern --as xcursor --sizes 24,48\n" +
			"  ivelt convert pointer ~/.local/share/icons/Salt salt.zip --as cur",
		Args: cobra.RangeArgs(1, 2),
		RunE: func(c *cobra.Command, args []string) error {
			if look != (len(args) == 1) {
				return errors.New("name what is converted and where it is written, or what is looked at with --look")
			}
			debug.SetGCPercent(50) // much is made and written, one file after the other
			debug.SetMemoryLimit(64 << 20)
			p, err := parcel.Open(c.Context(), args[0], archive.Options{Password: password})
			if err != nil {
				return err
			}
			defer p.Close()
			set, of, err := chosen(c.Context(), p, piece, pointerset.Format(as), o)
			if err != nil {
				return err
			}
			if err := tell(c.OutOrStdout(), set, of.Name, asJSON); err != nil {
				return err
			}
			if !look {
				err = written(c.Context(), set, of, o, args[1])
			}
			if err == nil && slices.ContainsFunc(set.Left, pointerset.Left.Wanted) {
				err = given.ErrFindings
			}
			return err
		},
	}
	c.Flags().StringVar(&as, "as", "", "cur, or xcursor (the usual: the format that it is not in)")
	c.Flags().IntSliceVar(&o.Sizes, "sizes", nil, "sizes in px (default: the sizes the set has, and 24, 32, 48 and 64)")
	c.Flags().Float64SliceVar(&o.Scales, "scales", nil, "scales that each size is made for")
	c.Flags().StringVar(&piece, "piece", "", "the set, by its folder, if there are several")
	c.Flags().StringVar(&password, "password", "", "password of an encrypted parcel")
	c.Flags().BoolVar(&look, "look", false, "only say what would become of it")
	given.Answers[conversion](c, &asJSON, "convert-pointer")
	return c
}

// chosen is the set of a parcel that is converted.
func chosen(ctx context.Context, p *parcel.Parcel, piece string, as pointerset.Format, o pointerset.Options) (*pointerset.Set, pointerset.Origin, error) {
	var sets []parcel.Piece
	var names []string
	for _, pc := range p.Recognise(ctx).Pieces {
		if pc.Kind == parcel.Pointer && (piece == "" || piece == pc.Folder) {
			sets, names = append(sets, pc), append(names, pc.Folder)
		}
	}
	switch {
	case len(sets) == 0:
		return nil, pointerset.Origin{}, errors.New("there is no such pointer set in it")
	case len(sets) > 1:
		return nil, pointerset.Origin{}, fmt.Errorf("there are several pointer sets in it: choose one with --piece, of %s", strings.Join(names, ", "))
	}
	cur, x, of := p.Sources(sets[0])
	if as == "" {
		if as = pointerset.Cur; cur != "" {
			as = pointerset.XCursor
		}
	}
	root := cur
	switch o.As = as; {
	case as == pointerset.Cur:
		root = x
	case as != pointerset.XCursor:
		return nil, of, fmt.Errorf("--as is cur or xcursor, not %q", as)
	}
	if root == "" {
		return nil, of, fmt.Errorf("%s is in that format already", of.Name)
	}
	set, err := pointerset.Convert(ctx, p, root, o)
	return set, of, err
}

func tell(w io.Writer, s *pointerset.Set, name string, asJSON bool) error {
	out := conversion{name, s.As, []convertedFile{}, []leftFile{}, append([]string{}, s.Others...), []string{}}
	for _, p := range s.Pointers {
		out.Pointers = append(out.Pointers, convertedFile{p.Role.Name, p.File, append([]int{}, p.Sizes...), append([]int{}, p.Made...), p.Steps})
	}
	for _, l := range s.Left {
		out.Left = append(out.Left, leftFile{l.File, l.Why.String()})
	}
	for _, m := range s.Lost {
		out.Lost = append(out.Lost, m.String())
	}
	if asJSON {
		return given.PrintJSON(w, out)
	}
	fmt.Fprintf(w, "%s: %d pointers\n", name, len(out.Pointers))
	for _, p := range out.Pointers {
		fmt.Fprintf(w, "  %-14s %-32s %v px", p.Role, p.File, p.Sizes)
		if p.Steps > 1 {
			fmt.Fprintf(w, ", %d pictures", p.Steps)
		}
		fmt.Fprintln(w)
	}
	for _, l := range out.Left {
		fmt.Fprintf(w, "  left out: %s. %s\n", l.File, l.Why)
	}
	if len(out.Others) > 0 {
		fmt.Fprintf(w, "  not pointers: %s\n", strings.Join(out.Others, ", "))
	}
	for _, m := range out.Lost {
		fmt.Fprintf(w, "  %s\n", m)
	}
	return nil
}

// written writes a set into a new folder or an archive. What could not be written whole is taken
// away.
func written(ctx context.Context, s *pointerset.Set, of pointerset.Origin, o pointerset.Options, to string) error {
	entries, err := s.Entries(of.Name)
	if err != nil {
		return err
	}
	if s.As == pointerset.XCursor {
		recipe := of.Recipe(o.Sizes, o.Scales)
		entries = append(entries, pointerset.Entry{Name: pointerset.RecipeFile, Make: func() ([]byte, error) { return recipe, nil }})
	}
	if strings.EqualFold(filepath.Ext(to), ".zip") {
		f, err := os.OpenFile(to, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
		if err != nil {
			return err
		}
		if err := errors.Join(s.Zip(ctx, f, of.Folder, entries), f.Close()); err != nil {
			return errors.Join(err, os.Remove(to))
		}
		return nil
	}
	if err := os.Mkdir(to, 0o755); err != nil {
		if errors.Is(err, fs.ErrExist) {
			return fmt.Errorf("%s is there already; name a new folder", to)
		}
		return err
	}
	if err := writeAll(ctx, s, entries, to); err != nil {
		return errors.Join(err, os.RemoveAll(to))
	}
	return nil
}

func writeAll(ctx context.Context, s *pointerset.Set, entries []pointerset.Entry, to string) error {
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(runtime.NumCPU())
	for _, e := range entries {
		at := filepath.Join(to, filepath.FromSlash(e.Name))
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			return errors.Join(err, group.Wait())
		}
		if e.Link != "" {
			if err := os.Symlink(e.Link, at); err != nil {
				return errors.Join(err, group.Wait())
			}
			continue
		}
		group.Go(func() error {
			if err := ctx.Err(); err != nil {
				return err
			}
			b, err := s.Bytes(e)
			if err != nil {
				return err
			}
			return os.WriteFile(at, b, 0o644)
		})
	}
	return group.Wait()
}
