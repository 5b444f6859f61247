package judge

import (
	"fmt"

	"ivelt/core/desk"
)

// open tells of a login screen that lets everybody in.
func (j *judging) open(s desk.Surface) []Verdict {
	if _, has := s.Facet(desk.FacetSignIn); !has || j.look.Of(desk.FacetSignIn, s.ID) != desk.ByItself {
		return nil
	}
	return []Verdict{{
		Surface: s.ID, Facet: desk.FacetSignIn, Code: OpenToAll, Grave: true,
		Text:     fmt.Sprintf("%s nobody who they are: whoever switches this computer on can use it, and reads everything in your home.", s.Does("ask", "asks")),
		Remedies: []Remedy{{Facet: desk.FacetSignIn, Want: "asks", Text: "Let the login screen ask."}},
	}}
}
