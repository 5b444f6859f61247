package archive_test

import (
	"context"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/archive/archivetest"
)

// deb is a Debian package (deb(5)) with one data member.
func deb(data string, b []byte) []byte {
	out := []byte("!<arch>\n")
	for _, m := range []struct {
		name string
		b    []byte
	}{{"debian-binary", []byte("2.0\n")}, {"control.tar.xz", []byte("not looked at")}, {data, b}} {
		out = fmt.Appendf(out, "%-16s%-12d%-6d%-6d%-8o%-10d`\n", m.name, 0, 0, 0, 0o100644, len(m.b))
		if out = append(out, m.b...); len(m.b)%2 == 1 {
			out = append(out, '\n')
		}
	}
	return out
}

// TestOneTreeWhateverItCameIn: the same files, links and folders, as io/fs wants a tree to be
// (testing/fstest), from every kind of archive, from a folder, and from archives in archives.
func TestOneTreeWhateverItCameIn(t *testing.T) {
	entries := append(slices.Clone(archivetest.Small), archivetest.Entry{Name: "Pack/48/apps/same.png", Hard: "Pack/48/apps/leaf.png"})
	folder := filepath.Join(t.TempDir(), "folder")
	require.NoError(t, os.MkdirAll(filepath.Join(folder, "Pack/48/apps"), 0o755))
	for _, e := range archivetest.Small {
		at := filepath.Join(folder, e.Name)
		switch {
		case e.Link != "":
			require.NoError(t, os.Symlink(e.Link, at))
		case e.Text != "":
			require.NoError(t, os.WriteFile(at, []byte(e.Text), 0o644))
		}
	}
	tarred, zipped := archivetest.Tar(t, entries), archivetest.Zip(t, archivetest.Small[1:])
	for name, b := range map[string][]byte{
		"a.tar": tarred, "a.tar.gz": archivetest.Gz(t, tarred), "a.tar.xz": archivetest.Xz(t, tarred), "a.zip": zipped,
		"a.deb": deb("data.tar.gz", archivetest.Gz(t, tarred)), "b.deb": deb("data.tar.xz", archivetest.Xz(t, tarred)), "folder": nil,
	} {
		p, err := archive.Open(t.Context(), folder, archive.Options{})
		if b != nil {
			p, err = open(t, name, b, archive.Options{Password: "unused"})
		}
		require.NoError(t, err, name)
		require.NoError(t, fstest.TestFS(p, "Pack/index.theme", "Pack/48/apps/leaf.png", "Pack/48/apps/frond.png"), name)
		text, err := fs.ReadFile(p, "Pack/48/apps/far.png")
		require.NoError(t, err, name)
		require.Equal(t, "leaf", string(text), name)
		to, err := p.ReadLink("Pack/48/apps/frond.png")
		require.NoError(t, err, name)
		require.Equal(t, "leaf.png", to, name)
		_, err = p.ReadLink("Pack/index.theme")
		require.ErrorIs(t, err, fs.ErrInvalid)
		_, err = p.ReadDir("Pack/index.theme")
		require.Error(t, err)
		if len(b) > 0 && name != "a.zip" {
			require.Contains(t, p.Entries(), "Pack/", name)
			text, err = fs.ReadFile(p, "Pack/48/apps/same.png")
			require.NoError(t, err, name)
			require.Equal(t, "leaf", string(text), "%s: a hard link", name)
			require.Equal(t, "unused", p.Password())
		}
		require.NoError(t, p.Close())
		require.NoError(t, p.Close(), "twice")
		if b != nil {
			p, err = archive.OpenBytes(t.Context(), name, b, archive.Options{})
			require.NoError(t, err)
			require.NoError(t, fstest.TestFS(p, "Pack/48/apps/leaf.png"), "%s in memory", name)
		}
	}
	_, err := open(t, "c.deb", deb("other", tarred), archive.Options{})
	require.ErrorContains(t, err, "no data member")
	_, err = open(t, "c.deb", append(deb("x", nil)[:70], "damaged header, as long as a header is, but nothing of one......."...), archive.Options{})
	require.ErrorContains(t, err, "damaged member header")
}

// TestArchivesInArchives are folders of the tree they are in; one level is opened, and what
// is no archive stays a file.
func TestArchivesInArchives(t *testing.T) {
	inner := archivetest.Gz(t, archivetest.Tar(t, append(slices.Clone(archivetest.Small), archivetest.Entry{Name: "deep.zip", Text: string(archivetest.Zip(t, archivetest.Small))})))
	outer := []archivetest.Entry{
		{Name: "light.tar.gz", Text: string(inner)}, {Name: "dark.zip", Text: string(archivetest.Zip(t, archivetest.Small[1:]))},
		{Name: "note.zip", Text: "no zip"}, {Name: "broken.tar.gz", Text: string(inner[:len(inner)/2])}, {Name: "read.me", Text: "x"},
	}
	for name, b := range map[string][]byte{"a.tar": archivetest.Tar(t, outer), "a.zip": archivetest.Zip(t, outer)} {
		file := filepath.Join(t.TempDir(), name)
		require.NoError(t, os.WriteFile(file, b, 0o644))
		p, err := archive.Open(t.Context(), file, archive.Options{})
		require.NoError(t, err)
		for _, at := range []string{"light.tar.gz/Pack/48/apps/leaf.png", "dark.zip/Pack/48/apps/frond.png"} {
			text, err := fs.ReadFile(p.During(t.Context()), at)
			require.NoError(t, err, "%s: %s", name, at)
			require.Equal(t, "leaf", string(text))
		}
		for _, file := range []string{"note.zip", "light.tar.gz/deep.zip"} {
			info, err := fs.Stat(p, file)
			require.NoError(t, err)
			require.True(t, info.Mode().IsRegular(), "%s: %s", name, file)
		}
		require.Len(t, p.Problems, 1, "the broken one is told, the others are read")
		require.Equal(t, "broken.tar.gz", p.Problems[0].Name)
		ctx, cancel := context.WithCancel(t.Context())
		cancel()
		_, err = archive.Open(ctx, file, archive.Options{})
		require.ErrorIs(t, err, context.Canceled)
	}
}

// TestPasswords of a zip that Info-ZIP (Debian: zip) encrypted.
func TestPasswords(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "index.theme"), []byte("[Icon Theme]\n"), 0o644))
	c := exec.CommandContext(t.Context(), "zip", "-qP", "tide", "x.zip", "index.theme")
	c.Dir = dir
	require.NoError(t, c.Run())
	for password, want := range map[string]error{"": archive.ErrPassword, "ebb": archive.ErrPassword, "tide": nil} {
		p, err := archive.Open(t.Context(), filepath.Join(dir, "x.zip"), archive.Options{Password: password})
		require.ErrorIs(t, err, want, password)
		if want == nil {
			text, err := fs.ReadFile(p, "index.theme")
			require.NoError(t, err)
			require.Equal(t, "[Icon Theme]\n", string(text))
		}
	}
}
