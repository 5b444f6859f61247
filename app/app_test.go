package app_test

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
)

func TestJobs(t *testing.T) {
	jobs := app.NewJobs(t.Context(), slog.New(slog.DiscardHandler))
	started := make(chan struct{})
	j := jobs.Start("wait", func(ctx context.Context, j *app.Job) error {
		j.Step("waiting", "files")
		j.At(3, 12)
		close(started)
		<-ctx.Done()
		return ctx.Err()
	})
	<-started
	p := j.Progress()
	require.Equal(t, app.Running, p.State)
	require.Equal(t, 25, p.Percent())
	require.Same(t, j, jobs.Get(p.ID))
	jobs.Cancel(j)
	require.Equal(t, app.Cancelled, j.Progress().State)

	failed := jobs.Start("fail", func(context.Context, *app.Job) error { return errors.New("no") })
	require.EqualError(t, failed.Wait(), "no")
	require.Equal(t, app.Failed, failed.Progress().State)
	done := jobs.Start("done", func(_ context.Context, j *app.Job) error { j.Then("/next"); return nil })
	require.NoError(t, done.Wait())
	require.Equal(t, "/next", done.Progress().Then)
	require.Equal(t, -1, done.Progress().Percent())

	runs, undone := 0, false
	paused := jobs.Start("pause", func(ctx context.Context, j *app.Job) error {
		j.MayPause()
		j.OnCancel(func() { undone = true })
		runs++
		j.Then(fmt.Sprint("/run", runs))
		<-ctx.Done()
		return context.Cause(ctx)
	})
	for paused.Progress().Then == "" {
		time.Sleep(time.Millisecond)
	}
	paused.Pause()
	require.Equal(t, app.Paused, paused.Progress().State)
	jobs.Resume(paused)
	for paused.Progress().Then != "/run2" {
		time.Sleep(time.Millisecond)
	}
	paused.Pause()
	other := jobs.Start("other", func(ctx context.Context, _ *app.Job) error { return context.Cause(ctx) })
	_ = other.Wait()
	jobs.Resume(other)
	require.Equal(t, app.Done, other.Progress().State, "only what is paused goes on")
	require.False(t, undone)

	stuck := jobs.Start("stuck", func(ctx context.Context, _ *app.Job) error { <-ctx.Done(); return ctx.Err() })
	stopped := make(chan struct{})
	go func() { jobs.Stop(); close(stopped) }()
	select {
	case <-stopped:
	case <-time.After(5 * time.Second):
		t.Fatal("Stop waits for ever")
	}
	require.Equal(t, app.Cancelled, stuck.Progress().State)
	jobs.Cancel(paused)
	require.True(t, undone)
	require.Equal(t, app.Cancelled, paused.Progress().State)
	require.Same(t, paused, jobs.Get(paused.Progress().ID), "it is not forgotten at once")
	late := jobs.Start("late", func(context.Context, *app.Job) error { panic("never run") })
	require.Error(t, late.Wait())
}
