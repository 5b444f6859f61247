package main

import (
	"archive/tar"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/app/changes"
	"ivelt/core/plan"
)

// administer is the administrator's command, on the box's system.
func (b box) administer(args ...string) *exec.Cmd {
	c := command(b.t, append([]string{"administer", "--system", filepath.Join(b.dir, "system")}, args...)...)
	c.Env = append(c.Environ(), "SUDO_USER=mara")
	return c
}

// asAdministrator runs it; it ends with a code.
func (b box) asAdministrator(code int, args ...string) string {
	b.t.Helper()
	c := b.administer(args...)
	out, _ := c.CombinedOutput()
	require.Equal(b.t, code, c.ProcessState.ExitCode(), string(out))
	return string(out)
}

// desk is what of the box programs see: without what an administrator's Ivelt keeps.
func (b box) desk() map[string]string {
	out := b.tree()
	for name := range out {
		if name == "/system/var" || strings.HasPrefix(name, "/system/var/") {
			delete(out, name)
		}
	}
	return out
}

// withLogin is a box with a login screen, which is told of its theme in the system.
func withLogin(t *testing.T) (b box, outfit string) {
	b = newBox(t)
	b.put("system/usr/sbin/lantern", "that it is here says that the desk has it")
	b.put("system/etc/lantern/lantern.conf", "[Greeter]\ntheme=Plain\n")
	b.put("system/usr/share/wayland-sessions/quayside.desktop", "[Desktop Entry]\nType=Application\nName=Q\nExec=q\n")
	b.put("system/usr/share/lantern/themes/Dusk/login.theme", "[Login Theme]\nName=Dusk\nBackdrop=b.png\n")
	b.put("login.toml", "format = 1\nname = 'Dusk'\n[facet.login]\npiece = 'Dusk'\n")
	return b, filepath.Join(b.dir, "login.toml")
}

// TestTheAdministratorsPart is carried out from the file that was handed over, and gone back
// on; the person's history tells of both. What is for another computer, was altered, reaches
// where no plan may, or brings along what the plan does not name is refused.
func TestTheAdministratorsPart(t *testing.T) {
	b, outfit := withLogin(t)
	require.Contains(t, b.run(1, "plan", "--outfit", outfit), "names b.png, which is not in it", "a login screen that could not come up is not planned")
	b.put("system/usr/share/lantern/themes/Dusk/b.png", "picture")
	made := b.run(0, "plan", "--json", "--outfit", outfit)
	file := b.put("plan.json", made)
	before := b.desk()
	refused := func(words string, change func(p *plan.Plan)) {
		t.Helper()
		var p plan.Plan
		require.NoError(t, json.Unmarshal([]byte(made), &p))
		change(&p)
		text, err := json.Marshal(p)
		require.NoError(t, err)
		altered := b.put("altered.json", string(text))
		require.Contains(t, b.asAdministrator(2, altered), words)
		require.Contains(t, b.asAdministrator(2, "--show", altered), words)
		require.Equal(t, before, b.desk())
	}
	refused("was altered after it was made", func(p *plan.Plan) { p.Ops[0].Content = []byte("[Greeter]\ntheme=Mine\n") })
	refused("was made for another computer", func(p *plan.Plan) { p.Computer = "elsewhere" })
	for _, at := range []string{"/etc/shadow", "/etc/lantern/../shadow", "/usr/share/icons/../../../etc/shadow", "/usr/bin/sudo", "/usr/share", "etc/shadow", "/home/home/.bashrc", "/root/.bashrc", "/var/lib/ivelt/changes.json", "dconf:/org/x"} {
		refused("a plan may not touch that", func(p *plan.Plan) { p.Ops[0].Path = at; b.seal(p) })
	}
	refused("it is in a home", func(p *plan.Plan) { p.Ops[0].Path = p.Home + "/.icons/New"; b.seal(p) })
	refused("run it as somebody else", func(p *plan.Plan) { p.Ops[1].After.Mode |= fs.ModeSetuid; b.seal(p) })
	refused("belong to somebody else", func(p *plan.Plan) { p.Ops[1].After.Attributes = &plan.Attributes{UID: 1000, GID: -1}; b.seal(p) })
	refused("its contents are not what the plan says", func(p *plan.Plan) { p.Ops[1].Content = nil; b.seal(p) })
	refused("nothing in the plan", func(p *plan.Plan) { p.Ops = []plan.Op{}; b.seal(p) })
	require.Contains(t, b.asAdministrator(2, b.put("none.json", "{")), "it is no plan")
	require.NoError(t, syscall.Mkfifo(filepath.Join(b.dir, "pipe"), 0o600))
	require.Contains(t, b.asAdministrator(2, filepath.Join(b.dir, "pipe")), "neither a file nor a folder")

	require.Contains(t, b.asAdministrator(0, "--show", file), "/etc/lantern/lantern.conf")
	require.Equal(t, before, b.desk())
	out := b.asAdministrator(0, file)
	require.Contains(t, out, "Press Ctrl, Alt and F3 together")
	require.Contains(t, out, "sudo cp /etc/lantern/lantern.conf.before /etc/lantern/lantern.conf")
	require.Contains(t, b.desk()["/system/etc/lantern/lantern.conf"], "theme=Dusk")
	require.Contains(t, b.desk()["/system/etc/lantern/lantern.conf.before"], "theme=Plain")
	require.Contains(t, b.run(0, "history"), "by mara")
	require.NotContains(t, b.run(0, "history"), "undone")
	require.Contains(t, b.asAdministrator(2, file), "changed since the plan was made")
	b.asAdministrator(0, "--back", "1")
	require.Equal(t, before, b.desk())
	require.Contains(t, b.run(0, "history"), "undone")
	b.put("system/etc/lantern/lantern.conf", "[Greeter]\ntheme=Other\n")
	require.Contains(t, b.asAdministrator(2, file), "changed since the plan was made")
}

