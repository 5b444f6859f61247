package main

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"time"
)

// layout says where things go.
type layout struct {
	Prefix string // "/usr"
	Exec   string // how the program is called by what starts it
	Units  string // of systemd's user manager, below the prefix
	Zsh    string // of zsh's completions, below the prefix
	Fish   string
}

// packaged is where a system's packages put things.
func packaged(zsh string) layout {
	return layout{Prefix: "/usr", Exec: "/usr/bin/ivelt", Units: "lib/systemd/user", Zsh: zsh, Fish: "share/fish/vendor_completions.d"}
}

// local is below a prefix.
func local(prefix string) layout {
	return layout{Prefix: prefix, Exec: path.Join(prefix, "bin/ivelt"), Units: "share/systemd/user", Zsh: "share/zsh/site-functions", Fish: "share/fish/vendor_completions.d"}
}

// file is one that is laid out.
type file struct {
	At   string // below the root, without a first slash
	Mode fs.FileMode
	Data []byte // or
	From string // the file that it is a copy of
}

func (f file) read() ([]byte, error) {
	if f.From == "" {
		return f.Data, nil
	}
	return os.ReadFile(f.From)
}

// files are all that belongs to Ivelt, by where they go.
func (r release) files(l layout, b built, c common) ([]file, error) {
	var out []file
	at := func(name string) string { return strings.TrimPrefix(path.Join(l.Prefix, name), "/") }
	out = append(out, file{At: at("bin/ivelt"), Mode: 0o755, From: b.File})
	text := func(name string, data []byte) { out = append(out, file{At: at(name), Mode: 0o644, Data: data}) }
	taken := func(name, from string) error {
		b, err := os.ReadFile(filepath.Join(r.Source, from))
		if err == nil {
			text(name, bytes.ReplaceAll(b, []byte("@EXEC@"), []byte(l.Exec)))
		}
		return err
	}
	err := errors.Join(
		taken("share/applications/org.ivelt.ivelt.desktop", "release/org.ivelt.ivelt.desktop"),
		taken("share/icons/hicolor/scalable/apps/org.ivelt.ivelt.svg", "web/static/mark.svg"),
		taken(path.Join(l.Units, "ivelt.service"), "release/ivelt.service"),
		taken(path.Join(l.Units, "ivelt-session.service"), "release/ivelt-session.service"),
		taken("share/doc/ivelt/README.md", "README.md"),
		taken("share/doc/ivelt/CONTRIBUTING.md", "CONTRIBUTING.md"),
	)
	if err != nil {
		return nil, err
	}
	meta, err := r.metainfo()
	if err != nil {
		return nil, err
	}
	text("share/metainfo/org.ivelt.ivelt.metainfo.xml", meta)

	for name, to := range map[string]string{
		"ivelt.bash": "share/bash-completion/completions/ivelt", "_ivelt": path.Join(l.Zsh, "_ivelt"), "ivelt.fish": path.Join(l.Fish, "ivelt.fish"),
	} {
		b, err := os.ReadFile(filepath.Join(c.Manual, "completions", name))
		if err != nil {
			return nil, err
		}
		text(to, b)
	}
	pages, err := filepath.Glob(filepath.Join(c.Manual, "man1", "*.1"))
	if err != nil {
		return nil, err
	}
	for _, page := range pages {
		b, err := os.ReadFile(page)
		if err != nil {
			return nil, err
		}
		text("share/man/man1/"+filepath.Base(page)+".gz", gzipped(b))
	}

	docs := os.DirFS(filepath.Join(r.Source, "docs"))
	err = fs.WalkDir(docs, ".", func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		b, err := fs.ReadFile(docs, p)
		text(path.Join("share/doc/ivelt/docs", p), b)
		return err
	})
	if err != nil {
		return nil, err
	}
	log, err := os.ReadFile(filepath.Join(r.Source, "CHANGELOG.md"))
	if err != nil {
		return nil, err
	}
	text("share/doc/ivelt/changelog.gz", gzipped(log))
	licence, err := os.ReadFile(filepath.Join(r.Source, "LICENSE"))
	if err != nil {
		return nil, err
	}
	text("share/doc/ivelt/copyright", copyright(licence, b.Parts))
	text("share/doc/ivelt/NOTICES.gz", gzipped(notices(b.Parts)))
	text("share/doc/ivelt/ivelt.cdx.json.gz", gzipped(b.Bill))
	slices.SortFunc(out, func(a, b file) int { return strings.Compare(a.At, b.At) })
	return out, nil
}

