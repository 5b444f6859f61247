// Package plan is what is to be changed on a desk, before anything is.
//
// A [Plan] is an ordered list of operations, each with what must be there before ([State])
// and what is there after, so each has an inverse. Package planning makes plans, package
// apply carries them out.
package plan

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io/fs"
	"strings"
	"time"

	"ivelt/core/desk"
	"ivelt/core/say"
)

// Computer is what plans know a computer by: its machine ID, hashed with a key of
// Ivelt's own, as machine-id(5) asks of what is told to others. It is "" for a
// computer that has none.
func Computer(d *desk.Desk) string {
	id, err := fs.ReadFile(d.Tree(), "etc/machine-id")
	if err != nil || len(strings.TrimSpace(string(id))) == 0 {
		return ""
	}
	h := hmac.New(sha256.New, []byte("ivelt: for which computer a plan was made"))
	h.Write([]byte(strings.TrimSpace(string(id))))
	return hex.EncodeToString(h.Sum(nil))[:16]
}

// Keeper keeps file contents by hash.
type Keeper interface {
	Put([]byte) (hash string, err error)
	Get(hash string) ([]byte, error)
}

// Kind is what an operation does.
type Kind string

const (
	Folder Kind = "folder" // make an empty folder
	Write  Kind = "write"  // write a file anew
	Copy   Kind = "copy"   // copy a piece out of a parcel
	Link   Kind = "link"   // make a symbolic link
	Remove Kind = "remove" // take away what a Copy, Write or Folder made
	AsIs   Kind = "as-is"  // keep what is there, and leave it: a plan of these is not carried out
	Set    Kind = "set"    // give a setting of the desktop's a value, or take it out

	Package Kind = "package" // have the package manager install a package, or take it away
)

// Effect is when a change is seen.
type Effect string

// The effects, from at once to the restart of the machine.
const (
	AtOnce         Effect = "at once"
	ProgramRestart Effect = "program restart"
	ShellRestart   Effect = "shell restart"
	SignIn         Effect = "sign-in"
	MachineRestart Effect = "machine restart"
)

// Says is the effect in words.
func (e Effect) Says() say.Word {
	return map[Effect]say.Word{
		AtOnce: "at once", ProgramRestart: "program restart", ShellRestart: "shell restart", SignIn: "sign-in", MachineRestart: "machine restart",
	}[e]
}

// EffectOf returns the effect that a descriptor's restart stands for.
func EffectOf(restart string) Effect {
	switch restart {
	case "program":
		return ProgramRestart
	case "shell":
		return ShellRestart
	case "session":
		return SignIn
	case "machine":
		return MachineRestart
	}
	return AtOnce
}

// State is what stands at a path. The zero value means nothing does.
type State struct {
	Kind    string      `json:"kind,omitempty"` // file, tree, link, setting, or "" for nothing
	Hash    string      `json:"hash,omitempty"` // of the contents, or of a tree's manifest; the target of a link
	Mode    fs.FileMode `json:"mode,omitempty"`
	ModTime time.Time   `json:"mod_time,omitzero"`
	Stamp   string      `json:"stamp,omitempty"` // of a tree: the same if nothing was done to its files

	Attributes *Attributes `json:"attributes,omitempty"` // of a file, if they are unusual
}

// Is reports whether two states are the same but for times, stamps and attributes.
func (s State) Is(t State) bool { return s.Kind == t.Kind && s.Hash == t.Hash && s.Mode == t.Mode }

// Op is one operation.
type Op struct {
	Kind    Kind    `json:"kind"`
	Path    string  `json:"path"` // of the desk, links resolved; of a Set see [desk.OfSetting]
	Before  State   `json:"before"`
	After   State   `json:"after"`
	Content []byte  `json:"content,omitempty"` // of a Write
	Source  *Source `json:"source,omitempty"`  // of a Copy, and of the Remove that undoes one
	Files   int     `json:"files,omitempty"`   // of a tree
	Bytes   int64   `json:"bytes,omitempty"`
	Surface string  `json:"surface,omitempty"`
	Facet   string  `json:"facet,omitempty"`
	Why     string  `json:"why"`
	Effect  Effect  `json:"effect"`
	Admin   bool    `json:"admin"`           // needs an administrator
	Loses   []Loss  `json:"loses,omitempty"` // what of it cannot be kept, or brought back

	Says say.Message `json:"says,omitzero"` // what Why says
}

