package reading

import (
	"slices"

	"ivelt/core/desk"
)

// Live reports whether the running programs of a surface are told of a change of a facet,
// and follow it: by a provider on the display, or by GLib's settings, which tell who asks
// them.
func Live(d *desk.Desk, s desk.Surface, f desk.Facet) bool {
	return slices.ContainsFunc(f.Sources, func(src desk.Source) bool {
		if src.On != "" && src.On != d.Display() {
			return false
		}
		switch src.Format {
		case "xsettings":
			return d.Now().XSettings != nil
		case "gsettings":
			_, _, known := SchemaKey(d, src.Group, src.Key)
			return known
		}
		return false
	})
}
