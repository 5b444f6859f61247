package standin

import (
	"archive/tar"
	"bytes"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"time"

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

// Round is one of the watchman's: what lies among looks and keys and is neither of the
// release nor known to him is set aside.
func Round(d Root) error {
	if on, _, err := setting(d.host(picket+"/picket.conf"), "Picket", "watch"); err != nil || on == "off" {
		return err
	}
	known := map[string]string{}
	for _, of := range [][2]string{{"/breakwater/contents", "Contents"}, {picket + "/known.conf", "Known"}} {
		lines, err := group(d.host(of[0]), of[1])
		if err != nil {
			return err
		}
		for _, l := range lines {
			known[l[0]] = l[1]
		}
	}
	var strange []string
	for _, top := range []string{keys, looks} {
		err := filepath.WalkDir(d.host(top), func(name string, e fs.DirEntry, err error) error {
			if errors.Is(err, fs.ErrNotExist) {
				return nil
			}
			if err != nil || e.IsDir() {
				return err
			}
			rel, err := filepath.Rel(d.System, name)
			if err != nil {
				return err
			}
			at := "/" + filepath.ToSlash(rel)
			sum := ""
			if e.Type().IsRegular() {
				if sum, err = sumOf(name); err != nil {
					return err
				}
			}
			if sum == "" || known[at] != sum {
				strange = append(strange, at)
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	for _, at := range strange {
		to := d.host(picket + "/aside/" + strings.ReplaceAll(strings.TrimPrefix(at, "/"), "/", ".."))
		if err := os.MkdirAll(filepath.Dir(to), 0o755); err != nil {
			return err
		}
		if err := os.Rename(d.host(at), to); err != nil {
			return err
		}
		if err := appendLine(d.host(picket+"/aside.conf"), "[Aside]\n", at+"=set aside\n"); err != nil {
			return err
		}
	}
	return nil
}

func appendLine(file, head, line string) error {
	old, err := os.ReadFile(file)
	if errors.Is(err, fs.ErrNotExist) {
		old, err = []byte(head), nil
	}
	if err != nil {
		return err
	}
	if !bytes.Contains(old, []byte(line)) {
		old = append(old, line...)
	}
	return os.WriteFile(file, old, 0o644)
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

// inFull is where a full path lies; the person's home is /home/mara.
func (d Root) inFull(p string) string {
	if rest, ok := strings.CutPrefix(p, "/home/mara/"); ok {
		return d.host("~/" + rest)
	}
	return d.host(p) // "~" is the home as well
}

// Mark has the system keep what it can go back to, under a name that is returned.
func Mark(d Root, note string) (string, error) {
	now := time.Now
	if d.Now != nil {
		now = d.Now
	}
	v, err := release(d)
	if err != nil {
		return "", err
	}
	var name string
	for n := 1; name == "" || d.there(path.Join(marks, name)); n++ {
		name = fmt.Sprintf("%s-%d", now().UTC().Format("2006-01-02"), n)
	}
	raw, err := packed(d)
	if err != nil {
		return "", err
	}
	if err := os.MkdirAll(d.host(path.Join(marks, name)), 0o755); err != nil {
		return "", err
	}
	if err := os.WriteFile(d.host(path.Join(marks, name, "files.tar")), raw, 0o644); err != nil {
		return "", err
	}
	sum := sha256.Sum256(raw)
	text := fmt.Sprintf("[Mark]\nat=%s\nrelease=%s\nnote=%s\nfiles=%s\n", now().UTC().Format(time.RFC3339), v, strings.Join(strings.Fields(note), " "), hex.EncodeToString(sum[:]))
	return name, os.WriteFile(d.host(path.Join(marks, name, "mark.conf")), []byte(text), 0o644)
}

// marked are the folders that a mark has in it.
var marked = []string{"/breakwater", "~/.breakwater"}

func packed(d Root) ([]byte, error) {
	var b bytes.Buffer
	w := tar.NewWriter(&b)
	for _, top := range marked {
		err := filepath.WalkDir(d.host(top), func(name string, e fs.DirEntry, err error) error {
			if err != nil {
				return err
			}
			rel, err := filepath.Rel(d.host(top), name)
			if err != nil {
				return err
			}
			if e.IsDir() && path.Join(top, rel) == marks {
				return filepath.SkipDir
			}
			info, err := e.Info()
			if err != nil || !e.IsDir() && !info.Mode().IsRegular() {
				return err
			}
			h, err := tar.FileInfoHeader(info, "")
			if err != nil {
				return err
			}
			h.Name = top + "/" + filepath.ToSlash(rel)
			if err := w.WriteHeader(h); err != nil || e.IsDir() {
				return err
			}
			raw, err := os.ReadFile(name)
			if err == nil {
				_, err = w.Write(raw)
			}
			return err
		})
		if err != nil {
			return nil, err
		}
	}
	err := w.Close()
	return b.Bytes(), err
}

// Return goes back to a mark: what it has is as it was, and nothing else is left there.
func Return(d Root, name string) error {
	if name == "" || strings.ContainsAny(name, "/\\") || strings.HasPrefix(name, ".") {
		return fmt.Errorf("there is no mark %q", name)
	}
	raw, err := os.ReadFile(d.host(path.Join(marks, name, "files.tar")))
	if err != nil {
		return fmt.Errorf("there is no mark %q", name)
	}
	sum := sha256.Sum256(raw)
	if said, _, err := setting(d.host(path.Join(marks, name, "mark.conf")), "Mark", "files"); err != nil || said != hex.EncodeToString(sum[:]) {
		return fmt.Errorf("the mark %s cannot be read", name)
	}
	for _, top := range marked {
		all, err := os.ReadDir(d.host(top))
		if err != nil {
			return err
		}
		for _, e := range all {
			if path.Join(top, e.Name()) == marks {
				continue
			}
			if err := os.RemoveAll(filepath.Join(d.host(top), e.Name())); err != nil {
				return err
			}
		}
	}
	r := tar.NewReader(bytes.NewReader(raw))
	for {
		h, err := r.Next()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		at := d.host(h.Name)
		if h.FileInfo().IsDir() {
			if err := os.MkdirAll(at, h.FileInfo().Mode().Perm()); err != nil {
				return err
			}
			continue
		}
		b, err := io.ReadAll(r)
		if err == nil {
			err = os.WriteFile(at, b, h.FileInfo().Mode().Perm())
		}
		if err == nil {
			err = os.Chtimes(at, h.ModTime, h.ModTime)
		}
		if err != nil {
			return err
		}
	}
}

// Releases are those that Breakwater can be brought to, in their order.
var Releases = []string{"4.8.0", "5.1.3", "5.2.1", "5.3.0", "6.0.0"}

// Update brings the system to the next release: what the vendor did not put there is gone,
// and so is what the watchman and places were told.
func Update(d Root) (string, error) {
	now, err := release(d)
	if err != nil {
		return "", err
	}
	i := slices.IndexFunc(Releases, func(r string) bool { return semver.MustParse(r).GreaterThan(now) })
	if i < 0 {
		return "", errors.New("there is no newer release")
	}
	vendor, err := vendorKey(d)
	if err != nil {
		return "", err
	}
	if err := os.RemoveAll(d.host(keys)); err != nil {
		return "", err
	}
	return Releases[i], errors.Join(
		os.MkdirAll(d.host(keys), 0o755),
		os.WriteFile(d.host(keys+"/vendor.key"), []byte(vendor+"\n"), 0o644),
		os.WriteFile(d.host(keys+"/makers.ring"), ringOf(vendor), 0o644),
		os.WriteFile(d.host(picket+"/known.conf"), []byte("[Known]\n"), 0o644),
		os.WriteFile(d.host(picket+"/picket.conf"), []byte("[Picket]\nwatch=on\n"), 0o644),
		forget(d.host("~/.breakwater/places.conf")),
		os.WriteFile(d.host("/breakwater/release"), []byte("[Release]\nversion="+Releases[i]+"\n"), 0o644),
		List(d),
	)
}

// forget takes a file away, if it is there.
func forget(file string) error {
	if err := os.Remove(file); !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// ringOf is the makers' ring as the vendor has it.
func ringOf(vendor string) []byte { return []byte("[Makers]\nvendor=" + vendor + "\n") }

// List writes down what the release has among keys and looks, as the vendor does: the keys,
// and looks that are signed with the vendor's.
func List(d Root) error {
	vendor, err := vendorKey(d)
	if err != nil {
		return err
	}
	var out strings.Builder
	out.WriteString("[Contents]\n")
	for _, name := range []string{"vendor.key", "makers.ring"} {
		sum, err := sumOf(d.host(keys + "/" + name))
		if err != nil {
			return err
		}
		fmt.Fprintf(&out, "%s/%s=%s\n", keys, name, sum)
	}
	all, err := filepath.Glob(filepath.Join(d.host(looks), "*.signature"))
	if err != nil {
		return err
	}
	for _, file := range all {
		if by, _, err := setting(file, "Signature", "by"); err != nil || by != vendor {
			continue
		}
		name := strings.TrimSuffix(filepath.Base(file), ".signature")
		for _, f := range []string{name + ".signature", name + ".card"} {
			if sum, err := sumOf(d.host(path.Join(looks, f))); err == nil {
				fmt.Fprintf(&out, "%s=%s\n", path.Join(looks, f), sum)
			}
		}
		list, err := contents(d.host(path.Join(looks, name)))
		if err != nil {
			return err
		}
		for line := range strings.Lines(string(list)) {
			sum, of, _ := strings.Cut(strings.TrimSpace(line), "  ")
			fmt.Fprintf(&out, "%s=%s\n", path.Join(looks, name, of), sum)
		}
	}
	return os.WriteFile(d.host("/breakwater/contents"), []byte(out.String()), 0o644)
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

// TypeAtBreakwater does what a line does that is typed on the text console, of those that
// matter there.
func TypeAtBreakwater(d Root, line string) (answer string, err error) {
	words := strings.Fields(line)
	for i, w := range words {
		words[i] = strings.Trim(w, `'"`)
	}
	if len(words) > 0 && words[0] == "sudo" {
		words = words[1:]
	}
	at := d.inFull
	switch {
	case len(words) == 4 && words[0] == "cp" && words[1] == "-p":
		raw, err := os.ReadFile(at(words[2]))
		if err != nil {
			return "", fmt.Errorf("cp: there is no %s", words[2])
		}
		info, err := os.Stat(at(words[2]))
		if err != nil {
			return "", err
		}
		if err := os.WriteFile(at(words[3]), raw, info.Mode().Perm()); err != nil {
			return "", fmt.Errorf("cp: %s cannot be written", words[3])
		}
		return "", errors.Join(os.Chmod(at(words[3]), info.Mode().Perm()), os.Chtimes(at(words[3]), info.ModTime(), info.ModTime()))
	case len(words) == 3 && words[0] == "rm" && words[1] == "-f":
		if err := os.Remove(at(words[2])); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return "", fmt.Errorf("rm: %s cannot be taken away", words[2])
		}
		return "", nil
	case len(words) == 3 && words[0] == "rm" && words[1] == "-rf" && strings.Count(words[2], "/") > 2:
		return "", os.RemoveAll(at(words[2]))
	case len(words) == 2 && words[0] == "rmdir":
		if err := os.Remove(at(words[1])); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return "", fmt.Errorf("rmdir: %s is not empty", words[1])
		}
		return "", nil
	case len(words) == 3 && words[0] == "mkdir" && words[1] == "-p":
		return "", os.MkdirAll(at(words[2]), 0o755)
	case len(words) == 2 && words[0] == "sh":
		raw, err := os.ReadFile(at(words[1]))
		if err != nil {
			return "", fmt.Errorf("sh: there is no %s", words[1])
		}
		var said []string
		for line := range strings.Lines(string(raw)) {
			answer, err := "", error(nil)
			if !strings.HasPrefix(line, "sh ") {
				answer, err = TypeAtBreakwater(d, strings.TrimSpace(line))
			}
			if err != nil {
				answer = err.Error()
			}
			if answer != "" {
				said = append(said, answer)
			}
		}
		return strings.Join(said, "\n"), nil
	case len(words) == 2 && words[0] == "breakwater" && words[1] == "start":
		if err := Breakwater.Start(d); err != nil {
			return "", err
		}
		return "The desk is up.", nil
	case len(words) == 3 && words[0] == "breakwater" && words[1] == "return":
		return "", Return(d, words[2])
	case len(words) == 2 && words[0] == "breakwater" && words[1] == "marks":
		all, err := os.ReadDir(d.host(marks))
		if err != nil {
			return "There is no mark.", nil
		}
		var names []string
		for _, e := range all {
			names = append(names, e.Name())
		}
		return strings.Join(names, "\n"), nil
	}
	return "", fmt.Errorf("%s: not found", firstWord(line))
}
