package changing

import (
	"errors"
	"fmt"
	"io"
	"path"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"ivelt/app"
	"ivelt/app/changes"
	"ivelt/app/desks"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/planning"
	"ivelt/store"
)

func historyCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var asJSON bool
	var pin, unpin, letGo, note uint
	var says string
	c := &cobra.Command{
		Use:   "history",
		Short: "List what was changed on a desk, newest first; pin an entry, write a note beside it, or delete its checkpoint",
		Args:  cobra.NoArgs,
	}
	given.Answers[[]historyEntry](c, &asJSON, "history")
	c.Flags().UintVar(&note, "note", 0, "write what --says gives beside the entry with this number; without --says the note is deleted")
	c.Flags().StringVar(&says, "says", "", "the note, one sentence")
	c.Flags().UintVar(&pin, "pin", 0, "keep the entry with this number for good")
	c.Flags().UintVar(&unpin, "unpin", 0, "no longer keep it for good")
	c.Flags().UintVar(&letGo, "let-go", 0, "delete the checkpoint of this entry: it can no longer be undone")
	given.Changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		var err error
		switch {
		case note != 0:
			err = a.History.Note(d, note, says)
		case says != "":
			err = errors.New("--says needs the number of an entry: --note NUMBER")
		case pin != 0:
			err = a.History.Pin(d, pin, true)
		case unpin != 0:
			err = a.History.Pin(d, unpin, false)
		case letGo != 0:
			loss, e := a.History.LossOf(d, letGo)
			if e != nil {
				return e
			}
			if err = a.History.Purge(d, letGo); err == nil {
				for _, op := range loss.Plan.Ops {
					fmt.Fprintf(out, "can no longer be undone: %s %s\n", op.Kind, d.Show(op.Path))
				}
			}
		}
		if err != nil {
			return err
		}
		rows, err := a.Record.Entries(d.ID)
		if err != nil {
			return err
		}
		if asJSON {
			entries := []historyEntry{}
			for _, r := range rows {
				entries = append(entries, entryOf(r))
			}
			return given.PrintJSON(out, entries)
		}
		for _, r := range rows {
			fmt.Fprintf(out, "%d  %s  %s (%s)\n", r.ID, r.At.Local().Format("2006-01-02 15:04"), r.Title, strings.Join(about(r), ", "))
			if r.Note != "" {
				fmt.Fprintf(out, "    %s\n", r.Note)
			}
		}
		done, begun, err := changes.AdministeredFor(d.Desk)
		if err != nil {
			return err
		}
		if begun != "" {
			fmt.Fprintf(out, "An administrator began “%s”, and it has not ended: “sudo ivelt administer” finishes or undoes it.\n", begun)
		}
		for i, a := range done {
			if i == 0 {
				fmt.Fprintln(out, "Done by an administrator, who can go back on it with “ivelt administer --back NUMBER”:")
			}
			printAdministered(out, a)
		}
		return nil
	})
	return c
}

// historyEntry is one of the answer of `history --json`.
type historyEntry struct {
	Number  uint       `json:"number"`
	Title   string     `json:"title"`
	At      time.Time  `json:"at"`
	Changes int        `json:"changes"`
	Bytes   int64      `json:"bytes"`             // of what is kept for it
	GoneOn  *time.Time `json:"gone_on,omitempty"` // when it was undone
	GoneBy  uint       `json:"gone_by,omitempty"` // the entry that undid it
	Back    bool       `json:"back,omitempty"`    // it undid another itself
	AsIs    bool       `json:"as_is,omitempty"`   // nothing was changed: the desk was kept as it was
	TurnOf  uint       `json:"turn_of,omitempty"` // it is a turn of what that entry started
	Pinned  bool       `json:"pinned"`            // it is never let go by itself
	LetGo   *time.Time `json:"let_go,omitempty"`  // when what was kept was deleted: it can no longer be undone
	By      string     `json:"by,omitempty"`      // who became administrator for it
	Note    string     `json:"note,omitempty"`    // a sentence of its owner's
}

