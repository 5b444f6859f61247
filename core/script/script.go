// Package script writes plans for people who carry them out without Ivelt.
package script

import (
	"encoding/base64"
	"fmt"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/parcel"
	"ivelt/core/plan"
	"ivelt/core/shown"
)

// Of writes a plan as a POSIX shell script that does the same by hand, with
// nothing but the usual tools: it checks every precondition first, keeps the
// originals, and leaves a script beside them that goes back. What a plan copies
// lies beside the script, see [Bundle].
func Of(d *desk.Desk, p plan.Plan) (string, error) {
	w := writer{d: d, p: p}
	p.Ops = slices.DeleteFunc(slices.Clone(p.Ops), func(op plan.Op) bool { return op.Kind == plan.AsIs })
	w.p = p
	for _, op := range p.Ops {
		if op.Before.Kind == "other" {
			return "", fmt.Errorf("%s is neither a file, nor a folder, nor a link", d.Show(op.Path))
		}
		w.parcels = w.parcels || op.Kind == plan.Copy
		w.settings = w.settings || op.Kind == plan.Set
		w.trees = w.trees || op.Kind == plan.Copy || op.Before.Kind == "tree" && !op.IsFolder()
	}
	w.about()
	w.helpers()
	w.conditions()
	w.wayBack()
	for i, op := range p.Ops {
		w.operation(i, op)
	}
	w.caches()
	w.say("")
	w.say(`echo "Done. To go back: sh $undo"`)
	return w.String(), nil
}

// writer writes the script of one plan.
type writer struct {
	strings.Builder
	d              *desk.Desk
	p              plan.Plan
	trees, parcels bool // whole folders are looked at, or copied
	settings       bool // some of the desktop's are set
}

func (w *writer) say(format string, args ...any) { fmt.Fprintf(w, format+"\n", args...) }

// administers reports whether all that is done needs an administrator.
func (w *writer) administers() bool {
	return !slices.ContainsFunc(w.p.Ops, func(op plan.Op) bool { return !op.Admin })
}

// about says what the script does and how it is used.
func (w *writer) about() {
	w.say("#!/bin/sh")
	w.say("# %s", comment(w.p.Title))
	w.say("#")
	for _, op := range w.p.Ops {
		w.say("# %s %s", verbs[op.Kind], w.d.Show(op.Path))
		w.say("#     to %s; seen: %s", comment(op.Why), op.Effect)
		for _, l := range op.Loses {
			w.say("#     cannot be kept: %s", comment(l.Says()))
		}
	}
	for _, bl := range w.p.Blocked {
		w.say("#")
		w.say("# Not done: %s %s", comment(bl.Why), comment(bl.Remedy))
	}
	w.say("#")
	who := "person whose desk it is"
	if w.administers() {
		who = "administrator"
	}
	w.say("# Read it, then run it with sh as the %s. It stops before", who)
	w.say("# the first change if anything is not as it was when this was written. What it")
	w.say("# replaces is kept; how to go back is said at the end.")
	if w.parcels {
		w.say("# What is copied is in the folder pieces beside this script.")
	}
	w.say("#")
	w.say("# shellcheck disable=SC2016 # what is in single quotes is for the way back")
	w.say("set -eu")
}

