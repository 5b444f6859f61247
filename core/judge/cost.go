package judge

import (
	"fmt"
	"io/fs"
	"path"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/imagefile"
	"ivelt/core/reading"
)

// cost tells what a slow machine would feel. What is see-through is mixed anew
// whenever something behind it changes, and blur reads what is around each pixel
// for that; pictures are scaled for each control; what moves by itself is drawn
// again and again (common practice, no source).
func (j *judging) cost(s desk.Surface) []Verdict {
	var out []Verdict
	say := func(facet, text string, remedies ...Remedy) {
		out = append(out, Verdict{Surface: s.ID, Facet: facet, Code: Costly, Text: text, Remedies: remedies})
	}
	for _, of := range [][2]string{{desk.FacetBlur, desk.FacetOpacity}, {desk.FacetGroundBlur, desk.FacetGround}} {
		if _, has := s.Facet(of[1]); !has {
			continue
		}
		opacity := number(j.look, of[1], s.ID, 0, 100, 100)
		blur := number(j.look, of[0], s.ID, 0, 64, 0)
		solid := Remedy{Facet: of[1], Want: "100", Text: "With all of it opaque it costs nothing."}
		switch {
		case opacity >= 100:
		case blur > 0:
			say(of[0], fmt.Sprintf("%s blurs what is behind it, %d px, which a slow machine works out anew whenever something moves there.", s.Title, blur), Remedy{Facet: of[0], Want: "0", Text: "Without blur it costs little."}, solid)
		default:
			say(of[1], fmt.Sprintf("%s is see-through: it is mixed with what is behind whenever that changes.", s.Title), solid)
		}
	}
	if j.look.Of(desk.FacetEffects, s.ID) == "all" {
		say(desk.FacetEffects, s.Title+" moves everything that opens and closes, which a slow machine feels at each window.",
			Remedy{Facet: desk.FacetEffects, Want: "few", Text: "A few effects cost little."}, Remedy{Facet: desk.FacetEffects, Want: "none", Text: "None cost nothing."})
	}
	if s.ID == "gtk3" || s.ID == "gtk4" {
		plain := func(of *judging) bool { return len(of.drawnWith(s)) == 0 }
		if files := j.drawnWith(s); len(files) > 0 {
			text := fmt.Sprintf("The theme of %s draws controls with pictures: %s.", s.Title, strings.Join(files, ", "))
			say(desk.FacetWidgets, text, j.instead(s, desk.FacetWidgets, "that draws them without", plain)...)
		}
		still := func(of *judging) bool { return len(of.moving(s)) == 0 }
		if nodes := j.moving(s); len(nodes) > 0 {
			text := fmt.Sprintf("The theme of %s moves without end: %s.", s.Title, strings.Join(nodes, ", "))
			say(desk.FacetWidgets, text, j.instead(s, desk.FacetWidgets, "that keeps still", still)...)
		}
	}
	if f, has := s.Facet(desk.FacetPictures); has {
		if name := j.look.Of(desk.FacetPictures, s.ID); !slices.Contains(f.Lookup.BuiltIn, name) {
			var plainly []Remedy
			if len(f.Lookup.BuiltIn) > 0 {
				plainly = []Remedy{{Facet: f.Name, Want: f.Lookup.BuiltIn[0], Text: "Drawn plainly it costs next to nothing."}}
			}
			say(f.Name, fmt.Sprintf("%s every control with pictures of the style %s.", s.Does("draw", "draws"), name), plainly...)
		}
	}
	if f, has := s.Facet(desk.FacetBackdrop); has && s.Kind != "login" {
		file := j.look.Of(desk.FacetBackdrop, s.ID)
		moves := func(file string) string {
			if n := len(reading.Slides(j.d.Tree(), desk.Name(file))); n > 1 {
				return fmt.Sprintf("shows %d pictures in turn", n)
			}
			if raw, err := fs.ReadFile(j.d.Tree(), desk.Name(file)); err == nil && imagefile.MediaType(raw) == "image/svg+xml" && moved.Match(raw) {
				return "moves by itself"
			}
			return ""
		}
		if how := moves(file); file != "" && how != "" {
			var remedies []Remedy
			choices := reading.Slides(j.d.Tree(), desk.Name(file))
			for i := range choices {
				choices[i] = desk.Path(choices[i])
			}
			for _, other := range append(choices, reading.Choices(j.d, s, f)...) {
				if other != file && moves(other) == "" && reading.Check(j.d, s, f, other) == nil {
					remedies = append(remedies, Remedy{Facet: desk.FacetBackdrop, Want: other, Text: path.Base(other) + " keeps still."})
					break
				}
			}
			if remedies == nil {
				remedies = []Remedy{{Text: "Choose a backdrop that keeps still."}}
			}
			say(desk.FacetBackdrop, fmt.Sprintf("The backdrop %s %s.", path.Base(file), how), remedies...)
		}
	}
	return out
}

// moved is what makes an SVG move (SVG 1.1, 19.2; CSS Animations Level 1).
var moved = regexp.MustCompile(`<animate(Transform|Motion|Color)?[\s/>]|@keyframes`)

// instead is the remedy of another theme, the nearest of those in place.
func (j *judging) instead(s desk.Surface, facet, which string, well func(*judging) bool) []Remedy {
	if name := j.nearest(s, facet, well); name != "" {
		return []Remedy{{Facet: facet, Want: name, Text: fmt.Sprintf("Of the themes in place, %s is the nearest %s.", name, which)}}
	}
	return []Remedy{{Text: "Wear another theme."}}
}

// usual are controls that are seen all the time.
var usual = []string{
	"window.background", "window.background headerbar.titlebar", "window.background button.text-button", "window.background button.text-button:hover",
	"window.background entry", "window.background list row", "window.background list row:selected", "window.background progressbar trough progress", "window.background notebook header tab:checked",
}

// drawnWith are the files of the pictures that usual controls are drawn with.
func (j *judging) drawnWith(s desk.Surface) []string {
	var out []string
	for _, node := range usual {
		st := j.of(s.ID).Compute(node)
		images := []string{st.Image("border-image-source").File}
		for _, l := range st.Layers() {
			images = append(images, l.Image.File)
		}
		for _, file := range images {
			if name := path.Base(file); file != "" && !slices.Contains(out, name) {
				out = append(out, name)
			}
		}
	}
	return out
}

// moving are the usual controls that never keep still.
func (j *judging) moving(s desk.Surface) []string {
	var out []string
	for _, node := range usual {
		st := j.of(s.ID).Compute(node)
		if name := st.Text("animation-name"); name != "none" && name != "" && strings.Contains(st.Text("animation-iteration-count"), "infinite") {
			out = append(out, node[strings.LastIndex(node, " ")+1:])
		}
	}
	return out
}
