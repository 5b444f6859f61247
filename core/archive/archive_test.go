package archive_test

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/archive/archivetest"
	"ivelt/core/regular"
)

func open(t testing.TB, name string, b []byte, o archive.Options) (*archive.Tree, error) {
	t.Helper()
	file := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(file, b, 0o644))
	return archive.Open(t.Context(), file, o)
}

func hugeFolder(t testing.TB) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	_, err := z.CreateRaw(&zip.FileHeader{Name: "Pack/", UncompressedSize64: 1<<32 - 2, ExternalAttrs: 0x10})
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestHazardsAreRefused(t *testing.T) {
	bad := func(name string) []archivetest.Entry {
		return append([]archivetest.Entry{{Name: name, Text: "x"}}, archivetest.Small...)
	}
	for what, entries := range map[string][]archivetest.Entry{
		"absolute path":     bad("/etc/passwd"),
		"climbs out":        bad("Pack/../../out"),
		"climbs at the end": bad("Pack/.."),
		"backslash":         bad(`Pack\..\..\out`),
		"drive":             bad("C:/out"),
		"both":              append([]archivetest.Entry{{Name: "Pack", Text: "a file"}}, archivetest.Small...),
		"below a file":      append([]archivetest.Entry{{Name: "Pack/48", Text: "a file"}}, archivetest.Small[2:]...),
		"below a link":      append([]archivetest.Entry{{Name: "Pack/48", Link: "/tmp"}}, archivetest.Small[2:]...),
		"hard link out":     append([]archivetest.Entry{{Name: "Pack/h", Hard: "../../etc/passwd"}}, archivetest.Small...),
	} {
		_, err := open(t, "bad.tar", archivetest.Tar(t, entries), archive.Options{})
		require.ErrorIs(t, err, archive.ErrUnsafe, what)
	}
	_, err := open(t, "bad.zip", archivetest.Zip(t, bad("../out")), archive.Options{})
	require.ErrorIs(t, err, archive.ErrUnsafe)

	p, err := open(t, "odd.tar", archivetest.Tar(t, append([]archivetest.Entry{{Name: "Pack/dev", Kind: tar.TypeChar}, {Name: "Pack/pipe", Kind: tar.TypeFifo}}, archivetest.Small...)), archive.Options{})
	require.NoError(t, err)
	_, err = p.Lstat("Pack/dev")
	require.ErrorIs(t, err, fs.ErrNotExist, "devices are left out")
	p, err = open(t, "links.tar", archivetest.Tar(t, []archivetest.Entry{{Name: "a", Link: "/etc/passwd"}, {Name: "b", Link: "../../etc/passwd"}, {Name: "c", Link: "d"}, {Name: "d", Link: "c"}}), archive.Options{})
	require.NoError(t, err)
	for _, name := range []string{"a", "b", "c"} {
		_, err = fs.ReadFile(p, name)
		require.Error(t, err, "a link leads nowhere outside the parcel")
	}

	limits := func(l archive.Limits) archive.Options { return archive.Options{Limits: l} }
	_, err = open(t, "many.tar", archivetest.Tar(t, archivetest.Small), limits(archive.Limits{Entries: 3}))
	require.ErrorIs(t, err, archive.ErrTooLarge)
	_, err = open(t, "big.tar", archivetest.Tar(t, archivetest.Small), limits(archive.Limits{EntryBytes: 2}))
	require.ErrorIs(t, err, archive.ErrTooLarge)
	zeros := []archivetest.Entry{{Name: "bomb", Text: strings.Repeat("\x00", 20<<20)}}
	_, err = open(t, "bomb.tar.gz", archivetest.Gz(t, archivetest.Tar(t, zeros)), limits(archive.Limits{Ratio: 100}))
	require.ErrorIs(t, err, archive.ErrTooLarge)
	_, err = open(t, "total.zip", archivetest.Zip(t, zeros), limits(archive.Limits{TotalBytes: 1 << 20}))
	require.ErrorIs(t, err, archive.ErrTooLarge)
}

