package desktopentry_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/desktopentry"
)

// After the Desktop Application Autostart Specification 0.5 and the Exec key of
// the Desktop Entry Specification 1.5.
func TestAutostart(t *testing.T) {
	entry := func(rest string) *fstest.MapFile {
		return &fstest.MapFile{Data: []byte("[Desktop Entry]\nType=Application\n" + rest)}
	}
	tree := fstest.MapFS{
		"home/a.desktop": entry("Exec=gsettings set \"a b\" \"it\\\\\\\\s\" %U 100%%\n"),
		"home/b.desktop": entry("Hidden=true\nExec=never\n"),
		"etc/b.desktop":  entry("Exec=never\n"),
		"etc/a.desktop":  entry("Exec=never\n"),
		"etc/c.desktop":  entry("OnlyShowIn=Tide;Shore;\nExec=here\n"),
		"etc/d.desktop":  entry("NotShowIn=Shore;\nExec=never\n"),
		"etc/e.desktop":  entry("OnlyShowIn=Else;\nExec=never\n"),
		"etc/f.txt":      entry("Exec=never\n"),
		"etc/g.desktop":  &fstest.MapFile{Data: []byte("no entry\n")},
	}
	require.Equal(t, []desktopentry.Start{
		{"home/a.desktop", 3, []string{"gsettings", "set", "a b", `it\s`, "100%"}},
		{"etc/c.desktop", 4, []string{"here"}},
	}, desktopentry.Autostart(tree, []string{"home", "etc", "gone"}, []string{"Shore"}))
}
