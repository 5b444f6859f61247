package apply_test

import (
	"errors"
	"flag"
	"fmt"
	"io/fs"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"ivelt/core/apply"
	"ivelt/core/plan"
	"ivelt/core/plan/plantest"
	"ivelt/core/planning"
)

var (
	torture = flag.Int("torture", 1, "how many times each point of failure is tried, with other chances")
)

// kinds are plans of all that there is to do, on a bench that they can start on.
var kinds = map[string]func(t testing.TB, b *plantest.Bench) plan.Plan{
	"install":  func(_ testing.TB, b *plantest.Bench) plan.Plan { return b.Install() },
	"settings": settings,
	"dress":    func(_ testing.TB, b *plantest.Bench) plan.Plan { return b.Dress("New") },
	"uninstall": func(t testing.TB, b *plantest.Bench) plan.Plan {
		return b.Undo(b.Install())
	},
	"undress": func(t testing.TB, b *plantest.Bench) plan.Plan {
		return b.Undo(b.Dress("New"))
	},
	"replace": func(t testing.TB, b *plantest.Bench) plan.Plan { // a pack of the person's is put by for another
		b.Write(".data/icons/Salt/own/a.txt", "mine", 0o600)
		b.Write(".data/icons/Salt/b.txt", "mine too", 0o644)
		b.Installing(planning.Replace)
		return b.Installing(planning.Replace)
	},
	"dress what has attributes": func(t testing.TB, b *plantest.Bench) plan.Plan {
		plantest.Decorate(t, b, plantest.GTK3, filepath.Dir(plantest.GTK3))
		return b.Dress("New")
	},
	"take away what has attributes": func(t testing.TB, b *plantest.Bench) plan.Plan {
		b.Write(".data/icons/Own/own/a.txt", "mine", 0o600)
		plantest.Decorate(t, b, ".data/icons/Own/own/a.txt", ".data/icons/Own/own")
		p, err := planning.TakeAway(b.D, "/home/me/.data/icons/Own", "Own", "icons")
		require.NoError(t, err)
		require.NoError(t, b.Apply(p))
		return b.Back(planning.Aim{}, p).Plan
	},
	"take away": func(t testing.TB, b *plantest.Bench) plan.Plan {
		b.Write(".data/icons/Own/own/a.txt", "mine", 0o600)
		p, err := planning.TakeAway(b.D, "/home/me/.data/icons/Own", "Own", "icons")
		require.NoError(t, err)
		return p
	},
}

// trial is one plan carried out with something going wrong.
type trial struct {
	b         *plantest.Bench
	p         plan.Plan
	r         *rand.Rand
	at        int // the call that goes wrong
	calls     int
	committed bool
	dead      bool
	disk      unsynced
}

var errDead = errors.New("the process is gone")

// apply carries the plan out; wrong is asked before each call.
func (x *trial) apply(wrong func(c apply.Call) error) error {
	c := x.b.Config()
	c.Before = func(call apply.Call) error {
		if x.calls++; x.dead {
			return errDead
		}
		if err := wrong(call); err != nil {
			return err
		}
		x.disk.made(call)
		return nil
	}
	c.Commit = func() error {
		if err := c.Before(apply.Call{Name: "commit"}); err != nil {
			return err
		}
		x.committed = true
		if _ = c.Before(apply.Call{Name: "committed"}); x.dead {
			return errDead
		}
		return nil
	}
	return apply.Plan(x.b.T.Context(), x.b.D, x.p, c)
}

// recover is the next start. With cut above 0 it is itself gone after so many
// calls.
func (x *trial) recover(cut int) error {
	c, n := x.b.Config(), 0
	c.Before = func(call apply.Call) error {
		if n++; cut > 0 && n >= cut {
			return errDead
		}
		x.disk.made(call)
		return nil
	}
	c.Committed = func(apply.Run) (bool, error) { return x.committed, nil }
	_, err := apply.Recover(x.b.D, c)
	return err
}

