package desk

import (
	"io/fs"
	"path"
	"slices"
	"strings"
)

// Variable is a variable of the session's environment and the file that sets it.
type Variable struct {
	Name, Value string
	File        string // path of the desk; "" if the session has it and no file is known
	Line        int    // 1-based
}

// Var returns a variable as programs of the session have it: what the session
// is known to have, else what the files that are read at sign-in set, the later
// ones winning. Those are /etc/environment (pam_env(8)), the folders of
// environment.d(5), and plain assignments in the scripts that sessions run
// (common practice, no source).
func (d *Desk) Var(name string) (Variable, bool) {
	found, ok := d.vars()[name]
	if value, has := d.Env[name]; has {
		if !ok || found.Value != value {
			return Variable{Name: name, Value: value}, true
		}
	}
	return found, ok
}

// vars are the variables that files set.
func (d *Desk) vars() map[string]Variable {
	if d.snapshot != nil && d.snapshot.vars != nil {
		return d.snapshot.vars
	}
	out := map[string]Variable{}
	for _, file := range d.environmentFiles() {
		b, err := d.Tree().ReadSettings(Name(file))
		if err != nil || len(b) > maxEnvironment {
			continue
		}
		line := 0
		for text := range strings.Lines(string(b)) {
			line++
			if name, value, is := Assignment(text); is {
				out[name] = Variable{name, value, file, line}
			}
		}
	}
	if d.snapshot != nil {
		d.snapshot.vars = out
	}
	return out
}

const maxEnvironment = 1 << 20 // bytes of a file

// environmentFiles lists them in the order in which they are applied.
func (d *Desk) environmentFiles() []string {
	out := []string{"/etc/environment"}
	byName := map[string]string{} // a file replaces those of its name in folders before
	for _, dir := range append([]string{"/usr/lib/environment.d", "/etc/environment.d"}, d.Expand("{config}/environment.d")...) {
		entries, err := fs.ReadDir(d.Tree(), Name(dir))
		if err != nil {
			continue
		}
		for _, e := range entries {
			if strings.HasSuffix(e.Name(), ".conf") {
				byName[e.Name()] = path.Join(dir, e.Name())
			}
		}
	}
	var names []string
	for name := range byName {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		out = append(out, byName[name])
	}
	for _, script := range []string{"~/.profile", "~/.xprofile", "~/.xsessionrc"} {
		out = append(out, d.First(script))
	}
	return out
}

// Assignment reads a line that sets a variable to a plain value, "export
// NAME='value'". One whose value needs a shell to work it out is none.
func Assignment(line string) (name, value string, ok bool) {
	line = strings.TrimSpace(line)
	line = strings.TrimSpace(strings.TrimPrefix(line, "export "))
	name, value, ok = strings.Cut(line, "=")
	if !ok || name == "" || strings.HasPrefix(line, "#") {
		return "", "", false
	}
	for i, c := range name {
		if c != '_' && (c < 'A' || c > 'Z') && (c < 'a' || c > 'z') && (i == 0 || c < '0' || c > '9') {
			return "", "", false
		}
	}
	if at := strings.IndexByte(value, '#'); at > 0 && value[at-1] == ' ' && !strings.ContainsAny(value[:1], `"'`) {
		value = value[:at]
	}
	value = strings.TrimSpace(value)
	for _, quote := range []string{`"`, `'`} {
		if rest, quoted := strings.CutPrefix(value, quote); quoted {
			inner, _, closed := strings.Cut(rest, quote)
			return name, inner, closed && (quote == "'" || !strings.ContainsAny(inner, "$`"))
		}
	}
	return name, value, !strings.ContainsAny(value, "$`;&|<>()")
}
