package given

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
)

// maxGiven bounds a file that is named on the command line, in bytes.
const maxGiven = 16 << 20

// ReadFile reads a file that is named on the command line; it may be a pipe.
func ReadFile(file string) ([]byte, error) { return ReadUpTo(file, maxGiven) }

// ReadUpTo is the same for a file of up to most bytes.
func ReadUpTo(file string, most int64) ([]byte, error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, most+1))
	if err == nil && int64(len(b)) > most {
		err = fmt.Errorf("%s is larger than the %d MB that are read of such a file", file, most>>20)
	}
	return b, err
}

// Lines are what is written on each line that is not empty.
func Lines(r io.Reader) ([]string, error) {
	var out []string
	in := bufio.NewScanner(r)
	for in.Scan() {
		if line := strings.TrimSpace(in.Text()); line != "" {
			out = append(out, line)
		}
	}
	return out, in.Err()
}

// WriteNew writes a file that is not there yet.
func WriteNew(name string, b []byte) error {
	f, err := os.OpenFile(name, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
	if err != nil {
		return err
	}
	_, err = f.Write(b)
	return errors.Join(err, f.Close())
}
