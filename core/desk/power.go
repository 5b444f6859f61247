package desk

import (
	"io/fs"
	"strings"
)

// OnBattery reports whether a computer is fed by its battery: one of its batteries empties and
// no mains feeds it (Linux, Documentation/ABI/testing/sysfs-class-power: type, online, status).
// A computer of which that cannot be told is on none.
func OnBattery(tree fs.FS) bool {
	const at = "sys/class/power_supply"
	entries, err := fs.ReadDir(tree, at)
	if err != nil {
		return false
	}
	said := func(of, what string) string {
		b, err := fs.ReadFile(tree, at+"/"+of+"/"+what)
		if err != nil {
			return ""
		}
		return strings.TrimSpace(string(b))
	}
	empties := false
	for _, e := range entries {
		switch name := e.Name(); said(name, "type") {
		case "Mains", "USB":
			if said(name, "online") == "1" {
				return false
			}
		case "Battery": // that of a mouse or a keyboard has the scope of a device
			empties = empties || said(name, "status") == "Discharging" && said(name, "scope") != "Device"
		}
	}
	return empties
}
