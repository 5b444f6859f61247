package script

import (
	"archive/tar"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/regular"
)

// What a plan that is handed over may weigh.
const (
	maxPlan   = 32 << 20
	maxPieces = 4 << 30
)

// ErrNoPlan: a file is no plan that was handed over.
var ErrNoPlan = errors.New("it is no plan")

// Read reads a plan that was handed over: a plan alone, or what [Bundle] wrote. What it copies
// is laid into the folder dir, which has to be there. Nothing of the file is trusted: anything
// in it that the plan does not copy is an error.
func Read(ctx context.Context, file, dir string) (Handed, error) {
	f, err := regular.Open(file)
	if err != nil {
		return Handed{}, err
	}
	defer f.Close()
	if fi, err := f.Stat(); err != nil || fi.IsDir() {
		return Handed{}, errors.Join(fmt.Errorf("%w: it is a folder", ErrNoPlan), err)
	}
	first := make([]byte, 1)
	if n, _ := f.ReadAt(first, 0); n == 1 && strings.ContainsRune("{ \t\r\n", rune(first[0])) {
		b, err := regular.Read(file, maxPlan)
		if err != nil {
			return Handed{}, err
		}
		h := Handed{}
		if err := h.plan(b); err != nil {
			return h, err
		}
		return h, h.whole()
	}
	return readBundle(ctx, f, dir)
}

// Handed is a plan that was handed over.
type Handed struct {
	Plan   plan.Plan
	pieces map[int]string // by the number of the operation: host path of the tar with what it copies
}

// Carried is the plan as it is carried out here: what it copies, and what it takes away from
// the desk, is put into keep, cleaned of owners, attributes and links that lead out.
func (h Handed) Carried(ctx context.Context, d *desk.Desk, keep plan.Keeper) (plan.Plan, error) {
	p := h.Plan
	p.Ops = slices.Clone(p.Ops)
	for i, op := range p.Ops {
		var packed []byte
		var err error
		switch {
		case op.Kind == plan.Copy:
			op.Source = &plan.Source{Parcel: h.pieces[i], Root: "."}
			packed, err = apply.Packed(ctx, op, keep)
		case op.Kind == plan.Remove && op.Before.Kind == "tree" && !op.IsFolder():
			packed, err = plan.TarOf(d.HostPath(op.Path))
		default:
			if op.Source != nil {
				err = errors.New("only what is copied or taken away has a source")
			}
		}
		if err != nil {
			return p, fmt.Errorf("%s: %w", op.Path, err)
		}
		if packed == nil {
			continue
		}
		hash, err := keep.Put(packed)
		if err != nil {
			return p, err
		}
		p.Ops[i].Source = &plan.Source{Kept: hash}
	}
	return p, nil
}

func (h *Handed) plan(b []byte) error {
	if err := json.Unmarshal(b, &h.Plan); err != nil {
		return fmt.Errorf("%w: %w", ErrNoPlan, err)
	}
	if h.Plan.ID == "" {
		return fmt.Errorf("%w: it has no ID", ErrNoPlan)
	}
	return nil
}

// whole reports what of the pieces is missing.
func (h *Handed) whole() error {
	for i, op := range h.Plan.Ops {
		if op.Kind == plan.Copy && h.pieces[i] == "" {
			return fmt.Errorf("%w that can be carried out: what it copies to %s is not with it", ErrNoPlan, op.Path)
		}
	}
	return nil
}

func readBundle(ctx context.Context, from io.Reader, dir string) (Handed, error) {
	h := Handed{pieces: map[int]string{}}
	left := int64(maxPieces)
	for r := tar.NewReader(from); ; {
		if err := ctx.Err(); err != nil {
			return h, err
		}
		e, err := r.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return h, fmt.Errorf("%w, nor a tar with one: %w", ErrNoPlan, err)
		}
		if e.Typeflag != tar.TypeReg {
			return h, fmt.Errorf("%w: %q in it is no file", ErrNoPlan, e.Name)
		}
		switch number, piece := strings.CutPrefix(e.Name, "pieces/"); {
		case e.Name == planName && h.Plan.ID == "":
			b, err := io.ReadAll(io.LimitReader(r, maxPlan+1))
			if err == nil && len(b) > maxPlan {
				err = regular.ErrSize
			}
			if err == nil {
				err = h.plan(b)
			}
			if err != nil {
				return h, err
			}
		case e.Name == scriptName: // for people
		case piece && h.Plan.ID != "":
			i, err := strconv.Atoi(strings.TrimSuffix(number, ".tar"))
			if err != nil || i < 0 || i >= len(h.Plan.Ops) || h.Plan.Ops[i].Kind != plan.Copy || h.pieces[i] != "" || pieceName(i) != e.Name {
				return h, fmt.Errorf("%w: the plan copies nothing from %q", ErrNoPlan, e.Name)
			}
			if left -= e.Size; left < 0 {
				return h, fmt.Errorf("%s: %w", e.Name, regular.ErrSize)
			}
			if h.pieces[i], err = unpack(r, filepath.Join(dir, strconv.Itoa(i)+".tar")); err != nil {
				return h, err
			}
		default:
			return h, fmt.Errorf("%w: the plan names no %q", ErrNoPlan, e.Name)
		}
	}
	if h.Plan.ID == "" {
		return h, fmt.Errorf("%w: there is none in it", ErrNoPlan)
	}
	return h, h.whole()
}

func unpack(r io.Reader, file string) (string, error) {
	f, err := os.OpenFile(file, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return "", err
	}
	_, err = io.Copy(f, r)
	return file, errors.Join(err, f.Close())
}
