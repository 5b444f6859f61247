// Package signed reads, checks and makes the signatures of looks, for systems that take
// signed ones alone.
//
// A look is a folder. What is signed is its name and the list of its files, each with its
// SHA-256, as sha256sum writes it; the signature is ed25519's (RFC 8032).
package signed

import (
	"bytes"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/keyfile"
)

// What a look may have at most.
const (
	maxFiles = 20_000
	maxBytes = 64 << 20
	maxDepth = 32
)

// The ways a look is not signed.
var (
	ErrNone    = errors.New("it is not signed")
	ErrChanged = errors.New("it is not what was signed")
	ErrRead    = errors.New("its signature cannot be read")
	ErrOdd     = errors.New("there is something in it that cannot be signed")
	ErrLarge   = errors.New("it is too large to be checked")
)

const group = "Signature"

// List is the list of the files below a folder, by the bytes of their paths from there: each
// line the SHA-256 in hexadecimal digits, two blanks and the path. Errors wrap [ErrOdd] if
// there is anything but files and folders, or such a name, and [ErrLarge].
func List(fsys fs.FS, root string) ([]byte, error) {
	var names []string
	left, bytesLeft := maxFiles, int64(maxBytes)
	var walk func(dir string, depth int) error
	walk = func(dir string, depth int) error {
		if depth > maxDepth {
			return ErrLarge
		}
		entries, err := fs.ReadDir(fsys, path.Join(root, dir))
		if err != nil {
			return err
		}
		for _, e := range entries {
			if left--; left < 0 {
				return ErrLarge
			}
			name := path.Join(dir, e.Name())
			switch {
			case strings.ContainsAny(name, "\n\r\\"): // sha256sum would write it otherwise
				return fmt.Errorf("%w: a name with a line break or a backslash", ErrOdd)
			case e.IsDir():
				if err := walk(name, depth+1); err != nil {
					return err
				}
			case !e.Type().IsRegular():
				return fmt.Errorf("%w: %s", ErrOdd, name)
			default:
				names = append(names, name)
			}
		}
		return nil
	}
	if err := walk(".", 0); err != nil {
		return nil, err
	}
	slices.Sort(names)
	sums := make([]Sum, 0, len(names))
	for _, name := range names {
		sum, n, err := sumOf(fsys, path.Join(root, name), bytesLeft)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		bytesLeft -= n
		sums = append(sums, Sum{name, sum})
	}
	return Lines(sums), nil
}

// Sum is a file, by its path in the look, and the SHA-256 of its contents in hexadecimal digits.
type Sum struct{ Path, SHA256 string }

// Lines is the list of files that are known by their sums.
func Lines(sums []Sum) []byte {
	sums = slices.Clone(sums)
	slices.SortFunc(sums, func(a, b Sum) int { return bytes.Compare([]byte(a.Path), []byte(b.Path)) })
	var out bytes.Buffer
	for _, s := range sums {
		fmt.Fprintf(&out, "%s  %s\n", s.SHA256, s.Path)
	}
	return out.Bytes()
}

func sumOf(fsys fs.FS, name string, most int64) (string, int64, error) {
	f, err := fsys.Open(name)
	if err != nil {
		return "", 0, err
	}
	defer f.Close()
	h := sha256.New()
	n, err := io.Copy(h, io.LimitReader(f, most+1))
	if err == nil && n > most {
		err = ErrLarge
	}
	return hex.EncodeToString(h.Sum(nil)), n, err
}

// Digest is the SHA-256 of bytes in hexadecimal digits.
func Digest(b []byte) string {
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}

// text is what is signed of a look.
func text(name string, list []byte) []byte {
	return []byte("look " + name + "\n" + Digest(list) + "\n")
}

// Make signs a look by its name and list, as the file that lies beside it.
func Make(key ed25519.PrivateKey, name string, list []byte) []byte {
	kf := &keyfile.File{}
	kf.Set(group, "by", Public(key))
	kf.Set(group, "contents", Digest(list))
	kf.Set(group, "signature", base64.StdEncoding.EncodeToString(ed25519.Sign(key, text(name, list))))
	return kf.Bytes()
}

// Public is the public half of a key as it is written down.
func Public(key ed25519.PrivateKey) string {
	return base64.StdEncoding.EncodeToString(key.Public().(ed25519.PublicKey))
}

// Key is a public key that is written down.
func Key(written string) (ed25519.PublicKey, error) {
	b, err := base64.StdEncoding.DecodeString(written)
	if err != nil || len(b) != ed25519.PublicKeySize {
		return nil, errors.New("it is no ed25519 key in base64")
	}
	return b, nil
}

// By is whose key signed a look: its name, its list and the file that lies beside it. Errors
// wrap [ErrNone], [ErrRead] and [ErrChanged].
func By(name string, list, signature []byte) (by string, err error) {
	if len(signature) == 0 {
		return "", ErrNone
	}
	kf, err := keyfile.Parse(signature)
	if err != nil {
		return "", fmt.Errorf("%w: %w", ErrRead, err)
	}
	by = kf.Get(group, "by")
	key, err := Key(by)
	signed, e := base64.StdEncoding.DecodeString(kf.Get(group, "signature"))
	if err != nil || e != nil || len(signed) != ed25519.SignatureSize {
		return "", ErrRead
	}
	if kf.Get(group, "contents") != Digest(list) || !ed25519.Verify(key, text(name, list), signed) {
		return "", ErrChanged
	}
	return by, nil
}
