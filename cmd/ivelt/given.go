package main

import (
	"fmt"
	"io"
	"os"
)

// mostGiven bounds a file that is named on the command line, in bytes.
const mostGiven = 16 << 20

// readGiven reads a file that is named on the command line; it may be a pipe.
func readGiven(file string) ([]byte, error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, mostGiven+1))
	if err == nil && len(b) > mostGiven {
		err = fmt.Errorf("%s is larger than the %d MB that are read of such a file", file, mostGiven>>20)
	}
	return b, err
}
