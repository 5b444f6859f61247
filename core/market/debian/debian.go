// Package debian reads what Debian and its kin offer as packages: the lists of sources that
// apt(8) keeps on disk, the lists of contents if they were asked for, and dpkg's own record of
// what is installed.
package debian

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"

	"ivelt/core/archive"
	"ivelt/core/market"
)

// Where they lie, in the tree of a desk (apt-get(8) and dpkg-query(1), sections FILES).
const (
	lists  = "var/lib/apt/lists"
	status = "var/lib/dpkg/status"
	info   = "var/lib/dpkg/info"
)

// System is the family. Its methods are those of [market.System].
type System struct {
	Root string // host folder that is the root of the system, "" for this machine's
}

// Name is what its market is called.
func (System) Name() string { return "Packages of this system" }

// Here reports whether dpkg looks after the system.
func (System) Here(tree fs.FS) bool {
	_, err := fs.Stat(tree, status)
	return err == nil
}

// packed are the endings under which apt keeps lists (apt.conf(5), Acquire::CompressionTypes).
var packed = []string{"", ".lz4", ".gz", ".xz", ".zst", ".bz2"}

// found are the files of apt's lists whose names, without the ending of how they are packed,
// are of one kind.
func found(tree fs.FS, is func(name string) bool) ([]market.List, error) {
	entries, err := fs.ReadDir(tree, lists)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	var out []market.List
	for _, e := range entries {
		plain := e.Name()
		if i := slices.IndexFunc(packed[1:], func(end string) bool { return strings.HasSuffix(plain, end) }); i >= 0 {
			plain = strings.TrimSuffix(plain, packed[i+1])
		}
		if !is(plain) {
			continue
		}
		fi, err := e.Info()
		if err != nil {
			return nil, err
		}
		out = append(out, market.List{Name: path.Join(lists, e.Name()), Stamp: fmt.Sprint(fi.Size(), fi.ModTime().UnixNano())})
	}
	return out, nil
}

// Lists are apt's lists of packages.
func (System) Lists(tree fs.FS) ([]market.List, error) {
	return found(tree, func(name string) bool { return strings.HasSuffix(name, "_Packages") })
}

// What is read of one list, unpacked, and of one line of it.
const (
	maxList = 1 << 30
	maxLine = 1 << 20
)

// lines calls each for the lines of a file, as it is unpacked.
func lines(ctx context.Context, tree fs.FS, name string, each func(line string) error) error {
	f, err := tree.Open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	plain, err := archive.Unwrapped(f)
	if err != nil {
		return fmt.Errorf("%s: %w", path.Base(name), err)
	}
	defer plain.Close()
	left := &io.LimitedReader{R: plain, N: maxList}
	in := bufio.NewScanner(left)
	in.Buffer(make([]byte, 0, 1<<16), maxLine)
	for n := 0; in.Scan(); n++ {
		if n%4096 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		if err := each(in.Text()); err != nil {
			return err
		}
	}
	if err := in.Err(); err != nil {
		return fmt.Errorf("%s: %w", path.Base(name), err)
	}
	if left.N == 0 {
		return fmt.Errorf("%s: it has more than %d MB", path.Base(name), maxList>>20)
	}
	return nil
}

// ErrCut: a list ends in the middle of a package.
var ErrCut = errors.New("it ends in the middle of a package")

// Read reads paragraphs of fields (Debian Policy, 5.1; deb-control(5)).
func (System) Read(ctx context.Context, tree fs.FS, list string, each func(market.Package) error) error {
	var p market.Package
	var last string
	tell := func() error {
		if p.Name == "" {
			return nil
		}
		done := p
		p, last = market.Package{}, ""
		if done.Version == "" || done.File == "" {
			return fmt.Errorf("%s: %s: %w", path.Base(list), done.Name, ErrCut)
		}
		return each(done)
	}
	err := lines(ctx, tree, list, func(line string) error {
		if line == "" {
			return tell()
		}
		if line[0] == ' ' || line[0] == '\t' { // goes on
			if last == "Tag" {
				p.Tags = append(p.Tags, listed(line)...)
			}
			return nil
		}
		field, value, _ := strings.Cut(line, ":")
		value = strings.TrimSpace(value)
		last = field
		switch field {
		case "Package":
			p.Name = value
		case "Version":
			p.Version = value
		case "Section":
			p.Section = value
		case "Architecture":
			p.Data = value == "all"
		case "Description":
			p.Summary = value
		case "Maintainer":
			p.Maintainer, _, _ = strings.Cut(value, " <")
		case "Tag":
			p.Tags = listed(value)
		case "Depends":
			for _, d := range strings.Split(value, ",") {
				name, _, _ := strings.Cut(strings.TrimSpace(d), " ")
				name, _, _ = strings.Cut(name, ":")
				p.Depends = append(p.Depends, name)
			}
		case "Filename":
			p.File = value
		case "Size":
			p.Size, _ = strconv.ParseInt(value, 10, 64)
		case "SHA256":
			p.SHA256 = value
		}
		return nil
	})
	if err != nil {
		return err
	}
	return tell()
}

