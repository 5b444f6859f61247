package main

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
	"github.com/stretchr/testify/require"

	"ivelt/cmd/ivelt/internal/commands"
	"ivelt/core/config"
)

// TestEveryFlagIsInTheManualAndCompleted: each command has a page, which tells of each of its
// flags; a shell that asks for what could follow is told of each, too.
func TestEveryFlagIsInTheManualAndCompleted(t *testing.T) {
	t.Setenv("SOURCE_DATE_EPOCH", "1780000000")
	dir := t.TempDir()
	require.NoError(t, write(commands.Tree(commands.Build()), dir))
	commandsSeen, flagsSeen := 0, 0
	var each func(c *cobra.Command, path []string)
	each = func(c *cobra.Command, path []string) {
		if !c.IsAvailableCommand() && len(path) > 1 {
			return
		}
		commandsSeen++
		b, err := os.ReadFile(filepath.Join(dir, pages, strings.Join(path, "-")+".1"))
		require.NoError(t, err)
		page := strings.ReplaceAll(string(b), `\-`, "-")
		asked := commands.Tree(commands.Build())
		var said bytes.Buffer
		asked.SetOut(&said)
		asked.SetErr(&said)
		asked.SetArgs(append(append([]string{cobra.ShellCompNoDescRequestCmd}, path[1:]...), "--"))
		require.NoError(t, asked.Execute())
		c.Flags().VisitAll(func(f *pflag.Flag) {
			if f.Hidden || f.Deprecated != "" {
				return
			}
			flagsSeen++
			require.Contains(t, page, `\fB--`+f.Name+`\fP`, path)
			if f.Name != "help" && f.Name != "version" {
				require.Contains(t, said.String(), "--"+f.Name, path)
			}
			require.NotEmpty(t, f.Usage, "%v --%s", path, f.Name)
		})
		for _, of := range c.Commands() {
			each(of, append(append([]string{}, path...), of.Name()))
		}
	}
	each(commands.Tree(commands.Build()), []string{"ivelt"})
	require.Greater(t, commandsSeen, 55)
	require.Greater(t, flagsSeen, 250)
	b, err := os.ReadFile(filepath.Join(dir, pages, "ivelt.1"))
	require.NoError(t, err)
	for _, s := range config.All {
		require.Contains(t, strings.ReplaceAll(string(b), `\-`, "-"), s.Variable())
	}
	readme, err := os.ReadFile("../../../../README.md")
	require.NoError(t, err)
	for _, c := range commands.Tree(commands.Build()).Commands() {
		if c.IsAvailableCommand() {
			require.Contains(t, string(readme), "ivelt "+c.Name(), "the README lists every command")
		}
	}
}

// TestAShellCompletes what is typed, as bash does with the script that is shipped.
func TestAShellCompletes(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, write(commands.Tree(commands.Build()), dir))
	bin := filepath.Join(dir, "ivelt")
	out, err := exec.Command("go", "build", "-o", bin, "../..").CombinedOutput()
	require.NoError(t, err, string(out))
	for typed, want := range map[string]string{
		"jud": "judge", "read --desk av": "avocet", "config set write ": "false true", "config unset dow": "downloads", "--log-level ": "debug error info warn",
		"schema bench-p": "bench-pointer", "proof --on du": "dunlin",
	} {
		script := `source /usr/share/bash-completion/bash_completion; source "$0"; PATH=$1:$PATH
read -ra COMP_WORDS <<< "ivelt $2"; [[ $2 == *" " ]] && COMP_WORDS+=("")
COMP_CWORD=$((${#COMP_WORDS[@]} - 1)); COMP_LINE="ivelt $2"; COMP_POINT=${#COMP_LINE}
__start_ivelt 2>/dev/null; printf '%s\n' "${COMPREPLY[@]}" | sed 's/ .*//' | sort | paste -sd " "`
		out, err := exec.Command("bash", "-c", script, filepath.Join(dir, completions, "ivelt.bash"), dir, typed).CombinedOutput()
		require.NoError(t, err, string(out))
		require.Equal(t, want, strings.TrimSpace(string(out)), typed)
	}
}
