package zipdir

import (
	"crypto/aes"
	"crypto/hmac"
	"crypto/pbkdf2"
	"crypto/sha1"
	"encoding/binary"
	"errors"
	"fmt"
	"hash"
	"hash/crc32"
	"io"
)

// OpenEncrypted reads a member of a zip that is encrypted in one of the two
// usual ways: the traditional PKWARE encryption (APPNOTE 6.3, section 6.1), or
// AES as the AE-1 and AE-2 specification (version 1.04) describes it.
func OpenEncrypted(h *File, password string) (io.ReadCloser, error) {
	raw, err := h.raw()
	if err != nil {
		return nil, err
	}
	method := h.method
	var plain io.Reader
	if method == methodAES {
		plain, method, err = newAES(h, raw, password)
	} else {
		plain, err = newTraditional(h, raw, password)
	}
	if err != nil {
		return nil, err
	}
	if plain, err = unpackZip(plain, method); err != nil {
		return nil, err
	}
	if h.method == methodAES {
		return io.NopCloser(plain), nil // its own code guards the contents
	}
	return io.NopCloser(&checked{Reader: plain, sum: crc32.NewIEEE(), want: h.crc, left: h.Size}), nil
}

var ErrWrongPassword = fmt.Errorf("%w: this one does not fit", ErrPassword)

// traditional is the stream cipher of APPNOTE 6.1.
type traditional struct {
	r    io.Reader
	keys [3]uint32
}

func newTraditional(h *File, r io.Reader, password string) (io.Reader, error) {
	t := &traditional{r, [3]uint32{0x12345678, 0x23456789, 0x34567890}}
	for i := range len(password) {
		t.update(password[i])
	}
	var head [12]byte
	if _, err := io.ReadFull(t, head[:]); err != nil {
		return nil, err
	}
	want := byte(h.crc >> 24)
	if h.flags&flagSumLater != 0 { // the time stands in
		want = byte(h.dosTime >> 8)
	}
	if head[11] != want {
		return nil, ErrWrongPassword
	}
	return t, nil
}

func (t *traditional) update(b byte) {
	t.keys[0] = crcByte(t.keys[0], b)
	t.keys[1] = (t.keys[1]+t.keys[0]&0xff)*134775813 + 1
	t.keys[2] = crcByte(t.keys[2], byte(t.keys[1]>>24))
}

func crcByte(crc uint32, b byte) uint32 { return crc32.IEEETable[byte(crc)^b] ^ crc>>8 }

func (t *traditional) Read(b []byte) (int, error) {
	n, err := t.r.Read(b)
	for i := range n {
		k := uint16(t.keys[2]) | 2
		b[i] ^= byte(k * (k ^ 1) >> 8)
		t.update(b[i])
	}
	return n, err
}

const methodAES = 99

// newAES checks the password and returns the decrypted data, and the method it
// is packed with. The authentication code is checked when the data ends.
func newAES(h *File, r io.Reader, password string) (io.Reader, uint16, error) {
	strength, method, err := aesExtra(h.field(0x9901))
	if err != nil {
		return nil, 0, err
	}
	keyLen, saltLen := 8+8*strength, 4+4*strength
	lead := make([]byte, saltLen+2)
	if _, err := io.ReadFull(r, lead); err != nil {
		return nil, 0, err
	}
	derived, err := pbkdf2.Key(sha1.New, password, lead[:saltLen], 1000, 2*keyLen+2)
	if err != nil {
		return nil, 0, err
	}
	if lead[saltLen] != derived[2*keyLen] || lead[saltLen+1] != derived[2*keyLen+1] {
		return nil, 0, ErrWrongPassword
	}
	block, err := aes.NewCipher(derived[:keyLen])
	if err != nil {
		return nil, 0, err
	}
	left := h.packed - int64(saltLen) - 2 - 10
	if left < 0 {
		return nil, 0, io.ErrUnexpectedEOF
	}
	return &aesReader{data: io.LimitReader(r, left), rest: r, block: block.Encrypt, mac: hmac.New(sha1.New, derived[keyLen:2*keyLen]), used: aes.BlockSize}, method, nil
}

func aesExtra(field []byte) (strength int, method uint16, err error) {
	if len(field) >= 7 && field[4] >= 1 && field[4] <= 3 {
		return int(field[4]), binary.LittleEndian.Uint16(field[5:]), nil
	}
	return 0, 0, errors.New("the member's encryption is not described")
}

// aesReader is AES in counter mode with a little-endian counter from 1, which
// the standard library's counter mode does not offer.
type aesReader struct {
	data, rest io.Reader
	block      func(dst, src []byte)
	mac        hash.Hash
	counter    [aes.BlockSize]byte
	key        [aes.BlockSize]byte
	used       int
}

func (a *aesReader) Read(b []byte) (int, error) {
	n, err := a.data.Read(b)
	a.mac.Write(b[:n])
	for i := range n {
		if a.used == len(a.key) {
			for k := range a.counter {
				if a.counter[k]++; a.counter[k] != 0 {
					break
				}
			}
			a.block(a.key[:], a.counter[:])
			a.used = 0
		}
		b[i] ^= a.key[a.used]
		a.used++
	}
	if errors.Is(err, io.EOF) {
		var code [10]byte
		if _, e := io.ReadFull(a.rest, code[:]); e != nil {
			return n, io.ErrUnexpectedEOF
		}
		if !hmac.Equal(code[:], a.mac.Sum(nil)[:10]) {
			return n, errZipChecksum
		}
	}
	return n, err
}
