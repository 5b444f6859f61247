package standin

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
)

// Caches keeps what programs remember of the icon and font folders of a desk.
// What was put into a folder is not in it until the folder is looked into anew.
// Its rules are in docs/standins.md.
type Caches struct {
	Home string              // host folder
	Host func(string) string // host path of a path of the desk
}

// Refresh looks into a folder of the desk and remembers the names in it.
func (c Caches) Refresh(_ context.Context, kind, folder string) error {
	entries, err := os.ReadDir(c.Host(folder))
	if err != nil && !os.IsNotExist(err) {
		return err
	}
	var names []string
	for _, e := range entries {
		names = append(names, e.Name())
	}
	old, err := c.lines(kind)
	if err != nil {
		return err
	}
	lines := slices.DeleteFunc(old, func(l string) bool { return strings.HasPrefix(l, folder+"=") })
	if len(names) > 0 {
		lines = append(lines, folder+"="+strings.Join(names, ";"))
	}
	slices.Sort(lines)
	if err := os.MkdirAll(filepath.Dir(c.file(kind)), 0o755); err != nil {
		return err
	}
	return os.WriteFile(c.file(kind), []byte(fmt.Sprintf("[%s]\n%s\n", kind, strings.Join(lines, "\n"))), 0o644)
}

// Knows reports whether programs know of a name in a folder of the desk.
func (c Caches) Knows(kind, folder, name string) bool {
	lines, _ := c.lines(kind)
	for _, l := range lines {
		if rest, ok := strings.CutPrefix(l, folder+"="); ok {
			return slices.Contains(strings.Split(rest, ";"), name)
		}
	}
	return false
}

func (c Caches) lines(kind string) ([]string, error) {
	b, err := os.ReadFile(c.file(kind))
	if os.IsNotExist(err) {
		return nil, nil
	}
	_, rest, _ := strings.Cut(string(b), "\n")
	return strings.Fields(strings.ReplaceAll(rest, " ", "\\040")), err
}

func (c Caches) file(kind string) string {
	return filepath.Join(c.Home, ".local/state/caches", kind+".conf")
}
