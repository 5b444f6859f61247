// Command dist makes a release of Ivelt in the folder dist: for each architecture a Debian
// package, an RPM package and a tar archive, with a list of their checksums; or it installs Ivelt
// below a prefix. The version and its date are those of the first entry of CHANGELOG.md, so that
// whoever makes a release of the same sources with the same tools gets the same bytes.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"strings"
)

func main() {
	arch := flag.String("arch", "amd64,arm64", "architectures, as Go names them")
	out := flag.String("out", "dist", "the folder that is made")
	install := flag.String("install", "", "install below this prefix instead, such as /usr/local")
	remove := flag.String("remove", "", "remove what was installed below this prefix")
	root := flag.String("destdir", "", "lay it out in this folder as if that were the root")
	version := flag.String("version", "", "instead of the one that CHANGELOG.md begins with")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	err := run(ctx, *arch, *out, *install, *remove, *root, *version)
	stop()
	if err != nil {
		fmt.Fprintln(os.Stderr, "dist:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, arch, out, install, remove, root, version string) error {
	r, err := releaseOf(".")
	if err != nil {
		return err
	}
	if version != "" {
		r.Version = version
	}
	switch {
	case install != "":
		return r.install(ctx, install, root)
	case remove != "":
		return uninstall(filepath.Join(root, remove))
	}
	made, err := r.make(ctx, out, strings.Split(arch, ",")...)
	for _, file := range made {
		fmt.Println(file)
	}
	return err
}

// make makes the packages of some architectures in a folder, and the list of their checksums.
func (r release) make(ctx context.Context, out string, arch ...string) (made []string, err error) {
	for _, name := range []string{"dpkg-deb", "rpmbuild"} {
		if _, err := exec.LookPath(name); err != nil {
			return nil, fmt.Errorf("%w. On Debian and its relatives: apt-get install dpkg rpm", err)
		}
	}
	if err := os.MkdirAll(out, 0o755); err != nil {
		return nil, err
	}
	work, err := os.MkdirTemp("", "ivelt-dist-")
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(work)) }()
	shared, err := r.common(ctx, filepath.Join(work, "common"))
	if err != nil {
		return nil, err
	}
	for _, a := range arch {
		program, err := r.build(ctx, filepath.Join(work, a), a)
		if err != nil {
			return nil, err
		}
		for _, pack := range []func(context.Context, string, string, built, common) (string, error){r.deb, r.rpm, r.tar} {
			file, err := pack(ctx, out, work, program, shared)
			if err != nil {
				return nil, err
			}
			made = append(made, file)
		}
	}
	sums, err := checksums(out, made)
	return append(made, sums), err
}

// tool runs a program, and says what it said if it fails.
func tool(ctx context.Context, dir string, env []string, name string, args ...string) error {
	c := exec.CommandContext(ctx, name, args...)
	c.Dir, c.Env = dir, append(os.Environ(), env...)
	if said, err := c.CombinedOutput(); err != nil {
		return fmt.Errorf("%s: %w\n%s", strings.Join(append([]string{name}, args...), " "), err, said)
	}
	return nil
}
