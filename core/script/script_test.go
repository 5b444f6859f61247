package script_test

import (
	"archive/tar"
	"bytes"
	"errors"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/plan"
	"ivelt/core/plan/plantest"
	"ivelt/core/planning"
	"ivelt/core/script"
)

// TestAScriptDoesWhatThePlanDoes: run by sh it leaves the home as carrying the plan out does,
// and what it leaves beside it goes back; it touches nothing that is not as it was.
func TestAScriptDoesWhatThePlanDoes(t *testing.T) {
	for name, of := range map[string]func(b *plantest.Bench) plan.Plan{
		"dress":   func(b *plantest.Bench) plan.Plan { return b.Dress("New") },
		"install": func(b *plantest.Bench) plan.Plan { return b.Install() },
		"take away": func(b *plantest.Bench) plan.Plan {
			b.Write(".data/icons/Own/own/a.txt", "mine", 0o600)
			p, err := planning.TakeAway(b.D, "/home/me/.data/icons/Own", "Own", "icons")
			require.NoError(t, err)
			return p
		},
		"go back": func(b *plantest.Bench) plan.Plan { return b.Undo(b.Dress("New")) },
	} {
		t.Run(name, func(t *testing.T) {
			b := plantest.NewSmall(t)
			p := of(b)
			before := b.Look(false)
			dir := t.TempDir()
			var bundle bytes.Buffer
			require.NoError(t, script.Bundle(t.Context(), b.D, p, b, &bundle))
			unpack(t, &bundle, dir)
			run := func(file string) (string, error) {
				cmd := exec.Command("sh", file)
				cmd.Env = append(os.Environ(), "HOME="+filepath.Join(b.Dir, "home"), "ROOT="+filepath.Join(b.Dir, "system"), "XDG_STATE_HOME="+filepath.Join(dir, "state"))
				out, err := cmd.CombinedOutput()
				return string(out), err
			}
			out, err := run(filepath.Join(dir, "by-hand.sh"))
			require.NoError(t, err, out)
			byHand := b.Look(false)
			require.NotEqual(t, before, byHand)
			out, err = run(strings.TrimSpace(out[strings.LastIndex(out, "sh ")+3:]))
			require.NoError(t, err, out)
			require.Equal(t, before, b.Look(false), "it goes back")

			require.NoError(t, b.Apply(p))
			require.Equal(t, b.Look(false), byHand)
			left := b.Look(false)
			require.NoError(t, os.RemoveAll(filepath.Join(dir, "state")))
			out, err = run(filepath.Join(dir, "by-hand.sh"))
			require.Error(t, err)
			require.Contains(t, out, "Nothing was changed.")
			require.Equal(t, left, b.Look(false))
		})
	}
}

func unpack(t *testing.T, from io.Reader, dir string) {
	for r := tar.NewReader(from); ; {
		h, err := r.Next()
		if errors.Is(err, io.EOF) {
			return
		}
		require.NoError(t, err)
		at := filepath.Join(dir, h.Name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(at, text, 0o644))
	}
}

// TestWhatAScriptCannotDo is refused, and contents that are no plain text are encoded.
func TestWhatAScriptCannotDo(t *testing.T) {
	b := plantest.NewSmall(t)
	p := b.Dress("New")
	p.Ops[0].Before.Kind = "other"
	_, err := script.Of(b.D, p)
	require.ErrorContains(t, err, "neither a file, nor a folder, nor a link")
	p = b.Dress("New")
	for i := range p.Ops {
		if p.Ops[i].Kind == plan.Write {
			p.Ops[i].Content = []byte("a\x00b\r\n")
		}
	}
	text, err := script.Of(b.D, p)
	require.NoError(t, err)
	require.Contains(t, text, "base64 -d")
}
