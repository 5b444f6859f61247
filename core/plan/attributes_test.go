package plan_test

import (
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/core/plan"
)

// attributes of everything in the home: owner, mode, extended attributes and access
// control lists as getfacl(1) tells them.
func (b *bench) attributes() map[string]string {
	b.t.Helper()
	out := map[string]string{}
	top := filepath.Join(b.dir, "home")
	require.NoError(b.t, filepath.WalkDir(top, func(p string, d fs.DirEntry, err error) error {
		require.NoError(b.t, err)
		fi, err := d.Info()
		require.NoError(b.t, err)
		st := fi.Sys().(*syscall.Stat_t)
		rel, _ := filepath.Rel(top, p)
		says := fmt.Sprint(fi.Mode(), " ", st.Uid, ":", st.Gid)
		if !d.IsDir() && st.Nlink > 1 {
			says += fmt.Sprint(" ", st.Nlink, " names")
		}
		if d.Type()&fs.ModeSymlink == 0 {
			says += extendedOf(b.t, p)
		}
		out[rel] = says
		return nil
	}))
	return out
}

// extendedOf writes the extended attributes of a file, and its owner if that is not us.
func extendedOf(t testing.TB, file string) string {
	t.Helper()
	says, list := "", make([]byte, 1024)
	n, err := unix.Llistxattr(file, list)
	require.NoError(t, err)
	names := strings.Split(strings.TrimRight(string(list[:n]), "\x00"), "\x00")
	slices.Sort(names)
	for _, name := range names {
		value := make([]byte, 1024)
		if n, err := unix.Lgetxattr(file, name, value); name != "" && err == nil {
			says += fmt.Sprintf(" %s=%q", name, value[:n])
		}
	}
	fi, err := os.Lstat(file)
	require.NoError(t, err)
	if st := fi.Sys().(*syscall.Stat_t); int(st.Uid) != os.Getuid() {
		says += fmt.Sprint(" of ", st.Uid, ":", st.Gid)
	}
	return says
}

// decorate gives the files of a bench owners, attributes and access control lists.
func decorate(t testing.TB, b *bench, names ...string) {
	for i, name := range names {
		require.NoError(t, unix.Setxattr(b.host(name), "user.note", fmt.Appendf(nil, "note %d", i), 0))
		if out, err := exec.Command("setfacl", "-m", "u:3456:rw", b.host(name)).CombinedOutput(); err != nil {
			t.Fatalf("setfacl: %v: %s", err, out)
		}
		if os.Getuid() == 0 {
			require.NoError(t, os.Chown(b.host(name), 1234, 2345))
		}
	}
}

func (b *bench) host(name string) string { return filepath.Join(b.dir, "home", name) }

func setfacl(t *testing.T, args ...string) {
	t.Helper()
	if out, err := exec.Command("setfacl", args...).CombinedOutput(); err != nil {
		t.Fatalf("setfacl: %v: %s", err, out)
	}
}

// TestAttributesStay: the owner, the extended attributes and the access control list of
// a file that is edited are those it had, also after going back; what its folder gives
// to new files it does not get.
func TestAttributesStay(t *testing.T) {
	b := newBench(t)
	require.NoError(t, os.Chmod(b.host(gtk3), 0o660))
	require.NoError(t, os.Chown(b.host(gtk3), 1234, 2345))
	require.NoError(t, unix.Setxattr(b.host(gtk3), "user.note", []byte("mine\x00too"), 0))
	setfacl(t, "-m", "u:3456:rw,g::r,m::rw", b.host(gtk3))
	b.put(gtk4, "[Settings]\nx=1\n", 0o640)
	setfacl(t, "-d", "-m", "u:4567:rwx", filepath.Dir(b.host(gtk4)))
	before, tree := b.attributes(), b.tree()
	require.Contains(t, before[gtk3], "1234:2345")
	require.Contains(t, before[gtk3], "posix_acl_access")

	p := b.dress("New")
	require.Empty(t, p.Losing())
	require.NoError(t, b.apply(p))
	require.Contains(t, b.file(gtk3), "New")
	require.Equal(t, before, b.attributes())
	acl, err := exec.Command("getfacl", "-cpn", b.host(gtk3)).Output()
	require.NoError(t, err)
	require.Equal(t, "user::rw-\nuser:3456:rw-\ngroup::r--\nmask::rw-\nother::---\n\n", string(acl))
	require.NoError(t, b.apply(b.back(plan.Aim{}, p).Plan))
	require.Equal(t, before, b.attributes())
	require.Equal(t, tree, b.tree())

	// A file that is taken away comes back with what it had.
	require.NoError(t, b.apply(p))
	require.NoError(t, os.Remove(b.host(gtk3)))
	require.NoError(t, b.apply(b.back(plan.Aim{Takes: map[string]plan.Take{"/home/me/" + gtk3: plan.TakeBefore}}, p).Plan))
	require.Equal(t, before, b.attributes())
}

