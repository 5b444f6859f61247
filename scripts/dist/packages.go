package main

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"context"
	"crypto/md5"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
)

// architectures are those that packages are made for, as Go, Debian and RPM name them.
var architectures = map[string]struct{ deb, rpm string }{
	"amd64": {"amd64", "x86_64"},
	"arm64": {"arm64", "aarch64"},
}

// deb makes a Debian package with dpkg-deb(1). It has no scripts: what has to be done for menus,
// icons and manual pages, the packages do that look after them.
func (r release) deb(ctx context.Context, out, work string, b built, c common) (string, error) {
	arch := architectures[b.Arch].deb
	root := filepath.Join(work, "deb-"+arch)
	all, err := r.files(packaged("share/zsh/vendor-completions"), b, c)
	if err != nil {
		return "", err
	}
	var sums bytes.Buffer
	size := int64(0)
	for _, f := range all {
		data, err := f.read()
		if err != nil {
			return "", err
		}
		fmt.Fprintf(&sums, "%x  %s\n", md5.Sum(data), f.At)
		size += int64(len(data)+1023) / 1024
	}
	first, rest, _ := strings.Cut(c.Description, "\n")
	control := fmt.Sprintf("Package: ivelt\nVersion: %s\nArchitecture: %s\nMaintainer: The Ivelt authors <ivelt@localhost>\nInstalled-Size: %d\n"+
		"Section: x11\nPriority: optional\nRecommends: xdg-utils\nSuggests: fontconfig, pkexec\nDescription: Dress your desktop, and see it before anything changes\n %s\n %s\n",
		r.Version, arch, size, first, strings.ReplaceAll(rest, "\n", "\n "))
	all = append(all, file{At: "DEBIAN/control", Mode: 0o644, Data: []byte(control)}, file{At: "DEBIAN/md5sums", Mode: 0o644, Data: sums.Bytes()})
	if err := lay(root, all, r.Date); err != nil {
		return "", err
	}
	made := filepath.Join(out, fmt.Sprintf("ivelt_%s_%s.deb", r.Version, arch))
	return made, tool(ctx, "", []string{r.epoch()}, "dpkg-deb", "--root-owner-group", r.level("-Zgzip", "-Zxz"), r.level("-z1", "-z6"), "--threads-max=1", "--build", root, made)
}

// level is how hard a tool packs.
func (r release) level(fast, usual string) string {
	if r.Fast {
		return fast
	}
	return usual
}

// rpm makes an RPM package with rpmbuild(8).
func (r release) rpm(ctx context.Context, out, work string, b built, c common) (string, error) {
	cpu := architectures[b.Arch].rpm
	top := filepath.Join(work, "rpm-"+cpu)
	root := filepath.Join(top, "root")
	all, err := r.files(packaged("share/zsh/site-functions"), b, c)
	if err != nil {
		return "", err
	}
	if err := lay(root, all, r.Date); err != nil {
		return "", err
	}
	spec, err := os.ReadFile(filepath.Join(r.Source, "release/ivelt.spec"))
	if err != nil {
		return "", err
	}
	var names []string
	for _, dir := range ownFolders(all) {
		names = append(names, "%dir /"+dir)
	}
	for _, f := range all {
		mark := ""
		if strings.HasPrefix(f.At, "usr/share/doc/") {
			mark = "%doc "
		}
		names = append(names, fmt.Sprintf("%%attr(%04o, root, root) %s/%s", f.Mode, mark, f.At))
	}
	said := strings.NewReplacer("@VERSION@", r.Version, "@DESCRIPTION@", c.Description, "@PAYLOAD@", r.level("w3.zstdio", "w19.zstdio"), "@FILES@", strings.Join(names, "\n")).Replace(string(spec))
	at := filepath.Join(top, "ivelt.spec")
	if err := os.WriteFile(at, []byte(said), 0o644); err != nil {
		return "", err
	}
	err = tool(ctx, "", []string{r.epoch()}, "rpmbuild", "-bb", "--target", cpu+"-linux", "--buildroot", root,
		"--define", "_topdir "+top, "--define", "_rpmdir "+top+"/made", "--noclean", at)
	if err != nil {
		return "", err
	}
	name := fmt.Sprintf("ivelt-%s-1.%s.rpm", r.Version, cpu)
	data, err := os.ReadFile(filepath.Join(top, "made", cpu, name))
	if err != nil {
		return "", err
	}
	made := filepath.Join(out, name)
	return made, os.WriteFile(made, data, 0o644)
}

// ownFolders are the folders of files that no other package has.
func ownFolders(files []file) (out []string) {
	for _, f := range files {
		for dir := path.Dir(f.At); strings.Contains(dir, "/ivelt"); dir = path.Dir(dir) {
			if !slices.Contains(out, dir) {
				out = append(out, dir)
			}
		}
	}
	slices.Sort(out)
	return out
}

// tar makes an archive that is unpacked into ~/.local, or anywhere.
func (r release) tar(_ context.Context, out, _ string, b built, c common) (made string, err error) {
	name := fmt.Sprintf("ivelt-%s-linux-%s", r.Version, b.Arch)
	l := local("/")
	l.Exec = "%h/.local/bin/ivelt"
	all, err := r.files(l, b, c)
	if err != nil {
		return "", err
	}
	for i, f := range all {
		// Programs in menus are looked for in PATH; what systemd starts is not.
		if strings.HasSuffix(f.At, ".desktop") {
			all[i].Data = bytes.ReplaceAll(f.Data, []byte(l.Exec), []byte("ivelt"))
		}
	}
	made = filepath.Join(out, name+".tar.gz")
	w, err := os.Create(made)
	if err != nil {
		return "", err
	}
	defer func() { err = errors.Join(err, w.Close()) }()
	level := gzip.BestCompression
	if r.Fast {
		level = gzip.BestSpeed
	}
	z, err := gzip.NewWriterLevel(w, level)
	if err != nil {
		return "", err
	}
	t := tar.NewWriter(z)
	for _, f := range all {
		data, err := f.read()
		if err != nil {
			return "", err
		}
		head := &tar.Header{Name: name + "/" + f.At, Mode: int64(f.Mode), Size: int64(len(data)), ModTime: r.Date, Typeflag: tar.TypeReg, Format: tar.FormatUSTAR}
		if err := t.WriteHeader(head); err != nil {
			return "", err
		}
		if _, err := io.Copy(t, bytes.NewReader(data)); err != nil {
			return "", err
		}
	}
	return made, errors.Join(t.Close(), z.Close())
}

// checksums writes down the checksums of files, as sha256sum(1) does.
func checksums(out string, files []string) (string, error) {
	var b strings.Builder
	for _, f := range files {
		sum, err := sha256Of(f)
		if err != nil {
			return "", err
		}
		fmt.Fprintf(&b, "%s  %s\n", sum, filepath.Base(f))
	}
	made := filepath.Join(out, "SHA256SUMS")
	return made, os.WriteFile(made, []byte(b.String()), 0o644)
}
