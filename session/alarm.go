package session

import (
	"context"
	"errors"
	"os"
	"time"

	"golang.org/x/sys/unix"
)

// Until waits until the clock on the wall shows a time, also over a night in which the
// computer slept, until it is set, which may mean that the time has come or gone, or until ctx
// ends or something else is told (timerfd_create(2), TFD_TIMER_CANCEL_ON_SET). Between it does
// nothing at all. Without a time it waits for the rest alone.
func Until(ctx context.Context, when time.Time, told ...<-chan struct{}) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	rung := make(chan error, 1)
	if !when.IsZero() {
		fd, err := unix.TimerfdCreate(unix.CLOCK_REALTIME, unix.TFD_NONBLOCK|unix.TFD_CLOEXEC)
		if err != nil {
			return err
		}
		timer := os.NewFile(uintptr(fd), "timer")
		defer timer.Close()
		at := unix.NsecToTimespec(max(1, when.UnixNano()))
		if err := unix.TimerfdSettime(fd, unix.TFD_TIMER_ABSTIME|unix.TFD_TIMER_CANCEL_ON_SET, &unix.ItimerSpec{Value: at}, nil); err != nil {
			return err
		}
		go func() {
			_, err := timer.Read(make([]byte, 8))
			if errors.Is(err, unix.ECANCELED) { // the clock was set
				err = nil
			}
			rung <- err
		}()
	}
	some := make(chan struct{}, len(told))
	for _, c := range told {
		go func() {
			select {
			case <-c:
				some <- struct{}{}
			case <-ctx.Done():
			}
		}()
	}
	select {
	case err := <-rung:
		return err
	case <-some:
	case <-ctx.Done():
	}
	return nil
}
