package layer

import (
	"errors"

	"ivelt/core/licence"
	"ivelt/core/say"
)

// ErrLicence: the licence of the base forbids that what is built is passed on.
var ErrLicence = errors.New("what is built may not be passed on")

// Terms says what the base's licence allows to be done with what is built.
func (r Recipe) Terms() say.Message {
	switch t := licence.TermsOf(r.Base.Licence); {
	case r.Base.Licence == "":
		return say.Of("layer/licence-not-given", r.Base.Folder)
	case !t.Known:
		return say.Of("layer/licence-unknown", r.Base.Folder, r.Base.Licence)
	case !t.PassOn:
		return say.Of("layer/licence-forbids", r.Base.Folder, r.Base.Licence)
	case t.Under == "":
		return say.Of("layer/licence-any", r.Base.Folder, r.Base.Licence)
	default:
		return say.Of("layer/licence-same", r.Base.Folder, r.Base.Licence)
	}
}
