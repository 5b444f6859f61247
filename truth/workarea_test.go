package truth

import (
	"encoding/binary"
	"fmt"
	"image"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"github.com/jezek/xgb"
	"github.com/jezek/xgb/xproto"
	"github.com/stretchr/testify/require"

	"ivelt/core/layout"
)

// TestToolkitsLeaveBarsTheirRoom: of bars by chance, those that keep windows off are told by struts; what
// these leave of the root is told as the standard says (Extended Window Manager Hints 1.5, _NET_WORKAREA),
// the test playing the root's owner, and GTK 3 and Qt 5 keep their windows in what Ivelt says that bars
// leave (Debian: libgtk-3-dev, qtbase5-dev, g++, xvfb). The sum of struts is our own arithmetic.
func TestToolkitsLeaveBarsTheirRoom(t *testing.T) {
	t.Parallel()
	screen := displayOf(t, "1280x800")
	x, err := xgb.NewConnDisplay(screen)
	require.NoError(t, err)
	t.Cleanup(x.Close)
	root := xproto.Setup(x).DefaultScreen(x).Root
	atom := func(name string) xproto.Atom {
		r, err := xproto.InternAtom(x, false, uint16(len(name)), name).Reply()
		require.NoError(t, err)
		return r.Atom
	}
	tell := func(of xproto.Window, name string, kind xproto.Atom, numbers ...uint32) {
		var b []byte
		for _, n := range numbers {
			b = binary.LittleEndian.AppendUint32(b, n)
		}
		require.NoError(t, xproto.ChangePropertyChecked(x, xproto.PropModeReplace, of, atom(name), kind, 32, uint32(len(numbers)), b).Check())
	}
	owner, err := xproto.NewWindowId(x)
	require.NoError(t, err)
	require.NoError(t, xproto.CreateWindowChecked(x, 0, owner, root, -1, -1, 1, 1, 0, xproto.WindowClassInputOnly, 0, 0, nil).Check())
	for _, of := range []xproto.Window{root, owner} {
		tell(of, "_NET_SUPPORTING_WM_CHECK", xproto.AtomWindow, uint32(owner))
	}
	tell(root, "_NET_SUPPORTED", xproto.AtomAtom, uint32(atom("_NET_WORKAREA")), uint32(atom("_NET_CURRENT_DESKTOP")), uint32(atom("_NET_SUPPORTING_WM_CHECK")))
	tell(root, "_NET_NUMBER_OF_DESKTOPS", xproto.AtomCardinal, 1)
	tell(root, "_NET_CURRENT_DESKTOP", xproto.AtomCardinal, 0)

	whole := image.Rect(0, 0, 1280, 800)
	gtk, qt := build(t, "monitors", "gtk+-3.0", "libgtk-3-dev"), asked5(t)
	r := rand.New(rand.NewPCG(30, 20))
	least, some := 0, 0
	for range 12 * *times {
		var bars []layout.Bar
		for range r.IntN(5) {
			bars = append(bars, layout.Bar{
				Edge: layout.Edges[r.IntN(4)], Thick: 20 + r.IntN(70), Margin: r.IntN(12), At: layout.Aligns[r.IntN(3)], Hides: layout.Hidings[max(r.IntN(5)-2, 0)],
				Long: layout.Length{Of: []layout.Measured{layout.Whole, layout.Share}[r.IntN(2)], N: 30 + r.IntN(70)},
			})
		}
		placed, work, _ := layout.Places(bars, []layout.Screen{{Name: "A", Wide: 1280, High: 800}}, layout.Room{}, nil)
		var struts []layout.Strut
		for _, p := range placed {
			if p.Takes == 0 {
				continue // it hides
			}
			s, ok := layout.StrutOf(bars[p.Bar].Edge, p.At, []image.Rectangle{whole}, whole)
			require.True(t, ok)
			struts = append(struts, s)
		}
		left := layout.WorkArea(whole, struts)
		tell(root, "_NET_WORKAREA", xproto.AtomCardinal, uint32(left.Min.X), uint32(left.Min.Y), uint32(left.Dx()), uint32(left.Dy()))
		ours := work["A"]
		want := fmt.Sprintf("%d %d %d %d", ours.Min.X, ours.Min.Y, ours.Dx(), ours.Dy())
		for name, program := range map[string]string{"GTK 3": gtk, "Qt 5": qt} {
			c := tool(t, program, "libgtk-3-dev", "work")
			c.Env = append(os.Environ(), "DISPLAY="+screen, "GDK_BACKEND=x11", "QT_QPA_PLATFORM=xcb", "HOME="+t.TempDir())
			said := lines(output(t, c))
			require.Len(t, said, 1)
			f := strings.Fields(said[0])
			require.Equal(t, want, strings.Join(f[len(f)-4:], " "), "%s: %s", name, layout.FormatBars(bars))
		}
		if some += len(struts); ours.Dx() < 1280 && ours.Dy() < 800 {
			least++
		}
	}
	require.Greater(t, least, 1)
	t.Logf("%d bars that take room", some)
}