// TestWhatCannotBeKeptIsAsked: a second name of a file would keep the old contents. The
// plan says so, and is carried out only if that is given up.
func TestWhatCannotBeKeptIsAsked(t *testing.T) {
	b := newBench(t)
	require.NoError(t, os.Link(b.host(gtk3), b.host("second.ini")))
	p := b.dress("New")
	require.Len(t, p.Losing(), 1)
	require.Equal(t, []plan.Loss{{Code: "links", Of: "2"}}, p.Losing()[0].Loses)
	before := b.tree()
	require.ErrorIs(t, b.apply(p), plan.ErrLoses)
	require.Equal(t, before, b.tree())
	p.Lose = true
	require.NoError(t, b.apply(p))
	require.Contains(t, b.file(gtk3), "New")
	require.Contains(t, b.file("second.ini"), "Old")

	b = newBench(t)
	p = b.dress("New")
	p.Lose = true
	require.NoError(t, os.Link(b.host(gtk3), b.host("second.ini")))
	require.ErrorIs(t, b.apply(p), plan.ErrChanged, "it was not told")
}

// TestWhatOnlyAnAdministratorCanKeep is told to whoever is none.
func TestWhatOnlyAnAdministratorCanKeep(t *testing.T) {
	if os.Getuid() != 0 {
		t.Skip("giving files to others needs an administrator")
	}
	b := newBench(t)
	require.NoError(t, os.Chmod(filepath.Dir(b.dir), 0o755))
	require.NoError(t, os.Chmod(b.dir, 0o755))
	require.NoError(t, filepath.WalkDir(b.dir, func(p string, _ fs.DirEntry, _ error) error { return os.Lchown(p, 1234, 1234) }))
	require.NoError(t, os.Chown(b.host(gtk3), 0, 0))
	require.NoError(t, os.Chmod(b.host(gtk3), 0o644))
	require.NoError(t, unix.Setxattr(b.host(gtk3), "trusted.note", []byte("theirs"), 0))
	as(t, 1234, func() {
		p := b.dress("New")
		require.Equal(t, []plan.Loss{{Code: "group", Of: "0"}, {Code: "owner", Of: "0"}}, p.Losing()[0].Loses, "others' trusted attributes are not even seen")
		require.ErrorIs(t, b.apply(p), plan.ErrLoses)
		p.Lose = true
		require.NoError(t, b.apply(p))
		require.Contains(t, b.attributes()[gtk3], "1234:1234")
	})
}

