package jobs_test

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app/jobs"
)

func TestJobs(t *testing.T) {
	list := jobs.New(t.Context(), slog.New(slog.DiscardHandler))
	started := make(chan struct{})
	j := list.Start("wait", func(ctx context.Context, j *jobs.Job) error {
		j.Step("waiting", "files")
		j.At(3, 12)
		close(started)
		<-ctx.Done()
		return ctx.Err()
	})
	<-started
	p := j.Progress()
	require.Equal(t, jobs.Running, p.State)
	require.Equal(t, 25, p.Percent())
	require.Same(t, j, list.Get(p.ID))
	list.Cancel(j)
	require.Equal(t, jobs.Cancelled, j.Progress().State)

	failed := list.Start("fail", func(context.Context, *jobs.Job) error { return errors.New("no") })
	require.EqualError(t, failed.Wait(), "no")
	require.Equal(t, jobs.Failed, failed.Progress().State)
	done := list.Start("done", func(_ context.Context, j *jobs.Job) error { j.Then("/next"); return nil })
	require.NoError(t, done.Wait())
	require.Equal(t, "/next", done.Progress().Then)
	require.Equal(t, -1, done.Progress().Percent())

	runs, undone := 0, false
	paused := list.Start("pause", func(ctx context.Context, j *jobs.Job) error {
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
	require.Equal(t, jobs.Paused, paused.Progress().State)
	list.Resume(paused)
	for paused.Progress().Then != "/run2" {
		time.Sleep(time.Millisecond)
	}
	paused.Pause()
	other := list.Start("other", func(ctx context.Context, _ *jobs.Job) error { return context.Cause(ctx) })
	_ = other.Wait()
	list.Resume(other)
	require.Equal(t, jobs.Done, other.Progress().State, "only what is paused goes on")
	require.False(t, undone)

	stuck := list.Start("stuck", func(ctx context.Context, _ *jobs.Job) error { <-ctx.Done(); return ctx.Err() })
	stopped := make(chan struct{})
	go func() { list.Stop(); close(stopped) }()
	select {
	case <-stopped:
	case <-time.After(5 * time.Second):
		t.Fatal("Stop waits for ever")
	}
	require.Equal(t, jobs.Cancelled, stuck.Progress().State)
	list.Cancel(paused)
	require.True(t, undone)
	require.Equal(t, jobs.Cancelled, paused.Progress().State)
	require.Same(t, paused, list.Get(paused.Progress().ID), "it is not forgotten at once")
	late := list.Start("late", func(context.Context, *jobs.Job) error { panic("never run") })
	require.Error(t, late.Wait())
}
