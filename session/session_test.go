package session_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/session"
)

// What a display tells is compared with what toolkits make of it in package truth.
func TestWithoutADisplay(t *testing.T) {
	for _, display := range []string{"", ":99999", "nowhere:0.x"} {
		_, err := session.Ask(display)
		require.ErrorIs(t, err, session.ErrDisplay, display)
	}
	s := session.Of("")()
	require.Nil(t, s.XSettings)
	require.Nil(t, s.Resources)
	require.True(t, s.Started.Before(time.Now()))
	require.WithinDuration(t, time.Now(), s.Started, 400*24*time.Hour)
}
