package apply_test

import (
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/core/plan"
	"ivelt/core/plan/plantest"
	"ivelt/core/planning"
)

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
	b := plantest.New(t)
	require.NoError(t, os.Chmod(b.Host(plantest.GTK3), 0o660))
	require.NoError(t, os.Chown(b.Host(plantest.GTK3), 1234, 2345))
	require.NoError(t, unix.Setxattr(b.Host(plantest.GTK3), "user.note", []byte("mine\x00too"), 0))
	setfacl(t, "-m", "u:3456:rw,g::r,m::rw", b.Host(plantest.GTK3))
	b.Write(plantest.GTK4, "[Settings]\nx=1\n", 0o640)
	setfacl(t, "-d", "-m", "u:4567:rwx", filepath.Dir(b.Host(plantest.GTK4)))
	before, tree := b.Attributes(), b.Tree()
	require.Contains(t, before[plantest.GTK3], "1234:2345")
	require.Contains(t, before[plantest.GTK3], "posix_acl_access")

	p := b.Dress("New")
	require.Empty(t, p.Losing())
	require.NoError(t, b.Apply(p))
	require.Contains(t, b.File(plantest.GTK3), "New")
	require.Equal(t, before, b.Attributes())
	acl, err := exec.Command("getfacl", "-cpn", b.Host(plantest.GTK3)).Output()
	require.NoError(t, err)
	require.Equal(t, "user::rw-\nuser:3456:rw-\ngroup::r--\nmask::rw-\nother::---\n\n", string(acl))
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, p).Plan))
	require.Equal(t, before, b.Attributes())
	require.Equal(t, tree, b.Tree())

	// A file that is taken away comes back with what it had.
	require.NoError(t, b.Apply(p))
	require.NoError(t, os.Remove(b.Host(plantest.GTK3)))
	require.NoError(t, b.Apply(b.Back(planning.Aim{Takes: map[string]planning.Take{"/home/me/" + plantest.GTK3: planning.TakeBefore}}, p).Plan))
	require.Equal(t, before, b.Attributes())
}

// TestWhatCannotBeKeptIsAsked: a second name of a file would keep the old contents. The
// plan says so, and is carried out only if that is given up.
func TestWhatCannotBeKeptIsAsked(t *testing.T) {
	b := plantest.New(t)
	require.NoError(t, os.Link(b.Host(plantest.GTK3), b.Host("second.ini")))
	p := b.Dress("New")
	require.Len(t, p.Losing(), 1)
	require.Equal(t, []plan.Loss{{Code: "links", Of: "2"}}, p.Losing()[0].Loses)
	before := b.Tree()
	require.ErrorIs(t, b.Apply(p), plan.ErrLoses)
	require.Equal(t, before, b.Tree())
	p.Lose = true
	require.NoError(t, b.Apply(p))
	require.Contains(t, b.File(plantest.GTK3), "New")
	require.Contains(t, b.File("second.ini"), "Old")

	b = plantest.New(t)
	p = b.Dress("New")
	p.Lose = true
	require.NoError(t, os.Link(b.Host(plantest.GTK3), b.Host("second.ini")))
	require.ErrorIs(t, b.Apply(p), plan.ErrChanged, "it was not told")
}

// TestWhatOnlyAnAdministratorCanKeep is told to whoever is none.
func TestWhatOnlyAnAdministratorCanKeep(t *testing.T) {
	if os.Getuid() != 0 {
		t.Skip("giving files to others needs an administrator")
	}
	b := plantest.New(t)
	require.NoError(t, os.Chmod(filepath.Dir(b.Dir), 0o755))
	require.NoError(t, os.Chmod(b.Dir, 0o755))
	require.NoError(t, filepath.WalkDir(b.Dir, func(p string, _ fs.DirEntry, _ error) error { return os.Lchown(p, 1234, 1234) }))
	require.NoError(t, os.Chown(b.Host(plantest.GTK3), 0, 0))
	require.NoError(t, os.Chmod(b.Host(plantest.GTK3), 0o644))
	require.NoError(t, unix.Setxattr(b.Host(plantest.GTK3), "trusted.note", []byte("theirs"), 0))
	as(t, 1234, func() {
		p := b.Dress("New")
		require.Equal(t, []plan.Loss{{Code: "group", Of: "0"}, {Code: "owner", Of: "0"}}, p.Losing()[0].Loses, "others' trusted attributes are not even seen")
		require.ErrorIs(t, b.Apply(p), plan.ErrLoses)
		p.Lose = true
		require.NoError(t, b.Apply(p))
		require.Contains(t, b.Attributes()[plantest.GTK3], "1234:1234")
	})
}

