package changes

import (
	"time"

	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/say"
	"ivelt/core/turning"
)

// Says tells in sentences what turns, how far it has come, and when it is time again.
func (is Turning) Says(now time.Time) []say.Message {
	var out []say.Message
	if s := is.Worn.Turn; s != nil {
		half := outfit.HalfOf(is.Worn.IsDark())
		out = append(out, say.Line("“%s” is %s now, and turns %s.", is.Worn.Name, half, s.Says()))
		if s.By == turning.BySun && s.At.Stays(now) {
			out = append(out, say.Line("At this place the sun neither rises nor sets now: it stays %s until it does.", half))
		}
	}
	if s := is.Worn.Show; s != nil {
		info, _ := desk.FacetOf(desk.FacetBackdrop)
		name := info.Says(is.Worn.Want(desk.FacetBackdrop))
		switch {
		case len(is.Pictures) == 0 && s.Folder != "":
			out = append(out, say.Line("There is no picture in %s any more: %s stays until there is.", s.Folder, name))
		case len(is.Pictures) == 0:
			out = append(out, say.Line("None of its pictures is there any more: %s stays until one is.", name))
		default:
			out = append(out, say.Line("The backdrop is %s, one of %d.", name, len(is.Pictures)))
		}
		if is.OnBattery {
			out = append(out, say.Line("The computer runs on its battery: the slide show waits."))
		}
	}
	switch {
	case is.Stopped != "":
		out = append(out, say.Line("It has stopped: %s.", is.Stopped))
	case is.Paused:
		out = append(out, say.Line("It stands still until you let it go on."))
	case is.Waits:
		out = append(out, say.Line("It waits: this look is being tried."))
	case !is.Due.IsZero():
		out = append(out, say.Line("The next time is %s.", dueSays(is.Due, now)))
	}
	return out
}

// dueSays is a time in words, seen from another.
func dueSays(due, now time.Time) say.Message {
	due = due.In(now.Location())
	if due.Format(time.DateOnly) == now.Format(time.DateOnly) {
		return say.Line("at %s", due.Format("15:04"))
	}
	return say.Line("on %s, %d %s, at %s", say.Weekday(due), due.Day(), say.Month(due), due.Format("15:04"))
}
