package desk

import (
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"
	"unicode"

	"ivelt/core/say"
)

// Reach is what a descriptor reaches for on a desk, as it is written in it: what it would
// read, what a plan would write for it, and what of that starts something.
type Reach struct {
	Reads  []string  `json:"reads"`  // files, with the place names of [Desk.Expand], each once
	Asks   []string  `json:"asks"`   // what it asks that is no file: variables, settings, another surface
	Looks  []string  `json:"looks"`  // folders in which it looks for pieces
	Writes []Written `json:"writes"` // what a plan sets for it
	Starts []Start   `json:"starts"` // what it starts, or may lead a program to start
}

// Written is one place that a plan sets.
type Written struct {
	Facet string `json:"facet"`
	Path  string `json:"path"` // or a setting of GLib's, its schema and key
	Group string `json:"group,omitempty"`
	Key   string `json:"key"`
}

// Start is one thing that starts something, by what the descriptor says.
type Start struct {
	Facet string `json:"facet,omitempty"` // "" for the program itself, at sign-in
	What  string `json:"what"`            // the command, or the place that holds one
}

// sources are all places that a descriptor names, each with the facet that it is of.
func (s Surface) sources(each func(facet string, src Source)) {
	for _, f := range s.Facets {
		for _, src := range append(slices.Clone(f.Sources), loadedOf(f)...) {
			each(f.Name, src)
		}
	}
	if s.Greeter != nil {
		each(FacetSession, s.Greeter.Session)
	}
	if n := s.Needs; n != nil {
		each("", n.Of)
		each("", n.Range)
	}
	for _, at := range slices.Concat(s.barFiles(), s.monitorFiles()) {
		each("", Source{Path: at, Format: "keyfile"})
	}
}

// Reach is what the descriptor reaches for.
func (s Surface) Reach() Reach {
	out := Reach{Reads: []string{}, Asks: []string{}, Looks: []string{}, Writes: []Written{}, Starts: []Start{}}
	once := func(list *[]string, what string) {
		if what != "" && !slices.Contains(*list, what) {
			*list = append(*list, what)
		}
	}
	s.sources(func(facet string, src Source) {
		switch {
		case src.Format == "follows", src.Format == "xsettings", src.Format == "env":
			once(&out.Asks, src.Format+" "+src.Path+src.Key)
		case src.Format == "gsettings":
			once(&out.Asks, src.Format+" "+src.Group+" "+src.Key)
		default:
			once(&out.Reads, src.Path)
		}
		if src.Write {
			w := Written{Facet: facet, Path: src.Path, Group: src.Group, Key: src.Key}
			out.Writes = append(out.Writes, w)
			if runs(src) {
				out.Starts = append(out.Starts, Start{facet, strings.TrimSpace(src.Group + " " + src.Key)})
			}
		}
	})
	for _, at := range s.Present {
		once(&out.Reads, at)
	}
	for _, l := range s.Looks {
		for _, at := range l.Folders {
			once(&out.Looks, at)
		}
	}
	for _, f := range s.Facets {
		for _, at := range slices.Concat(f.Lookup.Folders, f.Lookup.Engines, without("{name}", f.Lookup.Extensions)) {
			once(&out.Looks, at)
		}
		once(&out.Reads, f.Lookup.Own)
		if f.acts() && !slices.ContainsFunc(out.Starts, func(have Start) bool { return have.Facet == f.Name }) {
			out.Starts = append(out.Starts, Start{f.Name, "what " + f.Name + " says"})
		}
	}
	if s.Starts != "" {
		out.Starts = append(out.Starts, Start{What: s.Starts})
	}
	return out
}

// acts reports whether what a facet is set to starts something, or lets people in.
func (f Facet) acts() bool {
	return f.Acts || slices.Contains(acting, f.Name) || f.Lookup.Kind == "program" || slices.ContainsFunc(f.Sources, func(src Source) bool { return src.Write && runs(src) })
}

