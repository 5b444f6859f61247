package changes

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"os"
	"slices"
	"strconv"

	"ivelt/app/desks"
	"ivelt/app/jobs"
	"ivelt/core/say"
	"ivelt/core/script"
)

// HandOver writes a reviewed plan in a form that can be handed over: json, which
// another Ivelt can apply; sh, a script that can be read and run without one; tar,
// both with what they copy.
func (ch *Changes) HandOver(ctx context.Context, d *desks.Managed, planID, form string, to io.Writer) error {
	p, err := ch.plans.Get(d, planID)
	if err != nil {
		return err
	}
	switch form {
	case "json":
		file, err := json.MarshalIndent(p, "", "  ")
		if err != nil {
			return err
		}
		_, err = to.Write(file)
		return err
	case "sh":
		script, err := script.Of(d.Desk, p)
		if err != nil {
			return err
		}
		_, err = io.WriteString(to, script)
		return err
	case "tar":
		return script.Bundle(ctx, d.Desk, p, ch.kept, to)
	}
	return say.Errorf("a plan is handed over as .json, .sh or .tar, not as .%s", form)
}

// ErrNobodyToAsk: an administrator can only be asked by hand here.
var ErrNobodyToAsk = errors.New("there is no way to ask for an administrator's password here: hand the file over, or run the command yourself")

// AskAdministrator starts having the administrator's part of a plan carried out: the person is
// asked for a password by the system, and what changes things is Ivelt as administrator.
func (ch *Changes) AskAdministrator(d *desks.Managed, planID, then string) (*jobs.Job, error) {
	p, err := ch.plans.Get(d, planID)
	if err != nil {
		return nil, err
	}
	return ch.ask(d, p.Title, then, func(ctx context.Context) ([]string, func(), error) {
		f, err := os.CreateTemp(ch.dir, "handed-*.tar")
		if err != nil {
			return nil, nil, err
		}
		err = errors.Join(ch.HandOver(ctx, d, planID, "tar", f), f.Close())
		return []string{f.Name()}, func() { os.Remove(f.Name()) }, err
	})
}

// AskBack starts having an administrator go back on what one did, by its number.
func (ch *Changes) AskBack(d *desks.Managed, number uint, then string) (*jobs.Job, error) {
	done, _, err := AdministeredFor(d.Desk)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(done, func(a Administered) bool { return a.Number == number && a.GoneOn == nil })
	if i < 0 {
		return nil, errors.New("an administrator did no such thing for this desk, or has undone it")
	}
	return ch.ask(d, "Go back on: "+done[i].Title, then, func(context.Context) ([]string, func(), error) {
		return []string{"--back", strconv.FormatUint(uint64(number), 10)}, func() {}, nil
	})
}

func (ch *Changes) ask(d *desks.Managed, title, then string, args func(context.Context) ([]string, func(), error)) (*jobs.Job, error) {
	if d.Administer == nil {
		return nil, ErrNobodyToAsk
	}
	return ch.jobs.Start(title, func(ctx context.Context, j *jobs.Job) error {
		d.Lock()
		defer d.Unlock()
		with, done, err := args(ctx)
		if done != nil {
			defer done()
		}
		if err != nil {
			return err
		}
		j.Then(then)
		j.Step("Waiting for an administrator's password", "")
		return d.Administer(ctx, with...)
	}), nil
}
