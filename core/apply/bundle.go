package apply

import (
	"archive/tar"
	"bytes"
	"context"
	"io"
	"io/fs"
	"maps"
	"slices"
	"time"

	"ivelt/core/plan"
	"ivelt/core/say"
)

// Packed is what an operation copies, as a tar; keep has what was kept.
func Packed(ctx context.Context, op plan.Op, keep plan.Keeper) ([]byte, error) {
	if op.Source.Kept != "" {
		return keep.Get(op.Source.Kept)
	}
	x := &run{Config: Config{Keep: keep}}
	p, err := x.parcel(ctx, *op.Source)
	if err != nil {
		return nil, err
	}
	c, err := plan.ReadTree(p, *op.Source)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	out := tar.NewWriter(&b)
	for _, rel := range c.Folders {
		if err := out.WriteHeader(&tar.Header{Name: rel + "/", Mode: 0o755, Typeflag: tar.TypeDir, ModTime: time.Unix(0, 0)}); err != nil {
			return nil, err
		}
	}
	var m plan.Manifest
	err = c.Each(ctx, func(rel string, fi fs.FileInfo, r io.Reader) error {
		content, err := io.ReadAll(r)
		if err != nil {
			return err
		}
		h := &tar.Header{Name: rel, Mode: int64(c.Mode(fi)), Size: int64(len(content)), ModTime: fi.ModTime(), Typeflag: tar.TypeReg, Format: tar.FormatPAX}
		if err := out.WriteHeader(h); err != nil {
			return err
		}
		if _, err := out.Write(content); err != nil {
			return err
		}
		return m.File(rel, bytes.NewReader(content))
	})
	if err != nil {
		return nil, err
	}
	for _, rel := range slices.Sorted(maps.Keys(c.Links)) {
		if err := out.WriteHeader(&tar.Header{Name: rel, Linkname: c.Links[rel], Mode: 0o777, Typeflag: tar.TypeSymlink}); err != nil {
			return nil, err
		}
	}
	c.Skeleton(&m)
	if m.Hash() != op.After.Hash {
		return nil, say.Errorf("%w: look at it again", plan.ErrParcel)
	}
	err = out.Close()
	return b.Bytes(), err
}
