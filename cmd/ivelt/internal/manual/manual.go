// Command manual writes the manual pages and the shell completions of Ivelt's commands into a
// folder: man1 and completions in it. The date of the pages is SOURCE_DATE_EPOCH's.
package main

import (
	"bytes"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/cobra/doc"

	"ivelt/cmd/ivelt/internal/commands"
	"ivelt/core/config"
)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "usage: manual FOLDER")
		os.Exit(2)
	}
	if err := write(commands.Tree(commands.Build()), os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, "manual:", err)
		os.Exit(1)
	}
}

// The folders that are written.
const (
	pages       = "man1"
	completions = "completions"
)

func write(root *cobra.Command, dir string) error {
	man := filepath.Join(dir, pages)
	if err := errors.Join(os.MkdirAll(man, 0o755), os.MkdirAll(filepath.Join(dir, completions), 0o755)); err != nil {
		return err
	}
	// No list of seams at the foot of a page, and no page for what only the shell asks.
	root.DisableAutoGenTag = true
	root.InitDefaultCompletionCmd()
	version := "Ivelt"
	if v, _, _ := strings.Cut(root.Version, " "); v != "" && v[0] >= '0' && v[0] <= '9' {
		version += " " + v
	}
	header := &doc.GenManHeader{Section: "1", Source: version, Manual: "Ivelt"}
	if err := doc.GenManTree(root, header, man); err != nil {
		return err
	}
	first := filepath.Join(man, "ivelt.1")
	page, err := os.ReadFile(first)
	if err != nil {
		return err
	}
	before, seeAlso, _ := bytes.Cut(page, []byte(".SH SEE ALSO"))
	if err := os.WriteFile(first, bytes.Join([][]byte{before, []byte(inCommon(root)), []byte(".SH SEE ALSO"), seeAlso}, nil), 0o644); err != nil {
		return err
	}
	at := func(name string) string { return filepath.Join(dir, completions, name) }
	return errors.Join(
		root.GenBashCompletionFileV2(at("ivelt.bash"), true),
		root.GenZshCompletionFile(at("_ivelt")),
		root.GenFishCompletionFile(at("ivelt.fish"), true),
	)
}

// inCommon are the parts of ivelt(1) about all commands.
func inCommon(root *cobra.Command) string {
	var b strings.Builder
	b.WriteString(".SH COMMANDS\n")
	for _, c := range root.Commands() {
		if c.IsAvailableCommand() {
			fmt.Fprintf(&b, ".TP\n\\fB%s\\fP\n%s\n", escaped(c.UseLine()), escaped(c.Short))
		}
	}
	b.WriteString(".SH EXIT STATUS\n0: fine. 1: something is amiss, and said. 2: wrong use, or bad input; nothing was changed.\n")
	b.WriteString(".SH ENVIRONMENT\nEach is stronger than the same setting in the file, and a flag is stronger than it.\n")
	for _, s := range config.All {
		fmt.Fprintf(&b, ".TP\n\\fB%s\\fP\n%s\n", escaped(s.Variable()), escaped(s.Says))
	}
	b.WriteString(".SH FILES\n")
	for _, f := range []struct{ at, what string }{
		{"~/.config/ivelt/config.toml", "settings of Ivelt itself; see ivelt-config(1)"},
		{"~/.config/ivelt/surfaces/*.toml", "descriptors of programs that Ivelt does not know; see ivelt-surface(1)"},
		{"~/.local/share/ivelt", "what Ivelt keeps: its database, checkpoints, parcels, and the demo world"},
	} {
		fmt.Fprintf(&b, ".TP\n\\fI%s\\fP\n%s\n", escaped(f.at), escaped(f.what))
	}
	return b.String()
}

// escaped is a text as groff takes it (groff(7)): the minus of a flag is not a hyphen.
func escaped(text string) string {
	return strings.NewReplacer(`\`, `\e`, "-", `\-`, "~", `\(ti`, "'", `\(aq`).Replace(text)
}
