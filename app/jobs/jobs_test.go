package jobs_test

import (
	"bytes"
	"context"
	"fmt"
	"log/slog"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app/jobs"
)

// TestAJobThatPanicsFailsAlone: it is said and logged, and everything else goes on.
func TestAJobThatPanicsFailsAlone(t *testing.T) {
	var log bytes.Buffer
	list := jobs.New(t.Context(), slog.New(slog.NewTextHandler(&log, nil)))
	j := list.Start("Wear it", func(_ context.Context, j *jobs.Job) error {
		j.Step("Applying", "files")
		var none []int
		return fmt.Errorf("never said: %d", none[len(none)])
	})
	require.ErrorIs(t, j.Wait(), jobs.ErrPanic)
	require.Equal(t, jobs.Failed, j.Progress().State)
	require.NoError(t, list.Start("another", func(context.Context, *jobs.Job) error { return nil }).Wait())
	require.True(t, list.Stop())
	require.Contains(t, log.String(), "a job panicked")
	require.Contains(t, log.String(), "jobs_test.go")
}

// TestAPausedJobIsNotForgotten while it may go on; one that has ended is, after an hour.
func TestAPausedJobIsNotForgotten(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		list := jobs.New(t.Context(), slog.New(slog.DiscardHandler))
		runs := 0
		j := list.Start("fetch", func(ctx context.Context, j *jobs.Job) error {
			j.MayPause()
			if runs++; runs > 2 {
				return nil
			}
			<-ctx.Done()
			return context.Cause(ctx)
		})
		for range 2 {
			synctest.Wait()
			j.Pause()
			time.Sleep(3 * time.Hour)
			require.Same(t, j, list.Get(j.Progress().ID))
			require.Equal(t, jobs.Paused, j.Progress().State)
			list.Resume(j)
		}
		require.NoError(t, j.Wait())
		time.Sleep(59 * time.Minute)
		require.NotNil(t, list.Get(j.Progress().ID))
		time.Sleep(2 * time.Minute)
		require.Nil(t, list.Get(j.Progress().ID))

		paused := list.Start("fetch", func(ctx context.Context, j *jobs.Job) error {
			j.MayPause()
			<-ctx.Done()
			return context.Cause(ctx)
		})
		synctest.Wait()
		paused.Pause()
		begun := time.Now()
		require.True(t, list.Stop())
		require.Zero(t, time.Since(begun), "a paused one holds nothing up")
		list.Cancel(paused)
		time.Sleep(2 * time.Hour)
		require.Nil(t, list.Get(paused.Progress().ID), "one that is cancelled is over")
	})
}

// TestStoppingDoesNotWaitForEver for a job that does not hear that it should stop.
func TestStoppingDoesNotWaitForEver(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		var log bytes.Buffer
		list := jobs.New(t.Context(), slog.New(slog.NewTextHandler(&log, nil)))
		hears := make(chan struct{})
		list.Start("deaf", func(context.Context, *jobs.Job) error { <-hears; return nil })
		begun := time.Now()
		require.False(t, list.Stop())
		require.Less(t, time.Since(begun), time.Minute)
		require.Contains(t, log.String(), "deaf")
		close(hears)
	})
}
