package planning

import (
	"bytes"
	"errors"
	"io/fs"
	"path"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/plan"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// ownEnvironment is where variables go that no file sets yet (environment.d(5)).
const ownEnvironment = "{config}/environment.d/60-look.conf"

// setVariable adds the operation that gives a variable of the session a value: in
// the line that sets it, else in a file of its own.
func (b *builder) setVariable(s desk.Surface, f desk.Facet, name, value string, why say.Message) error {
	b.told[s.ID+" "+f.Name] = true
	v, ok := b.d.Var(name)
	if ok && v.File == "" {
		b.block(blocked(s, f.Name, say.Of("plan/session-has-from-no-file", name), say.Of("plan/find-what-sets-change-there")))
		return nil
	}
	if ok && v.Value == value {
		return nil // it is set, and shows when the session starts again
	}
	at := v.File
	if !ok {
		at = b.d.First(ownEnvironment)
	}
	return b.edit(at, s, f, why, plan.SignIn, func(old []byte) []byte {
		return withVariable(old, name, value, path.Ext(at) != ".conf" && path.Base(at) != "environment")
	})
}

// unset adds the operation that takes a variable out of the file that sets it:
// its line, and nothing else.
func (b *builder) unset(s desk.Surface, f desk.Facet, of reading.Origin) error {
	b.unsetting[of.Key] = true
	return b.edit(of.Path, s, f, say.Of("plan/take-out-overrules-what-set", of.Key), plan.SignIn, func(old []byte) []byte { return withoutVariable(old, of.Key) })
}

// edit adds the operation that changes a file that is no list of facets: one of the
// session's environment, or of grants.
func (b *builder) edit(at string, s desk.Surface, f desk.Facet, why say.Message, seen plan.Effect, change func(old []byte) []byte) error {
	p, err := b.resolve(at)
	if err != nil {
		return err
	}
	if !b.mayWrite(s, f.Name, p) {
		return nil
	}
	for i := range b.plan.Ops {
		if op := &b.plan.Ops[i]; op.Kind == plan.Write && op.Path == p {
			op.Content = change(op.Content)
			op.After = plan.FileState(op.Content, op.After.Mode)
			if !strings.Contains(op.Says.String(), why.String()) {
				op.Says = say.Of("plan/and", op.Says, why)
			}
			return nil
		}
	}
	old, err := b.d.Tree().ReadSettings(desk.Name(p))
	missing := errors.Is(err, fs.ErrNotExist)
	if err != nil && !missing {
		return err
	}
	before, err := plan.Look(b.d, p)
	if err != nil {
		return err
	}
	mode := before.Mode
	if missing {
		mode = 0o644
		b.parents(p, f.Name)
	}
	content := change(old)
	if !missing && bytes.Equal(content, old) {
		return nil
	}
	b.add(plan.Op{
		Kind: plan.Write, Path: p, Before: before, After: plan.FileState(content, mode), Content: content,
		Surface: s.ID, Facet: f.Name, Says: why, Effect: seen,
	})
	return nil
}

// withVariable is a file in which the last line that sets a variable gives it a
// value; without one there is a new one at its end, which a shell exports.
func withVariable(file []byte, name, value string, shell bool) []byte {
	lines := bytes.SplitAfter(file, []byte("\n"))
	for i := len(lines) - 1; i >= 0; i-- {
		key, _, ok := desk.Assignment(string(lines[i]))
		if !ok || key != name {
			continue
		}
		text := string(lines[i])
		before, _, _ := strings.Cut(text, "=")
		end := text[len(strings.TrimRight(text, "\r\n")):]
		lines[i] = []byte(before + "=" + quoted(value) + end)
		return bytes.Join(lines, nil)
	}
	end := "\n"
	if bytes.Contains(file, []byte("\r\n")) {
		end = "\r\n"
	}
	if n := len(file); n > 0 && file[n-1] != '\n' {
		file = append(bytes.Clone(file), end...)
	}
	export := ""
	if shell {
		export = "export "
	}
	return append(bytes.Clone(file), export+name+"="+quoted(value)+end...)
}

// quoted is a value as files of variables and shells take it.
func quoted(value string) string {
	if strings.ContainsAny(value, " \t#\"$`\\;&|<>()*?!~") {
		return "'" + value + "'"
	}
	return value
}

// withoutVariable is a file without the lines that set a variable.
func withoutVariable(file []byte, name string) []byte {
	var out []byte
	for line := range bytes.Lines(file) {
		if key, _, ok := desk.Assignment(string(line)); !ok || key != name {
			out = append(out, line...)
		}
	}
	return out
}
