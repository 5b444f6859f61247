package main

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestAMarketMadeByHand is a folder with two parcels and an index as a person
// writes it: checked, drawn from its pieces, and checked again.
func TestAMarketMadeByHand(t *testing.T) {
	dir := t.TempDir()
	put := func(name string, files ...string) string {
		t.Helper()
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for i := 0; i < len(files); i += 2 {
			w, err := z.Create(files[i])
			require.NoError(t, err)
			_, err = w.Write([]byte(files[i+1]))
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), b.Bytes(), 0o644))
		return fmt.Sprintf(`{"version": "1", "date": "2026-11-25", "file": %q, "size": %d, "sha256": "%x"}`, name, b.Len(), sha256.Sum256(b.Bytes()))
	}
	theme := put("salt.zip", "Salt/gtk-3.0/gtk.css", "@define-color theme_bg_color #202428;\n@define-color theme_selected_bg_color #3366dd;\nwindow { background-color: @theme_bg_color; }\n")
	empty := put("empty.zip", "readme.txt", "nothing")
	index := fmt.Sprintf(`{"format": 1, "name": "By hand", "x-mine": true, "entries": [
		{"id": "salt", "kind": "theme", "name": "Salt", "x-note": "kept", "versions": [%s]},
		{"id": "empty", "kind": "icons", "name": "Nothing", "versions": [%s]}]}`, theme, empty)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "index.json"), []byte(index), 0o644))

	run := func(args ...string) (string, int) {
		t.Helper()
		c := command(t, append([]string{"market"}, args...)...)
		out, _ := c.CombinedOutput()
		return string(out), c.ProcessState.ExitCode()
	}
	out, code := run("check", dir)
	require.Zero(t, code, out)
	out, code = run("draw", dir)
	require.Zero(t, code, out)
	require.Equal(t, "salt: drawn\nempty: its parcel has no piece of the kind icons\n", out)
	text, err := os.ReadFile(filepath.Join(dir, "index.json"))
	require.NoError(t, err)
	for _, says := range []string{`"x-mine": true`, `"x-note": "kept"`, `"from": "pieces"`, `"gtk-3.0"`, `"#3366dd"`} {
		require.Contains(t, string(text), says)
	}
	picture, err := os.ReadFile(filepath.Join(dir, "pictures/salt.svg"))
	require.NoError(t, err)
	require.Contains(t, string(picture), "rgba(32,36,40,1)", "its own ground")
	out, code = run("check", dir)
	require.Zero(t, code, out)

	require.NoError(t, os.Remove(filepath.Join(dir, "salt.zip")))
	out, code = run("check", dir)
	require.Equal(t, 1, code)
	require.Contains(t, out, "index.json /entries/0/versions/0/file (salt): the parcel salt.zip is not there")
	out, code = run("check", "--json", dir)
	require.Equal(t, 1, code)
	require.Contains(t, out, `"at": "/entries/0/versions/0/file"`)
	for _, bad := range [][]string{{"check", filepath.Join(dir, "none")}, {"check", filepath.Join(dir, "empty.zip")}, {"draw", t.TempDir()}, {"check"}} {
		_, code = run(bad...)
		require.Equal(t, 2, code, bad)
	}
	out, code = run("schema")
	require.Zero(t, code)
	require.Contains(t, out, "json-schema.org")
}
