package desks

import (
	"crypto/ed25519"
	"crypto/rand"
	"encoding/pem"
	"errors"
	"io/fs"
	"os"
	"path/filepath"

	"ivelt/core/say"
)

const keyKind = "IVELT SIGNING KEY"

// ReadKey gives a desk the key that its owner signs looks with, from the data folder; one is
// made if there is none yet. Only the person can read it.
func ReadKey(dir string, d *Managed) error {
	file := filepath.Join(dir, "keys", d.ID+".pem")
	b, err := os.ReadFile(file)
	if errors.Is(err, fs.ErrNotExist) {
		_, key, e := ed25519.GenerateKey(rand.Reader)
		b = pem.EncodeToMemory(&pem.Block{Type: keyKind, Bytes: key.Seed()})
		fresh := file + ".new" // so that none is ever half there
		err = errors.Join(e, os.MkdirAll(filepath.Dir(file), 0o700))
		if err == nil {
			err = os.WriteFile(fresh, b, 0o600)
		}
		if err == nil {
			err = os.Rename(fresh, file)
		}
	}
	if err != nil {
		return say.Errorf("the key of %s: %w", d.Title, err)
	}
	block, _ := pem.Decode(b)
	if block == nil || block.Type != keyKind || len(block.Bytes) != ed25519.SeedSize {
		return say.Errorf("%s is no key of Ivelt's: move it away, and a new one is made", file)
	}
	d.SigningKey = ed25519.NewKeyFromSeed(block.Bytes)
	return nil
}
