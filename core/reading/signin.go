package reading

import (
	"path"
	"slices"
	"strings"

	"github.com/Masterminds/semver/v3"

	"ivelt/core/desk"
	"ivelt/core/desktopentry"
	"ivelt/core/gsettings"
	"ivelt/core/gvariant"
	"ivelt/core/say"
)

// atSignIn lists the programs started at sign-in that set a key of GLib's
// settings, "gsettings set SCHEMA KEY VALUE", by themselves or from a shell. It
// is not what is shown now, but will be.
func atSignIn(d *desk.Desk, f desk.Facet, src desk.Source, key gsettings.Key) []Link {
	var out []Link
	for _, start := range autostart(d) {
		for _, args := range commands(start.Args) {
			if len(args) < 5 || path.Base(args[0]) != "gsettings" || args[1] != "set" || args[2] != src.Group || args[3] != src.Key {
				continue
			}
			text := strings.Join(args[4:], " ")
			v, err := gvariant.ParseText(key.Type, text)
			if err != nil && key.Type == "s" {
				v = text
			}
			if !key.Accepts(v) {
				continue
			}
			step := Link{Origin: Origin{Kind: "file", Path: desk.Path(start.Path), Line: start.Line, Key: "Exec"}}.heard(f, src, gvariant.Plain(v))
			if step.State == Wins {
				step.State = SignIn
				step.say(say.Of("reading/step/sets-again-at-each-sign", src.Key))
				out = append(out, step)
			}
		}
	}
	return out
}

// Started reports whether a program is started at sign-in, and with that shows what it is told; of one
// whose descriptor does not say how, it is not asked.
func Started(d *desk.Desk, s desk.Surface) bool {
	args := strings.Fields(s.Starts)
	return len(args) == 0 || slices.ContainsFunc(autostart(d), func(start desktopentry.Start) bool {
		return slices.ContainsFunc(commands(start.Args), func(of []string) bool { return len(of) > 0 && path.Base(of[0]) == path.Base(args[0]) })
	})
}

// Unfit tells that a program does not come up under the version of another that the desk has;
// nothing if it does, or does not say.
func Unfit(d *desk.Desk, s desk.Surface) say.Message {
	if s.Needs == nil {
		return say.Message{}
	}
	said, version := Key(d, s.Needs.Range, s.Needs.Range.Key), Key(d, s.Needs.Of, s.Needs.Of.Key)
	if said == "" {
		return say.Message{}
	}
	v, err := semver.StrictNewVersion(version)
	fits, e := semver.NewConstraint(said)
	if err == nil && e == nil && fits.Check(v) {
		return say.Message{}
	}
	return say.Of("reading/does-not-come-up-under", s.Named(), said, version)
}

// autostart is what is started at sign-in, looked at once.
func autostart(d *desk.Desk) []desktopentry.Start {
	return desk.Once(d, "autostart", func() []desktopentry.Start {
		return desktopentry.Autostart(d.Tree(), d.Folders([]string{"{config}/autostart", "{config-dirs}/autostart"}), desktops(d))
	})
}

// commands are the simple commands of a command line; of "sh -c" those in it.
func commands(args []string) [][]string {
	if len(args) < 3 || path.Base(args[0]) != "sh" && path.Base(args[0]) != "bash" || args[1] != "-c" {
		return [][]string{args}
	}
	var out [][]string
	for part := range strings.FieldsFuncSeq(args[2], func(r rune) bool { return r == ';' || r == '&' || r == '\n' || r == '|' }) {
		out = append(out, desktopentry.Args(strings.ReplaceAll(part, "'", `"`)))
	}
	return out
}
