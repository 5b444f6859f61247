package plan

import (
	"archive/tar"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"slices"
	"time"

	"ivelt/core/desk"
)

// Bundle writes a plan as a tar that can be handed over: the plan, the script
// that does the same by hand, and what it copies. keep has what was kept.
func Bundle(ctx context.Context, d *desk.Desk, p Plan, keep Keeper, to io.Writer) error {
	script, err := Script(d, p)
	if err != nil {
		return err
	}
	file, err := json.MarshalIndent(p, "", "  ")
	if err != nil {
		return err
	}
	out := tar.NewWriter(to)
	put := func(name string, content []byte, mode int64) error {
		h := &tar.Header{Name: name, Mode: mode, Size: int64(len(content)), ModTime: time.Now(), Typeflag: tar.TypeReg}
		if err := out.WriteHeader(h); err != nil {
			return err
		}
		_, err := out.Write(content)
		return err
	}
	if err := put("plan.json", file, 0o644); err != nil {
		return err
	}
	if err := put("by-hand.sh", []byte(script), 0o755); err != nil {
		return err
	}
	x := &run{Config: Config{Keep: keep}}
	for i, op := range p.Ops {
		if op.Kind != Copy {
			continue
		}
		piece, err := x.pack(ctx, op)
		if err != nil {
			return fmt.Errorf("%s: %w", d.Show(op.Path), err)
		}
		if err := put(fmt.Sprintf("pieces/%d.tar", i), piece, 0o644); err != nil {
			return err
		}
	}
	return out.Close()
}

// pack is what an operation copies, as a tar.
func (x *run) pack(ctx context.Context, op Op) ([]byte, error) {
	if op.Source.Kept != "" {
		return x.Keep.Get(op.Source.Kept)
	}
	p, err := x.parcel(ctx, *op.Source)
	if err != nil {
		return nil, err
	}
	c, err := readPiece(p, *op.Source)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	out := tar.NewWriter(&b)
	for _, rel := range c.folders {
		if err := out.WriteHeader(&tar.Header{Name: rel + "/", Mode: 0o755, Typeflag: tar.TypeDir, ModTime: time.Unix(0, 0)}); err != nil {
			return nil, err
		}
	}
	var m manifest
	err = c.each(ctx, func(rel string, fi fs.FileInfo, r io.Reader) error {
		content, err := io.ReadAll(r)
		if err != nil {
			return err
		}
		h := &tar.Header{Name: rel, Mode: int64(c.mode(fi)), Size: int64(len(content)), ModTime: fi.ModTime(), Typeflag: tar.TypeReg, Format: tar.FormatPAX}
		if err := out.WriteHeader(h); err != nil {
			return err
		}
		if _, err := out.Write(content); err != nil {
			return err
		}
		return m.file(rel, bytes.NewReader(content))
	})
	if err != nil {
		return nil, err
	}
	for _, rel := range slices.Sorted(maps.Keys(c.links)) {
		if err := out.WriteHeader(&tar.Header{Name: rel, Linkname: c.links[rel], Mode: 0o777, Typeflag: tar.TypeSymlink}); err != nil {
			return nil, err
		}
	}
	c.skeleton(&m)
	if m.hash() != op.After.Hash {
		return nil, fmt.Errorf("%w: look at it again", ErrParcel)
	}
	err = out.Close()
	return b.Bytes(), err
}
