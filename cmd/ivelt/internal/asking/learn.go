package asking

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"ivelt/app/learning"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/learn"
	"ivelt/core/reading"
	"ivelt/core/say"
)

func learnCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var about learn.About
	c := &cobra.Command{
		Use:   "learn ID -- FOLDER…",
		Short: "Learn where a program keeps its settings, and write its descriptor",
		Long: `Learn where a program keeps its settings, and write its descriptor.

Ivelt looks at the settings folders that are named, you change one thing in the
program itself, and Ivelt looks again: what differs is where that setting stands.
You say what it was. Then the next, as many as you like. The descriptor is kept in
~/.config/ivelt/surfaces, and the surface is read, matched and planned from then on.

Answers are read line by line, so that a script can give them too.`,
		Args: cobra.MinimumNArgs(2),
		RunE: func(c *cobra.Command, args []string) error {
			d, err := flags.Open(c.Context())
			if err != nil {
				return err
			}
			about.ID = args[0]
			talk, err := learning.Begin(c.Context(), d, about, args[1:])
			if err != nil {
				return err
			}
			t := teller{talk: talk, d: d, out: c.OutOrStdout(), in: answers(c.Context(), c.InOrStdin())}
			return t.run(c.Context())
		},
	}
	c.Flags().StringVar(&about.Title, "title", "", "what the program is called (default: the ID)")
	c.Flags().StringVar(&about.Kind, "kind", "program", "what it is: program, terminal, shell, readout, login")
	c.Flags().StringVar(&about.Restart, "restart", "program", "what has to start again for a change to show: program, shell, session, machine")
	flags.Add(c)
	return c
}

// answers hands on what is typed, line by line, until the context ends.
func answers(ctx context.Context, r io.Reader) func() (string, error) {
	lines := make(chan string)
	go func() {
		defer close(lines)
		for s := bufio.NewScanner(r); s.Scan(); {
			select {
			case lines <- strings.TrimSpace(s.Text()):
			case <-ctx.Done():
				return
			}
		}
	}()
	return func() (string, error) {
		select {
		case line, ok := <-lines:
			if !ok {
				return "", io.EOF
			}
			return line, nil
		case <-ctx.Done():
			return "", ctx.Err()
		}
	}
}

// teller leads through learning on a terminal.
type teller struct {
	talk *learning.Talk
	d    *desk.Desk
	out  io.Writer
	in   func() (string, error)
}

func (t teller) say(format string, args ...any) { fmt.Fprintf(t.out, format, args...) }

func (t teller) run(ctx context.Context) error {
	now := t.talk.Now()
	t.say("Looked at: files %d, settings %d.\n", now.Files, now.Values)
	for {
		t.say("Change one setting in the program, and press Enter; or type \"done\": ")
		line, err := t.in()
		if errors.Is(err, io.EOF) || err == nil && (line == "done" || line == "q") {
			break
		}
		if err != nil {
			return err
		}
		if err := t.round(ctx); err != nil && !errors.Is(err, io.EOF) {
			return err
		}
	}
	if len(t.talk.Now().Lessons) == 0 {
		t.say("\nNothing was learned, and nothing is written.\n")
		return given.ErrFindings
	}
	at, err := t.talk.Write()
	if err != nil {
		return err
	}
	t.say("\nWritten: %s\n", t.d.Show(at))
	s, _ := t.d.Surface(t.talk.About.ID)
	for _, f := range s.Facets {
		printReading(t.out, t.d, reading.Of(t.d, s, f))
	}
	return nil
}

// round asks what one change was.
func (t teller) round(ctx context.Context) error {
	found, err := t.talk.Again(ctx)
	if err != nil {
		return err
	}
	all := append(found.Likely, found.Noise...)
	for i, c := range all {
		if i == len(found.Likely) {
			t.say("Hardly it:\n")
		}
		t.say("%3d  %s\n", i+1, t.shows(c))
	}
	for _, p := range found.Other {
		t.say("     %s differs in nothing that is read as a setting\n", t.d.Show(p))
	}
	if len(all) == 0 {
		t.say("No setting differs. Some programs write when they are closed.\n")
		return nil
	}
	which := 1
	if len(all) > 1 || len(found.Likely) == 0 {
		t.say("Which one is it? (a number; nothing for none) ")
		line, err := t.in()
		if err != nil || line == "" {
			return err
		}
		if which, err = strconv.Atoi(line); err != nil || which < 1 || which > len(all) {
			t.say("There is no %q.\n", line)
			return nil
		}
	}
	c := all[which-1]
	guess := t.talk.Guess(c)
	facet := "?"
	for facet == "?" {
		t.say("What is it? (? lists what it can be) [%s] ", guess)
		if facet, err = t.in(); err != nil {
			return err
		}
		switch facet {
		case "":
			facet = guess
		case "?":
			for _, f := range desk.Facets {
				t.say("  %-14s %s\n", f.Name, f.Title)
			}
		}
	}
	words := map[string]string{}
	if choices, needed := learn.Needs(facet); needed {
		for _, says := range said(c) {
			t.say("What does %s mean? (%s; nothing if you do not know) ", strconv.Quote(says), strings.Join(choices, ", "))
			word, err := t.in()
			if err != nil {
				return err
			}
			if word != "" {
				words[says] = word
			}
		}
	}
	if err := t.talk.Teach(c.Place(), facet, words); err != nil {
		t.say("%s\n", err)
		return nil
	}
	t.say("Learned: %s is %s.\n", say.Lower(desk.FacetTitle(facet)), t.shows(c))
	return nil
}

// said are the different things that a change says, what it says now first.
func said(c learn.Change) []string {
	if c.New || c.From == c.To {
		return []string{c.To}
	}
	return []string{c.To, c.From}
}

func (t teller) shows(c learn.Change) string {
	where := fmt.Sprintf("%s:%d", t.d.Show(c.Path), c.Line)
	name := c.Key
	if c.Group != "" {
		name = c.Group + " " + c.Key
	}
	change := fmt.Sprintf("%s → %s", reading.Quoted(c.From), reading.Quoted(c.To))
	switch {
	case c.New:
		change = reading.Quoted(c.To) + ", which is new"
	case c.Gone:
		change = reading.Quoted(c.From) + ", which is gone"
	}
	if c.Noise != "" {
		change += " (" + c.Noise + ")"
	}
	return fmt.Sprintf("%s  %s: %s", where, name, change)
}
