package market

import (
	"bytes"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"strings"

	"aead.dev/minisign"

	"ivelt/core/say"
)

// Files of a market that is signed, in minisign's form: its key, and the signature of its
// index.
const (
	KeyFile       = "minisign.pub"
	SignatureFile = IndexFile + ".minisig"
	MaxSignature  = 4 << 10 // bytes, of either
)

// The ways in which a signature is none.
var (
	ErrUnsigned = errors.New("it is not signed")
	ErrForeign  = errors.New("it is signed with another key")
	ErrForged   = errors.New("its signature does not fit")
)

// Key is who signs a market: a public key of minisign's, as its file has it in the second
// line. The zero value is nobody.
type Key string

// ParseKey reads the file of a public key, or its second line alone.
func ParseKey(text string) (Key, error) {
	line := strings.TrimSpace(text)
	if i := strings.LastIndexByte(line, '\n'); i >= 0 {
		line = strings.TrimSpace(line[i+1:])
	}
	var k minisign.PublicKey
	if err := k.UnmarshalText([]byte(line)); err != nil {
		return "", say.Errorf("that is no public key of minisign: %w", err)
	}
	return Key(line), nil
}

// Short is the key's ID, by which people tell keys apart; "" for nobody.
func (k Key) Short() string {
	var p minisign.PublicKey
	if k == "" || p.UnmarshalText([]byte(k)) != nil {
		return ""
	}
	return fmt.Sprintf("%016X", p.ID())
}

// Verify tells whether a text was signed by the key. Errors wrap [ErrForeign] if it was
// signed by another, which names it, and [ErrForged] if what is said does not fit the text.
func (k Key) Verify(text, signature []byte) error {
	var p minisign.PublicKey
	if err := p.UnmarshalText([]byte(k)); err != nil {
		return say.Errorf("the key it is known by cannot be read: %w", err)
	}
	var s minisign.Signature
	if err := s.UnmarshalText(signature); err != nil {
		return say.Errorf("%w: %w", ErrForged, err)
	}
	switch {
	case s.KeyID != p.ID():
		return say.Errorf("%w, %016X and not %s", ErrForeign, s.KeyID, k.Short())
	case !minisign.Verify(p, text, signature):
		return ErrForged
	}
	return nil
}

// Secret is the other half of a [Key].
type Secret struct{ key minisign.PrivateKey }

// NewSecret makes a pair of keys.
func NewSecret() (Secret, error) {
	_, private, err := minisign.GenerateKey(rand.Reader)
	return Secret{private}, err
}

// ParseSecret reads the file of a secret key; the password is for one that is encrypted.
func ParseSecret(text []byte, password string) (Secret, error) {
	if minisign.IsEncrypted(text) {
		k, err := minisign.DecryptKey(password, text)
		if err != nil {
			return Secret{}, say.Errorf("the secret key does not open: %w", err)
		}
		return Secret{k}, nil
	}
	var k minisign.PrivateKey
	if err := k.UnmarshalText(text); err != nil {
		return Secret{}, say.Errorf("that is no secret key of minisign: %w", err)
	}
	return Secret{k}, nil
}

// File is the secret key's file, encrypted if there is a password.
func (s Secret) File(password string) ([]byte, error) {
	if password == "" {
		return s.key.MarshalText()
	}
	return minisign.EncryptKey(password, s.key)
}

// Public is the key that others know it by, and its file.
func (s Secret) Public() (Key, []byte) {
	p := s.key.Public().(minisign.PublicKey)
	text, _ := p.MarshalText() // which fails for no key
	return Key(p.String()), append(text, '\n')
}

// Sign is the signature of a text. what it says of the text is signed too.
func (s Secret) Sign(text []byte, what string) []byte {
	r := minisign.NewReader(bytes.NewReader(text)) // hashed first, as minisign(1) does
	_, _ = io.Copy(io.Discard, r)
	return r.SignWithComments(s.key, what, "signature of a market's index")
}
