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
	trees, parcels := false, false
	for _, op := range p.Ops {
		tree := op.Kind == plan.Copy || op.Before.Kind == "tree" && !op.IsFolder()
		trees, parcels = trees || tree, parcels || op.Kind == plan.Copy
		if op.Before.Kind == "other" {
			return "", fmt.Errorf("%s is neither a file, nor a folder, nor a link", d.Show(op.Path))
		}
	}
	var b strings.Builder
	say := func(format string, args ...any) { fmt.Fprintf(&b, format+"\n", args...) }
	say("#!/bin/sh")
	say("# %s", comment(p.Title))
	say("#")
	for _, op := range p.Ops {
		say("# %s %s", verbs[op.Kind], d.Show(op.Path))
		say("#     to %s; seen: %s", comment(op.Why), op.Effect)
		for _, l := range op.Loses {
			say("#     cannot be kept: %s", comment(l.Says()))
		}
	}
	for _, bl := range p.Blocked {
		say("#")
		say("# Not done: %s %s", comment(bl.Why), comment(bl.Remedy))
	}
	say("#")
	say("# Read it, then run it with sh as the person whose desk it is. It stops before")
	say("# the first change if anything is not as it was when this was written. What it")
	say("# replaces is kept; how to go back is said at the end.")
	if parcels {
		say("# What is copied is in the folder pieces beside this script.")
	}
	say("#")
	say("# shellcheck disable=SC2016 # what is in single quotes is for the way back")
	say("set -eu")
	say(`root=${ROOT:-} # set only where the system is not at /`)
	say(`: "$root"`)
	say(`kept=${XDG_STATE_HOME:-"$HOME/.local/state"}/ivelt/by-hand/%s`, p.ID)
	say("")
	say("stop() { echo \"$1 Nothing was changed.\" >&2; exit 1; }")
	say(`is() { if [ ! -f "$2" ] || [ "$(sha256sum <"$2" | cut -d ' ' -f 1)" != "$1" ]; then stop "$2 is not as it was."; fi; }`)
	say(`none() { if [ -e "$1" ] || [ -L "$1" ]; then stop "There is something at $1 already."; fi; }`)
	say(`link() { if [ ! -L "$2" ] || [ "$(readlink "$2")" != "$1" ]; then stop "$2 is not the link it was."; fi; }`)
	if trees {
		say("")
		say("# What is in a folder, as one number: its folders, its links, and its files with")
		say("# the sum of each.")
		say("%s", manifestOf)
		say(`tree() { if [ ! -d "$2" ] || [ "$(manifest "$2")" != "$1" ]; then stop "$2 is not as it was."; fi; }`)
	}
	if parcels {
		say(`here=$(cd "$(dirname "$0")" && pwd)`)
	}
	say("")
	say("# Everything has to be as it was.")
	say(`[ ! -e "$kept" ] || stop "This was run before: $kept is there."`)
	made := map[string]bool{}
	for _, op := range p.Ops {
		if made[op.Path] {
			continue
		}
		made[op.Path] = true
		switch at := place(d, op.Path); op.Before.Kind {
		case "file":
			say("is %s %s", op.Before.Hash, at)
		case "link":
			say("link %s %s", plan.Quote(op.Before.Hash), at)
		case "tree":
			if op.IsFolder() {
				continue // it goes only if nothing is in it by then
			}
			say("tree %s %s", op.Before.Hash, at)
		default:
			say("none %s", at)
		}
	}
	for i, op := range p.Ops {
		if op.Kind == plan.Copy {
			say(`[ -f "$here/pieces/%d.tar" ] || stop "$here/pieces/%d.tar is missing."`, i, i)
		}
	}
	say("")
	say(`mkdir -p "$kept"`)
	say(`undo=$kept/undo.sh`)
	say(`steps=$kept/steps # the way back, the last change first`)
	say(`: >"$steps"`)
	say(`back() { printf '%%s\n' "$1" | cat - "$steps" >"$steps.new" && mv "$steps.new" "$steps"; }`)
	say(`finish() {`)
	say(`	{`)
	say(`		echo '#!/bin/sh'`)
	say(`		echo 'set -eu'`)
	say(`		echo 'kept=$(cd "$(dirname "$0")" && pwd)'`)
	say(`		echo 'root=${ROOT:-}; : "$root"'`)
	say(`		echo 'same() { [ "$(sha256sum <"$2" | cut -d " " -f 1)" = "$1" ] || { echo "$2 was changed since, so it stays. Put it right by hand: the original is in $kept." >&2; exit 1; }; }'`)
	if trees {
		for line := range strings.Lines(manifestOf + "\n") {
			say(`		printf '%%s\n' %s`, plan.Quote(strings.TrimSuffix(line, "\n")))
		}
		say(`		echo 'whole() { [ "$(manifest "$2")" = "$1" ] || { echo "Something in $2 was changed since, so it stays." >&2; exit 1; }; }'`)
	}
	say(`		cat "$steps"`)
	say(`	} >"$undo"`)
	say(`}`)
	for i, op := range p.Ops {
		at := place(d, op.Path)
		say("")
		say("# %s %s", verbs[op.Kind], d.Show(op.Path))
		if op.Before.Kind == "file" {
			say(`cp -a %s "$kept/%d"`, at, i)
		}
		// The way back is written down before the change is made.
		switch {
		case op.Before.Kind == "file":
			if op.Kind == plan.Write {
				say(`back 'same %s %s; cp -a "$kept/%d" %s'`, op.After.Hash, plan.Inner(at), i, plan.Inner(at))
			} else {
				say(`back 'cp -a "$kept/%d" %s'`, i, plan.Inner(at))
			}
		case op.Before.Kind == "link":
			say(`back 'rm -f %[1]s; ln -s '%[2]s' %[1]s'`, plan.Inner(at), plan.Requote(plan.Quote(op.Before.Hash)))
		case op.IsFolder() && op.Kind == plan.Remove:
			say(`back 'mkdir -p %s'`, plan.Inner(at))
		case op.Before.Kind == "tree":
			say(`back 'mv "$kept/%d" %s'`, i, plan.Inner(at))
		case op.Kind == plan.Copy:
			say(`back 'whole %s %s; rm -rf %s'`, op.After.Hash, plan.Inner(at), plan.Inner(at))
		case op.Kind == plan.Folder:
			say(`back 'rmdir %s 2>/dev/null || echo "something else is in it by now, and it stays: "%s'`, plan.Inner(at), plan.Inner(at))
		case op.Kind == plan.Write:
			say(`back 'same %s %s; rm -f %s'`, op.After.Hash, plan.Inner(at), plan.Inner(at))
		default:
			say(`back 'rm -f %s'`, plan.Inner(at))
		}
		say("finish")
		switch op.Kind {
		case plan.Folder:
			say("mkdir %s", at)
		case plan.Link:
			say("ln -s %s %s", plan.Quote(op.After.Hash), at)
		case plan.Copy:
			say(`new=%s.new-by-hand`, at)
			say(`mkdir "$new"`)
			if op.Source.Kept != "" { // with what its files had besides
				say(`tar --xattrs --xattrs-include='*' -xpf "$here/pieces/%d.tar" -C "$new"`, i)
			} else {
				say(`tar -xpf "$here/pieces/%d.tar" -C "$new"`, i)
			}
			say(`[ "$(manifest "$new")" = %s ] || { rm -rf "$new"; echo "$here/pieces/%d.tar is not what was looked at. What was done before can be undone: sh $undo" >&2; exit 1; }`, op.After.Hash, i)
			say(`mv "$new" %s`, at)
		case plan.Remove:
			switch {
			case op.IsFolder():
				say("rmdir %s 2>/dev/null || : # it stays if something else is in it", at)
			case op.Before.Kind == "tree":
				say(`mv %s "$kept/%d"`, at, i)
			default:
				say("rm -f %s", at)
			}
		case plan.Write:
			say(`new=%s.new-by-hand`, at)
			if op.Before.Kind == "file" { // who owns it, and who may read it, stays
				say(`cp -a %s "$new"`, at)
				say(`chmod u+w "$new"`)
			}
			writeContent(&b, op.Content)
			say(`chmod %04o "$new"`, op.After.Mode.Perm())
			say(`mv "$new" %s`, at)
		}
	}
	for _, c := range p.Caches() {
		at := place(d, c.Folder)
		say("")
		say("# What programs remember of %s.", d.Show(c.Folder))
		if c.Kind == string(parcel.Font) {
			say(`if command -v fc-cache >/dev/null; then fc-cache %s || :; fi`, at)
		} else {
			say(`if [ -e %s/icon-theme.cache ] && command -v gtk-update-icon-cache >/dev/null; then gtk-update-icon-cache -q -f %s || :; fi`, at, at)
		}
	}
	say("")
	say(`echo "Done. To go back: sh $undo"`)
	return b.String(), nil
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

var verbs = map[plan.Kind]string{plan.Folder: "Make the folder", plan.Write: "Write", plan.Link: "Link", plan.Remove: "Remove", plan.Copy: "Copy"}

// writeContent writes a file's new contents: as they are if they are plain text,
// else encoded.
func writeContent(b *strings.Builder, content []byte) {
	text := len(content) > 0 && content[len(content)-1] == '\n' && shown.Plain(content)
	end := "END OF FILE"
	for text && slices.Contains(strings.Split(string(content), "\n"), end) {
		end += " X"
	}
	if text {
		fmt.Fprintf(b, "cat >\"$new\" <<'%s'\n%s%s\n", end, content, end)
		return
	}
	fmt.Fprintf(b, "# Its line ends or signs are none that a script can hold, so it is encoded.\nbase64 -d >\"$new\" <<'END'\n")
	encoded := base64.StdEncoding.EncodeToString(content)
	for len(encoded) > 76 {
		fmt.Fprintln(b, encoded[:76])
		encoded = encoded[76:]
	}
	fmt.Fprintf(b, "%s\nEND\n", encoded)
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
