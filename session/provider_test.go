package session_test

import (
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/xsettings"
	"ivelt/session"
)

// TestProgramsAreToldByAProvider: what the file says is on the display, and what it comes to
// say; it takes over from nobody, and ends cleanly. What toolkits make of it is compared in
// package truth.
func TestProgramsAreToldByAProvider(t *testing.T) {
	display, stop := xvfb(t)
	d, err := desk.Open("own", t.TempDir(), "/", "")
	require.NoError(t, err)
	d.SetSurfaces(desk.Builtin())
	d.Env = map[string]string{"DISPLAY": display}
	file := session.FileOf(d)
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	start := func(ctx context.Context) <-chan error {
		changed, err := session.Watch(ctx, session.FilesOf(d)...)
		require.NoError(t, err)
		ended := make(chan error, 1)
		go func() {
			read := func() (desk.Held, error) { return session.ReadFile(file) }
			ended <- session.Hold(ctx, d, read, changed, func(error) {})
		}()
		return ended
	}
	tells := func(want xsettings.Settings) {
		t.Helper()
		require.Eventually(t, func() bool {
			s, err := session.Ask(display)
			return err == nil && s.Own && len(s.XSettings) == len(want) && s.XSettings["Net/ThemeName"] == want["Net/ThemeName"] && s.XSettings["Gtk/CursorThemeSize"] == want["Gtk/CursorThemeSize"]
		}, 10*time.Second, 10*time.Millisecond)
	}
	put := func(text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file+"~", []byte(text), 0o600))
		require.NoError(t, os.Rename(file+"~", file))
	}
	ended := start(ctx)
	tells(xsettings.Settings{})
	put("[XSettings]\nNet/ThemeName=Reed bed\nGtk/CursorThemeSize=48\nXft/DPI=many\n")
	tells(xsettings.Settings{"Net/ThemeName": "Reed bed", "Gtk/CursorThemeSize": int32(48)})
	put("no key file\n")
	put("[XSettings]\nNet/ThemeName=Gull\n")
	tells(xsettings.Settings{"Net/ThemeName": "Gull", "Gtk/CursorThemeSize": int32(0)}) // the usual, of what is told no more

	// X resources are set among those that are there, and are as they were found afterwards.
	loads := func(want string) {
		t.Helper()
		require.Eventually(t, func() bool { s, err := session.Ask(display); return err == nil && string(s.Resources) == want }, 10*time.Second, 10*time.Millisecond, "%q", want)
	}
	mine := "*color0:\t#000\nXcursor.size:\t24\n"
	load := exec.CommandContext(t.Context(), "xrdb", "-display", display, "-nocpp", "-load", "-")
	load.Stdin = strings.NewReader(mine)
	require.NoError(t, load.Run())
	loads(mine)
	put("[XSettings]\nNet/ThemeName=Gull\n[XResources]\nXcursor.size=56\nXft.hintstyle=hintslight\n[Pointer]\nSet=no such\n")
	loads("*color0:\t#000\nXcursor.size:\t56\nXft.hintstyle: hintslight\n")
	put("[XSettings]\nNet/ThemeName=Gull\n")
	loads(mine)

	require.ErrorIs(t, <-start(t.Context()), session.ErrProvided)
	s, err := session.Ask(display)
	require.NoError(t, err)
	require.Equal(t, "Gull", s.XSettings["Net/ThemeName"], "the first is still there")
	cancel()
	require.NoError(t, <-ended)
	s, err = session.Ask(display)
	require.NoError(t, err)
	require.Nil(t, s.XSettings)
	require.False(t, s.Own)

	// A file that is linked to another folder is watched there.
	real := filepath.Join(t.TempDir(), "mine.conf")
	require.NoError(t, os.WriteFile(real, []byte("[XSettings]\nNet/ThemeName=Linked\n"), 0o600))
	require.NoError(t, os.Remove(file))
	require.NoError(t, os.Symlink(real, file))
	ended = start(t.Context())
	tells(xsettings.Settings{"Net/ThemeName": "Linked", "Gtk/CursorThemeSize": int32(0)}) // the usual, of what the one before told
	require.NoError(t, os.WriteFile(real, []byte("[XSettings]\nNet/ThemeName=There\n"), 0o600))
	tells(xsettings.Settings{"Net/ThemeName": "There", "Gtk/CursorThemeSize": int32(0)})

	// What is told no more is what the person's files say, if they say something.
	own := filepath.Join(d.Home, ".config/gtk-4.0/settings.ini")
	require.NoError(t, os.MkdirAll(filepath.Dir(own), 0o755))
	require.NoError(t, os.WriteFile(own, []byte("[Settings]\ngtk-icon-theme-name=Marsh\n"), 0o600))
	icons := func(want string) {
		t.Helper()
		require.Eventually(t, func() bool {
			s, err := session.Ask(display)
			return err == nil && s.XSettings["Net/IconThemeName"] == want
		}, 10*time.Second, 10*time.Millisecond)
	}
	require.NoError(t, os.WriteFile(real, []byte("[XSettings]\nNet/IconThemeName=Gull\n"), 0o600))
	icons("Gull")
	require.NoError(t, os.WriteFile(real, []byte("[XSettings]\n"), 0o600))
	icons("Marsh")
	require.NoError(t, os.WriteFile(own, []byte("[Settings]\ngtk-icon-theme-name=Reed\n"), 0o600))
	icons("Reed")
	require.NoError(t, os.RemoveAll(filepath.Dir(own)))
	icons("Adwaita")
	require.NoError(t, os.MkdirAll(filepath.Dir(own), 0o755))
	require.NoError(t, os.WriteFile(own, []byte("[Settings]\ngtk-icon-theme-name=Again\n"), 0o600))
	icons("Again")
	stop()
	require.ErrorIs(t, <-ended, session.ErrDisplay)
	d.Env["DISPLAY"] = ":99999"
	require.ErrorIs(t, session.Hold(t.Context(), d, nil, nil, nil), session.ErrDisplay)
}