// running are last words in the names of keys whose values programs run, load or take in.
// Common practice, no source.
var running = []string{
	"alias", "askpass", "autostart", "bind", "binding", "browser", "click", "cmd", "editor", "fsmonitor", "helper", "hook", "hooks", "import", "imports",
	"include", "includes", "init", "keymap", "launch", "launcher", "load", "module", "modules", "opener", "pager", "plugin", "plugins", "preload",
	"program", "proxy", "run", "runner", "shell", "source", "startup", "trigger",
}

// runs reports whether a key's name says that its value is run.
func runs(src Source) bool {
	words := namesOf(src.Key)
	return len(words) > 0 && slices.Contains(running, words[len(words)-1]) || slices.ContainsFunc(words, func(word string) bool {
		return strings.Contains(word, "command") || strings.Contains(word, "exec") || strings.Contains(word, "script")
	})
}

// namesOf takes a key's name apart: "onClick-command" into on, click and command.
func namesOf(key string) []string {
	var parted strings.Builder
	before := ' '
	for _, r := range key {
		if unicode.IsUpper(r) && unicode.IsLower(before) || !unicode.IsLetter(r) {
			parted.WriteByte(' ')
		}
		if unicode.IsLetter(r) {
			parted.WriteRune(unicode.ToLower(r))
		}
		before = r
	}
	return strings.Fields(parted.String())
}

// ErrOverreach: a descriptor that came from others reaches for more than such may.
var ErrOverreach = errors.New("it reaches too far")

// guarded are what no descriptor of others may be called: what lies where programs keep
// their own under such a name is run at sign-in, holds keys, says which programs are run, or
// dresses all programs at once. Common practice, no source.
var guarded = []string{
	"applications", "autostart", "bash", "bin", "cshrc", "dbus", "dconf", "environment", "fish", "fontconfig", "fonts", "git", "glib", "gnupg", "gtk", "icons",
	"inputrc", "ivelt", "keyrings", "kshrc", "login", "logout", "menus", "mime", "mimeapps", "netrc", "pam", "pki", "profile", "qt", "ssh", "systemd", "tcshrc",
	"themes", "user", "xdefaults", "xdg", "xinit", "xinitrc", "xmodmap", "xprofile", "xresources", "xserverrc", "xsession", "xsessionrc", "zlogin", "zprofile", "zsh", "zshenv", "zshrc",
}

// ofPrograms are folders of the home in which programs have a file or a folder of their own
// name, besides the home itself, where it begins with a dot.
var ofPrograms = []string{"{config}", "{data}", "{state}", "~/.config", "~/.local/share", "~/.local/state", "~/.cache", "~/.local/bin"}

// ofPieces are folders of the home in which pieces of any maker lie.
var ofPieces = []string{".themes", ".icons", ".fonts", ".local/share", "Pictures"}

// called reports whether a file, a folder or a part of a setting's name is named after the
// surface: "lantern", "Lantern-2", "lantern.conf", "lanternrc".
func (s Surface) called(name string) bool {
	name = strings.ToLower(name)
	for _, id := range []string{s.ID, strings.ReplaceAll(s.ID, "-", ""), strings.ReplaceAll(s.ID, "-", "_")} {
		rest, ok := strings.CutPrefix(name, id)
		if ok && (rest == "" || rest == "rc" || !letterOrDigit(rest[0])) {
			return true
		}
	}
	return false
}

func letterOrDigit(c byte) bool {
	return 'a' <= c && c <= 'z' || '0' <= c && c <= '9' || c >= 0x80
}

// Bears reports whether a path of the desk is a program's own: in the home, in a folder
// or a file that bears the surface's ID and lies where programs keep such.
func (s Surface) Bears(d *Desk, p string) bool {
	if d.ofIvelt(p) {
		return false
	}
	for _, place := range ofPrograms {
		if name, in := below(Name(p), Name(d.First(place))); in && s.called(firstOf(name)) {
			return true
		}
	}
	name, in := below(Name(p), Name(d.HomePath))
	return in && strings.HasPrefix(name, ".") && s.called(firstOf(name[1:])) // ~/.lamprc
}

