package truth

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ivelt/core/gtkcss"
)

// TestRealSheetsAreRefusedWhereGTKRefuses reads every style sheet of the real
// themes, and generated ones, and asks GTK's own parsers (Debian: libgtk-3-dev, libgtk-4-dev) which
// lines they refuse: the same ones, no more, no fewer.
func TestRealSheetsAreRefusedWhereGTKRefuses(t *testing.T) {
	t.Parallel()
	kits := map[int]toolkit{}
	for _, kit := range eachGTK(t) {
		kits[kit.generation] = kit
	}
	for _, g := range []struct {
		generation   int
		library, deb string
	}{{3, "gtk+-3.0", "libgtk-3-dev"}, {4, "gtk4", "libgtk-4-dev"}} {
		program := build(t, "refused", g.library, g.deb)
		var sheets []string
		of := map[string]realTheme{}
		for _, theme := range realThemes(t, "index.theme") {
			found, err := filepath.Glob(filepath.Join(theme.dir, fmt.Sprintf("gtk-%d.*/*.css", g.generation)))
			require.NoError(t, err)
			for _, sheet := range found {
				sheets = append(sheets, sheet)
				of[sheet] = theme
			}
		}
		require.NotEmpty(t, sheets)
		empty := filepath.Join(t.TempDir(), "empty.css")
		write(t, empty, "")
		nodes := kits[g.generation].computes(t, empty)
		for n := range uint64(8) { // lines that nobody writes
			sheet := filepath.Join(t.TempDir(), fmt.Sprintf("generated-%d.css", n))
			write(t, sheet, generate(rand.New(rand.NewPCG(*seed, n)), nodes, g.generation))
			sheets = append(sheets, sheet)
		}
		theirs := map[string][]string{}
		var sheet string
		c := tool(t, program, "", sheets...)
		c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + t.TempDir(), "LANG=C.UTF-8"}
		for _, line := range lines(output(t, c)) {
			if name, ok := strings.CutPrefix(line, "sheet "); ok {
				sheet = name
				continue
			}
			rest, ok := strings.CutPrefix(line, "refused ")
			require.True(t, ok, line)
			words := strings.SplitN(rest, " ", 3)
			theirs[sheet] = append(theirs[sheet], strings.TrimPrefix(words[0], "file://")+":"+words[1]+": "+words[2])
		}
		same, apart := 0, 0
		for _, sheet := range sheets {
			s, err := gtkcss.LoadFile(t.Context(), sheet, g.generation)
			require.NoError(t, err)
			ours := refusals(s)
			missed, wrong := gone(theirs[sheet], ours), gone(ours, theirs[sheet])
			agree := len(missed)+len(wrong) == 0
			if theme, real := of[sheet]; real {
				scored(fmt.Sprint("gtk", g.generation), theme, "refused", map[bool]int{true: 1}[agree], 1)
			}
			if agree {
				same++
				continue
			}
			if apart++; of[sheet].held {
				continue
			}
			t.Logf("%s: GTK %d refuses %d lines, Ivelt %d\n  only GTK:\n    %s\n  only Ivelt:\n    %s", sheet[max(strings.Index(sheet, "/themes/"), 0):], g.generation, len(theirs[sheet]), len(ours), few(missed), few(wrong))
		}
		t.Logf("GTK %d: of %d sheets %d are refused in the same lines", g.generation, len(sheets), same)
		assert.Zero(t, apart, "GTK %d", g.generation)
	}
}

// refusals are the lines of a sheet that do not count, "file:line: what".
func refusals(s *gtkcss.Sheet) (out []string) {
	for _, n := range s.Refused() {
		out = append(out, n.String())
	}
	return out
}

// gone are those of one list whose file and line are not in the other, each line
// once: GTK complains of some of them twice.
func gone(from, in []string) (out []string) {
	line := func(s string) string {
		return strings.Join(strings.SplitN(s, ":", 4)[:max(strings.Count(s[:strings.Index(s, ": ")], ":")+1, 2)], ":")
	}
	left := map[string]bool{}
	for _, s := range in {
		left[line(s)] = true
	}
	for _, s := range from {
		if !left[line(s)] {
			left[line(s)] = true
			out = append(out, s)
		}
	}
	return out
}

func few(all []string) string {
	all = slices.Clone(all)
	if len(all) > 12 {
		all = append(all[:12], fmt.Sprintf("and %d more", len(all)-12))
	}
	for i, s := range all {
		all[i] = s[max(strings.LastIndex(s[:max(strings.Index(s, ": "), 0)], "/"), 0):]
	}
	return strings.Join(all, "\n    ")
}