func entryOf(r store.CheckpointRow) historyEntry {
	return historyEntry{r.ID, r.Title, r.At, r.Changes, r.Bytes, r.GoneOn, r.GoneBy, r.IsBack, r.AsIs, r.TurnOf, r.Pinned, r.Purged, r.AskedBy, r.Note}
}

func checkpointCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	c := &cobra.Command{
		Use:   "checkpoint [SENTENCE]",
		Short: "Keep a desk's settings as they are now, with a sentence to remember them by; nothing is changed",
		Long: "Keep every file and setting of a desk that Ivelt may change, as it is now, with a sentence to\n" +
			"remember it by. The history lists it, and “ivelt back NUMBER” goes back to it.",
		Args: cobra.MaximumNArgs(1),
	}
	given.Changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		if err := a.Applier.Checkpoint(d, strings.Join(c.Flags().Args(), " ")); err != nil {
			return err
		}
		rows, err := a.Record.Entries(d.ID)
		if err == nil {
			fmt.Fprintf(out, "Checkpoint %d: %d files and settings are kept as they are. “ivelt back %d” goes back to them.\n", rows[0].ID, rows[0].Changes, rows[0].ID)
		}
		return err
	})
	return c
}

func about(r store.CheckpointRow) []string {
	out := []string{fmt.Sprintf("%d changes", r.Changes)}
	if r.Changes == 1 {
		out[0] = "1 change"
	}
	if r.AsIs {
		out[0] = fmt.Sprintf("%d files and settings kept", r.Changes)
	}
	if r.GoneOn != nil {
		out = append(out, "undone "+r.GoneOn.Local().Format("2006-01-02 15:04"))
	}
	if r.Pinned {
		out = append(out, "pinned")
	}
	if r.Purged != nil {
		out = append(out, "checkpoint deleted")
	}
	return out
}

func backCommand(p *given.Program) *cobra.Command {
	flags := p.Desk()
	var way changes.Way
	var takes, older []string
	var dry, asJSON bool
	c := &cobra.Command{
		Use:   "back [CHECKPOINT]",
		Short: "Undo the last change of a desk, or the one with that number in ivelt history",
		Long: "Undo the last change of a desk, or the one with that number in ivelt history: whole, for one\n" +
			"program or for one setting. Where somebody has edited a file since, their edits stay, unless\n" +
			"--take says otherwise.",
		Args: cobra.MaximumNArgs(1),
	}
	loseFlag(c, &way.Lose)
	c.Flags().BoolVar(&way.Since, "since", false, "to before it: on all that came after it too")
	c.Flags().StringVar(&way.Surface, "surface", "", "only the settings of this surface")
	c.Flags().StringVar(&way.Facet, "facet", "", "only this setting")
	var facets []string
	for _, f := range desk.Facets {
		facets = append(facets, f.Name)
	}
	given.Completes(c, "facet", facets...)
	c.Flags().StringArrayVar(&takes, "take", nil, "of a file that was edited since: both=PATH, now=PATH or before=PATH; may be repeated")
	c.Flags().StringArrayVar(&older, "older", nil, "of a line that was edited since: take the older one, as N=PATH with the number shown; may be repeated")
	c.Flags().BoolVar(&dry, "plan", false, "say what would be done, and do nothing")
	given.Answers[plan.Plan](c, &asJSON, "plan")
	given.Changing(c, &flags, func(a *app.App, d *desks.Managed, out io.Writer) error {
		if err := aim(&way, c.Flags().Args(), takes, a, d); err != nil {
			return err
		}
		if err := aimAtLines(&way, older, d); err != nil {
			return err
		}
		rv, err := a.Back.Review(d, way, nil)
		if err != nil {
			return err
		}
		lost := false
		for _, f := range rv.Conflicts {
			lost = lost || f.Lost != ""
			tellConflict(c.ErrOrStderr(), d, f)
		}
		if !dry {
			job, err := a.Back.Start(d, way, "", "")
			if err == nil {
				err = finish(c.Context(), a, job)
			}
			if err != nil {
				return err
			}
		}
		switch {
		case asJSON:
			return given.PrintJSON(out, rv.Whole)
		case dry:
			printPlan(out, d.Desk, rv.Whole)
		default:
			row, err := a.Record.Entry(way.Checkpoint)
			if err != nil {
				return err
			}
			words := "Went back on: "
			if way.Since {
				words = "Went back to before: "
			}
			if lost {
				words = "Went back, except for what is listed above: "
			}
			fmt.Fprintln(out, words+row.Title)
		}
		if lost {
			return given.ErrFindings
		}
		return nil
	})
	return c
}

