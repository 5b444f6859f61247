package plan

import (
	"errors"
	"fmt"
	"io/fs"
	"ivelt/core/say"
	"os"
	"slices"
	"strings"
	"syscall"

	"golang.org/x/sys/unix"
)

// Attributes are what a file has besides its contents, its mode and its times, where
// that is anything but what a new file gets.
type Attributes struct {
	UID      int               `json:"uid"`
	GID      int               `json:"gid"`
	Links    uint64            `json:"links,omitempty"`    // names it has, if more than one
	Extended map[string][]byte `json:"extended,omitempty"` // extended attributes, see xattr(7); access control lists are among them
}

// plain are the attributes of a new file, less what it inherits from its folder.
var Plain = Attributes{UID: -1, GID: -1}

// Loss is something of a file that a change cannot keep, or that going back on it
// could not bring back.
type Loss struct {
	Code string `json:"code"` // links owner group extended special
	Of   string `json:"of"`   // how many, or which
}

// Says puts it in words.
func (l Loss) Says() string {
	switch l.Code {
	case "links":
		return say.Of("plan/loses/has-names-hard-links-other", l.Of).String()
	case "owner":
		return say.Of("plan/loses/belongs-user-would-be-yours", l.Of).String()
	case "group":
		return say.Of("plan/loses/belongs-group-you-are-not", l.Of).String()
	case "extended":
		return say.Of("plan/loses/extended-attribute-can-be-written", l.Of).String()
	case "special":
		return say.Of("plan/loses/no-file-folder-link-or", l.Of).String()
	}
	return l.Code + " " + l.Of
}

// ErrLoses: a change would lose something that only whoever asks for it may give up,
// see [Plan.Lose].
var ErrLoses = errors.New("something of it cannot be kept")

// Losing lists the operations that lose something.
func (p Plan) Losing() []Op {
	var out []Op
	for _, op := range p.Ops {
		if len(op.Loses) > 0 {
			out = append(out, op)
		}
	}
	return out
}

// Losing says what an operation on what stands at a path would lose.
func Losing(op Op, now State) []Loss {
	if op.Kind != Write && op.Kind != Remove || now.Attributes == nil {
		return nil
	}
	return now.Attributes.losses()
}

func (a Attributes) losses() []Loss {
	var out []Loss
	if a.Links > 1 {
		out = append(out, Loss{"links", fmt.Sprint(a.Links)})
	}
	if os.Geteuid() == 0 {
		return out
	}
	if a.UID != os.Geteuid() {
		out = append(out, Loss{"owner", fmt.Sprint(a.UID)})
	}
	if groups, err := os.Getgroups(); err != nil || a.GID != os.Getegid() && !slices.Contains(groups, a.GID) {
		out = append(out, Loss{"group", fmt.Sprint(a.GID)})
	}
	for name := range a.Extended {
		if strings.HasPrefix(name, "trusted.") || name == "security.capability" {
			out = append(out, Loss{"extended", name})
		}
	}
	slices.SortFunc(out, func(a, b Loss) int { return strings.Compare(a.Code+a.Of, b.Code+b.Of) })
	return out
}

// attributesOf are those of a file or folder on this machine; nil if it has what a new
// one gets.
func attributesOf(host string, fi fs.FileInfo) (*Attributes, error) {
	st, ok := fi.Sys().(*syscall.Stat_t)
	if !ok {
		return nil, nil
	}
	a := Attributes{UID: int(st.Uid), GID: int(st.Gid)}
	if !fi.IsDir() && st.Nlink > 1 {
		a.Links = uint64(st.Nlink)
	}
	var err error
	if a.Extended, err = Extended(func(b []byte) (int, error) { return unix.Llistxattr(host, b) }, func(name string, b []byte) (int, error) { return unix.Lgetxattr(host, name, b) }); err != nil {
		return nil, &fs.PathError{Op: "getxattr", Path: host, Err: err}
	}
	if a.UID == os.Geteuid() && a.GID == os.Getegid() && a.Links == 0 && len(a.Extended) == 0 {
		return nil, nil
	}
	return &a, nil
}

// Extended reads extended attributes. A file system that has none is fine.
func Extended(list func([]byte) (int, error), get func(string, []byte) (int, error)) (map[string][]byte, error) {
	names, err := sized(list)
	if unsupported(err) || err == nil && len(names) == 0 {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	out := map[string][]byte{}
	for name := range strings.SplitSeq(strings.TrimSuffix(string(names), "\x00"), "\x00") {
		value, err := sized(func(b []byte) (int, error) { return get(name, b) })
		switch {
		case err == nil:
			out[name] = value
		case errors.Is(err, unix.ENODATA): // it went meanwhile
		case unsupported(err), errors.Is(err, unix.EPERM), errors.Is(err, unix.EACCES): // it is not ours to read
		default:
			return nil, err
		}
	}
	return out, nil
}

// sized calls what fills a buffer with one that is large enough.
func sized(fill func([]byte) (int, error)) ([]byte, error) {
	for {
		n, err := fill(nil)
		if err != nil || n == 0 {
			return nil, err
		}
		b := make([]byte, n)
		n, err = fill(b)
		if errors.Is(err, unix.ERANGE) {
			continue // it has grown
		}
		return b[:max(n, 0)], err
	}
}

func unsupported(err error) bool {
	return errors.Is(err, unix.ENOTSUP) || errors.Is(err, unix.ENOSYS)
}
