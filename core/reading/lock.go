package reading

import (
	"errors"
	"io/fs"
	"path"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/keyfile"
	"ivelt/core/say"
	"ivelt/core/signed"
)

// ErrUnsigned: the system takes signed looks alone, and not this one.
var ErrUnsigned = errors.New("the system does not take it")

// Key is what a key of a source's file says, "" if nothing.
func Key(d *desk.Desk, src desk.Source, key string) string {
	b, err := d.Tree().ReadSettings(desk.Name(d.First(src.Path)))
	if err != nil {
		return ""
	}
	kf, err := keyfile.Parse(b)
	if err != nil {
		return ""
	}
	return kf.Get(src.Group, key)
}

// Release is which version of a system under a lock the desk has, "" if that cannot be told.
func Release(d *desk.Desk, l *desk.Lock) string { return Key(d, l.Release, l.Release.Key) }

// Beside are the keys, with their values, that a method's file has to have beside an owner's
// key, on this desk and for this release.
func Beside(d *desk.Desk, u desk.Unlock, release string) map[string]string {
	computer := ""
	if b, err := fs.ReadFile(d.Tree(), "etc/machine-id"); err == nil {
		computer = strings.TrimSpace(string(b))
	}
	out := map[string]string{}
	for key, value := range u.Sets {
		out[key] = strings.NewReplacer("{release}", release, "{computer}", computer).Replace(value)
	}
	return out
}

// Owners are the keys besides the vendor's of which the system is told so that it takes them,
// by the method that fits its release: all of its group for one without anything beside them.
func Owners(d *desk.Desk, l *desk.Lock) (out []string) {
	release := Release(d, l)
	u, ok := l.Method(release)
	if !ok {
		return nil
	}
	if len(u.Sets) > 0 {
		for key, value := range Beside(d, u, release) {
			if value == "" || Key(d, u.Key, key) != value {
				return nil
			}
		}
		if key := Key(d, u.Key, u.Key.Key); key != "" {
			out = append(out, key)
		}
		return out
	}
	b, err := d.Tree().ReadSettings(desk.Name(d.First(u.Key.Path)))
	if err != nil {
		return nil
	}
	kf, err := keyfile.Parse(b)
	if err != nil {
		return nil
	}
	for _, e := range kf.Entries(u.Key.Group) {
		out = append(out, kf.Get(u.Key.Group, e.Key))
	}
	return out
}

// Vendor is the vendor's key.
func Vendor(d *desk.Desk, l *desk.Lock) string {
	b, err := d.Tree().ReadSettings(desk.Name(l.Vendor))
	if err != nil {
		return ""
	}
	return strings.TrimSpace(string(b))
}

// SignedBy is whose key signed a look of a system under a lock.
func SignedBy(d *desk.Desk, l *desk.Lock, folder, name string) (string, error) {
	type signer struct {
		by  string
		err error
	}
	s := desk.Once(d, "signed "+folder, func() signer {
		by, err := signedBy(d, l, folder, name)
		return signer{by, err}
	})
	return s.by, s.err
}

func signedBy(d *desk.Desk, l *desk.Lock, folder, name string) (string, error) {
	list, err := signed.List(d.Tree(), desk.Name(folder))
	if err != nil {
		return "", err
	}
	file, err := d.Tree().ReadSettings(desk.Name(strings.ReplaceAll(l.Signature, "{look}", name)))
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return "", err
	}
	return signed.By(name, list, file)
}

// checkSigned tells why a system under a lock does not take a look, nil if it does.
func checkSigned(d *desk.Desk, folder, name string) error {
	_, l := d.Locked()
	if l == nil {
		return nil
	}
	by, err := SignedBy(d, l, folder, name)
	if err != nil {
		return say.Errorf("%w: %w", ErrUnsigned, err)
	}
	if by != Vendor(d, l) && !slices.Contains(Owners(d, l), by) {
		return say.Errorf("%w: it is signed by somebody whose key is not taken", ErrUnsigned)
	}
	return nil
}

// KeysOf are the keys that a source's group has.
func KeysOf(d *desk.Desk, src desk.Source) (out []string) {
	b, err := d.Tree().ReadSettings(desk.Name(src.Path))
	if err != nil {
		return nil
	}
	kf, err := keyfile.Parse(b)
	if err != nil {
		return nil
	}
	for _, e := range kf.Entries(src.Group) {
		out = append(out, e.Key)
	}
	return out
}

// Black tells why a desk under a lock would show nothing when it starts next, as it is told now; nothing
// if it would come up.
func Black(d *desk.Desk) say.Message {
	s, l := d.Locked()
	if l == nil {
		return say.Message{}
	}
	release, vendor := Release(d, l), Vendor(d, l)
	for _, u := range l.Methods {
		file := desk.Name(u.Key.Path)
		if _, err := fs.Stat(d.Tree(), file); errors.Is(err, fs.ErrNotExist) {
			continue
		}
		keys := map[string]string{u.Key.Key: Key(d, u.Key, u.Key.Key)}
		if len(u.Sets) == 0 {
			keys = map[string]string{}
			for _, name := range KeysOf(d, u.Key) {
				if key := Key(d, u.Key, name); key != vendor {
					keys[name] = key
				}
			}
		}
		if len(keys) == 0 {
			continue
		}
		if !u.Fits(release) {
			return say.Of("unlock/black/other-release", d.Show(u.Key.Path), u.Versions, release)
		}
		for key, value := range Beside(d, u, release) {
			if now := Key(d, u.Key, key); now != value || now == "" {
				return say.Of("unlock/black/not-for-this", d.Show(u.Key.Path), key, now, value)
			}
		}
		for _, key := range keys {
			if _, err := signed.Key(key); err != nil {
				return say.Of("unlock/black/no-key", d.Show(u.Key.Path))
			}
		}
	}
	for _, f := range s.Facets {
		if !f.Lookup.Signed {
			continue
		}
		name := Told(d, s, f).Value
		if slices.Contains(f.Lookup.BuiltIn, name) {
			continue
		}
		if part, err := FindTheme(d, f.Lookup, name); err == nil && part != "" {
			continue
		}
		for _, folder := range f.Lookup.Folders {
			by, err := SignedBy(d, l, path.Join(folder, name), name)
			if err == nil && (by == vendor || slices.Contains(Owners(d, l), by)) {
				return say.Of("unlock/black/no-sheet", name, f.Lookup.File)
			}
		}
	}
	return say.Message{}
}