// IsFolder reports whether the operation is about a folder of its own, not
// about a piece.
func (o Op) IsFolder() bool {
	return o.Source == nil && (o.Before.Is(EmptyTree) || o.After.Is(EmptyTree))
}

// Source is where a piece is copied from.
type Source struct {
	Parcel string   `json:"parcel"` // host path
	Root   string   `json:"root"`
	Only   []string `json:"only,omitempty"`   // the files to copy, flat; all of Root if empty
	Secret string   `json:"secret,omitempty"` // the password of an encrypted parcel
	Kept   string   `json:"kept,omitempty"`   // instead of a parcel: a tar that the Keeper holds, by hash
}

// Blocked is something wanted that no operation can bring about.
type Blocked struct {
	Surface string `json:"surface"`
	Facet   string `json:"facet"`
	Why     string `json:"why"`
	Remedy  string `json:"remedy"`

	Says say.Message `json:"says,omitzero"`        // what Why says
	Fix  say.Message `json:"remedy_says,omitzero"` // and what Remedy says
}

// Plan is the ordered way from what is to what is wanted.
type Plan struct {
	ID       string    `json:"id"` // a hash of what it does: planning twice gives the same
	Desk     string    `json:"desk"`
	Computer string    `json:"computer,omitempty"` // see [Computer]
	Home     string    `json:"home"`               // where the home stands on the desk
	Title    string    `json:"title"`
	Undoes   []string  `json:"undoes,omitempty"` // the plans it goes back on
	Part     string    `json:"part,omitempty"`   // of a going back: the surface and the facet, if it is not whole
	Outfit   string    `json:"outfit,omitempty"` // the outfit file that the plan puts on, if it puts one on
	Ops      []Op      `json:"ops"`
	Blocked  []Blocked `json:"blocked"`

	// Lose says that the person was told what the operations lose, and gives it up. It
	// goes with no plan that is handed over.
	Lose bool `json:"-"`
}

// The ways a plan is refused or fails.
var (
	ErrChanged  = errors.New("changed since the plan was made")
	ErrReadOnly = errors.New("this desk is read-only")
	ErrWrite    = errors.New("cannot be written")
	ErrExists   = errors.New("already there")
	ErrOwned    = errors.New("belongs to a package")
	ErrParcel   = errors.New("the parcel is not what was looked at")
)

// IsFound reports whether the plan only keeps what is there.
func (p Plan) IsFound() bool { return len(p.Ops) > 0 && p.Ops[0].Kind == AsIs }

// Tally counts what a plan does as people count it: the pieces that it puts in place, and the
// other changes. Folders and links that come along with a piece are none of their own.
func (p Plan) Tally() (pieces, changes int) {
	for _, op := range p.Ops {
		switch {
		case op.Kind == Copy:
			pieces++
		case op.Kind == AsIs, op.Kind == Link, op.IsFolder():
		default:
			changes++
		}
	}
	return pieces, changes
}

// Seal names the plan after what is in it, and the computer it was made on.
func (p *Plan) Seal(d *desk.Desk) Plan {
	p.Desk, p.Computer, p.Home = d.ID, Computer(d), d.HomePath
	p.ID = ""
	if p.Blocked == nil {
		p.Blocked = []Blocked{}
	}
	if p.Ops == nil {
		p.Ops = []Op{}
	}
	for i := range p.Ops {
		if says := p.Ops[i].Says; says.Code != "" {
			p.Ops[i].Why = says.String()
		}
	}
	b, err := json.Marshal(p)
	if err != nil {
		panic(err)
	}
	p.ID = Digest(b)[:16]
	return *p
}

// Digest is the hash by which contents are kept and compared: SHA-256, in hex.
func Digest(b []byte) string {
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}
