package session

import (
	"bytes"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"ivelt/core/desk"
)

// libraries are what a program has loaded that is drawn by a toolkit, by the name of the
// surface, the one that draws before those that it may load besides: a program of Qt loads
// GTK for its dialogs, and not the other way round.
var libraries = []struct{ surface, file string }{
	{"qt", "/libQt6Gui.so"}, {"qt", "/libQt5Gui.so"}, {"gtk4", "/libgtk-4.so"}, {"gtk3", "/libgtk-3.so"}, {"gtk2", "/libgtk-x11-2.0.so"},
}

const (
	maxPrograms = 4096
	maxMaps     = 8 << 20 // bytes
)

// Programs are the person's running programs that a toolkit draws, by what they have loaded
// (proc(5), maps and stat). What belongs to other people, and what ends meanwhile, is left
// out.
func Programs() []desk.Program {
	all, err := filepath.Glob("/proc/[0-9]*")
	if err != nil {
		return nil
	}
	booted := bootTime()
	var out []desk.Program
	for _, dir := range all[:min(len(all), maxPrograms)] {
		fi, err := os.Stat(dir)
		if err != nil {
			continue
		}
		if st, ok := fi.Sys().(*syscall.Stat_t); !ok || st.Uid != uint32(os.Getuid()) {
			continue
		}
		surface := drawnBy(filepath.Join(dir, "maps"))
		if surface == "" {
			continue
		}
		_, ticks, ok := started(dir)
		if !ok {
			continue
		}
		pid, _ := strconv.Atoi(filepath.Base(dir))
		name, _ := os.ReadFile(filepath.Join(dir, "comm"))
		out = append(out, desk.Program{PID: pid, Name: strings.TrimSpace(string(name)), Surface: surface, Since: booted.Add(time.Duration(ticks) * time.Second / clockTicks)})
	}
	slices.SortFunc(out, func(a, b desk.Program) int { return a.PID - b.PID })
	return out
}

// drawnBy is the surface of the toolkit that draws a program, by a list of what it has
// loaded.
func drawnBy(file string) string {
	f, err := os.Open(file)
	if err != nil {
		return ""
	}
	defer f.Close()
	var b bytes.Buffer
	if _, err := b.ReadFrom(io.LimitReader(f, maxMaps)); err != nil {
		return ""
	}
	for _, l := range libraries {
		if bytes.Contains(b.Bytes(), []byte(l.file)) {
			return l.surface
		}
	}
	return ""
}

// started is the process that started one, and when that was, in ticks since the computer
// was.
func started(dir string) (parent int, ticks int64, ok bool) {
	b, err := os.ReadFile(filepath.Join(dir, "stat"))
	if err != nil {
		return 0, 0, false
	}
	// The name, in brackets, may have anything in it.
	rest := strings.Fields(string(b[bytes.LastIndexByte(b, ')')+1:]))
	if len(rest) < 20 {
		return 0, 0, false
	}
	ticks, err = strconv.ParseInt(rest[19], 10, 64)
	if err != nil {
		return 0, 0, false
	}
	parent, err = strconv.Atoi(rest[1])
	return parent, ticks, err == nil
}