// wrongs are the ways in which a call goes wrong. Each leaves the desk to be as
// before, or as wanted if the plan had come through.
var wrongs = map[string]func(x *trial) error{
	"fails": func(x *trial) error {
		return x.apply(func(apply.Call) error {
			if x.calls == x.at {
				return syscall.EIO
			}
			return nil
		})
	},
	"is refused": func(x *trial) error {
		return x.apply(func(apply.Call) error {
			if x.calls == x.at {
				return &fs.PathError{Op: "open", Err: syscall.EACCES}
			}
			return nil
		})
	},
	"finds the disk full": func(x *trial) error { // what takes no room goes on
		return x.apply(func(c apply.Call) error {
			if x.calls >= x.at && (c.Name == "write" || c.Name == "create" || c.Name == "mkdir" || c.Name == "link") {
				return syscall.ENOSPC
			}
			return nil
		})
	},
	"is killed": func(x *trial) error {
		return x.apply(x.dies)
	},
	"is killed, and so is the next start": func(x *trial) error {
		err := x.apply(x.dies)
		for range 3 {
			_ = x.recover(1 + x.r.IntN(12))
		}
		return err
	},
	"loses its power": func(x *trial) error { // what was not synced is gone too
		x.disk = unsynced{on: true, aside: filepath.Join(x.b.Dir, "aside")}
		err := x.apply(x.dies)
		x.disk.lose(x.b.T)
		if x.r.IntN(2) == 0 {
			_ = x.recover(1 + x.r.IntN(12))
			x.disk.lose(x.b.T)
		}
		return err
	},
}

func (x *trial) dies(apply.Call) error {
	if x.calls >= x.at {
		x.dead = true
		return errDead
	}
	return nil
}

// TestFaults lets every call of every kind of plan go wrong in every way, and
// starts again: the home is as before, byte for byte, or as wanted, nothing stray
// is in it, and it is as the history says.
func TestFaults(t *testing.T) {
	first, points := plantest.Seed(t), map[string]int{}
	goWrong(t, slices.Sorted(maps.Keys(kinds)), slices.Sorted(maps.Keys(wrongs)), first, points)
	again := apply.WithoutExchange()
	defer again()
	goWrong(t, []string{"dress", "undress"}, []string{"fails", "is killed", "is killed, and so is the next start"}, first, points)
	again()
	total := 0
	for _, way := range slices.Sorted(maps.Keys(points)) {
		t.Logf("%5d × a call %s", points[way], way)
		total += points[way]
	}
	require.Greater(t, total, 500)
	t.Logf("%5d points of failure; each left the home as before or as wanted", total)
}

// goWrong tries each way at each call of each kind of plan, and counts the points.
func goWrong(t *testing.T, which, ways []string, first uint64, points map[string]int) {
	for _, kind := range which {
		clean := plantest.NewSmall(t)
		require.NoError(t, clean.Apply(kinds[kind](t, clean)))
		after := clean.Look(false)
		for _, way := range ways {
			var b *plantest.Bench
			var before map[string]string
			var p plan.Plan
			for round := range *torture {
				for at := 1; ; at++ {
					if b == nil {
						b = plantest.NewSmall(t)
						p = kinds[kind](t, b)
						before = b.Tree()
					}
					x := &trial{b: b, p: p, at: at, r: rand.New(rand.NewPCG(first, uint64(at)<<8|uint64(round)))}
					err := wrongs[way](x)
					if x.calls < at { // it came through before that
						require.NoError(t, err)
						require.True(t, x.committed)
						require.NotEqual(t, before, b.Tree())
						require.Equal(t, after, b.Look(false), "%s, %s", kind, way)
						b = nil
						break
					}
					what := fmt.Sprintf("%s: call %d %s", kind, at, way)
					points[way]++
					require.NoError(t, x.recover(0), what)
					require.NoFileExists(t, b.Journal, what)
					left, err := filepath.Glob(filepath.Join(b.Dir, ".new-*"))
					require.NoError(t, err)
					if len(left) > 0 { // the next journal clears it away
						require.Len(t, left, 1, what)
					}
					if !x.committed {
						require.Equal(t, before, b.Tree(), what)
						continue
					}
					require.Equal(t, after, b.Look(false), what)
					b = nil
				}
			}
		}
	}
}

