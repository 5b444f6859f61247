package standin

import (
	"fmt"
	"os"
	"path/filepath"
	"time"
)

// Lantern is a login screen. It reads its settings when it starts, which is when
// the machine does or when nobody is signed in, and writes down what it shows.
// With a theme that is not whole, or without a session to start, it does not come
// up. Its rules are in docs/standins.md.
type Lantern struct {
	System string           // host folder
	Now    func() time.Time // time.Now if nil
}

// Start does what starting the login screen does.
func (l Lantern) Start() error {
	conf := filepath.Join(l.System, "etc/lantern/lantern.conf")
	theme, session := "Plain", "quayside"
	for key, to := range map[string]*string{"theme": &theme, "session": &session} {
		said, ok, err := setting(conf, "Greeter", key)
		if err != nil {
			return err
		}
		if ok {
			*to = said
		}
	}
	if !l.session(session) {
		return fmt.Errorf("Lantern does not come up: there is no session %q", session)
	}
	if theme != "Plain" {
		if err := l.whole(theme); err != nil {
			return fmt.Errorf("Lantern does not come up: %w", err)
		}
	}
	now := time.Now
	if l.Now != nil {
		now = l.Now
	}
	file := filepath.Join(l.System, "var/lib/lantern/shown.conf")
	if err := os.MkdirAll(filepath.Dir(file), 0o755); err != nil {
		return err
	}
	return os.WriteFile(file, fmt.Appendf(nil, "# Written by Lantern at its start.\n[Loaded]\nat=%s\ntheme=%s\n", now().UTC().Format(time.RFC3339), theme), 0o644)
}

func (l Lantern) session(name string) bool {
	for _, folder := range []string{"usr/share/wayland-sessions", "usr/share/xsessions"} {
		if _, err := os.Stat(filepath.Join(l.System, folder, name+".desktop")); err == nil {
			return true
		}
	}
	return false
}

// whole reports what a theme lacks.
func (l Lantern) whole(theme string) error {
	for _, folder := range []string{"usr/local/share/lantern/themes", "usr/share/lantern/themes"} {
		at := filepath.Join(l.System, folder, theme)
		if _, err := os.Stat(at); err != nil {
			continue
		}
		description := filepath.Join(at, "login.theme")
		if _, err := os.Stat(description); err != nil {
			return fmt.Errorf("%s has no login.theme", theme)
		}
		for _, key := range []string{"Backdrop", "Panel-Picture"} {
			file, ok, err := setting(description, "Login Theme", key)
			if err != nil {
				return err
			}
			if !ok {
				continue
			}
			if fi, err := os.Stat(filepath.Join(at, file)); err != nil || !filepath.IsLocal(file) || fi.Size() == 0 {
				return fmt.Errorf("%s has no %s", theme, file)
			}
		}
		return nil
	}
	return fmt.Errorf("there is no theme %q", theme)
}
