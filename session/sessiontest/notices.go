package sessiontest

import (
	"sync"
	"testing"
	"time"

	"github.com/godbus/dbus/v5"
	"github.com/stretchr/testify/require"
)

const (
	noticesName = "org.freedesktop.Notifications"
	noticesPath = "/org/freedesktop/Notifications"
	noticeID    = 7
)

// Notices stands in for a service of notifications (Desktop Notifications Specification
// 1.2), and for the person who sees them.
type Notices struct {
	Can    []string // what it can
	Choose bool     // the person takes what a notification offers; else it is closed
	bus    *dbus.Conn
	mu     sync.Mutex
	seen   [][]string
}

// ShowNotices starts one on a bus; it ends with the test.
func ShowNotices(t testing.TB, address string) *Notices {
	t.Helper()
	bus, err := dbus.Connect(address)
	require.NoError(t, err)
	t.Cleanup(func() { _ = bus.Close() })
	s := &Notices{bus: bus}
	require.NoError(t, bus.Export(noticeService{s}, noticesPath, noticesName))
	reply, err := bus.RequestName(noticesName, dbus.NameFlagDoNotQueue)
	require.NoError(t, err)
	require.Equal(t, dbus.RequestNameReplyPrimaryOwner, reply)
	return s
}

// Seen are the notifications that were shown: each its program, title, text and actions.
func (s *Notices) Seen() [][]string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.seen
}

// noticeService is what the service has on the bus.
type noticeService struct{ of *Notices }

func (n noticeService) GetCapabilities() ([]string, *dbus.Error) { return n.of.Can, nil }

func (n noticeService) Notify(program string, _ uint32, _, title, text string, actions []string, _ map[string]dbus.Variant, _ int32) (uint32, *dbus.Error) {
	s := n.of
	s.mu.Lock()
	defer s.mu.Unlock()
	s.seen = append(s.seen, append([]string{program, title, text}, actions...))
	choose := s.Choose
	go func() {
		time.Sleep(10 * time.Millisecond)                                                        // once the program knows its number
		_ = s.bus.Emit(noticesPath, noticesName+".ActionInvoked", uint32(noticeID-1), "default") // another program's
		if choose {
			_ = s.bus.Emit(noticesPath, noticesName+".ActionInvoked", uint32(noticeID), "default")
		}
		_ = s.bus.Emit(noticesPath, noticesName+".NotificationClosed", uint32(noticeID), uint32(2))
	}()
	return noticeID, nil
}
