package language

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"ivelt/core/regular"
)

// Bounds of a folder of catalogues.
const (
	maxFiles = 100
	maxBytes = 8 << 20
)

// File is a file of a translator's.
type File struct {
	Path     string
	Language *Language // nil if it cannot be used
	Problems []Problem // messages of it that are not used
	Err      error     // why it cannot be used
}

// Own are the catalogues of a folder, the files in it that end in .po; a folder that is not there
// has none.
func Own(dir string) ([]File, error) {
	all, err := os.ReadDir(dir)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	var out []File
	for _, e := range all {
		if !strings.HasSuffix(e.Name(), ".po") {
			continue
		}
		if len(out) == maxFiles {
			return out, fmt.Errorf("%s has more than %d catalogues; the others are not read", dir, maxFiles)
		}
		out = append(out, ReadFile(filepath.Join(dir, e.Name())))
	}
	return out, nil
}

// ReadFile reads a translator's file.
func ReadFile(path string) File {
	f := File{Path: path}
	b, err := regular.Read(path, maxBytes)
	if err == nil {
		f.Language, f.Problems, err = Read(b)
	}
	f.Err = err
	return f
}
