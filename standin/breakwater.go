package standin

import (
	"bytes"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"github.com/Masterminds/semver/v3"
)

// Breakwater is a system under its vendor's lock: it shows no look but a signed one.
// It takes its settings when the machine starts, and at no other time.
var Breakwater = Program{
	ID: "breakwater", Files: []string{"~/.breakwater/desk.conf", "/breakwater/desk.conf"}, Shown: "~/.breakwater/shown.conf",
	Settings: []Setting{
		{"Desk", "look", nil, "Basalt"},
		{"Desk", "programs", nil, "as look"},
		{"Desk", "shade", oneOf("light", "dark"), "light"},
		{"Desk", "accent", aColour, "#3d6a86"},
		{"Desk", "font", aFont, "Sans 10"},
		{"Desk", "backdrop", aPath, ""},
		{"Desk", "backdrop-lies", oneOf("fill", "fit", "stretch", "centre", "tile"), "fill"},
		{"Desk", "pointers", nil, "Basalt"},
	},
	more: locked, failing: black, failed: "black",
}

// Ledge is a helper that draws Breakwater's bar in its stead.
var Ledge = Program{
	ID: "ledge", Files: []string{"~/.config/ledge/ledge.conf"}, Shown: "~/.local/state/ledge/shown.conf",
	Settings: []Setting{
		{"Ledge", "opacity", number(0, 100), "100"},
		{"Ledge", "bars", ledgeBars, "bottom 40: menu pinned / / tray clock"},
	},
	failing: unfit, failed: "gone",
}

// unfit tells why the helper does not come up under this Breakwater.
func unfit(d Root, _ map[string]string) error {
	v, err := release(d)
	if err != nil {
		return err
	}
	said, ok, err := setting(d.host("/usr/share/ledge/ledge.conf"), "Ledge", "releases")
	if err != nil || !ok {
		return err
	}
	if fits, err := semver.NewConstraint(said); err != nil || !fits.Check(v) {
		return fmt.Errorf("the helper does not come up: it is for Breakwater %s, and this is %s", said, v)
	}
	return nil
}

// looks is where Breakwater has its looks, keys where it has the keys that it takes.
const (
	looks  = "/breakwater/looks"
	keys   = "/breakwater/keys"
	picket = "/breakwater/picket"
	marks  = "/breakwater/marks"
)

// plainLook is the one that Breakwater has in itself.
const plainLook = "Basalt"

// release is which Breakwater it is.
func release(d Root) (*semver.Version, error) {
	said, _, err := setting(d.host("/breakwater/release"), "Release", "version")
	if err != nil {
		return nil, err
	}
	v, err := semver.StrictNewVersion(said)
	if err != nil {
		return nil, fmt.Errorf("/breakwater/release: %w", err)
	}
	return v, nil
}

// withRing, withLetter: which releases can be told of an owner's key, and how.
var (
	withRing   = mustRange(">= 4, < 5")
	withLetter = mustRange(">= 5, < 6")
)

func mustRange(said string) *semver.Constraints {
	c, err := semver.NewConstraint(said)
	if err != nil {
		panic(err)
	}
	return c
}

// owners are the keys that it takes besides the vendor's. The error is why the desk
// stays black.
func owners(d Root) (out []string, err error) {
	v, err := release(d)
	if err != nil {
		return nil, err
	}
	letter, ring := keys+"/owner.letter", keys+"/makers.ring"
	if d.there(letter) {
		if !withLetter.Check(v) {
			return nil, fmt.Errorf("%s: Breakwater %s knows no letters", letter, v)
		}
		said := func(key string) string {
			value, _, e := setting(d.host(letter), "Letter", key)
			err = errors.Join(err, e)
			return value
		}
		key, of, computer := said("key"), said("release"), said("computer")
		machine, e := os.ReadFile(d.host("/etc/machine-id"))
		if err = errors.Join(err, e); err != nil {
			return nil, err
		}
		if of != v.String() {
			return nil, fmt.Errorf("%s is for Breakwater %s, and this is %s", letter, of, v)
		}
		if computer != strings.TrimSpace(string(machine)) {
			return nil, fmt.Errorf("%s is for another computer", letter)
		}
		if _, err := aKey(key); err != nil {
			return nil, fmt.Errorf("%s: %w", letter, err)
		}
		out = append(out, key)
	}
	lines, err := group(d.host(ring), "Makers")
	if err != nil {
		return nil, err
	}
	for _, line := range lines {
		if line[0] == "vendor" {
			continue
		}
		if !withRing.Check(v) {
			return nil, fmt.Errorf("%s: Breakwater %s takes nobody but its vendor there, and %s is", ring, v, line[0])
		}
		if _, err := aKey(line[1]); err != nil {
			return nil, fmt.Errorf("%s: %s: %w", ring, line[0], err)
		}
		out = append(out, line[1])
	}
	return out, nil
}

