package judge

import (
	"fmt"
	"io/fs"
	"path"
	"regexp"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/effect"
	"ivelt/core/imagefile"
	"ivelt/core/preview"
	"ivelt/core/reading"
	"ivelt/core/say"
)

// cost tells what a slow machine would feel. What is see-through is mixed anew
// whenever something behind it changes, and blur reads what is around each pixel
// for that; pictures are scaled for each control; what moves by itself is drawn
// again and again (common practice, no source).
func (j *judging) cost(s desk.Surface) []Verdict {
	var out []Verdict
	for _, of := range []func(desk.Surface) []Verdict{j.seeThrough, j.effects, j.controls, j.pictureStyle, j.backdropMoves} {
		out = append(out, of(s)...)
	}
	return out
}

// costs is a verdict on what a slow machine feels.
func costs(s desk.Surface, facet string, says say.Message, remedies ...Fix) Verdict {
	return Verdict{Surface: s.ID, Facet: facet, Code: Costly, Says: says, Remedies: remedies}
}

// seeThrough is what is mixed with what is behind it, or blurs that.
func (j *judging) seeThrough(s desk.Surface) (out []Verdict) {
	for _, of := range [][2]string{{desk.FacetBlur, desk.FacetOpacity}, {desk.FacetGroundBlur, desk.FacetGround}} {
		if _, has := s.Facet(of[1]); !has {
			continue
		}
		opacity := number(j.look, of[1], s.ID, 0, 100, 100)
		blur := number(j.look, of[0], s.ID, 0, 64, 0)
		solid := Fix{Facet: of[1], Want: "100", Says: say.Of("judge/all-opaque-costs-nothing")}
		switch {
		case opacity >= 100:
		case blur > 0:
			out = append(out, costs(s, of[0], say.Of("judge/blurs-what-behind-px-slow", s.Named(), blur), Fix{Facet: of[0], Want: "0", Says: say.Of("judge/without-blur-costs-little")}, solid))
		default:
			out = append(out, costs(s, of[1], say.Of("judge/see-through-mixed-what-behind", s.Named()), solid))
		}
	}
	return out
}

// effects are those of windows: what each costs a slow computer, and whether anything moves for
// a person who wishes for less motion.
func (j *judging) effects(s desk.Surface) (out []Verdict) {
	if !preview.Moves(s) {
		if j.look.Of(desk.FacetEffects, s.ID) != "all" {
			return nil
		}
		return []Verdict{costs(s, desk.FacetEffects, say.Of("judge/moves-everything-opens-closes-slow", s.Named()), Fix{Facet: desk.FacetEffects, Want: "few", Says: say.Of("judge/few-effects-cost-little")}, Fix{Facet: desk.FacetEffects, Want: "none", Says: say.Of("judge/none-cost-nothing")})}
	}
	scene, slow := preview.EffectScene(j.d), effect.Computers[0]
	for _, f := range s.Facets {
		action := desk.EffectOf(f.Name)
		if action == "" {
			continue
		}
		e := preview.EffectOf(j.look, s, action)
		info, _ := desk.FacetOf(f.Name)
		fade := fmt.Sprintf("fade %d %s", e.For.Milliseconds(), e.Easing.Name)
		if c := e.CostOf(scene, effect.Glass{}); c.Drops(slow) > 0 {
			v := costs(s, f.Name, say.Of("judge/effect-drops-frames", info.Title, s.Named(), info.Says(e.String()), fmt.Sprintf("%.1f", c.Frame/1e6), c.Drops(slow), c.Frames))
			if faded, err := effect.Parse(action, fade); err == nil && faded.CostOf(scene, effect.Glass{}).Drops(slow) == 0 {
				v.Remedies = append(v.Remedies, Fix{Facet: f.Name, Want: fade, Says: say.Of("judge/fade-costs-less")})
			}
			v.Remedies = append(v.Remedies, Fix{Facet: f.Name, Want: "none", Says: say.Of("judge/none-cost-nothing")})
			out = append(out, v)
		}
		if j.wishesLess() && !e.Still() {
			v := Verdict{Surface: s.ID, Facet: f.Name, Code: Moving, Says: say.Of("judge/moves-all-the-same", info.Title, s.Named(), info.Says(e.String()))}
			if _, can := s.Facet(desk.FacetMotion); can {
				v.Remedies = append(v.Remedies, Fix{Facet: desk.FacetMotion, Want: "less", Says: say.Of("judge/tell-it-of-less-motion")})
			}
			v.Remedies = append(v.Remedies, Fix{Facet: f.Name, Want: fade, Says: say.Of("judge/let-it-fade")})
			out = append(out, v)
		}
	}
	return out
}

