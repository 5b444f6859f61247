package debian

import (
	"bytes"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/plan"
)

// Manager is apt-get(8) and dpkg(1). Its methods are those of [desk.Manager].
type Manager struct {
	Root string // host folder that is the root of the system
}

// The ways it does not do what is asked.
var (
	ErrBusy      = errors.New("the package manager is at work for somebody else, or was not let to: wait until it is done, and try again as administrator")
	ErrUnknown   = errors.New("the package manager knows no such package, or not in that version, any more: have it renew its lists, and plan again")
	ErrLeftovers = errors.New("settings of it are there from an earlier installation: install it with the package manager itself, so that they stay")
	ErrManager   = errors.New("the package manager did not do it")
)

// half is behind the version of a package that is there in part.
const half = " in part"

// Installed asks dpkg-query(1).
func (m Manager) Installed(name string) (string, error) {
	out, err := m.run("dpkg-query", "--admindir="+filepath.Join(m.Root, "var/lib/dpkg"), "--show", "--showformat=${db:Status-Abbrev}\t${Version}\n", name)
	var ended *exec.ExitError
	if errors.As(err, &ended) && ended.ExitCode() == 1 && bytes.Contains(out, []byte("no packages found")) {
		return "", nil
	}
	if err != nil {
		return "", said(out, err)
	}
	state, version, _ := strings.Cut(strings.TrimSpace(string(out)), "\t")
	switch {
	case len(state) < 2:
		return "", fmt.Errorf("%w: %q is no state of a package", ErrManager, state)
	case state[1] == 'i':
		return version, nil
	case state[1] == 'n':
		return "", nil
	case state[1] == 'c':
		return "", fmt.Errorf("%s: %w", name, ErrLeftovers)
	}
	return version + half, nil
}

// simulated are the lines by which a dry run tells what comes and what goes (apt-get(8), -s).
var simulated = map[bool]*regexp.Regexp{
	false: regexp.MustCompile(`(?m)^Inst (\S+)(?: \[[^]]*\])? \((\S+) `),
	true:  regexp.MustCompile(`(?m)^(?:Remv|Purg) (\S+) \[([^]]*)\]`),
}

// Along has apt-get tell what it would do.
func (m Manager) Along(of []desk.PackageAt, away bool) ([]desk.PackageAt, error) {
	out, err := m.run("apt-get", append([]string{"--simulate", "--quiet=2"}, arguments(of, away)...)...)
	if err != nil {
		return nil, said(out, err)
	}
	var all []desk.PackageAt
	for direction, line := range simulated {
		for _, found := range line.FindAllSubmatch(out, -1) {
			name, _, _ := strings.Cut(string(found[1]), ":")
			if direction != away {
				return nil, fmt.Errorf("%w: it would have %s %s as well", ErrManager, name, map[bool]string{true: "go", false: "come"}[direction])
			}
			all = append(all, desk.PackageAt{Name: name, Version: string(found[2])})
		}
	}
	return all, nil
}

// Change has apt-get do it, without questions. Files of settings that somebody has changed
// stay.
func (m Manager) Change(of []desk.PackageAt, away bool) error {
	_, _ = m.run("dpkg", "--root="+m.Root, "--configure", "--pending") // of what cannot be finished apt-get says so, or takes it away
	out, err := m.run("apt-get", append([]string{"--assume-yes", "--quiet=2", "-o", "DPkg::Lock::Timeout=3", "-o", "Dpkg::Options::=--force-confdef", "-o", "Dpkg::Options::=--force-confold", "-o", "APT::Get::AutomaticRemove=false"}, arguments(of, away)...)...)
	return said(out, err)
}

// Command is what Change does, for a shell.
func (m Manager) Command(of []desk.PackageAt, away bool) string {
	words := []string{"apt-get"}
	for _, a := range arguments(of, away) {
		words = append(words, plan.Quote(a))
	}
	return strings.Join(words, " ")
}

// elsewhere are the options by which apt-get works on a system that is not at /.
func elsewhere(root string) []string {
	if root == "" || root == "/" {
		return nil
	}
	return []string{"-o", "Dir=" + root, "-o", "Dir::State::status=" + filepath.Join(root, status), "-o", "DPkg::Options::=--root=" + root}
}

func arguments(of []desk.PackageAt, away bool) []string {
	out := []string{"install"}
	if away {
		out[0] = "purge"
	}
	for _, p := range of {
		if p.Version == "" || away {
			out = append(out, p.Name)
		} else {
			out = append(out, p.Name+"="+p.Version)
		}
	}
	return out
}

func (m Manager) run(tool string, args ...string) ([]byte, error) {
	if tool == "apt-get" {
		args = append(elsewhere(m.Root), args...)
	}
	c := exec.Command(tool, args...)
	c.Env = append(os.Environ(), "LC_ALL=C", "DEBIAN_FRONTEND=noninteractive")
	return c.CombinedOutput()
}

// said is what a run that failed says, in words where it is known what it means.
func said(out []byte, err error) error {
	if err == nil {
		return nil
	}
	has := func(words string) bool { return bytes.Contains(out, []byte(words)) }
	switch {
	case has("Could not get lock"), has("Unable to acquire"), has("are you root"), has("frontend lock"):
		return ErrBusy
	case has("Unable to locate package"), has("was not found"), has("has no installation candidate"):
		return ErrUnknown
	}
	for line := range strings.Lines(string(out)) {
		if rest, ok := strings.CutPrefix(line, "E: "); ok {
			return fmt.Errorf("%w: %s", ErrManager, strings.TrimSpace(rest))
		}
	}
	return fmt.Errorf("%w: %w", ErrManager, err)
}
