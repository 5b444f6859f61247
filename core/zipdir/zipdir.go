// Package zipdir reads zips as some programs write them and the standard library does not
// accept: what stands before the archive, counts that are wrong, names of older alphabets,
// encryption of both kinds. The directory is read at once, names are not copied.
package zipdir

import (
	"bytes"
	"compress/flate"
	"encoding/binary"
	"errors"
	"fmt"
	"hash"
	"hash/crc32"
	"io"
	"io/fs"
	"math"
	"strings"
	"time"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// ErrPassword: the archive is encrypted, and no password or a wrong one was
// given.
var ErrPassword = errors.New("the archive needs a password")

// File is one header of a zip's central directory (APPNOTE 6.3, section
// 4.3.12). The directory is read in one go and its names are not copied, so
// that listing a zip of thousands of members costs little more than reading
// its last pages.
type File struct {
	Name    string
	made    byte   // the system it was made on, section 4.4.2
	flags   uint16 // section 4.4.4
	method  uint16
	dosTime uint16
	dosDate uint16
	crc     uint32
	packed  int64
	Size    int64
	mode    uint32 // external file attributes
	extra   []byte
	at      int64 // of the local header
	from    io.ReaderAt
}

// The ways a zip is not what it should be.
var (
	errZipFormat   = errors.New("not a valid zip")
	errZipMethod   = errors.New("it is packed by a method Ivelt does not know")
	errZipChecksum = errors.New("its sum is not the one written in it")
)

const (
	zipLocalLen    = 30
	zipHeaderLen   = 46
	zipEndLen      = 22
	zip64EndLen    = 56
	zip64LocLen    = 20
	zipMostComment = 1<<16 - 1

	maxZipDirectory = 48 << 20 // bytes: 200,000 entries of 240

	zipStore   = 0
	zipDeflate = 8

	zipUnix, zipDarwin = 3, 19 // section 4.4.2.2
)

// Bits of the general purpose flags (APPNOTE 6.3, section 4.4.4).
const (
	flagEncrypted = 1 << 0
	flagSumLater  = 1 << 3 // the sum comes after the data
	flagUTF8      = 1 << 11
)

// ErrTooMany: the directory has more entries than are read.
var ErrTooMany = errors.New("the zip has too many entries")

// Encrypted reports whether the contents are.
func (f *File) Encrypted() bool { return f.flags&flagEncrypted != 0 }

var little = binary.LittleEndian

// Read reads the central directory.
// no more than most entries; 0 for no limit.
func Read(r io.ReaderAt, size int64, most int) ([]File, error) {
	tail := make([]byte, min(size, zipEndLen+zipMostComment))
	if _, err := r.ReadAt(tail, size-int64(len(tail))); err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	end := endRecord(tail)
	if end < 0 {
		return nil, fmt.Errorf("%w: it has no directory at its end", errZipFormat)
	}
	endAt := size - int64(len(tail)) + int64(end)
	rec := tail[end:]
	count, length, offset := uint64(little.Uint16(rec[10:])), uint64(little.Uint32(rec[12:])), uint64(little.Uint32(rec[16:]))
	if count == math.MaxUint16 || length == math.MaxUint32 || offset == math.MaxUint32 {
		at, err := zip64End(r, endAt, &count, &length, &offset)
		if err != nil {
			return nil, err
		}
		if at >= 0 {
			endAt = at
		}
	}
	base := endAt - int64(length) - int64(offset) // above 0 if something stands before the zip
	if base != 0 && offset <= uint64(endAt) {
		// Some programs count wrongly; a header where the offset says is one.
		head := make([]byte, 4)
		if _, err := r.ReadAt(head, int64(offset)); err == nil && string(head) == "PK\x01\x02" {
			base = 0
		}
	}
	begin := base + int64(offset)
	if length > uint64(endAt) || offset > uint64(endAt) || begin < 0 || begin > endAt || count > uint64(endAt-begin)/zipHeaderLen {
		return nil, fmt.Errorf("%w: its directory would lie outside it", errZipFormat)
	}
	if most > 0 && (count > uint64(most) || endAt-begin > maxZipDirectory) {
		return nil, fmt.Errorf("%w: its directory has %d entries in %d bytes", ErrTooMany, count, endAt-begin)
	}
	dir := make([]byte, endAt-begin)
	if _, err := r.ReadAt(dir, begin); err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	return readHeaders(r, dir, int(count), base)
}

// endRecord finds the end of central directory record (section 4.3.16), or
// returns -1.
func endRecord(tail []byte) int {
	if len(tail) < zipEndLen {
		return -1
	}
	i := bytes.LastIndex(tail[:len(tail)-zipEndLen+4], []byte("PK\x05\x06"))
	if i < 0 || i+zipEndLen+int(little.Uint16(tail[i+20:])) > len(tail) { // its comment was cut off
		return -1
	}
	return i
}

// zip64End reads the larger numbers of a zip64 (sections 4.3.14 and 4.3.15) and
// returns where that record stands, or -1 if there is none.
func zip64End(r io.ReaderAt, endAt int64, count, length, offset *uint64) (int64, error) {
	loc := make([]byte, zip64LocLen)
	if endAt < zip64LocLen {
		return -1, nil
	}
	if _, err := r.ReadAt(loc, endAt-zip64LocLen); err != nil || string(loc[:4]) != "PK\x06\x07" {
		return -1, err
	}
	rec := make([]byte, zip64EndLen)
	at := little.Uint64(loc[8:])
	if at > uint64(endAt) {
		return 0, errZipFormat
	}
	if _, err := r.ReadAt(rec, int64(at)); err != nil || string(rec[:4]) != "PK\x06\x06" {
		return 0, errors.Join(errZipFormat, err)
	}
	*count, *length, *offset = little.Uint64(rec[32:]), little.Uint64(rec[40:]), little.Uint64(rec[48:])
	return int64(at), nil
}

func readHeaders(r io.ReaderAt, dir []byte, count int, base int64) ([]File, error) {
	files := make([]File, 0, count)
	names := string(dir) // one copy for all the names
	for pos := 0; len(files) < count; {
		if len(dir)-pos < zipHeaderLen || string(dir[pos:pos+4]) != "PK\x01\x02" {
			return nil, fmt.Errorf("%w: its directory is broken after %d entries", errZipFormat, len(files))
		}
		h := dir[pos : pos+zipHeaderLen]
		nameEnd := pos + zipHeaderLen + int(little.Uint16(h[28:]))
		extraEnd := nameEnd + int(little.Uint16(h[30:]))
		next := extraEnd + int(little.Uint16(h[32:]))
		if next > len(dir) {
			return nil, fmt.Errorf("%w: its directory is broken after %d entries", errZipFormat, len(files))
		}
		f := File{
			Name: names[pos+zipHeaderLen : nameEnd], made: h[5], flags: little.Uint16(h[8:]), method: little.Uint16(h[10:]),
			dosTime: little.Uint16(h[12:]), dosDate: little.Uint16(h[14:]), crc: little.Uint32(h[16:]),
			packed: int64(little.Uint32(h[20:])), Size: int64(little.Uint32(h[24:])), mode: little.Uint32(h[38:]),
			extra: dir[nameEnd:extraEnd:extraEnd], at: int64(little.Uint32(h[42:])), from: r,
		}
		if f.flags&flagUTF8 == 0 && !utf8.ValidString(f.Name) {
			f.Name, _ = charmap.CodePage437.NewDecoder().String(f.Name) // appendix D.1
		}
		if err := f.widen(); err != nil {
			return nil, err
		}
		f.at += base
		files = append(files, f)
		pos = next
	}
	return files, nil
}

// field returns an extra field by its ID (section 4.5), or nil.
func (f *File) field(id uint16) []byte {
	for e := f.extra; len(e) >= 4; {
		n := int(little.Uint16(e[2:]))
		if len(e) < 4+n {
			return nil
		}
		if little.Uint16(e) == id {
			return e[4 : 4+n]
		}
		e = e[4+n:]
	}
	return nil
}

// widen takes numbers that do not fit 32 bits from the zip64 field (section
// 4.5.3).
func (f *File) widen() error {
	var wide []byte
	for _, n := range []*int64{&f.Size, &f.packed, &f.at} {
		if *n != math.MaxUint32 {
			continue
		}
		if wide == nil {
			if wide = f.field(1); wide == nil {
				return nil // exactly that many bytes
			}
		}
		if len(wide) < 8 {
			return fmt.Errorf("%w: the size of %q is missing", errZipFormat, f.Name)
		}
		if *n = int64(little.Uint64(wide)); *n < 0 {
			return fmt.Errorf("%w: the size of %q is out of range", errZipFormat, f.Name)
		}
		wide = wide[8:]
	}
	return nil
}

// FileMode is the mode as the system it was made on wrote it.
func (f *File) FileMode() fs.FileMode {
	var mode fs.FileMode
	switch unix := f.mode >> 16; f.made {
	case zipUnix, zipDarwin:
		mode = fs.FileMode(unix & 0o777)
		switch unix & 0o170000 { // stat(2)
		case 0o040000:
			mode |= fs.ModeDir
		case 0o120000:
			mode |= fs.ModeSymlink
		case 0o060000, 0o020000:
			mode |= fs.ModeDevice
		case 0o010000:
			mode |= fs.ModeNamedPipe
		case 0o140000:
			mode |= fs.ModeSocket
		}
	default:
		mode = 0o666
		if f.mode&1 != 0 { // read-only
			mode = 0o444
		}
		if f.mode&0x10 != 0 { // folder
			mode = fs.ModeDir | 0o777
		}
	}
	if strings.HasSuffix(f.Name, "/") {
		mode |= fs.ModeDir
	}
	return mode
}

// ModTime is the extended timestamp if there is one, else the MS-DOS time,
// taken for UTC.
func (f *File) ModTime() time.Time {
	if t := f.field(0x5455); len(t) >= 5 && t[0]&1 != 0 {
		return time.Unix(int64(int32(little.Uint32(t[1:]))), 0).UTC()
	}
	d, t := int(f.dosDate), int(f.dosTime)
	return time.Date(1980+d>>9, time.Month(d>>5&15), d&31, t>>11, t>>5&63, t&31*2, 0, time.UTC)
}

// raw returns the member's bytes as they are packed, by way of its local header
// (section 4.3.7).
func (f *File) raw() (io.Reader, error) {
	var h [zipLocalLen]byte
	if _, err := f.from.ReadAt(h[:], f.at); err != nil {
		return nil, err
	}
	if string(h[:4]) != "PK\x03\x04" {
		return nil, fmt.Errorf("%w: %q is not where its directory says", errZipFormat, f.Name)
	}
	at := f.at + zipLocalLen + int64(little.Uint16(h[26:])) + int64(little.Uint16(h[28:]))
	return io.NewSectionReader(f.from, at, f.packed), nil
}

// Open reads a member that is not encrypted.
func (f *File) Open() (io.ReadCloser, error) {
	r, err := f.raw()
	if err != nil {
		return nil, err
	}
	if r, err = unpackZip(r, f.method); err != nil {
		return nil, err
	}
	return io.NopCloser(&checked{Reader: r, sum: crc32.NewIEEE(), want: f.crc, left: f.Size}), nil
}

func unpackZip(r io.Reader, method uint16) (io.Reader, error) {
	switch method {
	case zipStore:
		return r, nil
	case zipDeflate:
		return flate.NewReader(r), nil
	}
	return nil, fmt.Errorf("%w (%d)", errZipMethod, method)
}

// checked holds what was read against the sum and the size in the directory.
type checked struct {
	io.Reader
	sum  hash.Hash32
	want uint32
	left int64
}

func (c *checked) Read(b []byte) (int, error) {
	n, err := c.Reader.Read(b)
	c.sum.Write(b[:n])
	c.left -= int64(n)
	if errors.Is(err, io.EOF) {
		switch {
		case c.left > 0:
			return n, io.ErrUnexpectedEOF
		case c.sum.Sum32() != c.want:
			return n, errZipChecksum
		}
	}
	return n, err
}
