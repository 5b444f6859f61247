package parcel_test

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/parcel"
)

// zeros is a gzip member of 64 MB of nothing, in 64 kB.
func zeros(t *testing.T) []byte {
	t.Helper()
	var b bytes.Buffer
	z, err := gzip.NewWriterLevel(&b, gzip.BestCompression)
	require.NoError(t, err)
	for range 64 {
		_, err = z.Write(make([]byte, 1<<20))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func gz(t *testing.T, b []byte) []byte {
	t.Helper()
	var out bytes.Buffer
	z := gzip.NewWriter(&out)
	_, err := z.Write(b)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return out.Bytes()
}

func zipped(t *testing.T, each func(put func(name string, content []byte))) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	each(func(name string, content []byte) {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write(content)
		require.NoError(t, err)
	})
	require.NoError(t, z.Close())
	return b.Bytes()
}

// hostile are parcels that ask for far more than they are, none over a few MB.
func hostile(t *testing.T) map[string][]byte {
	nothing := zeros(t)
	var small bytes.Buffer
	w := tar.NewWriter(&small)
	require.NoError(t, w.WriteHeader(&tar.Header{Name: "Pack/index.theme", Mode: 0o644, Size: 5, Typeflag: tar.TypeReg}))
	_, err := w.Write([]byte("hello"))
	require.NoError(t, err)
	require.NoError(t, w.Close())
	var large bytes.Buffer // one file of 8 GB
	w = tar.NewWriter(&large)
	require.NoError(t, w.WriteHeader(&tar.Header{Name: "Pack/huge.svg", Mode: 0o644, Size: 8 << 30, Typeflag: tar.TypeReg}))
	out := map[string][]byte{
		"folders 32,000 deep": zipped(t, func(put func(string, []byte)) { put(strings.Repeat("a/", 32_000)+"x", nil) }),
		"a tar of folders 32,000 deep": func() []byte {
			var b bytes.Buffer
			w := tar.NewWriter(&b)
			require.NoError(t, w.WriteHeader(&tar.Header{Name: strings.Repeat("a/", 32_000) + "x", Typeflag: tar.TypeReg, Format: tar.FormatPAX}))
			require.NoError(t, w.Close())
			return gz(t, b.Bytes())
		}(),
		"folders that names imply": zipped(t, func(put func(string, []byte)) {
			for i := range 6_000 {
				var name strings.Builder
				for j := range 50 {
					fmt.Fprintf(&name, "%d.%d/", i, j)
				}
				put(name.String()+"x", nil)
			}
		}),
		"13 GB after a tar's end": append(gz(t, small.Bytes()), bytes.Repeat(nothing, 200)...),
		"a file of 8 GB":          append(gz(t, large.Bytes()), bytes.Repeat(nothing, 130)...),
		"a bomb of many files": func() []byte {
			var b bytes.Buffer
			z := gzip.NewWriter(&b)
			w := tar.NewWriter(z)
			for i := range 40 {
				require.NoError(t, w.WriteHeader(&tar.Header{Name: fmt.Sprint("Pack/", i), Size: 16 << 20, Mode: 0o644, Typeflag: tar.TypeReg}))
				for range 16 {
					_, err := w.Write(make([]byte, 1<<20))
					require.NoError(t, err)
				}
			}
			require.NoError(t, w.Close())
			require.NoError(t, z.Close())
			return b.Bytes()
		}(),
		"nine archives of 20 MB in one": zipped(t, func(put func(string, []byte)) {
			inner := zipped(t, func(put func(string, []byte)) { put("x", make([]byte, 8<<20)) })
			padded := append(inner, make([]byte, 20<<20-len(inner))...)
			for i := range 9 {
				put(fmt.Sprintf("%d.zip", i), padded)
			}
		}),
		"300,000 entries in ten archives": zipped(t, func(put func(string, []byte)) {
			var b bytes.Buffer
			w := tar.NewWriter(&b)
			for i := range 30_000 {
				require.NoError(t, w.WriteHeader(&tar.Header{Name: fmt.Sprint(i), Typeflag: tar.TypeReg}))
			}
			require.NoError(t, w.Close())
			for i := range 10 {
				put(fmt.Sprintf("%d.tar", i), b.Bytes())
			}
		}),
		"one file of 120 MB that is asked for": zipped(t, func(put func(string, []byte)) { put("Pack/index.theme", make([]byte, 120<<20)) }),
	}
	return out
}

func cpu(t *testing.T) time.Duration {
	t.Helper()
	var u syscall.Rusage
	require.NoError(t, syscall.Getrusage(syscall.RUSAGE_SELF, &u))
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}

// TestHostileParcelsAreBounded opens parcels that ask for far more than they are, looks
// into them, and cancels in the middle: what it costs is told as a table. (CPU time and
// what was allocated in all: a machine at other work changes neither much.)
func TestHostileParcelsAreBounded(t *testing.T) {
	dir := t.TempDir()
	for what, b := range hostile(t) {
		file := filepath.Join(dir, "x")
		require.NoError(t, os.WriteFile(file, b, 0o644))
		var before, after runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&before)
		used := cpu(t)
		p, err := parcel.Open(t.Context(), file, parcel.Options{})
		if err == nil {
			p.Recognise()
			require.NoError(t, p.Close())
		}
		used = cpu(t) - used
		runtime.ReadMemStats(&after)
		made := (after.TotalAlloc - before.TotalAlloc) >> 20
		require.Less(t, used, 8*time.Second, what)
		require.Less(t, made, uint64(800), what)

		stop, cancel := context.WithCancel(t.Context())
		ended := make(chan time.Time, 1)
		go func() {
			p, err := parcel.Open(stop, file, parcel.Options{})
			if err == nil {
				_ = p.Close()
			} else if !errors.Is(err, context.Canceled) {
				require.ErrorContains(t, err, ":")
			}
			ended <- time.Now()
		}()
		time.Sleep(30 * time.Millisecond)
		begun := time.Now()
		cancel()
		heard := (<-ended).Sub(begun)
		require.Less(t, heard, 3*time.Second, what)
		says := "opens"
		if err != nil {
			says = err.Error()
		}
		t.Logf("%-42s %6d kB  %5d ms CPU  %4d MB made  cancelled in %4d ms  %s", what, len(b)>>10, used.Milliseconds(), made, max(0, heard.Milliseconds()), says)
	}
}