// TestFaultsOfOthers lets somebody else write, take away or link elsewhere what a
// plan is about, right before each of its calls: what they did stays.
func TestFaultsOfOthers(t *testing.T) {
	r := rand.New(rand.NewPCG(plantest.Seed(t), 3))
	points := 0
	others := map[string]func(b *plantest.Bench, file string) (left func() bool){
		"writes": func(b *plantest.Bench, file string) func() bool {
			return others(b, file, func() { _ = os.WriteFile(file, []byte("theirs"), 0o644) })
		},
		"writes anew": func(b *plantest.Bench, file string) func() bool {
			return others(b, file, func() {
				_ = os.WriteFile(file+"~", []byte("theirs"), 0o644)
				_ = os.Rename(file+"~", file)
			})
		},
		"links": func(b *plantest.Bench, file string) func() bool {
			return others(b, file, func() { _ = os.RemoveAll(file); _ = os.Symlink("theirs", file) })
		},
		"removes": func(b *plantest.Bench, file string) func() bool {
			_ = os.RemoveAll(file)
			return func() bool { return true }
		},
	}
	for _, kind := range slices.Sorted(maps.Keys(kinds)) {
		for _, way := range slices.Sorted(maps.Keys(others)) {
			for at := 1; ; at += 1 + r.IntN(3)/min(*torture, 3) {
				b := plantest.NewSmall(t)
				p := kinds[kind](t, b)
				before := b.Look(true)
				ops := slices.DeleteFunc(slices.Clone(p.Ops), func(op plan.Op) bool { return op.Kind == plan.Folder || op.Kind == plan.Set || op.Before.Is(op.After) })
				op := ops[r.IntN(len(ops))]
				file := b.D.HostPath(op.Path)
				x := &trial{b: b, p: p, at: at}
				var stays func() bool
				err := x.apply(func(apply.Call) error {
					if x.calls == at {
						stays = others[way](b, file)
					}
					return nil
				})
				if x.calls < at {
					require.NoError(t, err)
					break
				}
				points++
				what := fmt.Sprintf("%s: somebody %s %s before call %d (%v)", kind, way, op.Path, at, err)
				require.True(t, stays(), what)
				require.NoError(t, x.recover(0), what)
				require.True(t, stays(), what)
				if x.committed {
					continue
				}
				now := b.Look(true)
				rel := strings.TrimPrefix(op.Path, "/home/me/")
				for _, m := range []map[string]string{before, now} {
					maps.DeleteFunc(m, func(name, _ string) bool {
						return name == rel || strings.HasPrefix(name, rel+"/") || strings.HasPrefix(rel, name+"/")
					})
				}
				require.Equal(t, before, now, what)
			}
		}
	}
	require.Greater(t, points, 200)
	t.Logf("%d times somebody else came in between; what they did stayed", points)
}

// others does something to a file, unless it is a folder or in none, and tells
// whether that is still so.
func others(b *plantest.Bench, file string, do func()) func() bool {
	if fi, err := os.Lstat(file); err == nil && fi.IsDir() {
		_ = os.WriteFile(filepath.Join(file, "theirs"), []byte("theirs"), 0o644)
		return func() bool {
			text, err := os.ReadFile(filepath.Join(file, "theirs"))
			return err == nil && string(text) == "theirs"
		}
	}
	if _, err := os.Lstat(filepath.Dir(file)); err != nil {
		return func() bool { return true }
	}
	if _, err := os.Readlink(file); err == nil {
		_ = os.Remove(file)
	}
	do()
	return func() bool {
		to, err := os.Readlink(file)
		if err == nil {
			return to == "theirs"
		}
		text, err := os.ReadFile(file)
		return err == nil && string(text) == "theirs"
	}
}

// unsynced is what a file system may lose when the power goes: contents that
// were not synced, and names in folders that were not.
type unsynced struct {
	on    bool
	aside string // a folder for what is removed and may come back
	names []change
	files map[string]bool
	n     int
}

type change struct {
	folder string
	back   func() error
}

// made notes a call that is now going to be made.
func (u *unsynced) made(c apply.Call) {
	if !u.on {
		return
	}
	if u.files == nil {
		u.files = map[string]bool{}
	}
	name := func(back func() error) {
		u.names = append(u.names, change{filepath.Dir(c.Path), back})
	}
	moved := func(from, to string) {
		for file := range u.files {
			if rest, ok := strings.CutPrefix(file, from); ok && (rest == "" || rest[0] == '/') {
				delete(u.files, file)
				u.files[to+rest] = true
			}
		}
	}
	switch c.Name {
	case "create", "link", "mkdir":
		name(func() error { return os.RemoveAll(c.Path) })
		u.files[c.Path] = c.Name == "create"
	case "write":
		u.files[c.Path] = true
	case "sync":
		delete(u.files, c.Path)
	case "rename":
		name(func() error { moved(c.To, c.Path); return os.Rename(c.To, c.Path) })
		moved(c.Path, c.To)
	case "swap":
		name(func() error { return unix.Renameat2(unix.AT_FDCWD, c.Path, unix.AT_FDCWD, c.To, unix.RENAME_EXCHANGE) })
	case "remove":
		fi, err := os.Lstat(c.Path)
		if err != nil {
			return
		}
		switch {
		case fi.IsDir():
			name(func() error { return os.Mkdir(c.Path, fi.Mode().Perm()) })
		default:
			_ = os.MkdirAll(u.aside, 0o755)
			u.n++
			second := filepath.Join(u.aside, fmt.Sprint(u.n))
			_ = os.Remove(second)
			if os.Link(c.Path, second) == nil {
				name(func() error { return os.Link(second, c.Path) })
			}
		}
	case "sync-folder":
		u.names = slices.DeleteFunc(u.names, func(ch change) bool { return ch.folder == c.Path })
	case "sync-all":
		u.names, u.files = nil, map[string]bool{}
	}
}