// TestABundleHoldsNoMore than its plan names: what a stranger put into it is refused, and what
// it copies is laid down without owners, attributes, and rights to run as somebody else.
func TestABundleHoldsNoMore(t *testing.T) {
	b := newBox(t)
	bundle := filepath.Join(b.dir, "salt.tar")
	b.run(0, "install", b.parcel(), "--scope", "everyone", "--bundle", bundle)
	clean, err := os.ReadFile(bundle)
	require.NoError(t, err)
	before := b.desk()
	made := 0
	// remade is the bundle with each of its entries changed.
	remade := func(change func(h *tar.Header, content []byte) []byte, more ...tar.Header) string {
		var out bytes.Buffer
		w := tar.NewWriter(&out)
		for r := tar.NewReader(bytes.NewReader(clean)); ; {
			h, err := r.Next()
			if err != nil {
				break
			}
			var content bytes.Buffer
			_, err = content.ReadFrom(r)
			require.NoError(t, err)
			as := change(h, content.Bytes())
			h.Size = int64(len(as))
			require.NoError(t, w.WriteHeader(h))
			_, err = w.Write(as)
			require.NoError(t, err)
		}
		for _, h := range more {
			require.NoError(t, w.WriteHeader(&h))
		}
		require.NoError(t, w.Close())
		made++
		return b.put(fmt.Sprintf("altered-%d.tar", made), out.String())
	}
	same := func(_ *tar.Header, content []byte) []byte { return content }
	within := func(change func(h *tar.Header, content []byte) []byte) string {
		return remade(func(h *tar.Header, content []byte) []byte {
			if !strings.HasPrefix(h.Name, "pieces/") {
				return content
			}
			var out bytes.Buffer
			w := tar.NewWriter(&out)
			for r := tar.NewReader(bytes.NewReader(content)); ; {
				h, err := r.Next()
				if err != nil {
					break
				}
				var in bytes.Buffer
				_, err = in.ReadFrom(r)
				require.NoError(t, err)
				made := in.Bytes()
				if h.Typeflag == tar.TypeReg {
					made = change(h, made)
				}
				h.Size = int64(len(made))
				require.NoError(t, w.WriteHeader(h))
				_, err = w.Write(made)
				require.NoError(t, err)
			}
			require.NoError(t, w.Close())
			return out.Bytes()
		})
	}
	for words, file := range map[string]string{
		`names no "more.txt"`:       remade(same, tar.Header{Name: "more.txt", Mode: 0o644, Typeflag: tar.TypeReg}),
		`from "pieces/7.tar"`:       remade(same, tar.Header{Name: "pieces/7.tar", Mode: 0o644, Typeflag: tar.TypeReg}),
		"is no file":                remade(same, tar.Header{Name: "pieces/0.tar", Linkname: "/etc/shadow", Typeflag: tar.TypeSymlink}),
		"the parcel is not what":    within(func(_ *tar.Header, content []byte) []byte { return append(content, ' ') }),
		"what it copies to":         b.put("alone.json", b.planIn(clean)),
		"there is none in it":       b.put("empty.tar", string(make([]byte, 1024))),
		"nor a tar with one":        b.put("noise.tar", strings.Repeat("noise", 1000)),
		"no such file or directory": filepath.Join(b.dir, "gone.tar"),
	} {
		require.Contains(t, b.asAdministrator(2, file), words)
		require.Equal(t, before, b.desk())
	}

	b.asAdministrator(0, within(func(h *tar.Header, content []byte) []byte {
		h.Mode, h.Uid, h.Gid, h.Format = 0o6777, 1000, 1000, tar.FormatPAX
		h.PAXRecords = map[string]string{"SCHILY.xattr.user.mine": "1"}
		return content
	}))
	require.NoError(t, filepath.WalkDir(filepath.Join(b.dir, "system/usr/local/share/icons/Salt"), func(p string, _ fs.DirEntry, err error) error {
		require.NoError(t, err)
		fi, err := os.Stat(p)
		require.NoError(t, err)
		require.Equal(t, fs.FileMode(0o755), fi.Mode().Perm()|0o111, p)
		require.Zero(t, fi.Mode()&(fs.ModeSetuid|fs.ModeSetgid), p)
		require.EqualValues(t, os.Getuid(), fi.Sys().(*syscall.Stat_t).Uid, p)
		n, err := syscall.Getxattr(p, "user.mine", nil)
		require.ErrorIs(t, err, syscall.ENODATA, n)
		return nil
	}))
	b.asAdministrator(0, "--back", "1")
	require.Equal(t, before, b.desk())
}

