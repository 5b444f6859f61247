package main

import (
	"fmt"
	"io"
	"os"
)

// maxGiven bounds a file that is named on the command line, in bytes.
const maxGiven = 16 << 20

// readGiven reads a file that is named on the command line; it may be a pipe.
func readGiven(file string) ([]byte, error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, maxGiven+1))
	if err == nil && len(b) > maxGiven {
		err = fmt.Errorf("%s is larger than the %d MB that are read of such a file", file, maxGiven>>20)
	}
	return b, err
}
