// Package config has what a person can tell Ivelt itself: which settings there are, what each is
// now, and which of four places says so. A flag of the command is stronger than a variable of the
// environment, that one than the person's file, and where none says anything, it is as usual.
package config

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/regular"
	"ivelt/core/settingsfile"
)

// Kind is what a setting takes.
type Kind string

// The kinds.
const (
	Switch Kind = "switch" // true or false
	Word   Kind = "word"   // one of a few
	Text   Kind = "text"
	List   Kind = "list" // texts, with commas between them
	Path   Kind = "path" // a full path
)

// Setting is one thing that a person can tell Ivelt itself.
type Setting struct {
	Key   string
	Kind  Kind
	Usual string   // what holds where nothing is said
	Words []string // of a Word, what it can be
	Flag  string   // the flag that says it for one run, "" for none
	Of    []string // the commands that have the flag, none for all
	Says  string   // what it does
}

// prefix is what the variables of all settings begin with.
const prefix = "IVELT_"

// Variable is the setting's name in the environment.
func (s Setting) Variable() string {
	return prefix + strings.ToUpper(strings.ReplaceAll(s.Key, "-", "_"))
}

// Keys of settings that the program asks for.
const (
	Addr          = "addr"
	CheckAtSignIn = "check-at-sign-in"
	Data          = "data"
	Downloads     = "downloads"
	Language      = "language"
	LogLevel      = "log-level"
	Name          = "name"
	Socket        = "socket"
	Write         = "write"
)

// All are the settings, by key.
var All = []Setting{
	{Key: Addr, Kind: Text, Usual: "127.0.0.1:8410", Flag: "addr", Of: []string{"serve", "demo"},
		Says: "the address and port that the pages are at"},
	{Key: CheckAtSignIn, Kind: Switch, Usual: "true", Flag: "check-at-sign-in", Of: []string{"session"},
		Says: "look once after each sign-in whether everything shows the look that was applied, and notify if not"},
	{Key: Data, Kind: Path,
		Says: "the folder of Ivelt's own data (the usual one is ivelt in XDG_DATA_HOME)"},
	{Key: Downloads, Kind: Path,
		Says: "the folder that is looked through for parcels (the usual one is the desktop's for downloads)"},
	{Key: Language, Kind: Text, Flag: "language", Of: []string{"serve", "demo"},
		Says: "the language of the pages, as \"pt-BR\" (usually what the browser asks for)"},
	{Key: LogLevel, Kind: Word, Words: []string{"debug", "info", "warn", "error"}, Flag: "log-level",
		Says: "what is logged to standard error (usually warn of a server, and error of other commands)"},
	{Key: Name, Kind: List, Flag: "name", Of: []string{"serve", "demo"},
		Says: "host names and addresses under which the pages are reached, if addr is beyond this computer"},
	{Key: Socket, Kind: Path, Flag: "socket", Of: []string{"serve", "demo"},
		Says: "listen on this Unix socket instead of addr, for its owner only"},
	{Key: Write, Kind: Switch, Usual: "false", Flag: "write", Of: []string{"serve"},
		Says: "let Ivelt change this computer's own desk"},
}

// Find is the setting of a key. An error names the one that was perhaps meant.
func Find(key string) (Setting, error) {
	at := slices.IndexFunc(All, func(s Setting) bool { return s.Key == key })
	if at < 0 {
		return Setting{}, fmt.Errorf("there is no setting %q; there are %s", key, strings.Join(Keys(), ", "))
	}
	return All[at], nil
}

// Keys are those of all settings.
func Keys() (out []string) {
	for _, s := range All {
		out = append(out, s.Key)
	}
	return out
}

