package standin

import (
	"bufio"
	"embed"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"time"

	"ivelt/core/desk"
)

//go:embed surfaces/*.toml
var descriptors embed.FS

// Surfaces returns the descriptors of the stand-ins that draw.
func Surfaces() []desk.Surface {
	out, err := desk.LoadSurfaces(descriptors, "surfaces")
	if err != nil {
		panic(err) // embedded and tested
	}
	return out
}

// Quayside is a shell. It reads its settings when it starts, and at no other
// time; what it has loaded it writes to its session file, so that others can
// see what it shows. Its rules are in docs/standins.md.
type Quayside struct {
	Home, System string           // host folders
	Now          func() time.Time // time.Now if nil
}

// looks are what Quayside can be told of its look, with what it does without
// being told, and the form of what it understands.
var looks = []struct {
	key, usual string
	form       *regexp.Regexp
}{
	{"icons", "hicolor", nil},
	{"icon-size", "64", wholeNumber},
	{"theme", "", nil},
	{"shade", "light", regexp.MustCompile(`^(light|dark|automatic)$`)},
	{"accent", "#1d6b52", nil},
	{"font", "Sans 11", nil},
	{"opacity", "100", wholeNumber},
	{"blur", "0", wholeNumber},
	{"backdrop", "", nil},
}

var wholeNumber = regexp.MustCompile(`^[0-9]{1,4}$`)

// Start does what signing in or restarting the shell does: read the settings
// and show them from now on.
func (q Quayside) Start() error {
	var shown strings.Builder
	for _, l := range looks {
		value := l.usual
		for _, file := range []string{
			filepath.Join(q.System, "etc/quayside/quayside.conf"),
			filepath.Join(q.Home, ".config/quayside/quayside.conf"),
		} {
			said, ok, err := setting(file, "Look", l.key)
			if err != nil {
				return err
			}
			if ok && (l.form == nil || l.form.MatchString(said)) {
				value = said
			}
		}
		fmt.Fprintf(&shown, "%s=%s\n", l.key, value)
	}
	now := time.Now
	if q.Now != nil {
		now = q.Now
	}
	file := filepath.Join(q.Home, ".local/state/quayside/session.conf")
	if err := os.MkdirAll(filepath.Dir(file), 0o755); err != nil {
		return err
	}
	text := fmt.Sprintf("# Written by Quayside at its start; reading it is fine, editing it does nothing.\n[Loaded]\nat=%s\n%s", now().UTC().Format(time.RFC3339), shown.String())
	return os.WriteFile(file, []byte(text), 0o644)
}

// setting reads one key the way Quayside does: a file that is not there, or
// that has a line which is neither blank, comment, [group] nor key=value, says
// nothing at all.
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
		line := strings.TrimSpace(s.Text())
		if line == "" || line[0] == '#' {
			continue
		}
		if strings.HasPrefix(line, "[") && strings.HasSuffix(line, "]") {
			in = line[1 : len(line)-1]
			continue
		}
		k, v, found := strings.Cut(line, "=")
		if !found || in == "" {
			return "", false, nil
		}
		if in == group && strings.TrimSpace(k) == key {
			value, ok = strings.TrimSpace(v), true
		}
	}
	return value, ok, nil
}
