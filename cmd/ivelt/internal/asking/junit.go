package asking

import (
	"errors"
	"os"

	"github.com/spf13/cobra"

	"ivelt/app/proof"
)

// junitFlag names the file for a report that runners of tests read.
type junitFlag struct{ file string }

func (f *junitFlag) add(c *cobra.Command) {
	c.Flags().StringVar(&f.file, "junit", "", "write a report in JUnit's form into this file, too")
}

// write writes a report, if one was asked for. Any finding fails if it is strict, else grave ones do.
func (f *junitFlag) write(r proof.Report, strict bool) error {
	if f.file == "" {
		return nil
	}
	w, err := os.Create(f.file)
	if err != nil {
		return err
	}
	return errors.Join(r.JUnit(w, strict), w.Close())
}

// of writes a report of one case, of which everything fails.
func (f *junitFlag) of(command, about, check string, found []proof.Finding) error {
	return f.write(proof.Report{Command: command, Path: about, Cases: []proof.Case{{Piece: about, Check: check, Findings: found}}}, true)
}
