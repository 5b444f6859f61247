package store

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"golang.org/x/sys/unix"

	"ivelt/core/say"
)

// ErrDamaged: what is kept is not what was put there.
var ErrDamaged = errors.New("damaged")

// Blobs is a folder of file contents named by their SHA-256.
type Blobs struct{ Dir string }

// Put keeps b and returns its hash. It is on disk when Put returns, under its name.
// Contents that are there already and damaged are replaced.
func (s Blobs) Put(b []byte) (string, error) {
	hash := hashOf(b)
	at := s.at(hash)
	if old, err := os.ReadFile(at); err == nil && bytes.Equal(old, b) {
		return hash, syncFolder(filepath.Dir(at))
	}
	folder := filepath.Dir(at)
	if _, err := os.Stat(folder); err != nil {
		if err := os.MkdirAll(folder, 0o755); err != nil {
			return "", err
		}
		if err := syncFolder(s.Dir); err != nil {
			return "", err
		}
	}
	return hash, writeFile(at, b, 0o600)
}

// Get returns the contents with that hash, [ErrNone], or [ErrDamaged] if they have
// another by now.
func (s Blobs) Get(hash string) ([]byte, error) {
	if !isHash(hash) {
		return nil, say.Errorf("%q is no hash: %w", hash, ErrNone)
	}
	b, err := os.ReadFile(s.at(hash))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, say.Errorf("contents %s: %w", hash, ErrNone)
	}
	if err == nil && hashOf(b) != hash {
		return nil, say.Errorf("contents %s: %w", s.at(hash), ErrDamaged)
	}
	return b, err
}

// Check reads everything that is kept and returns what is damaged.
func (s Blobs) Check() (whole int, damaged []string, err error) {
	err = s.each(func(file, hash string) error {
		f, err := os.Open(file)
		if err != nil {
			return err
		}
		defer f.Close()
		h := sha256.New()
		if _, err := io.Copy(h, f); err != nil || hex.EncodeToString(h.Sum(nil)) != hash {
			damaged = append(damaged, file)
			return nil
		}
		whole++
		return nil
	})
	return whole, damaged, err
}

// Size is how many bytes contents take.
func (s Blobs) Size(hashes []string) int64 {
	var n int64
	for _, hash := range hashes {
		if fi, err := os.Stat(s.at(hash)); isHash(hash) && err == nil {
			n += fi.Size()
		}
	}
	return n
}

// Hold keeps [Blobs.Sweep] from running, here and in other programs, until release
// is called: what is put meanwhile is not needed by anything that Sweep could know.
func (s Blobs) Hold() (release func(), err error) {
	return lock(filepath.Join(s.Dir, ".lock"), unix.LOCK_SH)
}

// Sweep deletes what is not needed any more; needed is asked once nobody holds the
// folder. Where somebody does, nothing is deleted.
func (s Blobs) Sweep(needed func() (map[string]bool, error)) error {
	release, err := lock(filepath.Join(s.Dir, ".lock"), unix.LOCK_EX|unix.LOCK_NB)
	if errors.Is(err, unix.EWOULDBLOCK) {
		return nil
	}
	if err != nil {
		return err
	}
	defer release()
	keep, err := needed()
	if err != nil {
		return err
	}
	return s.each(func(file, hash string) error {
		if keep[hash] {
			return nil
		}
		return os.Remove(file)
	})
}

func (s Blobs) each(visit func(file, hash string) error) error {
	return filepath.WalkDir(s.Dir, func(file string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !isHash(d.Name()) {
			return err
		}
		return visit(file, d.Name())
	})
}

func (s Blobs) at(hash string) string { return filepath.Join(s.Dir, hash[:min(2, len(hash))], hash) }

func isHash(name string) bool {
	return len(name) == 2*sha256.Size && strings.Trim(name, "0123456789abcdef") == ""
}

func hashOf(b []byte) string {
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}

// writeFile writes a file that is whole, and on disk under its name, when it
// returns; until then the old one stays.
func writeFile(at string, b []byte, mode fs.FileMode) error {
	f, err := os.CreateTemp(filepath.Dir(at), ".new-*")
	if err != nil {
		return err
	}
	_, err = f.Write(b)
	err = errors.Join(err, f.Chmod(mode), f.Sync(), f.Close())
	if err == nil {
		err = os.Rename(f.Name(), at)
	}
	if err != nil {
		return errors.Join(err, os.Remove(f.Name()))
	}
	return syncFolder(filepath.Dir(at))
}

func syncFolder(dir string) error {
	f, err := os.Open(dir)
	if err != nil {
		return err
	}
	defer f.Close()
	return f.Sync()
}

// lock locks a file, which it makes, until release is called. The lock goes with the
// program.
func lock(file string, how int) (release func(), err error) {
	f, err := os.OpenFile(file, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil, err
	}
	for {
		switch err = unix.Flock(int(f.Fd()), how); {
		case err == nil:
			return func() {
				_ = unix.Flock(int(f.Fd()), unix.LOCK_UN) // also for a child that is being started and shares it
				f.Close()
			}, nil
		case errors.Is(err, unix.EINTR):
		default:
			f.Close()
			return nil, &fs.PathError{Op: "lock", Path: file, Err: err}
		}
	}
}