// firstOf is the first folder, or the file, of a path.
func firstOf(name string) string {
	first, _, _ := strings.Cut(name, "/")
	return first
}

// ofIvelt reports whether a path of the desk is one of Ivelt's own, or leads into them.
func (d *Desk) ofIvelt(p string) bool {
	for _, place := range ofPrograms {
		own := path.Join(d.First(place), "ivelt")
		if _, in := below(Name(p), Name(own)); in {
			return true
		}
	}
	return false
}

// Overreach are the things that a descriptor asks for which one that came from others may
// not have, each wrapping [ErrOverreach]: in the home it reads and writes what bears its own
// name alone, it writes nowhere else, and it is in nobody's place.
func (s Surface) Overreach(d *Desk) (out []error) {
	too := func(format string, args ...any) {
		out = append(out, say.Errorf("%w: %w", ErrOverreach, fmt.Errorf(format, args...)))
	}
	if plain := strings.ReplaceAll(s.ID, "-", ""); len(plain) < 3 || slices.ContainsFunc(guarded, s.called) || slices.Contains(guarded, strings.SplitN(s.ID, "-", 2)[0]) {
		too("%s is no name of a program that is dressed: what lies under it is other programs’, or is run", s.ID)
	}
	for what, has := range map[string]bool{
		"a lock": s.Lock != nil, "a login screen": s.Greeter != nil, "a runtime of programs": s.Sandbox != nil, "another's bar": s.Instead != "",
	} {
		if has {
			too("it tells of %s, which only Ivelt’s own descriptors and yours may", what)
		}
	}
	s.sources(func(facet string, src Source) {
		if err := s.mayAsk(d, src); err != nil {
			too("%w", err)
		}
		if src.Write {
			if err := s.mayWrite(d, src); err != nil {
				too("%w", err)
			}
		}
	})
	for _, at := range s.monitorFiles() {
		if !s.bears(d, at) && !systems(d, at) {
			too("it would move monitors by %s", at)
		}
	}
	var folders []string
	for _, l := range s.Looks {
		folders = append(folders, l.Folders...)
	}
	for _, f := range s.Facets {
		l := f.Lookup
		folders = slices.Concat(folders, l.Folders, l.Engines, without("{name}", l.Extensions))
		if l.Grants != nil || l.Signed || len(l.From) > 0 || len(l.Made) > 0 || f.Places != nil {
			too("%s: it asks to make pieces, or to give programs access to folders", f.Name)
		}
		if l.Own != "" && !s.bears(d, l.Own) {
			too("it reads %s, which does not bear its name", l.Own)
		}
		for _, words := range []map[string][]string{f.Values, valuesOf(f.Sources)} {
			for _, list := range words {
				for _, word := range list {
					if !plain(word) {
						too("%s: it would write %q, and a word is of letters, digits and a few plain signs", f.Name, word)
					}
				}
			}
		}
	}
	for _, at := range folders {
		if !s.bears(d, at) && !systems(d, at) && !pieces(d, at) {
			too("it looks for pieces in %s", at)
		}
	}
	for _, at := range s.Present {
		if !s.bears(d, at) && !systems(d, at) {
			too("it asks whether there is %s", at)
		}
	}
	if s.Library != nil && slices.ContainsFunc(s.Library.Files, func(at string) bool { return !systems(d, at) }) {
		too("a toolkit's library lies in the system's folders")
	}
	return out
}

// mayAsk tells why a descriptor of others may not ask a source.
func (s Surface) mayAsk(d *Desk, src Source) error {
	switch {
	case src.Format == "follows", src.Format == "xsettings", src.Format == "gsettings", src.Path == "" && src.Format == "xresources":
		return nil
	case src.Format == "env":
		if s.called(src.Key) || slices.Contains(variables(), src.Key) {
			return nil
		}
		return say.Errorf("it asks for the variable %s, which may hold anything", src.Key)
	case strings.HasPrefix(src.Path, "{theme}"), s.bears(d, src.Path), systems(d, src.Path):
		return nil
	case src.Format == "fontconfig":
		return errors.New("it reads fontconfig's rules; let it follow the surface that does")
	}
	return say.Errorf("it reads %s, which does not bear its name", src.Path)
}