// tellConflict says what happens to a file that was edited since.
func tellConflict(out io.Writer, d *desks.Managed, f planning.Conflict) {
	when := "since"
	if f.Between {
		when = "between the changes"
	}
	if f.Lost != "" {
		fmt.Fprintf(out, "ivelt: %s stays unchanged: its kept original cannot be restored: %s\n", d.Show(f.Path), f.Lost)
		return
	}
	fmt.Fprintf(out, "ivelt: %s was edited %s: %s\n", d.Show(f.Path), when, taken[f.Taken])
	if f.Taken != planning.TakeBoth {
		return
	}
	for _, c := range f.Clashes {
		stays, other := c.Now, c.Older
		if c.Taken {
			stays, other = other, stays
		}
		fmt.Fprintf(out, "ivelt:   %d: line %d stays %q, not %q\n", c.Number, c.Line, strings.TrimSpace(stays), strings.TrimSpace(other))
	}
}

// aimAtLines says in which lines the older version is taken.
func aimAtLines(way *changes.Way, older []string, d *desks.Managed) error {
	way.Lines = map[string][]int{}
	for _, o := range older {
		number, p, ok := strings.Cut(o, "=")
		n, err := strconv.Atoi(number)
		if !ok || err != nil {
			return fmt.Errorf("--older is N=PATH, not %q", o)
		}
		at := path.Clean(d.First(p))
		way.Lines[at] = append(way.Lines[at], n)
	}
	return nil
}

var taken = map[planning.Take]string{
	planning.TakeBoth:   "the change is undone, the edits stay",
	planning.TakeNow:    "it stays unchanged",
	planning.TakeBefore: "it is put back as it was",
}

// aim completes a way back from what was written on the command line.
func aim(way *changes.Way, args, takes []string, a *app.App, d *desks.Managed) error {
	if _, ok := d.Surface(way.Surface); way.Surface != "" && !ok {
		return fmt.Errorf("there is no surface %q; ivelt read lists them", way.Surface)
	}
	if _, ok := desk.FacetOf(way.Facet); way.Facet != "" && !ok {
		return fmt.Errorf("there is no facet %q; ivelt read lists them", way.Facet)
	}
	way.Takes = map[string]planning.Take{}
	for _, t := range takes {
		take, p, ok := strings.Cut(t, "=")
		if _, known := taken[planning.Take(take)]; !ok || !known {
			return fmt.Errorf("--take is both=PATH, now=PATH or before=PATH, not %q", t)
		}
		way.Takes[path.Clean(d.First(p))] = planning.Take(take)
	}
	rows, err := a.Record.Entries(d.ID)
	if err != nil {
		return err
	}
	if len(args) == 1 {
		id, err := strconv.ParseUint(args[0], 10, 32)
		if err != nil {
			return fmt.Errorf("%q is no number of a checkpoint; ivelt history lists them", args[0])
		}
		way.Checkpoint = uint(id)
		return nil
	}
	for _, r := range rows {
		if r.GoneOn == nil && !r.IsBack && r.Purged == nil {
			way.Checkpoint = r.ID
			return nil
		}
	}
	return errors.New("there is nothing to go back on")
}
