package standin

import (
	"archive/tar"
	"bytes"
	"crypto/sha256"
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