func aKey(text string) (ed25519.PublicKey, error) {
	b, err := base64.StdEncoding.DecodeString(text)
	if err != nil || len(b) != ed25519.PublicKeySize {
		return nil, errors.New("no key")
	}
	return b, nil
}

// vendorKey is the one that the system came with.
func vendorKey(d Root) (string, error) {
	b, err := os.ReadFile(d.host(keys + "/vendor.key"))
	return strings.TrimSpace(string(b)), err
}

// refused tells why a look is not taken, nil if it is.
func refused(d Root, look string, owners []string) error {
	if look == plainLook {
		return nil
	}
	if look == "" || look == "." || look == ".." || strings.ContainsAny(look, "/\n") || !d.there(path.Join(looks, look)) {
		return fmt.Errorf("there is no look %q", look)
	}
	file := d.host(path.Join(looks, look+".signature"))
	said := map[string]string{}
	for _, key := range []string{"by", "contents", "signature"} {
		value, _, err := setting(file, "Signature", key)
		if err != nil {
			return err
		}
		said[key] = value
	}
	if said["signature"] == "" {
		return fmt.Errorf("%s is not signed", look)
	}
	list, err := contents(d.host(path.Join(looks, look)))
	if err != nil {
		return fmt.Errorf("%s is not signed: %w", look, err)
	}
	sum := sha256.Sum256(list)
	key, err := aKey(said["by"])
	signed, e := base64.StdEncoding.DecodeString(said["signature"])
	if err = errors.Join(err, e); err != nil {
		return fmt.Errorf("%s: its signature cannot be read", look)
	}
	if said["contents"] != hex.EncodeToString(sum[:]) || !ed25519.Verify(key, []byte("look "+look+"\n"+said["contents"]+"\n"), signed) {
		return fmt.Errorf("%s is not what was signed", look)
	}
	vendor, err := vendorKey(d)
	if err != nil {
		return err
	}
	if said["by"] != vendor && !slices.Contains(owners, said["by"]) {
		return fmt.Errorf("%s is signed by somebody whom Breakwater does not take", look)
	}
	return nil
}

// contents is the list of a folder's files as sha256sum writes it, by their names.
func contents(folder string) ([]byte, error) {
	var names []string
	err := filepath.WalkDir(folder, func(name string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		if !e.Type().IsRegular() || strings.ContainsAny(name, "\n\r\\") {
			return fmt.Errorf("%q is no file that can be signed", e.Name())
		}
		rel, err := filepath.Rel(folder, name)
		names = append(names, filepath.ToSlash(rel))
		return err
	})
	if err != nil {
		return nil, err
	}
	slices.Sort(names)
	var out bytes.Buffer
	for _, name := range names {
		sum, err := sumOf(filepath.Join(folder, filepath.FromSlash(name)))
		if err != nil {
			return nil, err
		}
		fmt.Fprintf(&out, "%s  %s\n", sum, name)
	}
	return out.Bytes(), nil
}

func sumOf(file string) (string, error) {
	b, err := os.ReadFile(file)
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:]), err
}

// locked is what starting does before the settings count: the watchman goes round, a look
// that is refused gives way to the plain one, places get their pictures.
func locked(_ Program, d Root, told map[string]string) ([]Setting, error) {
	if err := Round(d); err != nil {
		return nil, err
	}
	takes, err := owners(d)
	if err == nil {
		told["Lock/accepts"] = strings.Join(takes, ";")
		for _, key := range []string{"Desk/programs", "Desk/look"} {
			if why := refused(d, told[key], takes); why != nil {
				told["Lock/refused"], told[key] = why.Error(), plainLook
			}
		}
	}
	v, err := release(d)
	if err != nil {
		return nil, err
	}
	told["Lock/release"] = v.String()
	if err := keepPictures(d); err != nil {
		return nil, err
	}
	told["Desk/bar"] = "its own"
	if startsLedge(d) { // it leaves its own out, whether the helper comes up or not
		told["Desk/bar"] = "Ledge"
		if Ledge.Start(d) != nil {
			told["Desk/bar"] = "none"
		}
	}
	return []Setting{{"Lock", "release", nil, ""}, {"Lock", "accepts", nil, ""}, {"Lock", "refused", nil, ""}, {"Desk", "bar", nil, ""}}, nil
}

