package main

import (
	"bytes"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"

	"ivelt/demo/demotest"
	"ivelt/docs/schemas"
)

// TestEveryAnswerIsAsPublished: what commands answer in JSON is what the schema says that everybody
// reads by, of desks with and without something amiss. No answer has no case.
func TestEveryAnswerIsAsPublished(t *testing.T) {
	data := t.TempDir()
	world := demotest.World(t, filepath.Join(data, "ivelt/demo"))
	t.Setenv("XDG_DATA_HOME", data)
	t.Setenv("XDG_CONFIG_HOME", filepath.Join(data, "config"))
	work := t.TempDir()
	file := func(name, text string) string {
		at := filepath.Join(work, name)
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
		return at
	}
	dark := file("dark.toml", "format = 1\nname = 'Dark'\n[facet.dark]\nvalue = 'dark'\n[facet.icons]\npiece = 'Nowhere'\n")
	icons := file("icons.toml", "format = 1\nname = 'Sand'\n[facet.icons]\npiece = 'Glasswort'\n[facet.pointer]\npiece = 'Nowhere'\n")
	sheet := file("sheet.css", "button { color: red; } button:hover { color: @gone; }")
	kit := filepath.Join(world.Avocet.Home, "Downloads/reedbed-kit-0.4.zip")
	everyone := filepath.Join(work, "everyone")
	bare := filepath.Join(work, "bare")
	require.NoError(t, os.MkdirAll(bare, 0o755))
	empty := filepath.Join(work, "empty")
	require.NoError(t, os.MkdirAll(empty, 0o755))

	seen := map[string]bool{}
	for _, c := range []struct {
		schema string // "" for none: it prepares what follows
		args   []string
	}{
		{"read", []string{"read", "--desk", "dunlin"}},
		{"read", []string{"read", "--desk", "turnstone"}},
		{"read", []string{"read", "--home", bare, "--system", bare}},
		{"check", []string{"check", "--desk", "dunlin", "--outfit", dark}},
		{"check", []string{"check", "--home", bare, "--system", bare}},
		{"surface-test", []string{"surface", "test", "../../docs/surfaces"}},
		{"surface-test", []string{"surface", "test", "../../docs/surfaces/gullcall", "--own"}},
		{"plan", []string{"plan", "--desk", "avocet", "--outfit", dark}},
		{"plan", []string{"plan", "--desk", "dunlin", "--outfit", icons}},
		{"apply", []string{"apply", "--desk", "avocet", "--outfit", dark, "--check"}},
		{"apply", []string{"apply", "--desk", "avocet", "--outfit", dark}},
		{"history", []string{"history", "--desk", "avocet"}},
		{"history", []string{"history", "--desk", "dunlin"}},
		{"plan", []string{"back", "--desk", "avocet", "--plan"}},
		{"plan", []string{"back", "--desk", "avocet"}},
		{"proof", []string{"proof", kit, "--on", "turnstone"}},
		{"newer", []string{"newer", "--desk", "avocet"}},
		{"turn", []string{"turn", "--desk", "avocet"}},
		{"judge", []string{"judge", "--desk", "dunlin"}},
		{"judge", []string{"judge", "--desk", "avocet", "--outfit", dark}},
		{"inspect", []string{"inspect", kit, "--desk", "avocet"}},
		{"inspect", []string{"inspect", empty, "--desk", "avocet"}},
		{"backdrop", []string{"backdrop", filepath.Join(world.Avocet.System, "usr/share/backgrounds/low-water.svg")}},
		{"bench-icons", []string{"bench", "icons", "Glasswort", "--desk", "dunlin", "--odd"}},
		{"bench-icons", []string{"bench", "icons", kit, "--desk", "avocet"}},
		{"bench-icons-nearest", []string{"bench", "icons", "Glasswort", "--desk", "dunlin", "--nearest", "places/user-home"}},
		{"bench-left", []string{"bench", "left", "--desk", "dunlin"}},
		{"bench-left", []string{"bench", "left", "--home", bare, "--system", bare}},
		{"bench-pointer", []string{"bench", "pointer", "Sandpiper", "--desk", "dunlin"}},
		{"bench-pointer", []string{"bench", "pointer", kit, "--desk", "dunlin"}},
		{"bench-font", []string{"bench", "font", "--desk", "dunlin"}},
		{"bench-font", []string{"bench", "font", "--home", bare, "--system", bare}},
		{"bench-font-family", []string{"bench", "font", "Estuary Mono", "--desk", "dunlin"}},
		{"icon", []string{"icon", "--desk", "avocet", "--theme", "hicolor", "user-home", "no-such-icon"}},
		{"style", []string{"style", sheet, "window/button", "label"}},
		{"convert-pointer", []string{"convert", "pointer", filepath.Join(world.Dunlin.System, "usr/share/icons/Sandpiper"), filepath.Join(work, "converted")}},
		{"market-check", []string{"market", "check", world.Market}},
		{"market-check", []string{"market", "check", empty}},
		{"store-check", []string{"store", "check", "--desk", "avocet"}},
		{"config", []string{"config"}},
		{"config", []string{"config", "write"}},
		{"", []string{"install", kit, "--desk", "dunlin", "--scope", "everyone", "--bundle", everyone}},
		{"plan", []string{"administer", "--show", everyone, "--system", world.Dunlin.System}},
		{"administer", []string{"administer", "--system", world.Dunlin.System}},
	} {
		args := c.args
		if c.schema != "" {
			args = append(slices.Clone(args), "--json")
			seen[c.schema] = true
		}
		cmd := command(t, args...)
		var out, trouble bytes.Buffer
		cmd.Stdout, cmd.Stderr = &out, &trouble
		err := cmd.Run()
		code := 0
		if exit := (*exec.ExitError)(nil); errors.As(err, &exit) {
			code = exit.ExitCode()
		}
		if code > 1 {
			t.Errorf("%v\n%s", args, trouble.String())
			continue
		}
		if c.schema == "" {
			continue
		}
		text, err := schemas.Of(c.schema)
		require.NoError(t, err)
		doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
		require.NoError(t, err)
		compiler := jsonschema.NewCompiler()
		compiler.AssertFormat()
		require.NoError(t, compiler.AddResource("urn:of", doc))
		s, err := compiler.Compile("urn:of")
		require.NoError(t, err)
		answer, err := jsonschema.UnmarshalJSON(bytes.NewReader(out.Bytes()))
		require.NoError(t, err, "%v\n%s", args, out.String())
		if err := s.Validate(answer); err != nil {
			t.Errorf("%v: %v", args, err)
		}
	}
	for _, name := range schemas.Names() {
		require.True(t, seen[name], "nothing was answered as %s", name)
	}
}
