package script

import (
	"archive/tar"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"time"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/plan"
)

// What is in such a tar.
const (
	planName   = "plan.json"
	scriptName = "by-hand.sh"
)

// pieceName is that of what an operation copies, by its number.
func pieceName(i int) string { return fmt.Sprintf("pieces/%d.tar", i) }

// Bundle writes a plan as a tar that can be handed over: the plan, the script
// that does the same by hand, and what it copies. keep has what was kept.
func Bundle(ctx context.Context, d *desk.Desk, p plan.Plan, keep plan.Keeper, to io.Writer) error {
	script, err := Of(d, p)
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
	if err := put(planName, file, 0o644); err != nil {
		return err
	}
	if err := put(scriptName, []byte(script), 0o755); err != nil {
		return err
	}
	for i, op := range p.Ops {
		if op.Kind != plan.Copy {
			continue
		}
		piece, err := apply.Packed(ctx, op, keep)
		if err != nil {
			return fmt.Errorf("%s: %w", d.Show(op.Path), err)
		}
		if err := put(pieceName(i), piece, 0o644); err != nil {
			return err
		}
	}
	return out.Close()
}
