package archive

import (
	"archive/tar"
	"bufio"
	"bytes"
	"compress/bzip2"
	"context"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/klauspost/compress/gzip"
	"github.com/klauspost/compress/zstd"
	"github.com/klauspost/readahead"
	"github.com/pierrec/lz4/v4"
)

var tarFormat = Format{Name: "tar", Match: matchTar, Walk: walkTar}

// compressions are the wrappings a tar archive comes in, by their first bytes.
var compressions = []struct {
	name, magic string
	open        func(io.Reader) (io.Reader, error)
}{
	{"gz", "\x1f\x8b", func(r io.Reader) (io.Reader, error) { return gzip.NewReader(r) }},
	{"xz", "\xfd7zXZ\x00", openXz},
	{"bz2", "BZh", func(r io.Reader) (io.Reader, error) { return bzip2.NewReader(r), nil }},
	{"zst", "\x28\xb5\x2f\xfd", func(r io.Reader) (io.Reader, error) {
		d, err := zstd.NewReader(r, zstd.WithDecoderConcurrency(1), zstd.WithDecoderMaxMemory(256<<20))
		if err != nil {
			return nil, err
		}
		return d.IOReadCloser(), nil
	}},
}

// Unwrapped reads what a file has that is packed with gzip, xz, bzip2, zstd or lz4, or not at
// all, by its first bytes. The caller closes it.
func Unwrapped(r io.Reader) (io.ReadCloser, error) {
	in := bufio.NewReaderSize(r, 1<<16)
	head, err := in.Peek(6)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	if bytes.HasPrefix(head, []byte("\x04\x22\x4d\x18")) { // the LZ4 frame format, 1.6.1
		return io.NopCloser(lz4.NewReader(in)), nil
	}
	for _, c := range compressions {
		if !bytes.HasPrefix(head, []byte(c.magic)) {
			continue
		}
		out, err := c.open(in)
		if err != nil {
			return nil, err
		}
		if c, ok := out.(io.ReadCloser); ok {
			return c, nil
		}
		return io.NopCloser(out), nil
	}
	return io.NopCloser(in), nil
}

func matchTar(head []byte) (string, bool) {
	for _, c := range compressions {
		if bytes.HasPrefix(head, []byte(c.magic)) {
			return "tar." + c.name, true
		}
	}
	return "tar", isTar(head)
}

// isTar checks the sum that every tar header carries (POSIX.1-1988, ustar).
func isTar(block []byte) bool {
	if len(block) < 512 {
		return false
	}
	want, err := strconv.ParseInt(strings.Trim(string(block[148:156]), " \x00"), 8, 64)
	if err != nil {
		return false
	}
	sum := int64(8 * ' ')
	for i, c := range block[:512] {
		if i < 148 || i >= 156 {
			sum += int64(c)
		}
	}
	return sum == want
}

// walkTar reads to the very end, so that a cut after the last entry is noticed
// too. Unpacking runs ahead of looking, on another processor.
func walkTar(ctx context.Context, a *Archive, each func(Member) error) error {
	block := int(min(1<<18, max(1<<14, a.Size))) // clearing more than is used costs a small archive most of its time
	var r io.Reader = bufio.NewReaderSize(io.NewSectionReader(a, 0, a.Size), block)
	head, _ := r.(*bufio.Reader).Peek(6)
	for _, c := range compressions {
		if !bytes.HasPrefix(head, []byte(c.magic)) {
			continue
		}
		inner, err := c.open(r)
		if err != nil {
			return err
		}
		if closer, ok := inner.(io.Closer); ok {
			defer closer.Close()
		}
		ahead, err := readahead.NewReaderSize(a.Measured(ctx, inner), 4, block)
		if err != nil {
			return err
		}
		defer ahead.Close()
		r = bufio.NewReaderSize(ahead, 1<<16)
		break
	}
	if first, err := r.(*bufio.Reader).Peek(512); !isTar(first) {
		if err != nil && !errors.Is(err, io.EOF) {
			return err
		}
		return fmt.Errorf("%w: it is a single packed file", ErrNotArchive)
	}
	return readTar(r, each)
}

// passing is the member the reader stands at.
type passing struct{ *tar.Reader }

func (t passing) Open() (io.ReadCloser, error) { return io.NopCloser(t.Reader), nil }

func readTar(r io.Reader, each func(Member) error) error {
	t := tar.NewReader(r)
	for {
		h, err := t.Next()
		if errors.Is(err, io.EOF) {
			if _, err := io.CopyN(io.Discard, r, afterTheEnd); !errors.Is(err, io.EOF) {
				return err
			}
			return nil
		}
		if err != nil {
			return err
		}
		m := Member{
			Name: h.Name, Mode: h.FileInfo().Mode(), Size: h.Size, ModTime: h.ModTime,
			Body: passing{t},
		}
		switch h.Typeflag {
		case tar.TypeXGlobalHeader:
			continue
		case tar.TypeLink:
			m.Hard = h.Linkname
		case tar.TypeSymlink:
			m.Link = h.Linkname
		}
		if err := each(m); err != nil {
			return err
		}
	}
}
