// Package gsettings reads what GLib's settings are made of: compiled schemas,
// which say what keys there are and what they are by default, and the backends
// that hold what a person set: key files, and dconf's databases with their
// profiles and locks (GLib reference, "GSettings" and
// g_keyfile_settings_backend_new; dconf(7)).
package gsettings

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"ivelt/core/gvariant"
	"ivelt/core/gvdb"
	"ivelt/core/keyfile"
)

// Schemas are those of one compiled file, gschemas.compiled.
type Schemas struct{ table *gvdb.Table }

// OpenSchemas reads a compiled file. Errors wrap [gvdb.ErrTable].
func OpenSchemas(b []byte) (*Schemas, error) {
	t, err := gvdb.Open(b)
	if err != nil {
		return nil, err
	}
	return &Schemas{t}, nil
}

// Key is a key of a schema.
type Key struct {
	Path    string // where its value is kept: "/org/example/icon-theme"
	Type    string // GVariant type
	Default any    // see [gvariant.Parse]
	Choices []string
	Range   []any // least and most; nil if any will do
	desktop map[string]any
}

// Key returns a key. A schema without a path of its own has none.
func (s *Schemas) Key(schema, key string) (Key, bool) {
	t, ok := s.table.Table(schema)
	if !ok {
		return Key{}, false
	}
	dir, _ := t.Value(".path")
	kind, raw, ok := t.Raw(key)
	if !ok || dir == nil || strings.HasPrefix(key, ".") || !strings.HasPrefix(kind, "(") {
		return Key{}, false
	}
	v, err := gvariant.Parse(kind, raw)
	parts, is := v.([]any)
	if err != nil || !is || len(parts) == 0 {
		return Key{}, false
	}
	k := Key{Path: fmt.Sprint(dir) + key, Type: gvariant.First(kind[1:]), Default: parts[0]}
	for _, extra := range parts[1:] {
		e, _ := extra.([]any)
		if len(e) != 2 {
			continue
		}
		switch e[0] {
		case uint64('r'):
			k.Range, _ = e[1].([]any)
		case uint64('c'), uint64('e'):
			k.Choices = words(e[1])
		case uint64('d'):
			entries, _ := e[1].([]any)
			k.desktop = map[string]any{}
			for _, entry := range entries {
				if pair, ok := entry.([2]any); ok {
					k.desktop[fmt.Sprint(pair[0])] = pair[1]
				}
			}
		}
	}
	return k, true
}

// words unpacks a strinfo array: each word begins after a byte 0xff (or 0xfe for
// another name of one) and ends at the next zero (strinfo.c of GLib).
func words(v any) []string {
	array, _ := v.([]any)
	b := make([]byte, 0, 4*len(array))
	for _, u := range array {
		n, _ := u.(uint64)
		b = append(b, byte(n), byte(n>>8), byte(n>>16), byte(n>>24))
	}
	var out []string
	for i := 0; i+4 < len(b); {
		if b[i+4] != 0xff && b[i+4] != 0xfe {
			i += 4
			continue
		}
		from := i + 5
		end := from
		for end < len(b) && b[end] != 0 {
			end++
		}
		out = append(out, string(b[from:end]))
		i = (end + 4) / 4 * 4
	}
	return out
}

// DefaultOn is the key's default on a desktop, one of the names in
// XDG_CURRENT_DESKTOP, the first that has one of its own.
func (k Key) DefaultOn(desktops []string) any {
	for _, name := range desktops {
		if v, ok := k.desktop[name]; ok {
			return v
		}
	}
	return k.Default
}

// Accepts reports whether the key takes a value: it has its type, and is one of
// those it may be.
func (k Key) Accepts(v any) bool {
	switch k.Type {
	case "s":
		s, ok := v.(string)
		return ok && (k.Choices == nil || slices.Contains(k.Choices, s))
	case "b":
		_, ok := v.(bool)
		return ok
	case "d":
		f, ok := v.(float64)
		return ok && k.within(f)
	case "y", "n", "q", "i", "u", "x", "t":
		f, ok := number(v)
		return ok && k.within(f)
	}
	return true
}

func (k Key) within(f float64) bool {
	if len(k.Range) != 2 {
		return true
	}
	least, _ := number(k.Range[0])
	most, _ := number(k.Range[1])
	return f >= least && f <= most
}

func number(v any) (float64, bool) {
	switch v := v.(type) {
	case int64:
		return float64(v), true
	case uint64:
		return float64(v), true
	case float64:
		return v, true
	}
	return 0, false
}

// Entry is a value a backend holds.
type Entry struct {
	Value any
	Line  int  // of a key file, 1-based; 0 in a database
	Fit   bool // the key takes it; else its default stands
	Text  string
	// Read: the backend reads it, and asks nothing behind it.
	Read bool
}

// InKeyfile looks a key up in the key file of the backend of that name. Strings
// may lack their quotes (gkeyfilesettingsbackend.c).
func InKeyfile(f *keyfile.File, k Key) (Entry, bool) {
	e, ok := f.Lookup(GroupOf(k.Path))
	if !ok {
		return Entry{}, false
	}
	out := Entry{Line: e.Line, Text: e.Value}
	v, err := gvariant.ParseText(k.Type, e.Value)
	if err != nil && k.Type == "s" && !strings.HasPrefix(e.Value, `"`) && utf8.ValidString(e.Value) {
		v, err = e.Value, nil
	}
	out.Value, out.Read, out.Fit = v, err == nil, err == nil && k.Accepts(v)
	return out, true
}

// GroupOf is the group and the key under which the key file backend keeps a path.
func GroupOf(p string) (group, key string) {
	at := strings.LastIndexByte(p, '/')
	return cmp.Or(strings.Trim(p[:at+1], "/"), "root"), p[at+1:]
}

// InDatabase looks a key up in a database of dconf.
func InDatabase(t *gvdb.Table, k Key) (Entry, bool) {
	kind, data, _ := t.Raw(k.Path)
	return OfValue(kind, data, k)
}

// OfValue is a value of a type, by its bytes, as a database has it for a key; found is
// false for no type.
func OfValue(kind string, data []byte, k Key) (e Entry, found bool) {
	if kind == "" {
		return Entry{}, false
	}
	v, err := gvariant.Parse(kind, data)
	// A value stands in a variant of its own.
	out := Entry{Value: v, Text: gvariant.Text(v), Read: true}
	out.Fit = err == nil && (kind == k.Type || kind == "v") && k.Accepts(v)
	return out, true
}

// Locked reports whether a database of an administrator locks the key.
func Locked(t *gvdb.Table, k Key) bool {
	locks, ok := t.Table(".locks")
	return ok && locks.Has(k.Path)
}

// Profile lists what a profile of dconf names, the strongest first:
// "user-db:NAME", "system-db:NAME", "file-db:PATH" (dconf(7)).
func Profile(text string) []string {
	var out []string
	for line := range strings.Lines(text) {
		line, _, _ = strings.Cut(line, "#")
		if line = strings.TrimSpace(line); line != "" {
			out = append(out, line)
		}
	}
	return out
}
