package session

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"strings"
	"sync"
	"time"

	"github.com/godbus/dbus/v5"

	"ivelt/core/desk"
	"ivelt/core/gvariant"
	"ivelt/core/gvdb"
	"ivelt/core/reading"
	"ivelt/core/regular"
)

// The service that keeps dconf's databases (dconf, service/ca.desrt.dconf.xml and
// common/dconf-paths.c): it alone writes them.
const (
	dconfName      = "ca.desrt.dconf"
	dconfWriter    = "/ca/desrt/dconf/Writer/"
	dconfInterface = "ca.desrt.dconf.Writer"
)

// answerTime is how long the service may take to answer.
const answerTime = 5 * time.Second

// maxDatabase bounds a database, in bytes: a person's has some hundred kilobytes.
const maxDatabase = 64 << 20

// ErrBus: no message bus of the session answers.
var ErrBus = errors.New("no message bus of the session answers")

// DConf is the person's own database of dconf. It is safe for concurrent use.
type DConf struct {
	// Address is that of the session's message bus, "unix:path=…".
	Address string
	// Name is the database's, and File where it lies on this machine.
	Name, File string

	mu   sync.Mutex
	conn *dbus.Conn // nil: not asked yet, or it was gone
}

var _ desk.SettingsKeeper = (*DConf)(nil)

// SettingsOf is what keeps the settings of a desk's session: its owner's database of dconf,
// nil where no such database keeps them.
func SettingsOf(d *desk.Desk) desk.SettingsKeeper {
	name, file := reading.OwnDatabase(d)
	if name == "" {
		return nil
	}
	return &DConf{Address: Bus(d.Env), Name: name, File: d.HostPath(file)}
}

// Bus is the address of the session's message bus, as an environment tells it, "" for none
// (dbus-launch(1); the D-Bus Specification, "Well-known Message Bus Instances", and what
// systemd makes of it).
func Bus(env map[string]string) string {
	if at := env["DBUS_SESSION_BUS_ADDRESS"]; at != "" {
		return at
	}
	if dir := env["XDG_RUNTIME_DIR"]; dir != "" {
		if fi, err := os.Stat(dir + "/bus"); err == nil && fi.Mode()&fs.ModeSocket != 0 {
			return "unix:path=" + dir + "/bus"
		}
	}
	return ""
}

// Value is what the database has, as the service has written it.
func (c *DConf) Value(path string) (desk.Value, error) {
	b, err := regular.Read(c.File, maxDatabase)
	if errors.Is(err, fs.ErrNotExist) || err == nil && len(b) == 0 {
		return desk.Value{}, nil
	}
	if err != nil {
		return desk.Value{}, err
	}
	t, err := gvdb.Open(b)
	if err != nil {
		return desk.Value{}, fmt.Errorf("%s: %w", c.File, err)
	}
	kind, data, _ := t.Raw(path)
	return desk.Value{Type: kind, Data: string(data)}, nil
}

// Answers tells why nothing can be changed now.
func (c *DConf) Answers() error {
	c.mu.Lock()
	defer c.mu.Unlock()
	_, err := c.bus()
	return err
}

// Change hands the service values, all at once; it answers when it has written them.
func (c *DConf) Change(values map[string]desk.Value) error {
	said := map[string][2]string{}
	for path, v := range values {
		if !settingPath(path) {
			return fmt.Errorf("%q is no path of a setting", path)
		}
		said[path] = [2]string{v.Type, v.Data}
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	conn, err := c.bus()
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(conn.Context(), answerTime)
	defer cancel()
	var tag string
	writer := conn.Object(dconfName, dbus.ObjectPath(dconfWriter+c.Name))
	if err := writer.CallWithContext(ctx, dconfInterface+".Change", 0, gvariant.Changes(said)).Store(&tag); err != nil {
		return fmt.Errorf("the settings service: %w", err)
	}
	return nil
}

// settingPath tells a path of one setting (dconf_is_key, common/dconf-paths.c).
func settingPath(p string) bool {
	return strings.HasPrefix(p, "/") && !strings.HasSuffix(p, "/") && !strings.Contains(p, "//") && !strings.ContainsRune(p, 0)
}

// bus is the connection, made anew if it was lost.
func (c *DConf) bus() (*dbus.Conn, error) {
	if c.conn != nil && c.conn.Connected() {
		return c.conn, nil
	}
	if c.Address == "" {
		return nil, ErrBus
	}
	conn, err := dbus.Connect(c.Address)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrBus, err)
	}
	c.conn = conn
	return conn, nil
}

// Close lets the bus go.
func (c *DConf) Close() error {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.conn == nil {
		return nil
	}
	return c.conn.Close()
}
