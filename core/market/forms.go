package market

import "slices"

// Forms are the shades that the piece of an entry has a form of, the usual one first: none
// if its looks are not measured.
func (e Entry) Forms() []string {
	if e.Looks == nil {
		return nil
	}
	out := []string{e.Looks.Shade()}
	for _, other := range []string{"light", "dark"} {
		if e.Looks.TwoForms && other != out[0] {
			out = append(out, other)
		}
	}
	return out
}

// Pictured is the state of the picture that shows an entry in one shade alone, "" for the
// first of its pictures.
func (e Entry) Pictured(shade string) string {
	if slices.ContainsFunc(e.Pictures, func(p Picture) bool { return p.State == shade }) {
		return shade
	}
	return ""
}

// CommonForm is a shade that all the entries have a form of, the wanted one before the
// other; "" if there is none.
func CommonForm(wanted string, all ...Entry) string {
	for _, shade := range []string{wanted, "light", "dark"} {
		if shade != "" && !slices.ContainsFunc(all, func(e Entry) bool { return !slices.Contains(e.Forms(), shade) }) {
			return shade
		}
	}
	return ""
}
