package desk

import (
	"fmt"
	"io/fs"
	"path"
	"strings"
)

// Monitor is a screen that is plugged in.
type Monitor struct {
	Name          string // of its socket
	Width, Height int    // px, of the mode it asks for
}

// drm is where the kernel shows each card's sockets as folders with the files
// status and modes. (linux/drivers/gpu/drm/drm_sysfs.c; modes are listed with
// the preferred one first. From memory.)
const drm = "sys/class/drm"

// Monitors lists the screens that are plugged in, by the names of their sockets.
func (d *Desk) Monitors() []Monitor {
	tree := d.Tree()
	sockets, err := fs.Glob(tree, drm+"/card*-*")
	if err != nil {
		return nil
	}
	var out []Monitor
	for _, socket := range sockets {
		status, err := fs.ReadFile(tree, path.Join(socket, "status"))
		if err != nil || strings.TrimSpace(string(status)) != "connected" {
			continue
		}
		modes, err := fs.ReadFile(tree, path.Join(socket, "modes"))
		if err != nil {
			continue
		}
		_, name, _ := strings.Cut(path.Base(socket), "-")
		m := Monitor{Name: name}
		if _, err := fmt.Sscanf(string(modes), "%dx%d", &m.Width, &m.Height); err == nil && m.Width > 0 && m.Height > 0 {
			out = append(out, m)
		}
	}
	return out
}