// lose is what the power does when it goes.
func (u *unsynced) lose(t testing.TB) {
	for _, ch := range slices.Backward(u.names) {
		if _, err := os.Lstat(ch.folder); err != nil {
			continue // that folder is gone itself, and was synced
		}
		require.NoError(t, ch.back())
	}
	for file, content := range u.files {
		if _, err := os.Lstat(file); err == nil && content {
			require.NoError(t, os.Truncate(file, 0))
		}
	}
	u.names, u.files = nil, nil
}

// TestAStartingChildHoldsNoLock: a program that is being started shares what Ivelt has open for
// a moment, the lock with it. A change that is done is done for the next one all the same.
func TestAStartingChildHoldsNoLock(t *testing.T) {
	b := plantest.New(t)
	c := b.Config()
	var shared []int
	c.Commit = func() error {
		open, err := os.ReadDir("/proc/self/fd")
		require.NoError(t, err)
		for _, fd := range open {
			if at, _ := os.Readlink("/proc/self/fd/" + fd.Name()); at == b.D.Home {
				n, err := strconv.Atoi(fd.Name())
				require.NoError(t, err)
				n, err = unix.Dup(n)
				require.NoError(t, err)
				shared = append(shared, n)
			}
		}
		return nil
	}
	require.NoError(t, apply.Plan(t.Context(), b.D, b.Dress("New"), c))
	require.NotEmpty(t, shared)
	require.False(t, apply.AtWork(b.D))
	for _, fd := range shared {
		require.NoError(t, unix.Close(fd))
	}
}

// TestTwoAtOnce: a second Ivelt waits for the first, or says that it is there.
func TestTwoAtOnce(t *testing.T) {
	b := plantest.New(t)
	second := b.Config()
	second.Journal = filepath.Join(b.Dir, "other.json")
	first := b.Config()
	asked := false
	first.Commit = func() error {
		asked = true
		require.ErrorIs(t, apply.Plan(t.Context(), b.D, plan.Plan{ID: "other"}, second), apply.ErrBusy)
		_, err := apply.Recover(b.D, first)
		require.ErrorIs(t, err, apply.ErrBusy, "a change that is being made is not taken for one that was interrupted")
		return nil
	}
	require.NoError(t, apply.Plan(t.Context(), b.D, b.Dress("New"), first))
	require.True(t, asked)
	require.NoError(t, apply.Plan(t.Context(), b.D, plan.Plan{ID: "other"}, second))

	require.NoError(t, os.WriteFile(b.Journal, nil, 0o600))
	require.ErrorIs(t, apply.Plan(t.Context(), b.D, plan.Plan{ID: "third"}, b.Config()), apply.ErrUnfinished)
}

// TestAFullDisk fills a small file system, as the kernel has it.
func TestAFullDisk(t *testing.T) {
	if os.Getuid() != 0 {
		t.Skip("mounting a file system needs an administrator")
	}
	b := plantest.New(t)
	small := filepath.Join(b.Dir, "home/.data")
	require.NoError(t, os.Mkdir(small, 0o755))
	if err := unix.Mount("tmpfs", small, "tmpfs", 0, "size=64k"); err != nil {
		t.Skip("no file system can be mounted here: ", err)
	}
	t.Cleanup(func() { require.NoError(t, unix.Unmount(small, 0)) })
	require.NoError(t, os.WriteFile(filepath.Join(small, "filler"), make([]byte, 40<<10), 0o644))
	before := b.Tree()
	p := b.Install()
	err := b.Apply(p)
	require.ErrorIs(t, err, syscall.ENOSPC)
	require.ErrorIs(t, err, plan.ErrWrite)
	require.Equal(t, before, b.Tree())
	require.NoError(t, os.Remove(filepath.Join(small, "filler")))
	require.NoError(t, unix.Mount("", small, "", unix.MS_REMOUNT, "size=1m"))
	require.NoError(t, b.Apply(p), "with room it goes in")
}

// TestAFolderThatBecameALink: nothing is written by way of a link that was no
// link when the plan was made.
func TestAFolderThatBecameALink(t *testing.T) {
	b := plantest.New(t)
	p := b.Dress("New")
	config := filepath.Join(b.Dir, "home/.config")
	require.NoError(t, os.Rename(config, filepath.Join(b.Dir, "home/elsewhere")))
	require.NoError(t, os.Symlink("elsewhere", config))
	before := b.Tree()
	require.ErrorIs(t, b.Apply(p), plan.ErrChanged)
	require.Equal(t, before, b.Tree())
}
