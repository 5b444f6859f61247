// Package gresource reads GLib's resource bundles, the files that themes
// compile their style sheets and pictures into (GLib reference, "GResource";
// the container is GVDB, gvdb-format.h and gvdb-reader.c of GLib 2; the values
// are GVariants of type (uuay): size, flags, bytes).
package gresource

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"strings"
)

// ErrBundle: the bytes are no resource bundle, or a damaged one.
var ErrBundle = errors.New("this is no resource bundle, or it is damaged")

// MostBytes bounds one unpacked file; mostFiles and mostDeep a bundle.
const (
	MostBytes = 64 << 20
	mostFiles = 200_000
	mostDeep  = 64
	mostName  = 4096 // bytes of a path
)

const (
	headerSize = 24
	itemSize   = 24
	noParent   = 0xffffffff
	compressed = 1
)

// Bundle is an opened bundle.
type Bundle struct {
	data  []byte
	files map[string][2]uint32 // where the value is
}

// Open reads the directory of a bundle; its files are unpacked when asked for.
func Open(data []byte) (*Bundle, error) {
	if len(data) < headerSize || string(data[:8]) != "GVariant" {
		return nil, fmt.Errorf("%w: it does not begin as one", ErrBundle)
	}
	if v := binary.LittleEndian.Uint32(data[8:]); v != 0 {
		return nil, fmt.Errorf("%w: version %d is not known", ErrBundle, v)
	}
	b := &Bundle{data: data, files: map[string][2]uint32{}}
	return b, b.table(binary.LittleEndian.Uint32(data[16:]), binary.LittleEndian.Uint32(data[20:]))
}

// item is one entry of the hash table.
type item struct {
	parent, key uint32
	keySize     uint16
	kind        byte
	from, to    uint32
}

func (b *Bundle) table(from, to uint32) error {
	if from > to || int64(to) > int64(len(b.data)) || to-from < 8 {
		return fmt.Errorf("%w: its directory lies outside", ErrBundle)
	}
	t := b.data[from:to]
	bloom := uint64(binary.LittleEndian.Uint32(t)&(1<<27-1)) * 4
	buckets := uint64(binary.LittleEndian.Uint32(t[4:])) * 4
	if 8+bloom+buckets > uint64(len(t)) {
		return fmt.Errorf("%w: its directory is cut off", ErrBundle)
	}
	t = t[8+bloom+buckets:]
	n := len(t) / itemSize
	if n > mostFiles {
		return fmt.Errorf("%w: it has %d entries, the most is %d", ErrBundle, n, mostFiles)
	}
	items := make([]item, n)
	for i := range items {
		e := t[i*itemSize:]
		items[i] = item{binary.LittleEndian.Uint32(e[4:]), binary.LittleEndian.Uint32(e[8:]), binary.LittleEndian.Uint16(e[12:]), e[14],
			binary.LittleEndian.Uint32(e[16:]), binary.LittleEndian.Uint32(e[20:])}
	}
	for i, it := range items {
		if it.kind != 'v' {
			continue
		}
		name, err := b.name(items, uint32(i))
		if err != nil {
			return err
		}
		if it.from > it.to || int64(it.to) > int64(len(b.data)) {
			return fmt.Errorf("%w: %q lies outside", ErrBundle, name)
		}
		b.files[name] = [2]uint32{it.from, it.to}
	}
	return nil
}

// name puts a key together from those above it.
func (b *Bundle) name(items []item, at uint32) (string, error) {
	var parts []string
	long := 0
	for deep := 0; at != noParent; deep++ {
		if deep > mostDeep || uint64(at) >= uint64(len(items)) {
			return "", fmt.Errorf("%w: a name has no beginning", ErrBundle)
		}
		it := items[at]
		end := uint64(it.key) + uint64(it.keySize)
		if end > uint64(len(b.data)) {
			return "", fmt.Errorf("%w: a name lies outside", ErrBundle)
		}
		if long += int(it.keySize); long > mostName {
			return "", fmt.Errorf("%w: a name is longer than %d bytes", ErrBundle, mostName)
		}
		parts = append(parts, string(b.data[it.key:end]))
		at = it.parent
	}
	slices.Reverse(parts)
	return strings.Join(parts, ""), nil
}

// Names are the paths of the files, sorted.
func (b *Bundle) Names() []string {
	out := make([]string, 0, len(b.files))
	for name := range b.files {
		out = append(out, name)
	}
	slices.Sort(out)
	return out
}

// Read returns a file by its path in the bundle, "/org/example/gtk.css".
// fs.ErrNotExist if there is none.
func (b *Bundle) Read(name string) ([]byte, error) {
	at, ok := b.files[name]
	if !ok {
		return nil, fmt.Errorf("%s: %w", name, fs.ErrNotExist)
	}
	v := b.data[at[0]:at[1]]
	// A variant is its bytes, a zero, and its type.
	end := bytes.LastIndexByte(v, 0)
	if end < 8 || string(v[end+1:]) != "(uuay)" {
		return nil, fmt.Errorf("%w: %s is of another type", ErrBundle, name)
	}
	size, flags := binary.LittleEndian.Uint32(v), binary.LittleEndian.Uint32(v[4:])
	body := v[8:end]
	if size > MostBytes {
		return nil, fmt.Errorf("%w: %s is larger than %d MiB", ErrBundle, name, MostBytes>>20)
	}
	if flags&compressed == 0 {
		if int(size) > len(body) {
			return nil, fmt.Errorf("%w: %s is cut off", ErrBundle, name)
		}
		return bytes.Clone(body[:size]), nil
	}
	z, err := zlib.NewReader(bytes.NewReader(body))
	if err != nil {
		return nil, fmt.Errorf("%w: %s: %w", ErrBundle, name, err)
	}
	defer z.Close()
	out, err := io.ReadAll(io.LimitReader(z, int64(size)+1))
	if err != nil || len(out) != int(size) {
		return nil, fmt.Errorf("%w: %s does not unpack to what it says", ErrBundle, name)
	}
	return out, nil
}
