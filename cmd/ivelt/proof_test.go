package main

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestAMakersCheck is what a maker of a theme has a machine do before each release: from the
// folder of its sources, with an exit status, and a report that a reader of others understands
// (Debian: python3-junitparser). A fault is told with its line, and is gone once it is mended.
func TestAMakersCheck(t *testing.T) {
	work := t.TempDir()
	t.Setenv("TMPDIR", t.TempDir())
	source := filepath.Join(work, "driftline")
	put := func(name, text string) {
		at := filepath.Join(source, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
	put("index.theme", "[Desktop Entry]\nType=Theme\nName=Driftline\n")
	put("LICENSE", "MIT License\n\nPermission is hereby granted, free of charge, to any person obtaining a copy\n")
	sheet := "window { background-color: #f4f2ee; color: #2b2b2b; }\nbutton { background-color: #ffffff; color: %s; }\nentry, treeview { background-color: #ffffff; color: #2b2b2b; }\n" +
		"tooltip { background-color: #2b2b2b; color: #ffffff; }\n*:focus { outline: 2px solid #1a5fb4; }\n"
	report := filepath.Join(work, "report.xml")
	proof := func(code int, args ...string) string {
		t.Helper()
		c := command(t, append([]string{"proof", source, "--junit", report}, args...)...)
		out, _ := c.CombinedOutput()
		require.Equal(t, code, c.ProcessState.ExitCode(), string(out))
		return string(out)
	}
	read := func() string {
		t.Helper()
		out, err := exec.Command("/usr/bin/python3", "-c", `
import sys
from junitparser import JUnitXml
x = JUnitXml.fromfile(sys.argv[1])
print("tests", x.tests == sum(1 for s in x for c in s), "failures", x.failures)
for s in x:
    for c in s:
        for r in c.result:
            print(c.classname, "|", c.name, "|", r.type, "|", r.message)
`, report).CombinedOutput()
		require.NoError(t, err, string(out))
		return string(out)
	}
	for _, part := range []string{"gtk-3.0", "gtk-4.0"} {
		put(part+"/gtk.css", strings.ReplaceAll(sheet, "%s", "#fbfbfb")+"label { colour: red; }\n")
	}
	out := proof(1)
	require.Contains(t, out, "✗ look, light on avocet")
	require.Contains(t, out, "gtk-3.0/gtk.css:6:")
	told := read()
	require.Contains(t, told, "tests True failures ")
	require.NotContains(t, told, "failures 0")
	require.Contains(t, told, "theme Driftline | look, light on avocet | low-contrast | ")
	require.NotContains(t, told, "refused", "what is not grave fails strictly only")

	require.Contains(t, proof(1, "--strict", "--on", "dunlin"), "✗ sheet for gtk-3.0")
	require.Contains(t, read(), "theme Driftline | sheet for gtk-3.0 | refused | gtk-3.0/gtk.css:6:")

	for _, part := range []string{"gtk-3.0", "gtk-4.0"} {
		put(part+"/gtk.css", strings.ReplaceAll(sheet, "%s", "#2b2b2b"))
	}
	out = proof(0, "--on", "dunlin")
	require.Contains(t, out, "\n0 of ")
	require.Contains(t, read(), "failures 0")

	require.Contains(t, proof(2, "--on", "nowhere"), "there are avocet, dunlin, turnstone")
	require.NoError(t, os.WriteFile(filepath.Join(work, "broken.zip"), []byte("PK\x03\x04 and no more"), 0o644))
	source = filepath.Join(work, "broken.zip")
	require.Contains(t, proof(2), "broken.zip")
	source = filepath.Join(work, "nothing")
	require.Contains(t, proof(2), "no such file")
	require.NoError(t, os.Mkdir(source, 0o755))
	require.Contains(t, proof(1, "--on", "dunlin"), "no piece in it")
	left, err := os.ReadDir(os.Getenv("TMPDIR"))
	require.NoError(t, err)
	require.Empty(t, left, "the desks are gone afterwards")
}
