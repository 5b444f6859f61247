package reading

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/gsettings"
	"ivelt/core/gvariant"
	"ivelt/core/gvdb"
	"ivelt/core/keyfile"
	"ivelt/core/say"
)

// askSettings asks GLib's settings: what the backend holds, strongest first, and
// the schema's own default.
func askSettings(d *desk.Desk, f desk.Facet, src desk.Source) []Link {
	of := originOf(src)
	key, file, ok := SchemaKey(d, src.Group, src.Key)
	if !ok {
		return []Link{Link{Origin: of, State: Absent}.noted(say.Of("reading/step/no-schema-name-installed"))}
	}
	out := atSignIn(d, f, src, key)
	read, has := false, false // the backend has read one, and the key takes it
	held := func(p string, e gsettings.Entry, found bool, locked bool) {
		step := Link{Origin: Origin{Kind: "setting", Path: p, Line: e.Line, Key: of.Key}, State: Silent, Locked: locked}
		switch {
		case !found:
		case locked:
			step.say(say.Of("reading/step/passed-over-administrator-has-locked", e.Text))
		case !e.Fit:
			read = read || e.Read
			step.say(say.Of("reading/step/nothing-setting-takes-passed-over", e.Text))
		default:
			step = step.heard(f, src, gvariant.Plain(e.Value))
			if read && step.State == Wins {
				step.State = Overruled
			}
			has = has || !read
			read = true
		}
		out = append(out, step)
	}
	switch Backend(d) {
	case "keyfile":
		locks := keyfileLocks(d)
		for _, p := range []string{KeyfileOf(d), "/etc/glib-2.0/settings/defaults"} {
			kf, step := openKeyfile(d, p)
			if kf == nil {
				if step.Origin.Key = of.Key; p == KeyfileOf(d) || step.State == Broken {
					out = append(out, step)
				}
				continue
			}
			e, found := gsettings.InKeyfile(kf, key)
			held(p, e, found, locks[key.Path] && p == KeyfileOf(d))
		}
	case "dconf":
		locked := -1 // nothing before the last database that locks the key counts
		dbs := databases(d)
		for i, db := range dbs {
			if i > 0 && db.table != nil && gsettings.Locked(db.table, key) {
				locked = i
			}
		}
		for i, db := range dbs {
			if v, told := d.WouldBe(key.Path); told && i == 0 && db.table == nil && db.state == Absent {
				e, found := gsettings.OfValue(v.Type, []byte(v.Data), key)
				held(db.path, e, found, i < locked)
				continue
			}
			if db.table == nil {
				out = append(out, Link{Origin: Origin{Kind: "setting", Path: db.path, Key: of.Key}, State: db.state, Note: db.note})
				continue
			}
			e, found := gsettings.InDatabase(db.table, key)
			if v, told := d.WouldBe(key.Path); told && i == 0 {
				e, found = gsettings.OfValue(v.Type, []byte(v.Data), key)
			}
			held(db.path, e, found, i < locked)
		}
	}
	last := Link{Origin: Origin{Kind: "setting", Path: file, Key: of.Key}}.heard(f, src, gvariant.Plain(key.DefaultOn(desktops(d))))
	if last.State == Wins {
		last.Note = "the schema's own default"
		if has {
			last.State = Overruled
		}
	}
	return append(out, last)
}

// Locked reports whether an administrator has locked a setting, so that nobody else can
// set it.
func Locked(d *desk.Desk, s desk.Surface, f desk.Facet, src desk.Source) bool {
	return slices.ContainsFunc(Ask(d, s, f, src), func(step Link) bool { return step.Locked })
}

// SchemaKey finds a key among the schemas that are installed on a desk, and the
// compiled file it is in (GLib, gsettingsschema.c: GSETTINGS_SCHEMA_DIR, the
// data home, the data folders).
func SchemaKey(d *desk.Desk, schema, key string) (gsettings.Key, string, bool) {
	var dirs []string
	if v, ok := d.Var("GSETTINGS_SCHEMA_DIR"); ok {
		dirs = strings.Split(v.Value, ":")
	}
	dirs = append(dirs, d.Expand("{data}/glib-2.0/schemas")...)
	for _, dir := range append(dirs, d.Expand("{data-dirs}/glib-2.0/schemas")...) {
		file := path.Join(dir, "gschemas.compiled")
		b, err := fs.ReadFile(d.Tree(), desk.Name(file))
		if err != nil {
			continue
		}
		schemas, err := gsettings.OpenSchemas(b)
		if err != nil {
			continue
		}
		if k, ok := schemas.Key(schema, key); ok {
			return k, file, true
		}
	}
	return gsettings.Key{}, "", false
}

