package session

import (
	"context"
	"errors"
	"io"
	"net"
	"os"
	"os/exec"
	"time"

	"golang.org/x/sys/unix"
)

// done is what one of a pair says to the other before it ends as it should.
const done = 'q'

// One that is gone is started again at once, but not over and over: after so many that were
// gone within soon it is waited, each time longer.
const (
	soon     = time.Second
	atOnce   = 5
	waitUnit = 50 * time.Millisecond
	maxWait  = 5 * time.Second
)

// Pair is one of two processes that start each other again: when one is killed, the other,
// which goes on with its own work, starts it at once. They end together.
type Pair struct {
	other func(wire *os.File) *exec.Cmd // makes the other's command, which finds the wire as file 3
	wire  net.Conn                      // to the other, nil if there is none yet
	from  time.Time                     // it is there
}

// PairOf is this process's side of a pair. wire is what the other one handed over, nil if
// there is no other yet.
func PairOf(wire *os.File, other func() *exec.Cmd) (*Pair, error) {
	p := &Pair{other: func(theirs *os.File) *exec.Cmd {
		c := other()
		c.ExtraFiles = []*os.File{theirs}
		return c
	}}
	if wire != nil {
		conn, err := net.FileConn(wire)
		if err != nil {
			return nil, err
		}
		p.wire, p.from = conn, time.Now()
		return p, wire.Close()
	}
	return p, nil
}

// Work does this side's work, and starts the other each time that it is gone, until the work
// is done, ctx ends or the other says that it is done. What work returns is returned, nil if
// the other was done first.
func (p *Pair) Work(ctx context.Context, work func(context.Context) error) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	worked := make(chan error, 1)
	go func() { worked <- work(ctx) }()
	guarded := make(chan error, 1)
	go func() { guarded <- p.guard(ctx) }()
	select {
	case err := <-worked:
		cancel()
		<-guarded
		return err
	case err := <-guarded:
		cancel()
		return errors.Join(err, <-worked)
	}
}

// guard starts the other while it is gone, until ctx ends, which it then tells the other, or
// the other is done.
func (p *Pair) guard(ctx context.Context) error {
	quick := 0 // how often it was gone soon
	for {
		if p.wire == nil {
			var wait time.Duration
			if quick > atOnce {
				wait = min(waitUnit<<min(quick-atOnce, 10), maxWait)
			}
			select {
			case <-time.After(wait):
			case <-ctx.Done():
				return nil
			}
			if err := p.start(); err != nil {
				return err
			}
		}
		wire, heard := p.wire, make(chan error, 1)
		go func() {
			_, err := wire.Read(make([]byte, 1))
			heard <- err
		}()
		var err error
		select {
		case <-ctx.Done():
			_, err := wire.Write([]byte{done})
			err = errors.Join(err, wire.Close())
			<-heard
			if gone(err) {
				return nil // it ends too
			}
			return err
		case err = <-heard:
		}
		p.wire = nil
		if closed := wire.Close(); err == nil {
			return closed
		} else if !gone(err) {
			return errors.Join(err, closed)
		}
		if quick++; time.Since(p.from) > soon {
			quick = 0
		}
	}
}

// gone reports whether an error of a wire says that nobody is at its other end.
func gone(err error) bool {
	return errors.Is(err, io.EOF) || errors.Is(err, unix.EPIPE) || errors.Is(err, unix.ECONNRESET)
}

// start starts the other.
func (p *Pair) start() error {
	ends, err := unix.Socketpair(unix.AF_UNIX, unix.SOCK_STREAM|unix.SOCK_CLOEXEC, 0)
	if err != nil {
		return err
	}
	ours, theirs := os.NewFile(uintptr(ends[0]), "ours"), os.NewFile(uintptr(ends[1]), "theirs")
	defer ours.Close() // FileConn has its own
	defer theirs.Close()
	conn, err := net.FileConn(ours)
	if err != nil {
		return err
	}
	c := p.other(theirs)
	if err := c.Start(); err != nil {
		return errors.Join(err, conn.Close())
	}
	go func() { _ = c.Wait() }()
	p.wire, p.from = conn, time.Now()
	return nil
}