// Check is an error if a text is nothing that the setting takes.
func (s Setting) Check(text string) error {
	switch s.Kind {
	case Switch:
		if text != "true" && text != "false" {
			return fmt.Errorf("%s is true or false, not %s", s.Key, text)
		}
	case Word:
		if !slices.Contains(s.Words, text) {
			return fmt.Errorf("%s is one of %s, not %q", s.Key, strings.Join(s.Words, ", "), text)
		}
	case Path:
		if !filepath.IsAbs(text) {
			return fmt.Errorf("%s is a full path, beginning with /, not %q", s.Key, text)
		}
	}
	if strings.ContainsFunc(text, func(r rune) bool { return r < ' ' }) {
		return fmt.Errorf("%s has a letter in it that cannot be seen", s.Key)
	}
	return nil
}

// Source is where a value is from.
type Source struct {
	Kind  string `json:"kind"`            // one of the four places
	Value string `json:"value"`           // what it says there
	At    string `json:"at,omitempty"`    // the file, the variable, or the flag
	Line  int    `json:"line,omitempty"`  // in the file, 1-based
	Wrong string `json:"wrong,omitempty"` // why it cannot be used; nothing is used instead
}

// The places that can say what a setting is, the strongest first.
const (
	FromFlag     = "flag"
	FromVariable = "variable"
	FromFile     = "file"
	FromUsual    = "usual"
)

// Value is what a setting is, and why.
type Value struct {
	Key   string `json:"key"`
	Value string `json:"value"`
	// Source is the place that says so, and Over what weaker places say, the strongest first.
	Source Source   `json:"source"`
	Over   []Source `json:"over"`
	Says   string   `json:"says"`
	// Variable and Flag are where else it can be said.
	Variable string `json:"variable"`
	Flag     string `json:"flag,omitempty"`
}

// Values are all settings, by key.
type Values []Value

// Of is a setting as it is. An error tells that what is said of it cannot be used.
func (v Values) Of(key string) (string, error) {
	text, _, err := v.Taken(key)
	return text, err
}

func (v Value) err() error {
	if v.Source.Wrong == "" {
		return nil
	}
	at := v.Source.At
	if v.Source.Line > 0 {
		at += ", line " + strconv.Itoa(v.Source.Line)
	}
	return fmt.Errorf("%s: %s", at, v.Source.Wrong)
}

// Is is a switch as it is.
func (v Values) Is(key string) (bool, error) {
	text, err := v.Of(key)
	return text == "true", err
}

// Taken is what a place says of a setting, if one but the usual does.
func (v Values) Taken(key string) (text string, is bool, err error) {
	for _, of := range v {
		if of.Key == key {
			return of.Value, of.Source.Kind != FromUsual, of.err()
		}
	}
	return "", false, fmt.Errorf("there is no setting %q", key)
}

// Listed are the texts of a list.
func Listed(text string) (out []string) {
	for one := range strings.SplitSeq(text, ",") {
		if one = strings.TrimSpace(one); one != "" {
			out = append(out, one)
		}
	}
	return out
}

// From are the places that are asked.
type From struct {
	File   string                           // the person's file; it may not be there
	Lookup func(name string) (string, bool) // of the environment; nil for none
	Flags  map[string]string                // flags that were given, by name
	Usual  map[string]string                // what is usual on this computer, by key, where it is not the same on all
}

// MaxBytes is what the person's file may have at most.
const MaxBytes = settingsfile.MaxBytes