// helpers writes the functions that look at what is there.
func (w *writer) helpers() {
	w.say(`root=${ROOT:-} # set only where the system is not at /`)
	w.say(`: "$root"`)
	if w.administers() {
		w.say(`kept=$root/var/lib/ivelt/by-hand/%s`, w.p.ID)
	} else {
		w.say(`kept=${XDG_STATE_HOME:-"$HOME/.local/state"}/ivelt/by-hand/%s`, w.p.ID)
	}
	w.say("")
	w.say("stop() { echo \"$1 Nothing was changed.\" >&2; exit 1; }")
	w.say(`is() { if [ ! -f "$2" ] || [ "$(sha256sum <"$2" | cut -d ' ' -f 1)" != "$1" ]; then stop "$2 is not as it was."; fi; }`)
	w.say(`none() { if [ -e "$1" ] || [ -L "$1" ]; then stop "There is something at $1 already."; fi; }`)
	w.say(`link() { if [ ! -L "$2" ] || [ "$(readlink "$2")" != "$1" ]; then stop "$2 is not the link it was."; fi; }`)
	if w.settings {
		w.say(`command -v dconf >/dev/null || stop "The command dconf is missing."`)
		w.say(`value() { if [ "$(dconf read "$2")" != "$1" ]; then stop "The setting $2 is not as it was."; fi; }`)
	}
	if w.trees {
		w.say("")
		w.say("# What is in a folder, as one number: its folders, its links, and its files with")
		w.say("# the sum of each.")
		w.say("%s", manifestOf)
		w.say(`tree() { if [ ! -d "$2" ] || [ "$(manifest "$2")" != "$1" ]; then stop "$2 is not as it was."; fi; }`)
	}
	if w.parcels {
		w.say(`here=$(cd "$(dirname "$0")" && pwd)`)
	}
}

// conditions writes what has to be so before the first change.
func (w *writer) conditions() {
	w.say("")
	w.say("# Everything has to be as it was.")
	w.say(`[ ! -e "$kept" ] || stop "This was run before: $kept is there."`)
	made := map[string]bool{}
	for _, op := range w.p.Ops {
		if made[op.Path] {
			continue
		}
		made[op.Path] = true
		if _, ok := desk.PackageOf(op.Path); ok {
			continue // the package manager looks itself
		}
		if setting, ok := desk.Setting(op.Path); ok {
			w.say("value %s %s", plan.Quote(op.Before.Says()), plan.Quote(setting))
			continue
		}
		switch at := place(w.d, op.Path); {
		case op.Before.Kind == "file":
			w.say("is %s %s", op.Before.Hash, at)
		case op.Before.Kind == "link":
			w.say("link %s %s", plan.Quote(op.Before.Hash), at)
		case op.Before.Kind != "tree":
			w.say("none %s", at)
		case !op.IsFolder(): // an empty one goes only if nothing is in it by then
			w.say("tree %s %s", op.Before.Hash, at)
		}
	}
	for i, op := range w.p.Ops {
		if op.Kind == plan.Copy {
			w.say(`[ -f "$here/pieces/%d.tar" ] || stop "$here/pieces/%d.tar is missing."`, i, i)
		}
	}
}

// wayBack writes the function that writes down the script that goes back.
func (w *writer) wayBack() {
	w.say("")
	w.say(`mkdir -p "$kept"`)
	w.say(`undo=$kept/undo.sh`)
	w.say(`steps=$kept/steps # the way back, the last change first`)
	w.say(`: >"$steps"`)
	w.say(`back() { printf '%%s\n' "$1" | cat - "$steps" >"$steps.new" && mv "$steps.new" "$steps"; }`)
	w.say(`finish() {`)
	w.say(`	{`)
	w.say(`		echo '#!/bin/sh'`)
	w.say(`		echo 'set -eu'`)
	w.say(`		echo 'kept=$(cd "$(dirname "$0")" && pwd)'`)
	w.say(`		echo 'root=${ROOT:-}; : "$root"'`)
	w.say(`		echo 'same() { [ "$(sha256sum <"$2" | cut -d " " -f 1)" = "$1" ] || { echo "$2 was changed since, so it stays. Put it right by hand: the original is in $kept." >&2; exit 1; }; }'`)
	if w.settings {
		w.say(`		echo 'value() { [ "$(dconf read "$2")" = "$1" ] || { echo "The setting $2 was changed since, so it stays." >&2; exit 1; }; }'`)
	}
	if w.trees {
		for line := range strings.Lines(manifestOf + "\n") {
			w.say(`		printf '%%s\n' %s`, plan.Quote(strings.TrimSuffix(line, "\n")))
		}
		w.say(`		echo 'whole() { [ "$(manifest "$2")" = "$1" ] || { echo "Something in $2 was changed since, so it stays." >&2; exit 1; }; }'`)
	}
	w.say(`		cat "$steps"`)
	w.say(`	} >"$undo"`)
	w.say(`}`)
}

