// Command templatefmt lays HTML templates out so that a person can read them: an element a
// line, what is in it one step further in, lines of at most 120 columns. Whitespace that
// shows on a page is neither added nor taken away. Of styles and scripts it looks at the
// columns only.
//
//	templatefmt FILE...     lists files that are laid out otherwise, or have longer lines
//	templatefmt -w FILE...  lays them out
package main

import (
	"flag"
	"fmt"
	"os"
	"strings"
)

func main() {
	write := flag.Bool("w", false, "write the files instead of listing them")
	flag.Parse()
	failed := false
	for _, file := range flag.Args() {
		if err := run(file, *write); err != nil {
			fmt.Fprintf(os.Stderr, "%s: %v\n", file, err)
			failed = true
		}
	}
	if failed {
		os.Exit(1)
	}
}

func run(file string, write bool) error {
	text, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	out := string(text)
	if strings.HasSuffix(file, ".html") {
		if out, err = Format(out); err != nil {
			return err
		}
	}
	if write {
		err = os.WriteFile(file, []byte(out), 0o644)
	} else if out != string(text) {
		return fmt.Errorf("not laid out as `go run ./scripts/templatefmt -w` does")
	}
	for i, line := range strings.Split(out, "\n") {
		if n := len([]rune(line)); err == nil && n > width {
			err = fmt.Errorf("line %d has %d columns", i+1, n)
		}
	}
	return err
}