func listed(text string) []string {
	return strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ' ' || r == '\t' })
}

// Contents are the lists of contents that were asked for (apt-file(1)), and dpkg's record of
// what is installed, which changes with [status].
func (System) Contents(tree fs.FS) ([]market.List, error) {
	out, err := found(tree, func(name string) bool { return strings.Contains(name, "_Contents-") })
	if err != nil {
		return nil, err
	}
	fi, err := fs.Stat(tree, status)
	if errors.Is(err, fs.ErrNotExist) {
		return out, nil
	}
	if err != nil {
		return nil, err
	}
	return append(out, market.List{Name: info, Stamp: fmt.Sprint(fi.Size(), fi.ModTime().UnixNano())}), nil
}

// ReadContents reads lines of a path and where it comes from (Debian's repository format,
// "Contents" indices), or the NAME.list files of dpkg.
func (System) ReadContents(ctx context.Context, tree fs.FS, list string, each func(name, file string)) error {
	if list == info {
		return installed(ctx, tree, each)
	}
	return lines(ctx, tree, list, func(line string) error {
		at := strings.LastIndexAny(line, " \t")
		if at < 0 {
			return nil
		}
		file := "/" + strings.TrimRight(line[:at], " \t")
		for where := range strings.SplitSeq(line[at+1:], ",") {
			each(where[strings.LastIndexByte(where, '/')+1:], file)
		}
		return nil
	})
}

func installed(ctx context.Context, tree fs.FS, each func(name, file string)) error {
	records, err := fs.ReadDir(tree, info)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	for _, e := range records {
		name, ok := strings.CutSuffix(e.Name(), ".list")
		if !ok {
			continue
		}
		name, _, _ = strings.Cut(name, ":")
		before := "" // a folder stands before what is in it
		if err := lines(ctx, tree, path.Join(info, e.Name()), func(line string) error {
			if before != "" && !strings.HasPrefix(line, before+"/") {
				each(name, before)
			}
			before = line
			return nil
		}); err != nil {
			return err
		}
		if before != "" && before != "/." {
			each(name, before)
		}
	}
	return nil
}

// Fetch is apt's own download, which checks what came by the signatures of its lists.
func (s System) Fetch(name, version string) []string {
	return append(append([]string{"apt-get"}, elsewhere(s.Root)...), "--quiet=2", "-o", "APT::Sandbox::User=root", "download", name+"="+version)
}

// Newer compares versions as deb-version(7) and Debian Policy, 5.6.12, say.
func (System) Newer(a, b string) bool { return compare(a, b) > 0 }

func compare(a, b string) int {
	ea, a := epoch(a)
	eb, b := epoch(b)
	if ea != eb {
		return ea - eb
	}
	ua, ra := revision(a)
	ub, rb := revision(b)
	if c := parts(ua, ub); c != 0 {
		return c
	}
	return parts(ra, rb)
}

func epoch(v string) (int, string) {
	if e, rest, ok := strings.Cut(v, ":"); ok {
		n, _ := strconv.Atoi(e)
		return n, rest
	}
	return 0, v
}

func revision(v string) (upstream, revision string) {
	if i := strings.LastIndexByte(v, '-'); i >= 0 {
		return v[:i], v[i+1:]
	}
	return v, ""
}

// parts compares, in turn, what is no digit and numbers.
func parts(a, b string) int {
	digit := func(c byte) bool { return '0' <= c && c <= '9' }
	for a != "" || b != "" {
		for a != "" && !digit(a[0]) || b != "" && !digit(b[0]) {
			if c := order(a) - order(b); c != 0 {
				return c
			}
			a, b = a[1:], b[1:]
		}
		var na, nb string
		na, a = number(a)
		nb, b = number(b)
		if c := len(na) - len(nb); c != 0 {
			return c
		}
		if c := strings.Compare(na, nb); c != 0 {
			return c
		}
	}
	return 0
}

// order is that of the first character: a tilde before the end, the end (or a number) before
// letters, letters before all others.
func order(s string) int {
	switch {
	case s == "" || '0' <= s[0] && s[0] <= '9':
		return 0
	case s[0] == '~':
		return -1
	case 'a' <= s[0] && s[0] <= 'z' || 'A' <= s[0] && s[0] <= 'Z':
		return int(s[0])
	}
	return int(s[0]) + 256
}

func number(s string) (n, rest string) {
	i := 0
	for i < len(s) && '0' <= s[i] && s[i] <= '9' {
		i++
	}
	return strings.TrimLeft(s[:i], "0"), s[i:]
}
