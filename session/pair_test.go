package session_test

import (
	"bufio"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/session"
)

// TestMain lets the test's program be either side of a pair.
func TestMain(m *testing.M) {
	side := os.Getenv("PAIR_SIDE")
	if side == "" {
		os.Exit(m.Run())
	}
	var wire *os.File
	if side != "first" {
		wire = os.NewFile(3, "wire")
	}
	next := map[string]string{"first": "other", "other": "again", "again": "other"}[side]
	pair, err := session.PairOf(wire, func() *exec.Cmd {
		c := exec.Command(os.Args[0])
		c.Env = append(os.Environ(), "PAIR_SIDE="+next)
		c.Stdout = os.Stdout
		return c
	})
	if err != nil {
		panic(err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	fmt.Println(side, os.Getpid())
	err = pair.Work(ctx, func(ctx context.Context) error {
		for ctx.Err() == nil {
			if _, err := os.Stat(os.Getenv("PAIR_END") + side); err == nil {
				return nil
			}
			time.Sleep(time.Millisecond)
		}
		return nil
	})
	cancel()
	fmt.Println("end", side, err)
	os.Exit(0)
}

// TestTwoStartEachOtherAgain kills one of a pair or the other, time after time: it is there
// again, and the one that stays goes on; and both end when one is done.
func TestTwoStartEachOtherAgain(t *testing.T) {
	end := filepath.Join(t.TempDir(), "end-")
	c := exec.Command(os.Args[0])
	c.Env = append(os.Environ(), "PAIR_SIDE=first", "PAIR_END="+end)
	out, theirs, err := os.Pipe()
	require.NoError(t, err)
	defer out.Close()
	c.Stdout = theirs
	require.NoError(t, c.Start())
	require.NoError(t, theirs.Close())
	go func() { _ = c.Wait() }()
	lines := make(chan string)
	go func() {
		defer close(lines)
		for s := bufio.NewScanner(out); s.Scan(); {
			lines <- s.Text()
		}
	}()
	next := func() (side string, pid int) {
		select {
		case line := <-lines:
			side, number, _ := strings.Cut(line, " ")
			pid, err := strconv.Atoi(number)
			require.NoError(t, err, line)
			return side, pid
		case <-time.After(10 * time.Second):
			require.Fail(t, "nobody came")
			return "", 0
		}
	}
	pids := map[bool]int{} // by whether it is the other
	for range 2 {
		side, pid := next()
		pids[side == "other"] = pid
	}
	for i := range 8 {
		other := i%3 > 0
		was := pids[other]
		require.NoError(t, syscall.Kill(was, syscall.SIGKILL))
		side, pid := next()
		require.Equal(t, map[bool]string{true: "other", false: "again"}[other], side)
		require.NotEqual(t, was, pid)
		pids[other] = pid
		require.NoError(t, syscall.Kill(pids[!other], 0), "the one that stays is there")
	}
	require.NoError(t, os.WriteFile(end+"other", nil, 0o600))
	said := map[string]bool{}
	for line := range lines { // ends when nobody has it open
		said[line] = true
	}
	require.Equal(t, map[string]bool{"end other <nil>": true, "end again <nil>": true}, said)
}