// TestAFolderIsKeptWithAllItHas: modes of folders, owners, attributes, hard links and
// pipes of a pack that is replaced are there again when it is back. What cannot be kept
// is asked.
func TestAFolderIsKeptWithAllItHas(t *testing.T) {
	b := plantest.New(t)
	const pack = ".data/icons/Salt/"
	b.Write(pack+"16/a.png", "a", 0o600)
	b.Write(pack+"index.theme", "[Icon Theme]\nName=Salt\n", 0o444)
	require.NoError(t, os.Link(b.Host(pack+"16/a.png"), b.Host(pack+"16/b.png")))
	require.NoError(t, os.Symlink("a.png", b.Host(pack+"16/c.png")))
	require.NoError(t, unix.Mkfifo(b.Host(pack+"16/pipe"), 0o640))
	require.NoError(t, os.Mkdir(b.Host(pack+"16/empty"), 0o711))
	require.NoError(t, os.Chown(b.Host(pack+"index.theme"), 1234, 2345))
	setfacl(t, "-m", "u:3456:r", b.Host(pack+"16/a.png"))
	setfacl(t, "-d", "-m", "u:4567:rwx", b.Host(pack+"16"))
	require.NoError(t, unix.Setxattr(b.Host(pack+"16"), "user.note", []byte("mine"), 0))
	require.NoError(t, os.Chmod(b.Host(pack+"16"), 0o750))
	before, tree := b.Attributes(), pipeless(b)
	p := b.Installing(planning.Replace)
	require.NoError(t, b.Apply(p))
	require.NotEqual(t, before, b.Attributes())
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, p).Plan))
	require.Equal(t, before, b.Attributes())
	require.Equal(t, tree, pipeless(b))
	one, err := os.Stat(b.Host(pack + "16/a.png"))
	require.NoError(t, err)
	two, err := os.Stat(b.Host(pack + "16/b.png"))
	require.NoError(t, err)
	require.True(t, os.SameFile(one, two))

	require.NoError(t, os.Link(b.Host(pack+"index.theme"), b.Host("outside")))
	fd, err := unix.Socket(unix.AF_UNIX, unix.SOCK_STREAM, 0)
	require.NoError(t, err)
	defer unix.Close(fd)
	t.Chdir(b.Host(pack))
	require.NoError(t, unix.Bind(fd, &unix.SockaddrUnix{Name: "socket"}))
	p = b.Installing(planning.Replace)
	require.Equal(t, []plan.Loss{{Code: "links", Of: "2"}, {Code: "special", Of: "socket"}}, p.Losing()[0].Loses)
	require.ErrorIs(t, b.Apply(p), plan.ErrLoses)
}

// TestAPackThatGotAttributesIsKeptWithThem: its files are those of its parcel, so that
// could give it back, but not what was done to them.
func TestAPackThatGotAttributesIsKeptWithThem(t *testing.T) {
	b := plantest.New(t)
	done := b.Install()
	require.NoError(t, b.Apply(done))
	require.NoError(t, unix.Setxattr(b.Host(".data/icons/Salt/16/4.png"), "user.note", []byte("mine"), 0))
	before := b.Attributes()
	p, err := planning.Uninstall(b.D, done, "/home/me/.data/icons/Salt", "Salt")
	require.NoError(t, err)
	require.NoError(t, b.Apply(p))
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, p).Plan))
	require.Equal(t, before, b.Attributes())
	r := b.Back(planning.Aim{}, done)
	require.NoError(t, b.Apply(r.Plan))
	require.NoError(t, b.Apply(b.Back(planning.Aim{}, r.Plan).Plan))
	require.Equal(t, before, b.Attributes())
}

// pipeless is the tree of a home with its pipes left out: reading one waits.
func pipeless(b *plantest.Bench) map[string]string {
	out := map[string]string{}
	top := filepath.Join(b.Dir, "home")
	require.NoError(b.T, filepath.WalkDir(top, func(p string, d fs.DirEntry, err error) error {
		require.NoError(b.T, err)
		if d.Type().IsRegular() {
			text, err := os.ReadFile(p)
			require.NoError(b.T, err)
			fi, err := d.Info()
			require.NoError(b.T, err)
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