// mayWrite tells why a plan may not set a source for a descriptor of others.
func (s Surface) mayWrite(d *Desk, src Source) error {
	switch {
	case src.Format == "gsettings":
		if !slices.ContainsFunc(strings.Split(src.Group, "."), s.called) {
			return say.Errorf("it would set %s of %s, which does not bear its name", src.Key, src.Group)
		}
	case !slices.Contains(forms, src.Format) && src.Format != "keyfile":
		return say.Errorf("it would set %s, and what is %s is set for all programs at once", src.Key, src.Format)
	case strings.Contains(strings.TrimPrefix(src.Path, "{"), "{"):
		return say.Errorf("it would write %s, and where it writes is not to go by what it is set to", src.Path)
	case !s.bears(d, src.Path):
		return say.Errorf("it would write %s, which is no file of your own that bears its name", src.Path)
	}
	for _, word := range src.Rename {
		if !plain(word) {
			return say.Errorf("it would write %q, and a word is of letters, digits and a few plain signs", word)
		}
	}
	if strings.ContainsAny(strings.TrimSuffix(src.Like, ";"), "$`;|&<>!\\\n\r") {
		return say.Errorf("it would write a line like %q", src.Like)
	}
	return nil
}

// bears is [Surface.Bears] of all that a path with place names stands for. What a facet's
// value decides of it has to lie behind the program's own name.
func (s Surface) bears(d *Desk, template string) bool {
	before, _, holes := strings.Cut(strings.TrimPrefix(template, "{"), "{")
	if holes {
		template = template[:len(template)-len(strings.TrimPrefix(template, "{"))] + before
		if template = path.Dir(template + "x"); !s.bears(d, template) {
			return false
		}
	}
	all := d.Expand(template)
	return len(all) > 0 && !slices.ContainsFunc(all, func(p string) bool { return !s.Bears(d, p) })
}

// systems reports whether all that a path stands for is the system's, and none of Ivelt's.
func systems(d *Desk, template string) bool {
	all := d.Expand(template)
	return len(all) > 0 && !slices.ContainsFunc(all, func(p string) bool {
		return d.Mine(p) || d.ofIvelt(p) || !slices.ContainsFunc([]string{"etc", "usr", "var/lib", "run/current-system", "opt"}, func(of string) bool {
			_, in := below(Name(p), of)
			return in
		})
	})
}

// pieces reports whether a path stands for folders of the home in which pieces lie.
func pieces(d *Desk, template string) bool {
	return !slices.ContainsFunc(d.Expand(template), func(p string) bool {
		if d.ofIvelt(p) {
			return true
		}
		if _, in := below(Name(p), Name(d.First("{data}"))); in {
			return false
		}
		rest, ok := below(Name(p), Name(d.HomePath))
		return !ok || !slices.ContainsFunc(ofPieces, func(of string) bool { _, in := below(rest, of); return in })
	})
}

// plain reports whether a word that would be written is none that a shell or another program
// could take for a command, or a path.
func plain(word string) bool {
	return len(word) <= 64 && !strings.ContainsFunc(word, func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !strings.ContainsRune(" -_.,:#%+()", r)
	})
}

func valuesOf(sources []Source) map[string][]string {
	out := map[string][]string{}
	for _, src := range sources {
		for word, list := range src.Values {
			out[word] = append(out[word], list...)
		}
	}
	return out
}

// variables are those of the session that the surfaces of every desk go by.
func variables() (out []string) {
	for _, s := range builtins() {
		s.sources(func(_ string, src Source) {
			if src.Format == "env" {
				out = append(out, src.Key)
			}
		})
	}
	return out
}