// Read tells what every setting is. A file that cannot be read is an error; a value that cannot be
// used is none: it is an error to ask for that setting.
func Read(from From) (Values, error) {
	said, err := read(from.File)
	if err != nil {
		return nil, err
	}
	var out Values
	for _, s := range All {
		var all []Source
		if text, ok := from.Flags[s.Flag]; ok && s.Flag != "" {
			all = append(all, s.source(FromFlag, "--"+s.Flag, text))
		}
		if from.Lookup != nil {
			if text, ok := from.Lookup(s.Variable()); ok && text != "" {
				all = append(all, s.source(FromVariable, s.Variable(), text))
			}
		}
		if v, ok := settingsfile.Lookup(said, "", s.Key); ok {
			of := s.source(FromFile, from.File, v.Text)
			of.Line = v.Line
			if of.Wrong == "" && v.Bare != (s.Kind == Switch) {
				of.Wrong = map[bool]string{true: s.Key + " goes in quotes", false: s.Key + " is true or false, without quotes"}[v.Bare]
			}
			all = append(all, of)
		}
		all = append(all, Source{Kind: FromUsual, Value: cmp.Or(from.Usual[s.Key], s.Usual)})
		out = append(out, Value{Key: s.Key, Value: all[0].Value, Source: all[0], Over: all[1:], Says: s.Says, Variable: s.Variable(), Flag: s.Flag})
	}
	return out, nil
}

func (s Setting) source(kind, at, text string) Source {
	if kind == FromFlag && s.Kind == Path {
		if full, err := filepath.Abs(text); err == nil {
			text = full
		}
	}
	of := Source{Kind: kind, Value: text, At: at}
	if err := s.Check(text); err != nil {
		of.Wrong = err.Error()
	}
	return of
}

// read is what a file says, nothing if there is none.
func read(file string) ([]settingsfile.Value, error) {
	b, err := regular.Read(file, MaxBytes)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	said, err := settingsfile.Parse(settingsfile.TOML, b)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", file, err)
	}
	return said, nil
}

// Unknown are lines of a file that no setting goes by, such as one with a slip in its key.
func Unknown(file string) (out []string, err error) {
	said, err := read(file)
	for _, v := range said {
		if _, err := Find(v.Key); err == nil && v.Group == "" {
			continue
		}
		key := strings.TrimPrefix(v.Group+"/"+v.Key, "/")
		out = append(out, fmt.Sprintf("%s, line %d: there is no setting %q", file, v.Line, key))
	}
	return out, err
}

// UnknownVariables are variables of an environment that are named like a setting's, and are none.
func UnknownVariables(environ []string) (out []string) {
	for _, v := range environ {
		name, _, _ := strings.Cut(v, "=")
		if strings.HasPrefix(name, prefix) && !slices.ContainsFunc(All, func(s Setting) bool { return s.Variable() == name }) {
			out = append(out, fmt.Sprintf("the variable %s: there is no such setting", name))
		}
	}
	slices.Sort(out)
	return out
}

// Set writes down in a file what a setting is to be. Everything else in it stays as it is, and a
// file that is a link stays one. An error tells that the text is nothing that the setting takes, or
// that the file could not be written: then it is as it was.
func Set(file string, s Setting, text string) error {
	if err := s.Check(text); err != nil {
		return err
	}
	return edit(file, func(old []byte) ([]byte, error) {
		return settingsfile.Set(settingsfile.TOML, old, "", s.Key, text, settingsfile.How{Bare: s.Kind == Switch})
	})
}

// Unset takes a setting out of a file.
func Unset(file string, s Setting) error {
	return edit(file, func(old []byte) ([]byte, error) {
		text, _, err := settingsfile.Remove(settingsfile.TOML, old, "", s.Key)
		return text, err
	})
}

func edit(file string, change func(old []byte) ([]byte, error)) error {
	old, err := regular.Read(file, MaxBytes)
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	text, err := change(old)
	if err != nil {
		return fmt.Errorf("%s: %w", file, err)
	}
	if bytes.Equal(old, text) {
		return nil
	}
	if real, err := filepath.EvalSymlinks(file); err == nil {
		file = real // one that is linked to a repository of settings stays linked
	}
	if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
		return err
	}
	temp, err := os.CreateTemp(filepath.Dir(file), ".config-*")
	if err != nil {
		return err
	}
	defer os.Remove(temp.Name())
	_, err = temp.Write(text)
	if err = errors.Join(err, temp.Sync(), temp.Close()); err != nil {
		return err
	}
	return os.Rename(temp.Name(), file)
}
