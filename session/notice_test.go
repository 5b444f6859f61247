package session_test

import (
	"context"
	"os"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/session"
	"ivelt/session/sessiontest"
)

// TestANotificationIsShown: by whoever shows them, with what it can, and what the person does
// is told.
func TestANotificationIsShown(t *testing.T) {
	address, stop := sessiontest.Bus(t, os.Environ())
	_, err := session.Notify(t.Context(), address, "a", "b", "c")
	require.ErrorIs(t, err, session.ErrNoNotices)
	service := sessiontest.ShowNotices(t, address)
	for _, c := range []struct {
		can    []string
		choose bool
		seen   []string
	}{
		{nil, false, []string{"Ivelt", "Two things", "a < b & c"}},
		{[]string{"body-markup", "actions"}, true, []string{"Ivelt", "Two things", "a &lt; b &amp; c", "default", "Open"}},
		{[]string{"actions"}, false, []string{"Ivelt", "Two things", "a < b & c", "default", "Open"}},
	} {
		service.Can, service.Choose = c.can, c.choose
		chosen, err := session.Notify(t.Context(), address, "Two things", "a < b & c", "Open")
		require.NoError(t, err)
		require.Equal(t, c.choose, chosen)
		seen := service.Seen()
		require.Equal(t, c.seen, seen[len(seen)-1])
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = session.Notify(ctx, address, "a", "b", "c")
	require.Error(t, err)
	stop()
	_, err = session.Notify(t.Context(), address, "a", "b", "c")
	require.ErrorIs(t, err, session.ErrNoNotices)
	_, err = session.Notify(t.Context(), "", "a", "b", "c")
	require.ErrorIs(t, err, session.ErrNoNotices)
}
