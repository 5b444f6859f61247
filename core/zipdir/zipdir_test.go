package zipdir_test

import (
	"archive/zip"
	"bytes"
	"io"
	"io/fs"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/zipdir"
)

func read(t *testing.T, b []byte) []zipdir.File {
	t.Helper()
	files, err := zipdir.Read(bytes.NewReader(b), int64(len(b)), 0)
	require.NoError(t, err)
	return files
}

func contents(t *testing.T, r io.ReadCloser, err error) string {
	t.Helper()
	require.NoError(t, err)
	text, err := io.ReadAll(r)
	require.NoError(t, err)
	require.NoError(t, r.Close())
	return string(text)
}

// TestAZipIsReadAsTheStandardLibraryDoes: names, modes, sizes, times and contents, of zips of
// its own writer and of Info-ZIP 3.0; also with something before the zip, as in a program
// that unpacks itself.
func TestAZipIsReadAsTheStandardLibraryDoes(t *testing.T) {
	var made bytes.Buffer
	w := zip.NewWriter(&made)
	for name, mode := range map[string]fs.FileMode{"a/": fs.ModeDir | 0o755, "a/b.txt": 0o644, "a/run": 0o755, "a/link": fs.ModeSymlink | 0o777, "Straße": 0o600} {
		h := &zip.FileHeader{Name: name, Method: zip.Deflate, Modified: time.Date(2024, 2, 29, 13, 14, 16, 0, time.UTC)}
		if mode == 0o600 {
			h.Method = zip.Store
		}
		h.SetMode(mode)
		f, err := w.CreateHeader(h)
		require.NoError(t, err)
		if !mode.IsDir() {
			_, err = io.WriteString(f, strings.Repeat(name, 100))
			require.NoError(t, err)
		}
	}
	require.NoError(t, w.SetComment("a comment with PK\x05\x06 in it"))
	require.NoError(t, w.Close())
	plain, err := os.ReadFile("testdata/plain.zip")
	require.NoError(t, err)
	large, err := os.ReadFile("testdata/big.zip") // zip -fz: 64 bits everywhere
	require.NoError(t, err)
	dos, err := os.ReadFile("testdata/dos.zip") // zip -k: as made on DOS
	require.NoError(t, err)
	for i, b := range [][]byte{made.Bytes(), plain, large, dos, append([]byte("#!/bin/sh\nexit\n"), plain...)} {
		want, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
		require.NoError(t, err)
		got := read(t, b)
		require.Len(t, got, len(want.File), i)
		for n := range got {
			f, of := &got[n], want.File[n]
			require.Equal(t, of.Name, f.Name)
			require.Equal(t, of.Mode(), f.FileMode(), f.Name)
			require.Equal(t, int64(of.UncompressedSize64), f.Size)
			require.WithinDuration(t, of.Modified, f.ModTime(), 26*time.Hour, "zones differ, days do not")
			require.False(t, f.Encrypted())
			if f.FileMode().IsDir() {
				continue
			}
			r, err := f.Open()
			theirs, e := of.Open()
			require.Equal(t, contents(t, theirs, e), contents(t, r, err), f.Name)
		}
	}
}

// TestBothWaysOfEncryption: the traditional one of Info-ZIP and AES as 7-Zip writes it
// (testdata, zip -P tide and 7zz -ptide -mem=AES256).
func TestBothWaysOfEncryption(t *testing.T) {
	for _, name := range []string{"old.zip", "aes.zip"} {
		b, err := os.ReadFile("testdata/" + name)
		require.NoError(t, err)
		n := 0
		for _, f := range read(t, b) {
			if f.FileMode().IsDir() || f.Size == 0 {
				continue
			}
			n++
			require.True(t, f.Encrypted(), "%s: %s", name, f.Name)
			r, err := zipdir.OpenEncrypted(&f, "tide")
			text := contents(t, r, err)
			require.Len(t, text, int(f.Size))
			if strings.HasSuffix(f.Name, "a.txt") {
				require.Equal(t, "hello hello hello hello\n", text)
			}
			wrong, err := zipdir.OpenEncrypted(&f, "ebb")
			if err == nil { // the traditional check is of one byte
				_, err = io.ReadAll(wrong)
			}
			require.Error(t, err, name)
		}
		require.GreaterOrEqual(t, n, 2)
	}
}

// TestWhatIsNoZip is refused, and so is a directory of more entries than are read.
func TestWhatIsNoZip(t *testing.T) {
	plain, err := os.ReadFile("testdata/plain.zip")
	require.NoError(t, err)
	for i, b := range [][]byte{nil, []byte("PK\x05\x06"), plain[:len(plain)-30], bytes.Repeat([]byte{0}, 4096), plain[40:]} {
		files, err := zipdir.Read(bytes.NewReader(b), int64(len(b)), 0)
		for n := range files {
			if r, e := files[n].Open(); e != nil {
				err = e
			} else if _, e := io.ReadAll(r); e != nil {
				err = e
			}
		}
		require.Error(t, err, i)
	}
	_, err = zipdir.Read(bytes.NewReader(plain), int64(len(plain)), 2)
	require.ErrorIs(t, err, zipdir.ErrTooMany)
	damaged := bytes.Clone(plain)
	whole, err := zip.NewReader(bytes.NewReader(plain), int64(len(plain)))
	require.NoError(t, err)
	at, err := whole.File[slices.IndexFunc(whole.File, func(f *zip.File) bool { return f.Name == "d/a.txt" })].DataOffset()
	require.NoError(t, err)
	damaged[at] ^= 0xff
	bad := 0
	for _, f := range read(t, damaged) {
		r, err := f.Open()
		if err == nil {
			_, err = io.ReadAll(r)
		}
		if err != nil {
			bad++
		}
	}
	require.Equal(t, 1, bad, "the sum tells")
}
