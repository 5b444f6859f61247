package store

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
)

// Blobs is a folder of file contents named by their SHA-256.
type Blobs struct{ Dir string }

// Put keeps b and returns its hash. It is on disk when Put returns.
func (s Blobs) Put(b []byte) (string, error) {
	sum := sha256.Sum256(b)
	hash := hex.EncodeToString(sum[:])
	at := s.at(hash)
	if _, err := os.Stat(at); err == nil {
		return hash, nil
	}
	if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
		return "", err
	}
	f, err := os.CreateTemp(filepath.Dir(at), ".new-*")
	if err != nil {
		return "", err
	}
	_, err = f.Write(b)
	err = errors.Join(err, f.Sync(), f.Close())
	if err == nil {
		err = os.Rename(f.Name(), at)
	}
	if err != nil {
		return "", errors.Join(err, os.Remove(f.Name()))
	}
	return hash, nil
}

// Get returns the contents with that hash, or [ErrNone].
func (s Blobs) Get(hash string) ([]byte, error) {
	if len(hash) != 2*sha256.Size {
		return nil, fmt.Errorf("%q is no hash: %w", hash, ErrNone)
	}
	b, err := os.ReadFile(s.at(hash))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("contents %s: %w", hash, ErrNone)
	}
	return b, err
}

// Size is how many bytes contents take.
func (s Blobs) Size(hashes []string) int64 {
	var n int64
	for _, hash := range hashes {
		if fi, err := os.Stat(s.at(hash)); err == nil {
			n += fi.Size()
		}
	}
	return n
}

// Sweep deletes what is not needed any more.
func (s Blobs) Sweep(needed func(hash string) bool) error {
	return filepath.WalkDir(s.Dir, func(file string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || len(d.Name()) != 2*sha256.Size || needed(d.Name()) {
			return err
		}
		return os.Remove(file)
	})
}

func (s Blobs) at(hash string) string { return filepath.Join(s.Dir, hash[:2], hash) }