// TestAFolderIsKeptWithAllItHas: modes of folders, owners, attributes, hard links and
// pipes of a pack that is replaced are there again when it is back. What cannot be kept
// is asked.
func TestAFolderIsKeptWithAllItHas(t *testing.T) {
	b := newBench(t)
	const pack = ".data/icons/Salt/"
	b.put(pack+"16/a.png", "a", 0o600)
	b.put(pack+"index.theme", "[Icon Theme]\nName=Salt\n", 0o444)
	require.NoError(t, os.Link(b.host(pack+"16/a.png"), b.host(pack+"16/b.png")))
	require.NoError(t, os.Symlink("a.png", b.host(pack+"16/c.png")))
	require.NoError(t, unix.Mkfifo(b.host(pack+"16/pipe"), 0o640))
	require.NoError(t, os.Mkdir(b.host(pack+"16/empty"), 0o711))
	require.NoError(t, os.Chown(b.host(pack+"index.theme"), 1234, 2345))
	setfacl(t, "-m", "u:3456:r", b.host(pack+"16/a.png"))
	setfacl(t, "-d", "-m", "u:4567:rwx", b.host(pack+"16"))
	require.NoError(t, unix.Setxattr(b.host(pack+"16"), "user.note", []byte("mine"), 0))
	require.NoError(t, os.Chmod(b.host(pack+"16"), 0o750))
	before, tree := b.attributes(), pipeless(b)
	p := b.installing(plan.Replace)
	require.NoError(t, b.apply(p))
	require.NotEqual(t, before, b.attributes())
	require.NoError(t, b.apply(b.back(plan.Aim{}, p).Plan))
	require.Equal(t, before, b.attributes())
	require.Equal(t, tree, pipeless(b))
	one, err := os.Stat(b.host(pack + "16/a.png"))
	require.NoError(t, err)
	two, err := os.Stat(b.host(pack + "16/b.png"))
	require.NoError(t, err)
	require.True(t, os.SameFile(one, two))

	require.NoError(t, os.Link(b.host(pack+"index.theme"), b.host("outside")))
	fd, err := unix.Socket(unix.AF_UNIX, unix.SOCK_STREAM, 0)
	require.NoError(t, err)
	defer unix.Close(fd)
	t.Chdir(b.host(pack))
	require.NoError(t, unix.Bind(fd, &unix.SockaddrUnix{Name: "socket"}))
	p = b.installing(plan.Replace)
	require.Equal(t, []plan.Loss{{Code: "links", Of: "2"}, {Code: "special", Of: "socket"}}, p.Losing()[0].Loses)
	require.ErrorIs(t, b.apply(p), plan.ErrLoses)
}

// TestAPackThatGotAttributesIsKeptWithThem: its files are those of its parcel, so that
// could give it back, but not what was done to them.
func TestAPackThatGotAttributesIsKeptWithThem(t *testing.T) {
	b := newBench(t)
	done := b.install()
	require.NoError(t, b.apply(done))
	require.NoError(t, unix.Setxattr(b.host(".data/icons/Salt/16/4.png"), "user.note", []byte("mine"), 0))
	before := b.attributes()
	p, err := plan.Uninstall(b.d, done, "/home/me/.data/icons/Salt", "Salt")
	require.NoError(t, err)
	require.NoError(t, b.apply(p))
	require.NoError(t, b.apply(b.back(plan.Aim{}, p).Plan))
	require.Equal(t, before, b.attributes())
	r := b.back(plan.Aim{}, done)
	require.NoError(t, b.apply(r.Plan))
	require.NoError(t, b.apply(b.back(plan.Aim{}, r.Plan).Plan))
	require.Equal(t, before, b.attributes())
}

// pipeless is the tree of a home with its pipes left out: reading one waits.
func pipeless(b *bench) map[string]string {
	out := map[string]string{}
	top := filepath.Join(b.dir, "home")
	require.NoError(b.t, filepath.WalkDir(top, func(p string, d fs.DirEntry, err error) error {
		require.NoError(b.t, err)
		if d.Type().IsRegular() {
			text, err := os.ReadFile(p)
			require.NoError(b.t, err)
			fi, err := d.Info()
			require.NoError(b.t, err)
			out[p] = fmt.Sprint(fi.ModTime().UTC(), string(text))
		}
		return nil
	}))
	return out
}

// as does something as another user.
func as(t *testing.T, user int, do func()) {
	t.Helper()
	groups, err := os.Getgroups()
	require.NoError(t, err)
	require.NoError(t, syscall.Setgroups([]int{}))
	require.NoError(t, syscall.Setegid(user))
	require.NoError(t, syscall.Seteuid(user))
	defer func() {
		require.NoError(t, syscall.Seteuid(0))
		require.NoError(t, syscall.Setegid(0))
		require.NoError(t, syscall.Setgroups(groups))
	}()
	do()
}
