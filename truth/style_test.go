package truth

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/gtkcss"
	"ivelt/demo"
)

// TestStylesAgreeWithGTK computes the style of nodes under the demo's themes
// and under a sheet of odd rules, and asks GTK 3 for the same (Debian:
// libgtk-3-dev, xvfb). No other theme has a say: GTK is given an empty one.
func TestStylesAgreeWithGTK(t *testing.T) {
	t.Parallel()
	program := build(t, "style", "gtk+-3.0", "libgtk-3-dev")
	screen := display(t)
	home := t.TempDir()
	write(t, filepath.Join(home, ".themes/Blank/gtk-3.0/gtk.css"), "")
	odd := filepath.Join(t.TempDir(), "odd.css")
	write(t, odd, `
@define-color ink #203040; @define-color later @paper; @define-color paper mix(@ink, white, 0.8);
* { color: @ink; }
window { background-color: @later; }
window .flat button:hover { background-color: shade(@ink, 1.4); }
box > button { background-color: alpha(@paper, 0.4); border: 3px solid darker(@ink); border-radius: 7px; padding: 1px 2px 3px 4px; }
box button.flat { background-color: lighter(@ink); }
button:not(.flat):checked { background: #102030; color: rgb(250, 240, 230); }
button:checked { background-color: #f00; }
#special { color: tomato; border-top: 2px solid currentColor; }
button label { color: inherit; }
entry { color: #0a0; background: linear-gradient(red, blue), rgba(0,0,0,0.5); padding: 5px 6px; }
entry:focus:not(:disabled) { border-color: @ink; border-width: 1px 2px; border-style: solid; }
`)
	themes := t.TempDir()
	require.NoError(t, demo.WriteThemes(themes))
	sheets, err := filepath.Glob(filepath.Join(themes, "*/gtk-3.0/gtk*.css"))
	require.NoError(t, err)
	require.Greater(t, len(sheets), 4)
	var nodes []string
	for _, top := range []string{"window.background", "window.background box", "window.background box.flat", "window.background headerbar.titlebar"} {
		nodes = append(nodes, top)
		for _, leaf := range []string{"button", "button.flat", "button#special", "entry", "label", "row", "tooltip", "box button", "button label", "list row"} {
			for _, state := range []string{"", ":hover", ":active", ":checked", ":disabled", ":focus", ":selected", ":hover:checked", ":focus:disabled"} {
				nodes = append(nodes, top+" "+leaf+state)
			}
		}
	}
	compared := 0
	for _, file := range append(sheets, odd) {
		s, err := gtkcss.Load(t.Context(), os.DirFS("/"), file[1:])
		require.NoError(t, err)
		c := tool(t, program, "", file)
		c.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "DISPLAY=" + screen, "GDK_BACKEND=x11", "GDK_DEBUG=gl-disable", "LANG=C.UTF-8", "NO_AT_BRIDGE=1", "GTK_THEME=Blank"}
		c.Stdin = strings.NewReader(strings.Join(nodes, "\n") + "\n")
		theirs := lines(output(t, c))
		require.Len(t, theirs, len(nodes))
		for i, node := range nodes {
			st := s.Compute(node)
			ours := fmt.Sprintf("%s color=%s background-color=%s border-top-color=%s radius=%.0f width=%.0f padding=%.0f,%.0f,%.0f,%.0f", node,
				st.Colour("color"), st.Colour("background-color"), st.Colour("border-top-color"), st.Length("border-top-left-radius"), st.Length("border-top-width"), st.Padding()[0], st.Padding()[1], st.Padding()[2], st.Padding()[3])
			require.Equal(t, theirs[i], ours, file)
			compared++
		}
	}
	t.Logf("%d styles compared, under %d sheets", compared, len(sheets)+1)
}
