package apply

import (
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"slices"
	"strings"
	"syscall"

	"golang.org/x/sys/unix"

	"ivelt/core/plan"
	"ivelt/core/say"
)

// having gives a new file, or folder, attributes, and takes from it what it has
// inherited besides. What may not be given is an error, unless it is among what may
// be lost.
func (f newFile) having(a plan.Attributes, lose []plan.Loss) error {
	fi, err := f.Stat()
	if err != nil {
		return err
	}
	st, _ := fi.Sys().(*syscall.Stat_t)
	if a.UID >= 0 && (int(st.Uid) != a.UID || int(st.Gid) != a.GID) {
		if err := f.k.call("chown", f.name, ""); err != nil {
			return err
		}
		if err := f.owned(a, lose); err != nil {
			return err
		}
	}
	fd := int(f.Fd())
	has, err := plan.Extended(func(b []byte) (int, error) { return unix.Flistxattr(fd, b) }, func(name string, b []byte) (int, error) { return unix.Fgetxattr(fd, name, b) })
	if err != nil {
		return err
	}
	for name := range has {
		if _, wanted := a.Extended[name]; wanted || strings.HasPrefix(name, "security.") { // these are the system's to give
			continue
		}
		if err := f.k.call("xattr", f.name, ""); err != nil {
			return err
		}
		if err := unix.Fremovexattr(fd, name); err != nil && !errors.Is(err, unix.ENODATA) {
			return say.Errorf("take off %s: %w", name, err)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(a.Extended)) {
		value := a.Extended[name]
		if was, ok := has[name]; ok && string(was) == string(value) {
			continue
		}
		if err := f.k.call("xattr", f.name, ""); err != nil {
			return err
		}
		if err := unix.Fsetxattr(fd, name, value, 0); err != nil && !slices.Contains(lose, plan.Loss{Code: "extended", Of: name}) {
			return say.Errorf("%w: its extended attribute %s: %w", plan.ErrLoses, name, err)
		}
	}
	return nil
}

// owned gives a file to whom it should belong. Only an administrator may give one to
// another user.
func (f newFile) owned(a plan.Attributes, lose []plan.Loss) error {
	err := f.Chown(a.UID, a.GID)
	if errors.Is(err, fs.ErrPermission) && slices.Contains(lose, plan.Loss{Code: "owner", Of: fmt.Sprint(a.UID)}) {
		if err = f.Chown(-1, a.GID); errors.Is(err, fs.ErrPermission) && slices.Contains(lose, plan.Loss{Code: "group", Of: fmt.Sprint(a.GID)}) {
			return nil
		}
	}
	if errors.Is(err, fs.ErrPermission) && slices.Contains(lose, plan.Loss{Code: "group", Of: fmt.Sprint(a.GID)}) {
		return nil
	}
	if err != nil {
		return say.Errorf("%w: its owner: %w", plan.ErrLoses, err)
	}
	return nil
}
