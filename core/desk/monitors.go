package desk

import (
	"fmt"
	"image"
	"io/fs"
	"path"
	"strconv"
	"strings"

	"ivelt/core/keyfile"
	"ivelt/core/say"
)

// Monitor is a screen that is plugged in.
type Monitor struct {
	Name          string      // of its socket
	Width, Height int         // px, as it stands: of one turned by a quarter those of its mode the other way round
	At            image.Point // where its upper left corner is among the others, px
	Turned        int         // by how many quarters, clockwise
	Scale         int         // percent: how large all on it is drawn; 0 if that is not told, which is 100
}

// Place is what it shows of all that the monitors show, px.
func (m Monitor) Place() image.Rectangle {
	return image.Rect(0, 0, m.Width, m.Height).Add(m.At)
}

// Places are those of monitors.
func Places(all []Monitor) (out []image.Rectangle) {
	for _, m := range all {
		out = append(out, m.Place())
	}
	return out
}

// Scaled is how many of its px a length on it has that is n px long at 100 %.
func (m Monitor) Scaled(n int) int {
	return int(float64(n)*m.Times() + 0.5)
}

// Times is how many times as large all on it is drawn.
func (m Monitor) Times() float64 {
	if m.Scale == 0 {
		return 1
	}
	return float64(m.Scale) / 100
}

// Says tells how it stands, besides its size; "" for the usual.
func (m Monitor) Says() say.Message {
	var out []say.Message
	if said := []say.Word{"", "turned to the right", "upside down", "turned to the left"}[m.Turned&3]; said != "" {
		out = append(out, said.Message())
	}
	if m.Scale != 0 && m.Scale != 100 {
		out = append(out, say.Line("at %d %%", m.Scale))
	}
	if out == nil {
		return say.Message{}
	}
	return say.Join(", ", out...)
}

// Monitors are what a descriptor says of where a shell keeps how monitors stand: key files with a
// group for each by the name of its socket.
type Monitors struct {
	Files  []string       `toml:"files"`  // weakest first, with the place names of [Desk.Expand]
	At     string         `toml:"at"`     // key: two numbers, px from the left and from the top
	Turned string         `toml:"turned"` // key: a word of Turns
	Turns  map[string]int `toml:"turns"`  // by how many quarters it is turned clockwise, by the shell's words
	Scale  string         `toml:"scale"`  // key: a number, 1 for as it is
}

// maxAway bounds how far off a monitor may be said to stand, px; leastScale and mostScale how it may
// be drawn, percent.
const (
	maxAway               = 32768 // as of windows on X, whose places have 16 bits
	leastScale, mostScale = 50, 400
)

// drm is where the kernel shows each card's sockets as folders with the files
// status and modes. (linux/drivers/gpu/drm/drm_sysfs.c; modes are listed with
// the preferred one first. From memory.)
const drm = "sys/class/drm"

// Monitors lists the screens that are plugged in, by the names of their sockets. Those of the desk's
// display are as it says that they stand; else they have the mode that each asks for, and stand as a
// shell's file says, or side by side from the left where nothing does (common practice, no source).
func (d *Desk) Monitors() []Monitor {
	return Once(d, "monitors", func() []Monitor {
		if told := d.Now().Monitors; len(told) > 0 && d.Display() == "x11" {
			return told
		}
		out := d.sockets()
		placed := make([]bool, len(out))
		for _, s := range d.Surfaces() {
			if s.Monitors != nil {
				d.stand(out, placed, *s.Monitors)
			}
		}
		right := 0
		for i, m := range out {
			if placed[i] {
				right = max(right, m.Place().Max.X)
			}
		}
		for i := range out {
			if !placed[i] {
				out[i].At = image.Pt(right, 0)
				right += out[i].Width
			}
		}
		return out
	})
}

// sockets are those of the kernel's that something is plugged into.
func (d *Desk) sockets() []Monitor {
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

// stand lets monitors stand as a shell's files say. What is no place, turn or scale is passed over.
func (d *Desk) stand(all []Monitor, placed []bool, rule Monitors) {
	var said []*keyfile.File
	for _, file := range rule.Files {
		for _, p := range d.Expand(file) {
			if raw, err := fs.ReadFile(d.Tree(), Name(p)); err == nil {
				if kf, err := keyfile.Parse(raw); err == nil {
					said = append(said, kf)
				}
			}
		}
	}
	for i := range all {
		m := &all[i]
		for _, kf := range said {
			if q, ok := rule.Turns[kf.Get(m.Name, rule.Turned)]; ok {
				m.Turned = q & 3
			}
			if scale, err := strconv.ParseFloat(kf.Get(m.Name, rule.Scale), 64); err == nil && scale*100 >= leastScale && scale*100 <= mostScale {
				m.Scale = int(scale*100 + 0.5)
			}
			if x, y, ok := pair(kf.Get(m.Name, rule.At)); ok {
				m.At, placed[i] = image.Pt(x, y), true
			}
		}
		if m.Turned%2 == 1 {
			m.Width, m.Height = m.Height, m.Width
		}
	}
}

// pair reads two whole numbers, in the room there is for monitors.
func pair(text string) (x, y int, ok bool) {
	both := strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ' ' || r == ';' })
	if len(both) != 2 {
		return 0, 0, false
	}
	x, errX := strconv.Atoi(both[0])
	y, errY := strconv.Atoi(both[1])
	fits := func(n int) bool { return n >= -maxAway && n <= maxAway }
	return x, y, errX == nil && errY == nil && fits(x) && fits(y)
}
