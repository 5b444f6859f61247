package session_test

import (
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"ivelt/session"
)

// TestManyAskAtOnce: pages ask the display beside each other, each by a connection of its own.
func TestManyAskAtOnce(t *testing.T) {
	display, stop := xvfb(t)
	defer stop()
	var g errgroup.Group
	for range 32 {
		g.Go(func() error {
			for range 20 {
				now, err := session.Ask(display)
				if err != nil {
					return err
				}
				if len(now.Monitors) != 1 {
					t.Errorf("%d monitors", len(now.Monitors))
				}
			}
			return nil
		})
	}
	require.NoError(t, g.Wait())
}
