package plan

import (
	"path"

	"ivelt/core/desk"
	"ivelt/core/reading"
)

// keptBeside ends the name of the file that keeps a login screen's settings as
// they were.
const KeptBeside = ".before"

// Hand is something to do by hand.
type Hand struct {
	Say  string `json:"say"`
	Type string `json:"type,omitempty"` // what to type
}

// WayBack is what to do on a text console, should a login screen not come up
// after the plan: steps that a person can write down. Without a login screen in
// the plan it is empty.
func (p Plan) WayBack(d *desk.Desk) []Hand {
	var out []Hand
	for _, op := range p.Ops {
		s, ok := d.Surface(op.Surface)
		if !ok || s.Greeter == nil || op.Kind != Write || path.Ext(op.Path) == KeptBeside {
			continue
		}
		hands := handsOf(s, op.Path, op.Before.Kind == "file")
		if out != nil {
			hands = hands[1:] // one is signed in already
		}
		out = append(out, hands...)
	}
	return out
}

// HandsOf is the way back for a login screen as it is now, if a plan has kept its
// settings beside those that it reads.
func HandsOf(d *desk.Desk, s desk.Surface) []Hand {
	for _, f := range s.Facets {
		for _, src := range f.Sources {
			if at := reading.PlaceOf(d, s, src, nil); src.Write && d.Exists(at+KeptBeside) {
				return handsOf(s, at, true)
			}
		}
	}
	return nil
}

func handsOf(s desk.Surface, file string, kept bool) []Hand {
	out := []Hand{{Say: "Press Ctrl, Alt and F3 together, and sign in there with your name and password."}}
	if kept {
		out = append(out, Hand{"Put the settings of " + s.Title + " back:", "sudo cp " + Quote(file+KeptBeside) + " " + Quote(file)})
	} else {
		out = append(out, Hand{"Take the new settings of " + s.Title + " away:", "sudo rm " + Quote(file)})
	}
	if s.Greeter.Again != "" {
		return append(out, Hand{"Start " + s.Title + " again:", s.Greeter.Again})
	}
	return append(out, Hand{"Start the computer again:", "sudo reboot"})
}