// operation writes one; the way back is written down before the change is made.
func (w *writer) operation(i int, op plan.Op) {
	if setting, ok := desk.Setting(op.Path); ok {
		w.setting(setting, op)
		return
	}
	if op.Kind == plan.Package {
		w.packages(i)
		return
	}
	at := place(w.d, op.Path)
	w.say("")
	w.say("# %s %s", verbs[op.Kind], w.d.Show(op.Path))
	if op.Before.Kind == "file" {
		w.say(`cp -a %s "$kept/%d"`, at, i)
	}
	w.back(i, op, at)
	w.say("finish")
	switch op.Kind {
	case plan.Folder:
		w.say("mkdir %s", at)
	case plan.Link:
		w.say("ln -s %s %s", plan.Quote(op.After.Hash), at)
	case plan.Copy:
		w.copy(i, op, at)
	case plan.Remove:
		w.remove(i, op, at)
	case plan.Write:
		w.write(op, at)
	}
}

// packages has the package manager do all that it is to do, at the first of it.
func (w *writer) packages(i int) {
	if i != slices.IndexFunc(w.p.Ops, func(op plan.Op) bool { return op.Kind == plan.Package }) || w.d.Manager == nil {
		return
	}
	for _, away := range []bool{true, false} {
		of := w.p.Packages(away)
		if len(of) == 0 {
			continue
		}
		w.say("")
		w.say("# The package manager; it says itself what it does.")
		w.say("back %s", plan.Quote(w.d.Manager.Command(of, !away)))
		w.say("finish")
		w.say("%s", w.d.Manager.Command(of, away))
	}
}

// setting sets one of the desktop's settings, or takes it out.
func (w *writer) setting(path string, op plan.Op) {
	to := func(s plan.State) string {
		if s.Kind == "" {
			return "dconf reset " + plan.Quote(path)
		}
		return "dconf write " + plan.Quote(path) + " " + plan.Quote(s.Says())
	}
	back := fmt.Sprintf("value %s %s; %s", plan.Quote(op.After.Says()), plan.Quote(path), to(op.Before))
	w.say("")
	w.say("# %s %s", verbs[op.Kind], w.d.Show(op.Path))
	w.say("back %s", plan.Quote(back))
	w.say("finish")
	w.say("%s", to(op.After))
}

func (w *writer) back(i int, op plan.Op, at string) {
	switch {
	case op.Before.Kind == "file" && op.Kind == plan.Write:
		w.say(`back 'same %s %s; cp -a "$kept/%d" %s'`, op.After.Hash, plan.Inner(at), i, plan.Inner(at))
	case op.Before.Kind == "file":
		w.say(`back 'cp -a "$kept/%d" %s'`, i, plan.Inner(at))
	case op.Before.Kind == "link":
		w.say(`back 'rm -f %[1]s; ln -s '%[2]s' %[1]s'`, plan.Inner(at), plan.Requote(plan.Quote(op.Before.Hash)))
	case op.IsFolder() && op.Kind == plan.Remove:
		w.say(`back 'mkdir -p %s'`, plan.Inner(at))
	case op.Before.Kind == "tree":
		w.say(`back 'mv "$kept/%d" %s'`, i, plan.Inner(at))
	case op.Kind == plan.Copy:
		w.say(`back 'whole %s %s; rm -rf %s'`, op.After.Hash, plan.Inner(at), plan.Inner(at))
	case op.Kind == plan.Folder:
		w.say(`back 'rmdir %s 2>/dev/null || echo "something else is in it by now, and it stays: "%s'`, plan.Inner(at), plan.Inner(at))
	case op.Kind == plan.Write:
		w.say(`back 'same %s %s; rm -f %s'`, op.After.Hash, plan.Inner(at), plan.Inner(at))
	default:
		w.say(`back 'rm -f %s'`, plan.Inner(at))
	}
}

