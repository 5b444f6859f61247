package judge

import (
	"ivelt/core/desk"
	"ivelt/core/say"
)

// open tells of a login screen that lets everybody in.
func (j *judging) open(s desk.Surface) []Verdict {
	if _, has := s.Facet(desk.FacetSignIn); !has || j.look.Of(desk.FacetSignIn, s.ID) != desk.ByItself {
		return nil
	}
	return []Verdict{{
		Surface: s.ID, Facet: desk.FacetSignIn, Code: OpenToAll, Grave: true,
		Says:     say.Of("judge/asks-nobody-who-they-are", s.Does("sign", "signs")),
		Remedies: []Fix{{Facet: desk.FacetSignIn, Want: "asks", Says: say.Of("judge/let-login-screen-ask")}},
	}}
}
