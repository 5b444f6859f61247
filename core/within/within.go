// Package within holds in tests what an input costs against its size.
package within

import (
	"runtime"
	"syscall"
	"testing"
	"time"
)

// What an input may cost: something for being there, and something a byte. Instrumented
// for fuzzing, a program is several times slower.
const (
	Time        = time.Second
	TimePerByte = 50 * time.Microsecond
	Memory      = 64 << 20 // bytes allocated in all
	PerByte     = 8 << 10
)

// Reason does some work for an input of n bytes, and fails the test if that takes more
// processor time or memory than such an input may. Work that took too long is done again: what
// the machine does besides only adds to its time.
func Reason(t testing.TB, n int, work func()) {
	t.Helper()
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	begun := processor()
	work()
	took := processor() - begun
	runtime.ReadMemStats(&after)
	most := Time + time.Duration(n)*TimePerByte
	for again := 0; took > most && again < 2; again++ {
		begun := processor()
		work()
		took = min(took, processor()-begun)
	}
	if took > most {
		t.Errorf("%d bytes took %v of processor time, more than %v", n, took, most)
	}
	if took, most := after.TotalAlloc-before.TotalAlloc, uint64(Memory+n*PerByte); took > most {
		t.Errorf("%d bytes took %d MB, more than %d", n, took>>20, most>>20)
	}
}

// processor is the time that this process has spent, in all its threads.
func processor() time.Duration {
	var u syscall.Rusage
	if err := syscall.Getrusage(syscall.RUSAGE_SELF, &u); err != nil {
		return 0
	}
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}