func (w *writer) copy(i int, op plan.Op, at string) {
	w.say(`new=%s.new-by-hand`, at)
	w.say(`mkdir "$new"`)
	if op.Source.Kept != "" { // with what its files had besides
		w.say(`tar --xattrs --xattrs-include='*' -xpf "$here/pieces/%d.tar" -C "$new"`, i)
	} else {
		w.say(`tar -xpf "$here/pieces/%d.tar" -C "$new"`, i)
	}
	w.say(`[ "$(manifest "$new")" = %s ] || { rm -rf "$new"; echo "$here/pieces/%d.tar is not what was looked at. What was done before can be undone: sh $undo" >&2; exit 1; }`, op.After.Hash, i)
	w.say(`mv "$new" %s`, at)
}

func (w *writer) remove(i int, op plan.Op, at string) {
	switch {
	case op.IsFolder():
		w.say("rmdir %s 2>/dev/null || : # it stays if something else is in it", at)
	case op.Before.Kind == "tree":
		w.say(`mv %s "$kept/%d"`, at, i)
	default:
		w.say("rm -f %s", at)
	}
}

func (w *writer) write(op plan.Op, at string) {
	w.say(`new=%s.new-by-hand`, at)
	if op.Before.Kind == "file" { // who owns it, and who may read it, stays
		w.say(`cp -a %s "$new"`, at)
		w.say(`chmod u+w "$new"`)
	}
	w.content(op.Content)
	w.say(`chmod %04o "$new"`, op.After.Mode.Perm())
	w.say(`mv "$new" %s`, at)
}

// caches makes programs look into the folders of icons and fonts anew.
func (w *writer) caches() {
	for _, c := range w.p.Caches() {
		at := place(w.d, c.Folder)
		w.say("")
		w.say("# What programs remember of %s.", w.d.Show(c.Folder))
		if c.Kind == string(parcel.Font) {
			w.say(`if command -v fc-cache >/dev/null; then fc-cache %s || :; fi`, at)
		} else {
			w.say(`if [ -e %s/icon-theme.cache ] && command -v gtk-update-icon-cache >/dev/null; then gtk-update-icon-cache -q -f %s || :; fi`, at, at)
		}
	}
}

// manifestOf is a shell function that tells trees apart as a [State]'s hash does.
const manifestOf = `manifest() (
	cd "$1"
	{
		find . -mindepth 1 -type d -printf 'd %P\n'
		find . -type l -printf 'l %P %l\n'
		find . -type f -exec sha256sum {} + | sed 's|^\([0-9a-f]*\)  \./\(.*\)$|f \2 \1|'
	} | LC_ALL=C sort | head -c -1 | sha256sum | cut -d ' ' -f 1
)`

var verbs = map[plan.Kind]string{plan.Folder: "Make the folder", plan.Write: "Write", plan.Link: "Link", plan.Remove: "Remove", plan.Copy: "Copy", plan.Set: "Set the", plan.Package: "Install or take away the"}

// content writes a file's new contents: as they are if they are plain text,
// else encoded.
func (w *writer) content(content []byte) {
	text := len(content) > 0 && content[len(content)-1] == '\n' && shown.Plain(content)
	end := "END OF FILE"
	for text && slices.Contains(strings.Split(string(content), "\n"), end) {
		end += " X"
	}
	if text {
		fmt.Fprintf(w, "cat >\"$new\" <<'%s'\n%s%s\n", end, content, end)
		return
	}
	w.say("# Its line ends or signs are none that a script can hold, so it is encoded.\nbase64 -d >\"$new\" <<'END'")
	encoded := base64.StdEncoding.EncodeToString(content)
	for len(encoded) > 76 {
		fmt.Fprintln(w, encoded[:76])
		encoded = encoded[76:]
	}
	w.say("%s\nEND", encoded)
}

// place is a path of the desk as a word of the script.
func place(d *desk.Desk, p string) string {
	if rest, ok := strings.CutPrefix(p, d.HomePath+"/"); ok {
		return `"$HOME"/` + plan.Quote(rest)
	}
	return `"$root"/` + plan.Quote(strings.TrimPrefix(path.Clean(p), "/"))
}

// comment is a text in one line.
func comment(s string) string { return strings.Join(strings.Fields(s), " ") }
