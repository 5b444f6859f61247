package session_test

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/xsettings"
	"ivelt/session"
)

// TestProgramsAreToldByAProvider: what the file says is on the display, and what it comes to
// say; it takes over from nobody, and ends cleanly. What toolkits make of it is compared in
// package truth.
func TestProgramsAreToldByAProvider(t *testing.T) {
	display, stop := xvfb(t)
	file := filepath.Join(t.TempDir(), "ivelt", "session.conf")
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	start := func(ctx context.Context) <-chan error {
		changed, err := session.Watch(ctx, file)
		require.NoError(t, err)
		ended := make(chan error, 1)
		go func() {
			read := func() (xsettings.Settings, error) { return session.ReadFile(file) }
			ended <- session.Provide(ctx, display, read, changed, func(error) {})
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
	tells(xsettings.Settings{"Net/ThemeName": "Linked"})
	require.NoError(t, os.WriteFile(real, []byte("[XSettings]\nNet/ThemeName=There\n"), 0o600))
	tells(xsettings.Settings{"Net/ThemeName": "There"})
	stop()
	require.ErrorIs(t, <-ended, session.ErrDisplay)
	require.ErrorIs(t, session.Provide(t.Context(), ":99999", nil, nil, nil), session.ErrDisplay)
}
