package session

import (
	"os"
	"runtime/debug"
	"strconv"
	"strings"

	"golang.org/x/sys/unix"
)

// Slim gives back to the system what a process needed to start and does not need to wait:
// its free memory, and the pages of the program's own file, which are read again when they
// are used (madvise(2), MADV_DONTNEED). What the linker wrote into a mapping when the program
// began is in no file: a mapping that has any of that stays.
func Slim() error {
	debug.SetGCPercent(20)
	debug.FreeOSMemory()
	self, err := os.Readlink("/proc/self/exe")
	if err != nil {
		return err
	}
	maps, err := os.ReadFile("/proc/self/smaps")
	if err != nil {
		return err
	}
	var of string // the addresses of the mapping that the lines are about, "" if it is to stay
	for line := range strings.Lines(string(maps)) {
		// address perms offset dev inode pathname, then "Key: value kB" (proc(5))
		fields := strings.Fields(line)
		switch {
		case len(fields) >= 5 && len(fields[1]) == 4:
			of = ""
			if strings.HasSuffix(strings.TrimSpace(line), " "+self) && fields[1][1] == '-' && fields[1][3] == 'p' {
				of = fields[0]
			}
		case len(fields) == 3 && fields[0] == "Anonymous:" && of != "" && fields[1] == "0":
			if err := letGo(of); err != nil {
				return err
			}
		}
	}
	return nil
}

// letGo lets go of the pages between two addresses, "400000-403000".
func letGo(addresses string) error {
	first, last, _ := strings.Cut(addresses, "-")
	from, err := strconv.ParseUint(first, 16, 64)
	if err != nil {
		return err
	}
	to, err := strconv.ParseUint(last, 16, 64)
	if err != nil {
		return err
	}
	if _, _, failed := unix.Syscall(unix.SYS_MADVISE, uintptr(from), uintptr(to-from), unix.MADV_DONTNEED); failed != 0 {
		return failed
	}
	return nil
}
