package desktopentry_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/desktopentry"
)

// TestProgramsOfADesk: an entry in an earlier folder hides the later ones of its ID, also if
// it is not shown itself (Base Directory Specification; Desktop Entry Specification 1.5,
// "Desktop File ID").
func TestProgramsOfADesk(t *testing.T) {
	entry := func(lines string) *fstest.MapFile {
		return &fstest.MapFile{Data: []byte("[Desktop Entry]\nType=Application\n" + lines)}
	}
	got := desktopentry.List(fstest.MapFS{
		"home/applications/pencil.desktop":   entry("Name=pencil of mine\nIcon=pencil\nComment=Draws\nCategories=Graphics;Art;\n"),
		"home/applications/hidden.desktop":   entry("Name=Hidden\nHidden=true\n"),
		"home/applications/sea/tide.desktop": entry("Name=Tide\n"),
		"usr/applications/pencil.desktop":    entry("Name=Pencil\n"),
		"usr/applications/hidden.desktop":    entry("Name=Hidden\n"),
		"usr/applications/sea-tide.desktop":  entry("Name=Tide of the system\n"),
		"usr/applications/quiet.desktop":     entry("Name=Quiet\nNoDisplay=true\n"),
		"usr/applications/link.desktop":      {Data: []byte("[Desktop Entry]\nType=Link\nName=Link\n")},
		"usr/applications/nameless.desktop":  entry(""),
		"usr/applications/broken.desktop":    {Data: []byte("no key file")},
		"usr/applications/Anchor.desktop":    entry("Name=Anchor\n"),
		"usr/applications/note.txt":          entry("Name=Note\n"),
	}, []string{"home/applications", "usr/applications", "gone"})
	require.Equal(t, []desktopentry.Program{
		{ID: "Anchor", Name: "Anchor", Path: "usr/applications/Anchor.desktop"},
		{ID: "pencil", Name: "pencil of mine", Comment: "Draws", Icon: "pencil", Categories: []string{"Graphics", "Art"}, Path: "home/applications/pencil.desktop"},
		{ID: "sea-tide", Name: "Tide", Path: "home/applications/sea/tide.desktop"},
	}, got)
}