// TestCutArchivesAreNoticed cuts archives at many points: none may pass as
// whole.
func TestCutArchivesAreNoticed(t *testing.T) {
	var entries []archivetest.Entry
	for i := range 40 {
		entries = append(entries, archivetest.Entry{Name: fmt.Sprintf("Pack/48/apps/%d.png", i), Text: strings.Repeat(fmt.Sprint(i), 700)})
	}
	packed := archivetest.Xz(t, archivetest.Tar(t, entries))
	for name, whole := range map[string][]byte{"a.tar.gz": archivetest.Gz(t, archivetest.Tar(t, entries)), "a.tar.xz": packed, "unpacked by itself.tar.xz": packed, "a.zip": archivetest.Zip(t, entries)} {
		again := func() {}
		if strings.HasPrefix(name, "unpacked") {
			again = archive.WithoutPrograms()
		}
		for n := 1; n < 60; n++ {
			cut := whole[:len(whole)*n/60]
			_, err := open(t, name, cut, archive.Options{})
			require.Error(t, err, "%s cut at %d of %d", name, len(cut), len(whole))
			if len(cut) > 600 {
				require.ErrorIs(t, err, archive.ErrDamaged, "%s cut at %d of %d", name, len(cut), len(whole))
			}
		}
		_, err := open(t, name, whole[:len(whole)-1], archive.Options{})
		require.ErrorIs(t, err, archive.ErrDamaged, name)
		again()
	}
	for name, b := range map[string][]byte{"page.zip": []byte("<!doctype html><p>Moved"), "empty.tar": nil, "one.gz": archivetest.Gz(t, []byte("just text"))} {
		_, err := open(t, name, b, archive.Options{})
		require.ErrorIs(t, err, archive.ErrNotArchive, name)
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	file := filepath.Join(t.TempDir(), "a.tar")
	require.NoError(t, os.WriteFile(file, archivetest.Tar(t, entries), 0o644))
	_, err := archive.Open(ctx, file, archive.Options{})
	require.ErrorIs(t, err, context.Canceled)
}

// TestAnEntryThatLiesAboutItsSize sets the size in a zip's directory to less
// than what its data unpacks to.
func TestAnEntryThatLiesAboutItsSize(t *testing.T) {
	b := archivetest.Zip(t, []archivetest.Entry{{Name: "Pack/index.theme", Text: archivetest.Index("A", "", "48")}, {Name: "Pack/48/big.png", Text: strings.Repeat("z", 100_000)}})
	size := []byte{0xa0, 0x86, 0x01, 0x00} // 100,000, little-endian
	at := bytes.LastIndex(b, size)
	copy(b[at:], []byte{10, 0, 0, 0})
	p, err := open(t, "lies.zip", b, archive.Options{})
	require.NoError(t, err)
	_, err = fs.ReadFile(p, "Pack/48/big.png")
	require.Error(t, err)
	require.Error(t, p.Files(t.Context(), ".", func(_ string, _ fs.FileInfo, r io.Reader) error {
		_, err := io.Copy(io.Discard, r)
		return err
	}))
}

// TestLargeFilesAreReadAgain reads a file that is not held in memory, and for which nothing
// can be laid aside.
func TestLargeFilesAreReadAgain(t *testing.T) {
	t.Setenv("TMPDIR", filepath.Join(t.TempDir(), "gone"))
	big := strings.Repeat("picture ", 40_000)
	for name, b := range map[string][]byte{"a.tar.gz": archivetest.Gz(t, archivetest.Tar(t, append(archivetest.Small, archivetest.Entry{Name: "Pack/big.svg", Text: big}))), "a.zip": archivetest.Zip(t, append(archivetest.Small, archivetest.Entry{Name: "Pack/big.svg", Text: big}))} {
		p, err := open(t, name, b, archive.Options{})
		require.NoError(t, err)
		got, err := fs.ReadFile(p, "Pack/big.svg")
		require.NoError(t, err)
		require.True(t, big == string(got))
		var files []string
		require.NoError(t, p.Files(t.Context(), "Pack", func(name string, _ fs.FileInfo, r io.Reader) error {
			text, err := io.ReadAll(r)
			files = append(files, fmt.Sprint(name, " ", len(text)))
			return err
		}))
		require.ElementsMatch(t, []string{"Pack/index.theme 63", "Pack/48/apps/leaf.png 4", "Pack/big.svg 320000"}, files)
	}
}

// TestAPackedTarIsReadOnce: once it is open nothing of it is needed any more, whatever is
// asked for, and nothing is left of what was laid aside.
func TestAPackedTarIsReadOnce(t *testing.T) {
	t.Setenv("TMPDIR", t.TempDir())
	entries := slices.Clone(archivetest.Small)
	for i := range 30 {
		entries = append(entries, archivetest.Entry{Name: fmt.Sprintf("Pack/%d.svg", i), Text: strings.Repeat(fmt.Sprint("picture ", i), 20_000)})
	}
	inner := archivetest.Gz(t, archivetest.Tar(t, entries))
	for name, b := range map[string][]byte{"a.tar.gz": inner, "a.tar": archivetest.Tar(t, []archivetest.Entry{{Name: "in.tar.gz", Text: string(inner)}})} {
		file := filepath.Join(t.TempDir(), name)
		require.NoError(t, os.WriteFile(file, b, 0o644))
		p, err := archive.Open(t.Context(), file, archive.Options{})
		require.NoError(t, err)
		require.NoError(t, os.Truncate(file, 0))
		seen := 0
		require.NoError(t, p.Files(t.Context(), ".", func(name string, _ fs.FileInfo, r io.Reader) error {
			text, err := io.ReadAll(r)
			again, err2 := fs.ReadFile(p, name)
			require.True(t, bytes.Equal(text, again), name)
			seen += len(text)
			return errors.Join(err, err2)
		}))
		require.Greater(t, seen, 30*20_000*9)
		left, err := os.ReadDir(os.Getenv("TMPDIR"))
		require.NoError(t, err)
		require.Empty(t, left)
		require.NoError(t, p.Close())
		_, err = fs.ReadFile(p, map[string]string{"a.tar.gz": "Pack/3.svg", "a.tar": "in.tar.gz/Pack/3.svg"}[name])
		require.ErrorIs(t, err, os.ErrClosed)
	}
}

// TestReadingAFileEndsWithItsContext: it lies behind much else, and nobody waits for it.
func TestReadingAFileEndsWithItsContext(t *testing.T) {
	big := strings.Repeat("picture ", 40_000)
	p, err := open(t, "a.tar.gz", archivetest.Gz(t, archivetest.Tar(t, append(archivetest.Small, archivetest.Entry{Name: "Pack/big.svg", Text: big}))), archive.Options{})
	require.NoError(t, err)
	ctx, cancel := context.WithCancel(t.Context())
	tree := regular.Until(ctx, p)
	got, err := fs.ReadFile(tree, "Pack/big.svg")
	require.NoError(t, err)
	require.Len(t, got, len(big))
	f := p.Until(ctx)
	cancel()
	_, err = fs.ReadFile(f, "Pack/big.svg")
	require.ErrorIs(t, err, context.Canceled)
	_, err = fs.ReadFile(tree, "Pack/big.svg")
	require.ErrorIs(t, err, context.Canceled)
	_, err = fs.ReadFile(p, "Pack/big.svg")
	require.NoError(t, err, "others read on")
}

// TestAFolderHasNoSize: whoever reads a file makes as much room as it says.
func TestAFolderHasNoSize(t *testing.T) {
	p, err := open(t, "x.zip", hugeFolder(t), archive.Options{})
	require.NoError(t, err)
	info, err := fs.Stat(p, "Pack")
	require.NoError(t, err)
	require.True(t, info.IsDir())
	require.Zero(t, info.Size())
}

// TestNamesInOlderAlphabets: a zip without the mark of UTF-8 is in code page
// 437 (APPNOTE 6.3, appendix D.1); a tar does not say.
func TestNamesInOlderAlphabets(t *testing.T) {
	for _, c := range []struct {
		b    []byte
		want string
	}{
		{archivetest.Zip(t, []archivetest.Entry{{Name: "Stra\xe1e/a", Text: "x"}}), "Straße/a"},
		{archivetest.Tar(t, []archivetest.Entry{{Name: "Stra\xdfe/a", Text: "x"}}), "Stra\uFFFDe/a"},
	} {
		p, err := open(t, "x", c.b, archive.Options{})
		require.NoError(t, err)
		text, err := fs.ReadFile(p, c.want)
		require.NoError(t, err)
		require.Equal(t, "x", string(text))
	}
}
