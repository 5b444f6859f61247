package desks

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
)

// ErrPassing: this Ivelt lies where it will not be at the next sign-in.
var ErrPassing = errors.New("this Ivelt runs from a folder that is cleared away. Build it to stay, with go build -o ~/.local/bin/ivelt ./cmd/ivelt, and start that one")

// Self is the full path of this Ivelt, which is there at the next sign-in too, or [ErrPassing].
func Self() (string, error) {
	self, err := os.Executable()
	if err != nil {
		return "", err
	}
	if rel, err := filepath.Rel(os.TempDir(), self); err == nil && filepath.IsLocal(rel) || strings.Contains(self, "/go-build") {
		return "", ErrPassing
	}
	return self, nil
}
