package truth

import (
	"io"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/jezek/xgb"
	"github.com/jezek/xgb/xproto"
	"github.com/stretchr/testify/require"

	"ivelt/core/xsettings"
)

// provider keeps XSETTINGS on a display, as the program does that a session
// starts for it (XSETTINGS 0.5, freedesktop.org).
type provider struct {
	t      *testing.T
	x      *xgb.Conn
	window xproto.Window
}

func provide(t *testing.T, display string) *provider {
	t.Helper()
	xgb.Logger.SetOutput(io.Discard)
	x, err := xgb.NewConnDisplay(display)
	require.NoError(t, err)
	t.Cleanup(x.Close)
	return &provider{t: t, x: x}
}

func (p *provider) atom(name string) xproto.Atom {
	reply, err := xproto.InternAtom(p.x, false, uint16(len(name)), name).Reply()
	require.NoError(p.t, err)
	return reply.Atom
}

// hold puts settings on the display, or takes the provider away.
func (p *provider) hold(s xsettings.Settings) {
	if p.window != 0 {
		require.NoError(p.t, xproto.DestroyWindowChecked(p.x, p.window).Check())
		p.window = 0
	}
	if s == nil {
		return
	}
	id, err := xproto.NewWindowId(p.x)
	require.NoError(p.t, err)
	p.window = id
	root := xproto.Setup(p.x).Roots[0]
	require.NoError(p.t, xproto.CreateWindowChecked(p.x, 0, id, root.Root, 0, 0, 1, 1, 0, xproto.WindowClassInputOnly, 0, 0, nil).Check())
	property, b := p.atom("_XSETTINGS_SETTINGS"), s.Bytes()
	require.NoError(p.t, xproto.ChangePropertyChecked(p.x, xproto.PropModeReplace, id, property, property, 8, uint32(len(b)), b).Check())
	require.NoError(p.t, xproto.SetSelectionOwnerChecked(p.x, id, p.atom("_XSETTINGS_S0"), xproto.TimeCurrentTime).Check())
}

// compositor starts one without a screen and returns its runtime folder and the
// name of its display (Debian: weston).
func compositor(t *testing.T) (runtime, name string) {
	t.Helper()
	runtime, name = t.TempDir(), "truth"
	require.NoError(t, os.Chmod(runtime, 0o700))
	c := tool(t, "weston", "weston", "--backend=headless-backend.so", "--socket="+name, "--idle-time=0")
	c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + runtime, "XDG_RUNTIME_DIR=" + runtime}
	require.NoError(t, c.Start())
	t.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait() })
	require.Eventually(t, func() bool {
		_, err := os.Stat(filepath.Join(runtime, name))
		return err == nil
	}, 20*time.Second, 20*time.Millisecond, "the compositor did not come up")
	return runtime, name
}