// Backend is what keeps GLib's settings on a desk: what GSETTINGS_BACKEND names,
// else dconf where it is installed, else a key file (seen in GLib 2.74).
func Backend(d *desk.Desk) string {
	if v, ok := d.Var("GSETTINGS_BACKEND"); ok && v.Value != "" {
		return v.Value
	}
	for _, pattern := range []string{"usr/lib/*/gio/modules/libdconfsettings.so", "usr/lib*/gio/modules/libdconfsettings.so"} {
		if found, _ := fs.Glob(d.Tree(), pattern); found != nil {
			return "dconf"
		}
	}
	return "keyfile"
}

// KeyfileOf is the file of the key file backend.
func KeyfileOf(d *desk.Desk) string { return d.First("{config}/glib-2.0/settings/keyfile") }

func keyfileLocks(d *desk.Desk) map[string]bool {
	b, err := fs.ReadFile(d.Tree(), "etc/glib-2.0/settings/locks")
	if err != nil {
		return nil
	}
	out := map[string]bool{}
	for line := range strings.Lines(string(b)) {
		out[strings.TrimRight(line, "\n")] = true
	}
	return out
}

func openKeyfile(d *desk.Desk, p string) (*keyfile.File, Link) {
	step := Link{Origin: Origin{Kind: "setting", Path: p}, State: Absent}
	b, err := d.Tree().ReadSettings(desk.Name(p))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, step
	}
	var kf *keyfile.File
	if err == nil {
		kf, err = keyfile.Parse(b)
	}
	if err != nil {
		step.State, step.Note = Broken, reason(err)
		if se := new(keyfile.SyntaxError); errors.As(err, &se) {
			step.Line, step.Note = se.Line, err.Error()
		}
		return nil, step
	}
	return kf, step
}

// database is one of those a profile of dconf names.
type database struct {
	path  string
	table *gvdb.Table // nil if it cannot be read
	state State
	note  string
}

// OwnDatabase is the person's own database of dconf by the desk's profile: its name, and
// its path on the desk; "" if dconf does not keep the settings, or the profile begins with
// another.
func OwnDatabase(d *desk.Desk) (name, file string) {
	if Backend(d) != "dconf" {
		return "", ""
	}
	first := profileOf(d)
	if len(first) == 0 {
		return "", ""
	}
	name, ok := strings.CutPrefix(first[0], "user-db:")
	if !ok {
		return "", ""
	}
	return name, d.First("{config}/dconf/" + name)
}

// profileOf lists what the desk's profile names, the person's own database alone if there
// is none.
func profileOf(d *desk.Desk) []string {
	for _, p := range profiles(d) {
		if b, err := fs.ReadFile(d.Tree(), desk.Name(p)); err == nil {
			return gsettings.Profile(string(b))
		}
	}
	return []string{"user-db:user"}
}

// databases are those of the desk's profile (dconf(7)); without a profile it is
// the person's alone.
func databases(d *desk.Desk) []database {
	var out []database
	for _, line := range profileOf(d) {
		kind, name, _ := strings.Cut(line, ":")
		db := database{state: Absent}
		switch kind {
		case "user-db":
			db.path = d.First("{config}/dconf/" + name)
		case "system-db":
			db.path = "/etc/dconf/db/" + name
		case "file-db":
			db.path = name
		default: // a service keeps it, or nobody knows it
			out = append(out, database{path: "", state: Broken, note: fmt.Sprintf("%q is no database that can be read here", line)})
			continue
		}
		b, err := fs.ReadFile(d.Tree(), desk.Name(db.path))
		if err == nil {
			db.table, err = gvdb.Open(b)
		}
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			db.state, db.note = Broken, reason(err)
		}
		out = append(out, db)
	}
	return out
}

func profiles(d *desk.Desk) []string {
	if v, ok := d.Var("DCONF_PROFILE"); ok && v.Value != "" {
		if path.IsAbs(v.Value) {
			return []string{v.Value}
		}
		out := []string{"/etc/dconf/profile/" + v.Value}
		return append(out, d.Expand("{data-dirs}/dconf/profile/"+v.Value)...)
	}
	var out []string
	if v, ok := d.Var("XDG_RUNTIME_DIR"); ok && path.IsAbs(v.Value) {
		out = append(out, path.Join(v.Value, "dconf/profile"))
	}
	out = append(out, "/etc/dconf/profile/user")
	return append(out, d.Expand("{data-dirs}/dconf/profile/user")...)
}

func desktops(d *desk.Desk) []string {
	v, _ := d.Var("XDG_CURRENT_DESKTOP")
	return strings.Split(v.Value, ":")
}
