package library

import (
	"context"
	"errors"
	"io"
	"os"
	"path/filepath"

	"ivelt/app/jobs"
	"ivelt/core/pointerset"
	"ivelt/core/say"
	"ivelt/store"
)

// ErrFormat: a pointer set has no files of the format that it is to be converted from.
var ErrFormat = errors.New("it is in that format already")

// Conversion is a pointer set of a parcel that can be converted.
type Conversion struct {
	*pointerset.Set
	pointerset.Origin
	Options  pointerset.Options
	Cur, X   bool // it has files of the other family, and of X
	InParcel store.ParcelRow
}

// Conversion looks at the pointer set of a parcel with that key, and tells what would become of
// it. Without a format it is that which it is not in.
func (l *Library) Conversion(ctx context.Context, row store.ParcelRow, key string, o pointerset.Options) (Conversion, error) {
	out := Conversion{InParcel: row}
	pc, err := PieceOf(row, key)
	if err != nil {
		return out, err
	}
	p, err := l.Open(ctx, row)
	if err != nil {
		return out, err
	}
	cur, x, of := p.Sources(pc)
	out.Origin, out.Cur, out.X = of, cur != "", x != ""
	if o.As == "" {
		if o.As = pointerset.Cur; out.Cur {
			o.As = pointerset.XCursor
		}
	}
	root := cur
	if o.As == pointerset.Cur {
		root = x
	}
	if root == "" {
		return out, say.Errorf("%s: %w", of.Name, ErrFormat)
	}
	out.Options = o
	out.Set, err = pointerset.Convert(ctx, p, root, o)
	return out, err
}

// Write writes what becomes of a set as a zip.
func (c Conversion) Write(ctx context.Context, w io.Writer) error {
	files, err := c.Entries(c.Name)
	if err != nil {
		return err
	}
	if c.As == pointerset.XCursor {
		recipe := c.Recipe(c.Options.Sizes, c.Options.Scales)
		files = append(files, pointerset.Entry{Name: pointerset.RecipeFile, Make: func() ([]byte, error) { return recipe, nil }})
	}
	return c.Zip(ctx, w, c.Folder, files)
}

// Convert starts making a parcel of what becomes of a set; it is known to come from where the set
// does. When done the job leads to then.
func (l *Library) Convert(c Conversion, then func(sha string) string) *jobs.Job {
	return l.jobs.Start("Convert "+c.Name, func(ctx context.Context, j *jobs.Job) error {
		j.Step("Converting", "")
		f, err := os.CreateTemp("", "ivelt-convert-*")
		if err != nil {
			return err
		}
		defer os.Remove(f.Name())
		defer f.Close()
		if err := c.Write(ctx, f); err != nil {
			return err
		}
		size, err := f.Seek(0, io.SeekCurrent)
		if err == nil {
			_, err = f.Seek(0, io.SeekStart)
		}
		if err != nil {
			return err
		}
		sha, err := l.TakeIn(ctx, j, filepath.Base(c.Folder)+".zip", f, size, "")
		if err != nil {
			return err
		}
		row, err := l.store.Parcel(sha)
		if err != nil {
			return err
		}
		from := c.InParcel
		row.Market, row.Entry, row.Title, row.Maker, row.Licence, row.Version = from.Market, from.Entry, c.Name, from.Maker, from.Licence, from.Version
		if err := l.store.SaveParcel(row); err != nil {
			return err
		}
		j.Then(then(sha))
		return nil
	})
}
