package gsettings_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/gsettings"
	"ivelt/core/gvariant"
	"ivelt/core/gvdb"
	"ivelt/core/keyfile"
)

const schema = `<schemalist><enum id="org.reef.Side"><value nick="left" value="0"/><value nick="right" value="1"/></enum>
<schema id="org.reef.look" path="/org/reef/look/">
<key name="theme" type="s"><default>'Reef'</default></key>
<key name="quoted" type="s"><default>"it's"</default></key>
<key name="side" enum="org.reef.Side"><default>'left'</default></key>
<key name="size" type="i"><range min="8" max="96"/><default>24</default></key>
<key name="scale" type="d"><range min="0.5" max="3.0"/><default>1.0</default></key>
<key name="word" type="s"><choices><choice value="a"/><choice value="b"/></choices><default>'a'</default></key>
<key name="on" type="b"><default>true</default></key>
<key name="many" type="u"><default>7</default></key>
</schema><schema id="org.reef.nowhere"><key name="x" type="s"><default>'x'</default></key></schema></schemalist>`

// compiled is a folder with the schemas as glib-compile-schemas makes them.
func compiled(t *testing.T) (dir string, s *gsettings.Schemas) {
	dir = t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "org.reef.gschema.xml"), []byte(schema), 0o644))
	out, err := exec.CommandContext(t.Context(), "glib-compile-schemas", "--strict", dir).CombinedOutput()
	require.NoError(t, err, string(out))
	b, err := os.ReadFile(filepath.Join(dir, "gschemas.compiled"))
	require.NoError(t, err)
	s, err = gsettings.OpenSchemas(b)
	require.NoError(t, err)
	return dir, s
}

var keys = []string{"theme", "quoted", "side", "size", "scale", "word", "on", "many"}

// theirs is what the library's own program answers.
func theirs(t *testing.T, dir, config string, args ...string) (string, error) {
	c := exec.CommandContext(t.Context(), "gsettings", append([]string{"--schemadir", dir}, args...)...)
	c.Env = append(os.Environ(), "XDG_CONFIG_HOME="+config, "GSETTINGS_BACKEND=keyfile", "G_MESSAGES_DEBUG=")
	out, err := c.Output()
	return strings.TrimSpace(string(out)), err
}

// TestKeysAreThoseOfGLib: defaults and what a key takes, held against gsettings.
func TestKeysAreThoseOfGLib(t *testing.T) {
	dir, s := compiled(t)
	for _, name := range keys {
		k, ok := s.Key("org.reef.look", name)
		require.True(t, ok, name)
		require.Equal(t, "/org/reef/look/"+name, k.Path)
		want, err := theirs(t, dir, t.TempDir(), "get", "org.reef.look", name)
		require.NoError(t, err)
		require.Equal(t, want, gvariant.Text(k.Default), name)
		for _, text := range []string{"'left'", "'right'", "'up'", "'b'", "8", "7", "96", "97", "-1", "0.5", "0.4", "3.0", "true", "1"} {
			if k.Type == "s" && text[0] != '\'' { // the program puts quotes round these
				continue
			}
			v, err := gvariant.ParseText(k.Type, text)
			_, refused := theirs(t, dir, t.TempDir(), "set", "org.reef.look", name, text)
			require.Equal(t, refused == nil, err == nil && k.Accepts(v), "%s takes %s", name, text)
		}
	}
	for _, none := range [][2]string{{"org.reef.look", "none"}, {"org.reef.none", "x"}, {"org.reef.nowhere", "x"}, {"org.reef.look", ".path"}} {
		_, ok := s.Key(none[0], none[1])
		require.False(t, ok, none)
	}
	_, err := gsettings.OpenSchemas([]byte("GVariant"))
	require.ErrorIs(t, err, gvdb.ErrTable)
}

// TestAKeyFileIsReadAsGLibReadsIt, also what is not quite one.
func TestAKeyFileIsReadAsGLibReadsIt(t *testing.T) {
	dir, s := compiled(t)
	for _, line := range []string{
		"theme='Salt'", "theme=Salt", "theme=", "theme='open", `theme="Salt"`, `theme="open`, "theme='a' b", "theme='\xb4'", "theme=\xb4", "theme=it's", `theme='it\'s'`, "theme=42",
		"side='right'", "side=right", "side='up'", "size=48", "size=200", "size='48'", "size=int32 9", "scale=2", "scale=2.5", "scale=9", "word=b", "word=c", "on=false", "on=no", "many=3", "many=-3",
	} {
		config := t.TempDir()
		at := filepath.Join(config, "glib-2.0/settings/keyfile")
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		text := "[org/reef/look]\n" + line + "\n"
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
		name, _, _ := strings.Cut(line, "=")
		want, err := theirs(t, dir, config, "get", "org.reef.look", name)
		require.NoError(t, err)
		k, _ := s.Key("org.reef.look", name)
		ours := k.Default
		f, err := keyfile.Parse([]byte(text))
		require.NoError(t, err)
		if e, ok := gsettings.InKeyfile(f, k); ok && e.Fit {
			require.Equal(t, 2, e.Line)
			ours = e.Value
		}
		require.Equal(t, want, gvariant.Text(ours), "%q", line)
	}
	group, key := gsettings.GroupOf("/x")
	require.Equal(t, "root x", group+" "+key)
}

// TestADatabaseIsReadAsDconfWritesIt, with what an administrator locks.
func TestADatabaseIsReadAsDconfWritesIt(t *testing.T) {
	_, s := compiled(t)
	from, out := t.TempDir(), filepath.Join(t.TempDir(), "db")
	require.NoError(t, os.WriteFile(filepath.Join(from, "00"), []byte("[org/reef/look]\ntheme='Salt'\nsize=48\nword='z'\nmany='x'\n"), 0o644))
	require.NoError(t, os.Mkdir(filepath.Join(from, "locks"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(from, "locks/00"), []byte("/org/reef/look/size\n"), 0o644))
	said, err := exec.CommandContext(t.Context(), "dconf", "compile", out, from).CombinedOutput()
	require.NoError(t, err, string(said))
	b, err := os.ReadFile(out)
	require.NoError(t, err)
	db, err := gvdb.Open(b)
	require.NoError(t, err)
	for name, want := range map[string]struct {
		text        string
		fit, locked bool
	}{"theme": {"'Salt'", true, false}, "size": {"48", true, true}, "word": {"'z'", false, false}, "many": {"'x'", false, false}} {
		k, _ := s.Key("org.reef.look", name)
		e, ok := gsettings.InDatabase(db, k)
		require.True(t, ok, name)
		require.Equal(t, want.text, e.Text)
		require.Equal(t, want.fit, e.Fit, name)
		require.Equal(t, want.locked, gsettings.Locked(db, k), name)
	}
	k, _ := s.Key("org.reef.look", "on")
	_, ok := gsettings.InDatabase(db, k)
	require.False(t, ok)
	require.Equal(t, []string{"user-db:user", "system-db:site"}, gsettings.Profile("# who\nuser-db:user\n\n system-db:site # all\n"))
}