// planIn is the plan in a bundle.
func (b box) planIn(bundle []byte) string {
	r := tar.NewReader(bytes.NewReader(bundle))
	_, err := r.Next()
	require.NoError(b.t, err)
	var text bytes.Buffer
	_, err = text.ReadFrom(r)
	require.NoError(b.t, err)
	return text.String()
}

// TestAKilledAdministrator is killed with SIGKILL before system calls by which it changes the
// system, with -every 1 before each, carrying a plan out and going back on it: the next time
// it runs everything is as before or as wanted, and the list that people read tells which.
func TestAKilledAdministrator(t *testing.T) {
	kills, step := 0, max(1, *every/3)
	bundle := filepath.Join(t.TempDir(), "salt.tar")
	first := newBox(t)
	first.run(0, "install", first.parcel(), "--scope", "everyone", "--bundle", bundle)
	for _, back := range []bool{false, true} {
		var before, after map[string]string
		for at := 0; ; at += step { // at 0 it is not killed
			b := newBox(t)
			args := []string{bundle}
			if back {
				b.asAdministrator(0, bundle)
				args = []string{"--back", "1"}
			}
			if before == nil {
				before = b.desk()
			}
			c := b.administer(args...)
			if at > 0 {
				c.Env = append(c.Env, fmt.Sprint("IVELT_DIES_AT=", at))
			}
			err := c.Run()
			var ended *exec.ExitError
			killed := errors.As(err, &ended) && ended.ProcessState.Sys().(syscall.WaitStatus).Signaled()
			require.Equal(t, err != nil, killed, err)
			if after == nil {
				after = b.desk()
				require.NotEqual(t, before, after)
				continue
			}
			if !killed {
				require.Equal(t, after, b.desk())
				break
			}
			kills++
			var list []changes.Administered
			require.NoError(t, json.Unmarshal(b.listed(), &list))
			through := len(list) == 1 && (list[0].GoneOn != nil) == back
			told := fmt.Sprintf("going back: %v, killed at call %d", back, at)
			if through {
				require.Equal(t, after, b.desk(), told)
			} else {
				require.Equal(t, before, b.desk(), told)
			}
			if at/step%4 > 0 {
				continue
			}
			said := b.run(0, "history")
			require.Equal(t, through != back, strings.Contains(said, "for /home/home") && !strings.Contains(said, "undone"), told+"\n"+said)
		}
	}
	require.GreaterOrEqual(t, kills, 50/step)
	t.Logf("killed %d times", kills)
}

// listed is what the administrator's command lists, the next time it runs.
func (b box) listed() []byte {
	out, err := b.administer("--json").Output()
	require.NoError(b.t, err)
	return out
}

// seal gives a plan that was altered the ID that it would have: whoever can write
// a plan can do so too.
func (b box) seal(p *plan.Plan) {
	p.ID = ""
	text, err := json.Marshal(p)
	require.NoError(b.t, err)
	p.ID = plan.Digest(text)[:16]
}
