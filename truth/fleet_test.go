package truth

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"text/tabwriter"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"
)

const fleetLook = "format = 1\nname = \"Shore\"\n[facet.icons]\npiece = \"Tango\"\n[facet.pointer]\npiece = \"DMZ-White\"\n[facet.pointer-size]\nvalue = \"32\"\n[facet.font]\npiece = \"Lato\"\nsize = 11\n[facet.dark]\nvalue = \"dark\"\n"

// resultsPlugin has the engine print what became of each host, a line each, and nothing else.
const resultsPlugin = `
import json
from ansible.plugins.callback import CallbackBase

class CallbackModule(CallbackBase):
    CALLBACK_VERSION, CALLBACK_TYPE, CALLBACK_NAME = 2.0, "stdout", "results"

    def tell(self, result, **more):
        print(result._host.get_name(), json.dumps(dict(result._result, **more)))

    def v2_runner_on_ok(self, result):
        self.tell(result)

    def v2_runner_on_failed(self, result, ignore_errors=False):
        self.tell(result, failed=True)

    def v2_runner_on_unreachable(self, result):
        self.tell(result, failed=True)
`

// TestAFleetIsDressed: a configuration engine (Debian: ansible-core) dresses homes (six; twenty with
// -all) by the role in docs/fleet. What check mode tells is what is done then, the second time nothing
// changes, a home that somebody has changed is put right, and one that fails is told and does
// not stop the others.
func TestAFleetIsDressed(t *testing.T) {
	t.Parallel()
	homes := 6
	if *all {
		homes = 20
	}
	dir := t.TempDir()
	ivelt := ivelt(t)
	look := filepath.Join(dir, "shore.toml")
	write(t, look, fleetLook)
	var inventory strings.Builder
	inventory.WriteString("[desks]\n")
	home := func(i int) string { return filepath.Join(dir, fmt.Sprintf("homes/reader-%02d", i)) }
	for i := range homes {
		require.NoError(t, os.MkdirAll(home(i), 0o755))
		if i%3 == 0 { // some have settings of their own
			write(t, filepath.Join(home(i), ".config/gtk-3.0/settings.ini"), fmt.Sprintf("# reader %d\n[Settings]\ngtk-font-name=Sans %d\n", i, 8+i%5))
		}
		fmt.Fprintf(&inventory, "reader-%02d ivelt_home=%s\n", i, home(i))
	}
	fmt.Fprintf(&inventory, "[desks:vars]\nansible_connection=local\nansible_python_interpreter=/usr/bin/python3\nivelt_outfit=%s\nivelt_program=%s\n", look, ivelt)
	write(t, filepath.Join(dir, "inventory"), inventory.String())
	write(t, filepath.Join(dir, "plugins/results.py"), resultsPlugin)
	type result struct {
		Changed bool   `json:"changed"`
		Failed  bool   `json:"failed"`
		Msg     string `json:"msg"`
		Diff    []struct {
			Path  string `json:"before_header"`
			After string `json:"after"`
		} `json:"diff"`
	}
	run := func(args ...string) (of map[string]result) {
		c := exec.CommandContext(t.Context(), "ansible-playbook", append([]string{"-i", filepath.Join(dir, "inventory"), "--forks", "4", "../docs/fleet/site.yml"}, args...)...)
		c.Env = append(os.Environ(), "HOME="+dir, "ANSIBLE_STDOUT_CALLBACK=results", "ANSIBLE_CALLBACK_PLUGINS="+filepath.Join(dir, "plugins"), "ANSIBLE_LOCAL_TEMP="+filepath.Join(dir, "tmp"), "ANSIBLE_REMOTE_TEMP="+filepath.Join(dir, "tmp"), "LC_ALL=C.UTF-8")
		out, err := c.Output()
		of = map[string]result{}
		for line := range strings.Lines(string(out)) {
			host, text, _ := strings.Cut(line, " ")
			var r result
			require.NoError(t, json.Unmarshal([]byte(text), &r), "%v\n%s", err, out)
			of[host] = r
		}
		require.Len(t, of, homes, string(out))
		return of
	}
	name := func(i int) string { return fmt.Sprintf("reader-%02d", i) }

	checked := run("--check", "--diff")
	for i := range homes {
		require.True(t, checked[name(i)].Changed, checked[name(i)].Msg)
		if i%3 != 0 {
			require.NoFileExists(t, filepath.Join(home(i), ".config/gtk-3.0/settings.ini"), "it was only asked")
		}
	}
	first := run("--diff")
	for i := range homes {
		r := first[name(i)]
		require.True(t, r.Changed, r.Msg)
		b, err := os.ReadFile(filepath.Join(home(i), ".config/gtk-3.0/settings.ini"))
		require.NoError(t, err)
		require.Contains(t, string(b), "gtk-icon-theme-name=Tango")
		require.True(t, i%3 != 0 || strings.Contains(string(b), fmt.Sprintf("# reader %d", i)))
		for _, d := range r.Diff {
			require.True(t, !strings.HasSuffix(d.Path, "gtk-3.0/settings.ini") || d.After == string(b))
		}
	}
	second := run()
	for i := range homes {
		require.False(t, second[name(i)].Changed || second[name(i)].Failed, second[name(i)].Msg)
	}

	// One is changed by its owner, one is locked by another Ivelt, one is gone.
	const changed, locked, gone = 1, 2, 4
	write(t, filepath.Join(home(changed), ".config/gtk-3.0/settings.ini"), "[Settings]\ngtk-icon-theme-name=hicolor\n")
	f, err := os.Open(home(locked))
	require.NoError(t, err)
	defer f.Close()
	require.NoError(t, unix.Flock(int(f.Fd()), unix.LOCK_EX))
	write(t, filepath.Join(home(locked), ".config/gtk-4.0/settings.ini"), "[Settings]\n")
	require.NoError(t, os.RemoveAll(home(gone)))
	third := run()
	for i := range homes {
		r := third[name(i)]
		require.Equal(t, []bool{i == changed, i == locked || i == gone}, []bool{r.Changed, r.Failed}, "%s: %s", name(i), r.Msg)
	}
	require.Contains(t, third[name(locked)].Msg, "another Ivelt is changing this desk")
	require.Contains(t, third[name(gone)].Msg, "is no home")
	b, err := os.ReadFile(filepath.Join(home(changed), ".config/gtk-3.0/settings.ini"))
	require.NoError(t, err)
	require.Contains(t, string(b), "gtk-icon-theme-name=Tango")

	says := func(r result) string {
		switch {
		case r.Failed:
			return "failed: " + r.Msg
		case r.Changed:
			return "changed"
		}
		return "as it was"
	}
	var table strings.Builder
	w := tabwriter.NewWriter(&table, 0, 0, 2, ' ', 0)
	fmt.Fprintln(w, "home\tchecked\tfirst run\tsecond run\tafter faults")
	for _, host := range slices.Sorted(func(yield func(string) bool) {
		for h := range first {
			if !yield(h) {
				return
			}
		}
	}) {
		fmt.Fprintf(w, "%s\t%s\t%s\t%s\t%s\n", host, says(checked[host]), says(first[host]), says(second[host]), says(third[host]))
	}
	w.Flush()
	t.Logf("\n%s", table.String())
}
