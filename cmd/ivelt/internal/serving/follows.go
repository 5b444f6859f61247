package serving

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os/exec"
	"strings"
	"time"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/match"
	"ivelt/session"
)

// check looks, when it is time to, whether everything on the desk follows, and says so in
// one notification if something does not. Where that was turned off, or the time is past,
// it does nothing.
func (r *sessionRun) check(ctx context.Context) error {
	wait := time.Until(time.Unix(r.checkAt, 0))
	if wait < 0 {
		return nil
	}
	select {
	case <-time.After(wait):
	case <-ctx.Done():
		return nil
	}
	if !r.asked {
		if may, err := given.ChecksAtSignIn(); err != nil || !may {
			return err
		}
	}
	// A process of its own, so that this one stays small.
	text, err := exec.CommandContext(ctx, r.self, "check", "--own", "--asked", "--json").Output()
	if err != nil && !isFindings(err) {
		return fmt.Errorf("ivelt check --own: %w", err)
	}
	var found []match.Finding
	if err := json.Unmarshal(text, &found); err != nil || len(found) == 0 {
		return err
	}
	title, body := r.words(found)
	chosen, err := session.Notify(ctx, r.desk.Env["DBUS_SESSION_BUS_ADDRESS"], title, body, "Open Match")
	if err != nil || !chosen {
		return err
	}
	return showInBrowser(ctx, "/d/"+given.OwnID+"/match")
}

func isFindings(err error) bool {
	exit, ok := errors.AsType[*exec.ExitError](err)
	return ok && exit.ExitCode() == given.CodeFindings
}

// maxNamed bounds what a notification names of what does not follow.
const maxNamed = 3

// words are what a notification says of findings.
func (r *sessionRun) words(found []match.Finding) (title, body string) {
	title = "One thing on your desktop is not as it should be"
	if n := len(found); n > 1 {
		title = fmt.Sprintf("%d things on your desktop are not as they should be", n)
	}
	var lines []string
	for _, f := range found[:min(len(found), maxNamed)] {
		s, _ := r.desk.Surface(f.Surface)
		lines = append(lines, fmt.Sprintf("%s, %s: %s", s.Title, desk.FacetTitle(f.Facet), f.Cause))
	}
	if more := len(found) - maxNamed; more > 0 {
		lines = append(lines, fmt.Sprintf("and %d more", more))
	}
	return title, strings.Join(lines, "\n")
}
