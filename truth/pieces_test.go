package truth

import (
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/colour"
	"ivelt/core/fontfile"
	"ivelt/core/recolour"
	"ivelt/core/xcursor"
)

// TestPointersAgreeWithLibXcursor reads every shape of real pointer sets, as their makers drew them and
// in another colour (Debian: libxcursor-dev, dmz-cursor-theme, xcursor-themes).
func TestPointersAgreeWithLibXcursor(t *testing.T) {
	t.Parallel()
	program := build(t, "xcursors", "xcursor", "libxcursor-dev")
	total := 0
	for _, set := range []string{"DMZ-White", "DMZ-Black", "redglass", "whiteglass", "handhelds"} {
		files, err := filepath.Glob("/usr/share/icons/" + set + "/cursors/*")
		require.NoError(t, err)
		require.NotEmpty(t, files, "%s is missing: make deps installs it", set)
		inside, outline, ok := recolour.MainPointer([]byte(read(t, "/usr/share/icons/"+set+"/cursors/left_ptr")))
		require.True(t, ok)
		dyer := recolour.New(recolour.Fill{Inside: inside, ToInside: colour.Of8(160, 70, 107), Outline: outline, ToOutline: outline})
		var ours, dyed []string
		recoloured := t.TempDir()
		changed := 0
		for i, file := range files {
			b := []byte(read(t, file))
			ours = append(ours, picturesOf(t, file, b)...)
			made, is, err := dyer.Picture(t.Context(), b)
			require.NoError(t, err, file)
			if is {
				changed++
			}
			at := filepath.Join(recoloured, fmt.Sprint(i))
			write(t, at, string(made))
			dyed = append(dyed, picturesOf(t, at, made)...)
		}
		theirs := lines(output(t, exec.CommandContext(t.Context(), program, files...)))
		require.Equal(t, theirs, ours, set)
		var made []string
		for i := range files {
			made = append(made, filepath.Join(recoloured, fmt.Sprint(i)))
		}
		after := lines(output(t, exec.CommandContext(t.Context(), program, made...)))
		require.Equal(t, after, dyed, set)
		for i, line := range after { // sizes, hot spots and delays are the maker's
			was, now := strings.Fields(theirs[i]), strings.Fields(line)
			require.Equal(t, was[1:7], now[1:7], theirs[i])
		}
		require.Greater(t, changed, len(files)/2, set)
		t.Logf("%-12s %3d files, %4d pictures as libXcursor reads them, %d of the files in another colour", set, len(files), len(theirs), changed)
		total += len(theirs)
	}
	t.Logf("%-12s %4d pictures", "together", total)
}

func read(t *testing.T, file string) string {
	t.Helper()
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	return string(b)
}

// picturesOf are those of a pointer's file as xcursors.c prints them.
func picturesOf(t *testing.T, file string, b []byte) (out []string) {
	t.Helper()
	f, err := xcursor.Parse(b)
	require.NoError(t, err, file)
	for _, im := range f.Images {
		p := f.Picture(im)
		var sum uint64
		for n := range uint64(im.Rect.Dx() * im.Rect.Dy()) {
			c := p.Pix[4*n:]
			sum += (uint64(c[3])<<24 | uint64(c[0])<<16 | uint64(c[1])<<8 | uint64(c[2])) * (n + 1)
		}
		out = append(out, fmt.Sprint(file, " ", im.Size, " ", im.Rect.Dx(), " ", im.Rect.Dy(), " ", im.HotX, " ", im.HotY, " ", im.Delay.Milliseconds(), " ", sum))
	}
	return out
}

// fcWeight is fontconfig's scale for a weight of OpenType (fcweight.c, the
// table in FcWeightFromOpenTypeDouble).
func fcWeight(w int) int {
	table := []struct{ ot, fc int }{{0, 0}, {100, 0}, {200, 40}, {300, 50}, {350, 55}, {380, 75}, {400, 80}, {500, 100}, {600, 180}, {700, 200}, {800, 205}, {900, 210}, {1000, 215}}
	for i, row := range table[1:] {
		if w <= row.ot {
			low := table[i]
			return low.fc + (w-low.ot)*(row.fc-low.fc)/(row.ot-low.ot)
		}
	}
	return 215
}

// TestFontsAgreeWithFcScan (Debian: fontconfig, fonts-dejavu-core,
// fonts-liberation, fonts-lato).
func TestFontsAgreeWithFcScan(t *testing.T) {
	t.Parallel()
	total, apart := 0, 0
	dirs := []string{"/usr/share/fonts/truetype/dejavu", "/usr/share/fonts/truetype/liberation", "/usr/share/fonts/truetype/lato"}
	for _, p := range realPacks(t) {
		if folder := filepath.Join(p.root, "usr/share/fonts"); exists(folder) {
			dirs = append(dirs, folder)
		}
	}
	for _, dir := range dirs {
		var files []string
		require.NoError(t, filepath.WalkDir(dir, func(p string, d fs.DirEntry, err error) error {
			if ext := strings.ToLower(filepath.Ext(p)); err == nil && d.Type().IsRegular() && (ext == ".ttf" || ext == ".otf" || ext == ".ttc") {
				files = append(files, p)
			}
			return err
		}), "%s is missing: make deps installs it", dir)
		if len(files) == 0 {
			continue // of a format that is not read
		}
		scanned := map[string][]string{}
		for _, line := range lines(output(t, tool(t, "fc-scan", "fontconfig", append([]string{"--format", "%{file}\t%{family}|%{style}|%{weight}|%{slant}|%{variable}|%{spacing}\n"}, files...)...))) {
			file, face, _ := strings.Cut(line, "\t")
			scanned[file] = append(scanned[file], face)
		}
		for _, file := range files {
			var widths []string
			theirs := scanned[file]
			for i, line := range theirs {
				at := strings.LastIndex(line, "|")
				widths, theirs[i] = append(widths, line[at+1:]), line[:at]
			}
			b, err := os.ReadFile(file)
			require.NoError(t, err)
			faces, err := fontfile.Parse(b)
			require.NoError(t, err, file)
			var ours []string
			for i, f := range faces {
				if i < len(widths) && (widths[i] != "") != f.Fixed {
					apart++
				}
				slant := 0
				switch {
				case f.Oblique:
					slant = 110
				case f.Italic:
					slant = 100
				}
				variable := "False"
				if f.Variable {
					variable = "True"
				}
				ours = append(ours, fmt.Sprintf("%s|%s|%d|%d|%s", strings.Join(f.Families, ","), strings.Join(f.Styles, ","), fcWeight(f.Weight), slant, variable))
			}
			if !slices.Equal(theirs, ours) {
				t.Errorf("%s: fc-scan says %q, Ivelt %q", file, theirs, ours)
			}
			total += len(theirs)
		}
		t.Logf("%-44s %2d files", filepath.Base(filepath.Dir(filepath.Dir(filepath.Dir(dir))))+" "+filepath.Base(dir), len(files))
	}
	require.LessOrEqual(t, apart, total/50)
	t.Logf("fixed width or not: %d of %d as fc-scan finds it", total-apart, total)
	t.Logf("%d faces: families, styles, weights and slants as fc-scan reads them", total)
}
