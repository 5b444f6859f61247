package desk

import (
	"strings"

	"ivelt/core/say"
)

// Says is in words what a descriptor reaches for, as files of a desk; nil stands for any with
// the usual folders.
func (r Reach) Says(d *Desk) (out []say.Message) {
	if d == nil {
		d = &Desk{HomePath: "/home/me"}
	}
	if len(r.Reads) > 0 {
		out = append(out, say.Of("descriptor/reads", shownPaths(d, r.Reads)))
	}
	if followed := namesOfAsked(d, r.Asks, true); followed != "" {
		out = append(out, say.Of("descriptor/follows", followed))
	}
	if asked := namesOfAsked(d, r.Asks, false); asked != "" {
		out = append(out, say.Of("descriptor/asks", asked))
	}
	if len(r.Looks) > 0 {
		out = append(out, say.Of("descriptor/looks", shownPaths(d, r.Looks)))
	}
	var files []string
	keys := map[string][]say.Message{}
	for _, w := range r.Writes {
		if keys[w.Path] == nil {
			files = append(files, w.Path)
		}
		keys[w.Path] = append(keys[w.Path], say.Line("%s as “%s”", say.Lower(FacetTitle(w.Facet)), strings.TrimSpace(w.Group+" "+w.Key)))
	}
	for _, file := range files {
		where := say.Words(shownPaths(d, []string{file}))
		if file == "" {
			where = say.Word("your settings").Message()
		}
		out = append(out, say.Of("descriptor/writes", where, say.Join(", ", keys[file]...)))
	}
	if len(files) == 0 {
		out = append(out, say.Of("descriptor/writes-nothing"))
	}
	for _, s := range r.Starts {
		if s.Facet == "" {
			out = append(out, say.Of("descriptor/starts", s.What))
		} else {
			out = append(out, say.Of("descriptor/may-start", say.Lower(FacetTitle(s.Facet)), s.What))
		}
	}
	return out
}

// shownPaths are paths with place names as people write them.
func shownPaths(d *Desk, templates []string) string {
	var out []string
	for _, t := range templates {
		for _, p := range d.Expand(t) {
			out = append(out, d.Show(p))
		}
	}
	return strings.Join(out, ", ")
}

// namesOfAsked names what is asked that is no file: surfaces that are followed, or all else.
func namesOfAsked(d *Desk, asks []string, followed bool) string {
	var out []string
	for _, a := range asks {
		format, what, _ := strings.Cut(a, " ")
		if (format == "follows") != followed {
			continue
		}
		switch format {
		case "env":
			out = append(out, "the variable "+what)
		case "follows":
			if s, ok := d.Surface(what); ok {
				what = s.Title
			}
			out = append(out, what)
		default:
			out = append(out, "the setting "+what)
		}
	}
	return strings.Join(out, ", ")
}
