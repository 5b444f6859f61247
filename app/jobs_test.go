package app_test

import (
	"bytes"
	"context"
	"fmt"
	"log/slog"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
)

// TestAJobThatPanicsFailsAlone: it is said and logged, and everything else goes on.
func TestAJobThatPanicsFailsAlone(t *testing.T) {
	var log bytes.Buffer
	jobs := app.NewJobs(t.Context(), slog.New(slog.NewTextHandler(&log, nil)))
	j := jobs.Start("Wear it", func(_ context.Context, j *app.Job) error {
		j.Step("Applying", "files")
		var none []int
		return fmt.Errorf("never said: %d", none[len(none)])
	})
	require.ErrorIs(t, j.Wait(), app.ErrPanic)
	require.Equal(t, app.Failed, j.Progress().State)
	require.NoError(t, jobs.Start("another", func(context.Context, *app.Job) error { return nil }).Wait())
	require.True(t, jobs.Stop())
	require.Contains(t, log.String(), "a job panicked")
	require.Contains(t, log.String(), "jobs_test.go")
}

// TestAPausedJobIsNotForgotten while it may go on; one that has ended is, after an hour.
func TestAPausedJobIsNotForgotten(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		jobs := app.NewJobs(t.Context(), slog.New(slog.DiscardHandler))
		runs := 0
		j := jobs.Start("fetch", func(ctx context.Context, j *app.Job) error {
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
			require.Same(t, j, jobs.Get(j.Progress().ID))
			require.Equal(t, app.Paused, j.Progress().State)
			jobs.Resume(j)
		}
		require.NoError(t, j.Wait())
		time.Sleep(59 * time.Minute)
		require.NotNil(t, jobs.Get(j.Progress().ID))
		time.Sleep(2 * time.Minute)
		require.Nil(t, jobs.Get(j.Progress().ID))

		paused := jobs.Start("fetch", func(ctx context.Context, j *app.Job) error {
			j.MayPause()
			<-ctx.Done()
			return context.Cause(ctx)
		})
		synctest.Wait()
		paused.Pause()
		begun := time.Now()
		require.True(t, jobs.Stop())
		require.Zero(t, time.Since(begun), "a paused one holds nothing up")
		jobs.Cancel(paused)
		time.Sleep(2 * time.Hour)
		require.Nil(t, jobs.Get(paused.Progress().ID), "one that is cancelled is over")
	})
}

// TestStoppingDoesNotWaitForEver for a job that does not hear that it should stop.
func TestStoppingDoesNotWaitForEver(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		var log bytes.Buffer
		jobs := app.NewJobs(t.Context(), slog.New(slog.NewTextHandler(&log, nil)))
		hears := make(chan struct{})
		jobs.Start("deaf", func(context.Context, *app.Job) error { <-hears; return nil })
		begun := time.Now()
		require.False(t, jobs.Stop())
		require.Less(t, time.Since(begun), time.Minute)
		require.Contains(t, log.String(), "deaf")
		close(hears)
	})
}
