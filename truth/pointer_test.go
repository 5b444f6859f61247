package truth

import (
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/apply"
	"ivelt/core/desk"
	"ivelt/core/outfit"
	"ivelt/core/planning"
	"ivelt/store"
)

// TestTheDisplaysPointer makes homes with X resources as messy as people leave
// them, loads them as a session does, sets variables or not, and compares the
// pointer theme and size with libXcursor's (Debian: x11-xserver-utils,
// libxcursor-dev, xvfb). Then a pointer is put on by a plan, and all is asked
// again.
func TestTheDisplaysPointer(t *testing.T) {
	t.Parallel()
	screen := display(t)
	program := build(t, "pointer", "xcursor x11", "libxcursor-dev")
	n := 0
	for seed := range 60 * *times {
		r := rand.New(rand.NewPCG(seed, 44))
		pick := func(options ...string) string { return options[r.IntN(len(options))] }
		home := t.TempDir()
		for _, set := range []string{"Gull", "Tern", "Two Words"} {
			write(t, filepath.Join(home, ".icons", set, "cursors/default"), "Xcur")
		}
		end := pick("\n", "\n", "\r\n")
		text := ""
		for range r.IntN(9) {
			text += pick("Xcursor.size: 24", "Xcursor.size:\t48", "Xcursor*size: 64", "Xcursor.size: big", "Xcursor.theme: Gull", "Xcursor.theme:Tern", "Xcursor*theme : Two Words", "Xcursor.theme: Two\\"+"\n Words",
				"! Xcursor.size: 9", "", "XTerm*background: #102030", "*.color0: \\043000", "just words", "Xft.antialias: 1", "  Xcursor.size : 32") + end
		}
		if end == "\r\n" {
			text = strings.ReplaceAll(text, "\r", "") // xrdb's preprocessor keeps them in values
		}
		if r.IntN(3) == 0 {
			text = strings.TrimSuffix(text, "\n")
		}
		write(t, filepath.Join(home, ".Xresources"), text)
		d, err := desk.Open("p", home, "/", "")
		require.NoError(t, err)
		d.Env = map[string]string{}
		d.SetWritable(true)
		d.SetSurfaces(desk.Builtin())
		if r.IntN(4) == 0 {
			d.Env["XCURSOR_THEME"] = pick("Gull", "Tern")
		}
		if r.IntN(4) == 0 {
			d.Env["XCURSOR_SIZE"] = pick("40", "96")
		}
		asked := func() (theme, size string) {
			env := []string{"PATH=" + os.Getenv("PATH"), "HOME=" + home, "DISPLAY=" + screen, "LANG=C.UTF-8"}
			load := tool(t, "xrdb", "x11-xserver-utils", "-nocpp", "-load", filepath.Join(home, ".Xresources"))
			load.Env = env
			output(t, load)
			c := exec.CommandContext(t.Context(), program)
			c.Env = env
			for _, key := range []string{"XCURSOR_THEME", "XCURSOR_SIZE"} {
				if v, ok := d.Var(key); ok {
					c.Env = append(c.Env, key+"="+v.Value)
				}
			}
			out := strings.Split(output(t, c), "\n")
			return out[0], out[1]
		}
		compare := func(when string) {
			theme, size := asked()
			ours := reads(t, d, "display", desk.FacetPointer)
			if theme == "" { // it is left to the theme called default, which is a folder
				require.True(t, ours.Value == "" || strings.HasSuffix(ours.Source.Path, "icons/default/index.theme"), "seed %d %s\n%s", seed, when, text)
			} else {
				same("display", desk.FacetPointer, theme, ours.Value)
				require.Equal(t, theme, ours.Value, "seed %d %s: theme\n%s", seed, when, text)
			}
			n++
			if ours := reads(t, d, "display", desk.FacetPointerSize).Value; ours != "0" { // by the screen
				same("display", desk.FacetPointerSize, size, ours)
				require.Equal(t, size, ours, "seed %d %s: size\n%s", seed, when, text)
				n++
			}
		}
		compare("as it is")
		profile := "# mine\n"
		for key, value := range d.Env {
			profile += "export " + key + "=" + value + "\n"
		}
		write(t, filepath.Join(home, ".profile"), profile)
		d.Env = nil
		s, _ := d.Surface("display")
		d.SetSurfaces([]desk.Surface{s})
		p, err := planning.Dress(t.Context(), d, outfit.Outfit{Name: "x"}.With(desk.FacetPointer, "Tern").With(desk.FacetPointerSize, "56"))
		require.NoError(t, err)
		require.Empty(t, p.Blocked)
		require.NoError(t, apply.Plan(t.Context(), d, p, apply.Config{Keep: store.Blobs{Dir: t.TempDir()}, Journal: filepath.Join(t.TempDir(), "j")}))
		require.Equal(t, "Tern", reads(t, d, "display", desk.FacetPointer).Value, "seed %d", seed)
		_, size := asked()
		require.Equal(t, "56", size, "seed %d\n%s", seed, text)
		compare("after it was put on")
	}
	t.Logf("display: %d readings as libXcursor has them", n)
}
