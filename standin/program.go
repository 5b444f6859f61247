package standin

import (
	"bufio"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// Root is where a stand-in runs: its own look at a desk's folders.
type Root struct {
	Home, System string           // host folders
	Now          func() time.Time // time.Now if nil
}

// host is where a path of the desk lies; "~" is the home.
func (d Root) host(p string) string {
	if rest, ok := strings.CutPrefix(p, "~"); ok {
		return filepath.Join(d.Home, filepath.Clean("/"+rest))
	}
	return filepath.Join(d.System, filepath.Clean("/"+p)) // and never out of it
}

func (d Root) there(p string) bool {
	_, err := os.Stat(d.host(p))
	return err == nil
}

// Setting is one that a program knows, as docs/standins.md has it in its tables.
type Setting struct {
	Group, Key string
	Takes      takes
	Usual      string // "as KEY" goes with another of the group
}

// takes reports whether a value is one that a setting takes; nil takes any.
type takes func(value string) bool

func oneOf(words ...string) takes {
	return func(value string) bool {
		for _, w := range words {
			if w == value {
				return true
			}
		}
		return false
	}
}

func number(least, most int) takes {
	return func(value string) bool {
		n, err := strconv.Atoi(value)
		return err == nil && n >= least && n <= most
	}
}

// anEffect is none, or one of some kinds with its time and its easing.
func anEffect(kinds ...string) takes {
	form := like(`^(?:` + strings.Join(kinds, "|") + `) ([0-9]{1,4}) (?:linear|ease|ease-in|ease-out|ease-in-out)$`)
	return func(value string) bool {
		if value == "none" {
			return true
		}
		if !form(value) {
			return false
		}
		ms, err := strconv.Atoi(strings.Fields(value)[1])
		return err == nil && ms <= 2000
	}
}

// pictures are full paths by names of monitors, each monitor once.
func pictures(value string) bool {
	if value == "none" {
		return true
	}
	seen := map[string]bool{}
	for _, part := range strings.Split(value, ";") {
		monitor, path, ok := strings.Cut(part, "=")
		if !ok || monitor == "" || seen[monitor] || !strings.HasPrefix(path, "/") || len(seen) == 16 {
			return false
		}
		seen[monitor] = true
	}
	return true
}

func like(pattern string) takes { return regexp.MustCompile(pattern).MatchString }

var (
	aPath   = like(`^/.`)
	aColour = like(`^#[0-9a-fA-F]{6}$`)
	aFont   = func(value string) bool {
		at := strings.LastIndexByte(value, ' ')
		if at < 1 || value[0] == ' ' {
			return false
		}
		points, err := strconv.ParseFloat(value[at+1:], 64)
		return err == nil && points >= 4 && points <= 72
	}
)

// Program is a stand-in that draws: which settings it knows, where it reads them,
// and where it writes what it has loaded. Its rules are in docs/standins.md.
type Program struct {
	ID       string
	Files    []string // the strongest first; "~" is the home
	Shown    string
	Settings []Setting
	// more reads what the table does not have, and failing is why it does not come
	// up with what it was told; either may be nil.
	more    func(p Program, d Root, told map[string]string) ([]Setting, error)
	failing func(d Root, told map[string]string) error
	failed  string // the key in its shown file that says so
}

// Start does what starting the program does: read its settings, and show them
// from now on. The error says why it did not come up.
func (p Program) Start(d Root) error {
	told := map[string]string{}
	if err := p.read(d, p.Files, p.Settings, told); err != nil {
		return err
	}
	settings := p.Settings
	if p.more != nil {
		further, err := p.more(p, d, told)
		if err != nil {
			return err
		}
		settings = append(settings[:len(settings):len(settings)], further...)
	}
	now := time.Now
	if d.Now != nil {
		now = d.Now
	}
	var out strings.Builder
	fmt.Fprintf(&out, "# Written at its start; reading it is fine, editing it does nothing.\n[Loaded]\nat=%s\n", now().UTC().Format(time.RFC3339))
	var failure error
	if p.failing != nil {
		failure = p.failing(d, told)
	}
	if failure != nil {
		fmt.Fprintf(&out, "%s=yes\nwhy=%v\n", p.failed, failure)
	} else {
		for _, s := range settings {
			fmt.Fprintf(&out, "%s=%s\n", p.shownAs(s), told[s.Group+"/"+s.Key])
		}
	}
	file := d.host(p.Shown)
	if err := os.MkdirAll(filepath.Dir(file), 0o755); err != nil {
		return err
	}
	if err := os.WriteFile(file, []byte(out.String()), 0o644); err != nil {
		return err
	}
	return failure
}

// shownAs is the key of a setting in the shown file: its own, with the group's
// before it if two groups have one of that name.
func (p Program) shownAs(s Setting) string {
	for _, other := range p.Settings {
		if other.Key == s.Key && other.Group != s.Group && p.Settings[0].Group != s.Group {
			return strings.ToLower(s.Group) + "-" + s.Key
		}
	}
	return s.Key
}

func (p Program) read(d Root, files []string, settings []Setting, told map[string]string) error {
	for _, s := range settings {
		value := s.Usual
		for _, file := range files {
			said, ok, err := setting(d.host(file), s.Group, s.Key)
			if err != nil {
				return err
			}
			if ok && (s.Takes == nil || s.Takes(said)) {
				value = said
				break
			}
		}
		if other, ok := strings.CutPrefix(value, "as "); ok {
			value = told[s.Group+"/"+other]
		}
		told[s.Group+"/"+s.Key] = value
	}
	return nil
}

// setting reads one key: a file that is not there, or that has a line which is
// neither blank, comment, [group] nor key=value, says nothing at all.
func setting(file, group, key string) (value string, ok bool, err error) {
	f, err := os.Open(file)
	if os.IsNotExist(err) {
		return "", false, nil
	}
	if err != nil {
		return "", false, err
	}
	defer f.Close()
	in := ""
	for s := bufio.NewScanner(f); s.Scan(); {
		line := strings.TrimLeft(s.Text(), " \t")
		if strings.TrimSpace(line) == "" || line[0] == '#' {
			continue
		}
		if group := strings.TrimRight(line, " \t"); strings.HasPrefix(line, "[") && strings.HasSuffix(group, "]") {
			in = group[1 : len(group)-1]
			continue
		}
		k, v, found := strings.Cut(line, "=")
		if !found || in == "" {
			return "", false, nil
		}
		if in == group && strings.TrimSpace(k) == key {
			value, ok = strings.TrimLeft(v, " \t"), true
		}
	}
	return value, ok, nil
}