// startsLedge reports whether an entry starts the helper.
func startsLedge(d Root) bool {
	mine, err := filepath.Glob(d.host("~/.config/autostart/*.desktop"))
	all, e := filepath.Glob(d.host("/etc/xdg/autostart/*.desktop"))
	return err == nil && e == nil && slices.ContainsFunc(append(mine, all...), func(file string) bool {
		exec, _, err := setting(file, "Desktop Entry", "Exec")
		hidden, _, _ := setting(file, "Desktop Entry", "Hidden")
		return err == nil && firstWord(exec) == "ledge" && hidden != "true"
	})
}

// black tells why the desk stays black, nil if it comes up.
func black(d Root, told map[string]string) error {
	if _, err := owners(d); err != nil {
		return fmt.Errorf("the desk stays black: %w", err)
	}
	if look := told["Desk/look"]; look != plainLook && !d.there(path.Join(looks, look, "breakwater/look.css")) {
		return fmt.Errorf("the desk stays black: %s has no look.css", look)
	}
	return nil
}

// group are the lines of one group of a file, as key and value; none of a file that says
// nothing.
func group(file, name string) (out [][2]string, err error) {
	b, err := os.ReadFile(file)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	in := ""
	for line := range strings.Lines(string(b)) {
		line = strings.TrimLeft(strings.TrimRight(line, "\r\n"), " \t")
		if strings.TrimSpace(line) == "" || line[0] == '#' {
			continue
		}
		if head := strings.TrimRight(line, " \t"); head[0] == '[' && strings.HasSuffix(head, "]") {
			in = head[1 : len(head)-1]
			continue
		}
		k, v, ok := strings.Cut(line, "=")
		if !ok || in == "" {
			return nil, nil
		}
		if in == name {
			out = append(out, [2]string{strings.TrimSpace(k), strings.TrimLeft(v, " \t")})
		}
	}
	return out, nil
}

// keepPictures gives each place that has a picture of its own the one in its file, unless
// it has kept one of it before.
func keepPictures(d Root) error {
	file := d.host("~/.breakwater/pictures.conf")
	old, err := group(file, "Kept")
	if err != nil {
		return err
	}
	kept := map[string]string{}
	for _, l := range old {
		kept[l[0]] = l[1]
	}
	var out strings.Builder
	out.WriteString("# What places show. Without a line here the picture is looked at anew.\n[Kept]\n")
	some := len(old) > 0
	for _, of := range []string{"Folders", "Volumes"} {
		lines, err := group(d.host("~/.breakwater/places.conf"), of)
		if err != nil {
			return err
		}
		for _, l := range lines {
			sum := kept[l[0]]
			if sum == "" {
				if sum, err = sumOf(d.inFull(l[1])); err != nil {
					continue // there is no such picture: it has the usual one
				}
			}
			some = true
			fmt.Fprintf(&out, "%s=%s\n", l[0], sum)
		}
	}
	if !some {
		return nil
	}
	return os.WriteFile(file, []byte(out.String()), 0o644)
}

// OpenCard does what opening a look's description does: what it says is written into the
// person's settings, and counts from the next start.
func OpenCard(d Root, look string) error {
	lines, err := group(d.host(path.Join(looks, look+".card")), "Card")
	if err != nil || len(lines) == 0 {
		return errors.Join(err, fmt.Errorf("%s has no card", look))
	}
	file := d.host("~/.breakwater/desk.conf")
	old, err := os.ReadFile(file)
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	var out strings.Builder
	out.WriteString("[Desk]\n")
	said := map[string]bool{}
	for _, l := range lines {
		fmt.Fprintf(&out, "%s=%s\n", l[0], l[1])
		said[l[0]] = true
	}
	for line := range strings.Lines(string(old)) {
		if key, _, ok := strings.Cut(line, "="); ok && !said[strings.TrimSpace(key)] {
			out.WriteString(strings.TrimRight(line, "\n") + "\n")
		}
	}
	return os.WriteFile(file, []byte(out.String()), 0o644)
}