// gzipped has no time and no name in it, so that it is always the same.
func gzipped(data []byte) []byte {
	var b bytes.Buffer
	z, _ := gzip.NewWriterLevel(&b, gzip.BestCompression)
	_, _ = z.Write(data) // into memory: it cannot fail
	_ = z.Close()
	return b.Bytes()
}

// metainfo is the AppStream metadata with the releases of the change log.
func (r release) metainfo() ([]byte, error) {
	b, err := os.ReadFile(filepath.Join(r.Source, "release/org.ivelt.ivelt.metainfo.xml"))
	if err != nil {
		return nil, err
	}
	type one struct {
		XMLName xml.Name `xml:"release"`
		Version string   `xml:"version,attr"`
		Date    string   `xml:"date,attr"`
	}
	var all struct {
		XMLName  xml.Name `xml:"releases"`
		Releases []one
	}
	for _, e := range r.Log {
		all.Releases = append(all.Releases, one{Version: e.Version, Date: e.Date.Format(time.DateOnly)})
	}
	said, err := xml.MarshalIndent(all, "  ", "  ")
	return bytes.Replace(b, []byte("@RELEASES@"), bytes.TrimSpace(said), 1), err
}

// lay writes files below a folder, with a date.
func lay(root string, files []file, date time.Time) error {
	for _, f := range files {
		at := filepath.Join(root, f.At)
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			return err
		}
		data, err := f.read()
		if err != nil {
			return err
		}
		if err := errors.Join(os.WriteFile(at, data, f.Mode), os.Chmod(at, f.Mode)); err != nil {
			return err
		}
	}
	return filepath.WalkDir(root, func(p string, e fs.DirEntry, err error) error {
		if err == nil && e.IsDir() {
			err = os.Chmod(p, 0o755)
		}
		return errors.Join(err, os.Chtimes(p, date, date))
	})
}

// manifest is the list of what was installed below a prefix, so that it can be removed.
const manifest = "share/doc/ivelt/installed"

// install lays Ivelt out below a prefix of this computer.
func (r release) install(ctx context.Context, prefix, root string) error {
	work, err := os.MkdirTemp("", "ivelt-dist-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(work)
	c, err := r.common(ctx, filepath.Join(work, "common"))
	if err != nil {
		return err
	}
	b, err := r.build(ctx, filepath.Join(work, "built"), runtime.GOARCH)
	if err != nil {
		return err
	}
	if prefix, err = filepath.Abs(prefix); err != nil {
		return err
	}
	all, err := r.files(local(prefix), b, c)
	if err != nil {
		return err
	}
	below := filepath.Join(root, prefix)
	if err := uninstall(below); err != nil { // an older one may have had other files
		return err
	}
	var names []string
	for i, f := range all {
		all[i].At = strings.TrimPrefix(f.At, strings.TrimPrefix(prefix, "/")+"/")
		names = append(names, all[i].At)
	}
	all = append(all, file{At: manifest, Mode: 0o644, Data: []byte(strings.Join(append(names, manifest), "\n") + "\n")})
	for _, f := range all {
		at := filepath.Join(below, f.At)
		data, err := f.read()
		if err != nil {
			return err
		}
		if err := errors.Join(os.MkdirAll(filepath.Dir(at), 0o755), os.WriteFile(at, data, f.Mode), os.Chmod(at, f.Mode)); err != nil {
			return err
		}
	}
	fmt.Printf("Ivelt %s is in %s. “make uninstall PREFIX=%s” removes it; what you made with it stays.\n", r.Version, below, prefix)
	return nil
}

// uninstall removes what was installed below a prefix, and Ivelt's own folders that are empty then.
func uninstall(below string) error {
	b, err := os.ReadFile(filepath.Join(below, manifest))
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	for name := range strings.FieldsFuncSeq(string(b), func(r rune) bool { return r == '\n' }) {
		if !filepath.IsLocal(name) {
			return fmt.Errorf("%s names %q, which is not below it", manifest, name)
		}
		if err := os.Remove(filepath.Join(below, name)); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		for dir := filepath.Dir(name); strings.Contains(dir, "ivelt"); dir = filepath.Dir(dir) {
			if os.Remove(filepath.Join(below, dir)) != nil {
				break // something else is in it
			}
		}
	}
	return nil
}