// wishesLess reports whether some surface is told that the person wishes for less motion.
func (j *judging) wishesLess() bool {
	return slices.ContainsFunc(j.d.Surfaces(), func(s desk.Surface) bool { return j.look.Of(desk.FacetMotion, s.ID) == "less" })
}

// controls are those that a theme draws with pictures, or that move.
func (j *judging) controls(s desk.Surface) (out []Verdict) {
	if s.ID != "gtk3" && s.ID != "gtk4" {
		return nil
	}
	if files := j.drawnWith(s); len(files) > 0 {
		plain := func(of *judging) bool { return len(of.drawnWith(s)) == 0 }
		text := say.Of("judge/theme-draws-controls-pictures", s.Named(), strings.Join(files, ", "))
		out = append(out, costs(s, desk.FacetWidgets, text, j.instead(s, desk.FacetWidgets, "that draws them without", plain)...))
	}
	if nodes := j.moving(s); len(nodes) > 0 {
		still := func(of *judging) bool { return len(of.moving(s)) == 0 }
		text := say.Of("judge/theme-moves-without-end", s.Named(), strings.Join(nodes, ", "))
		out = append(out, costs(s, desk.FacetWidgets, text, j.instead(s, desk.FacetWidgets, "that keeps still", still)...))
	}
	return out
}

// pictureStyle is a style that is made of pictures.
func (j *judging) pictureStyle(s desk.Surface) []Verdict {
	f, has := s.Facet(desk.FacetPictures)
	name := j.look.Of(desk.FacetPictures, s.ID)
	if !has || slices.Contains(f.Lookup.BuiltIn, name) {
		return nil
	}
	var plainly []Fix
	if len(f.Lookup.BuiltIn) > 0 {
		plainly = []Fix{{Facet: f.Name, Want: f.Lookup.BuiltIn[0], Says: say.Of("judge/drawn-plainly-costs-next-nothing")}}
	}
	return []Verdict{costs(s, f.Name, say.Of("judge/draws-every-control-with-pictures", s.Does("draw", "draws"), name), plainly...)}
}

// backdropMoves is a backdrop that does not keep still.
func (j *judging) backdropMoves(s desk.Surface) []Verdict {
	f, has := s.Facet(desk.FacetBackdrop)
	file := j.look.Of(desk.FacetBackdrop, s.ID)
	if !has || s.Kind == "login" || file == "" {
		return nil
	}
	how := j.moves(file)
	if how == "" {
		return nil
	}
	choices := reading.Slides(j.d.Tree(), desk.Name(file))
	for i := range choices {
		choices[i] = desk.Path(choices[i])
	}
	choices = append(choices, reading.Choices(j.d, s, f)...)
	remedy := Fix{Says: say.Of("judge/choose-backdrop-keeps-still")}
	still := func(other string) bool {
		return other != file && j.moves(other) == "" && reading.Check(j.d, s, f, other) == nil
	}
	if i := slices.IndexFunc(choices, still); i >= 0 {
		remedy = Fix{Facet: desk.FacetBackdrop, Want: choices[i], Says: say.Of("judge/keeps-still", path.Base(choices[i]))}
	}
	return []Verdict{costs(s, desk.FacetBackdrop, say.Of("judge/backdrop-moves", path.Base(file), how), remedy)}
}

// moves says how a backdrop moves, "" if it does not.
func (j *judging) moves(file string) string {
	if n := len(reading.Slides(j.d.Tree(), desk.Name(file))); n > 1 {
		return fmt.Sprintf("shows %d pictures in turn", n)
	}
	if raw, err := fs.ReadFile(j.d.Tree(), desk.Name(file)); err == nil && imagefile.MediaType(raw) == "image/svg+xml" && moved.Match(raw) {
		return "moves by itself"
	}
	return ""
}

// moved is what makes an SVG move (SVG 1.1, 19.2; CSS Animations Level 1).
var moved = regexp.MustCompile(`<animate(Transform|Motion|Color)?[\s/>]|@keyframes`)

// instead is the remedy of another theme, the nearest of those in place.
func (j *judging) instead(s desk.Surface, facet, which string, well func(*judging) bool) []Fix {
	if name := j.nearest(s, facet, well); name != "" {
		return []Fix{{Facet: facet, Want: name, Says: say.Of("judge/themes-place-nearest", name, which)}}
	}
	return []Fix{{Says: say.Of("judge/wear-another-theme")}}
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
