package truth

import (
	"bytes"
	"context"
	"crypto/sha256"
	"image"
	"image/png"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ivelt/core/colour"
	"ivelt/core/imagefile"
	"ivelt/core/recolour"
)

// TestIconsAreDrawnAsLibrsvgDraws draws icons of real packs, spread by the hash of
// their paths, and compares the pixels with rsvg-convert's (Debian: librsvg2-bin): the
// mean difference of a part of a colour is 2/255 or less. The same icons in another colour are
// drawn alike too.
func TestIconsAreDrawnAsLibrsvgDraws(t *testing.T) {
	t.Parallel()
	const size = 64
	parts, recoloured := map[string]*score{"worked": {}, "held out": {}}, map[string]*score{"worked": {}, "held out": {}}
	dye := recolour.Dye{From: colour.Of8(61, 126, 166), To: colour.Of8(160, 70, 107)}
	for _, pack := range realPacks(t) {
		if !strings.Contains(pack.name, "icon") {
			continue
		}
		var files []string
		require.NoError(t, filepath.WalkDir(pack.root, func(file string, e fs.DirEntry, err error) error {
			if err == nil && e.Type().IsRegular() && strings.HasSuffix(file, ".svg") {
				files = append(files, file)
			}
			return err
		}))
		rank := func(file string) string {
			sum := sha256.Sum256([]byte(strings.TrimPrefix(file, pack.root)))
			return string(sum[:])
		}
		slices.SortFunc(files, func(a, b string) int { return strings.Compare(rank(a), rank(b)) })
		most := 10
		if *all {
			most = 60
		}
		for _, file := range files[:min(len(files), most)] {
			raw, err := os.ReadFile(file)
			require.NoError(t, err)
			out, err := tool(t, "rsvg-convert", "librsvg2-bin", "-w", "64", "-h", "64", "--keep-aspect-ratio", file).Output()
			if err != nil {
				continue // it draws no such picture
			}
			theirs, err := png.Decode(bytes.NewReader(out))
			require.NoError(t, err)
			ours := imagefile.Raster(context.Background(), raw, size)
			dyed, changed, err := recolour.New(dye).Picture(t.Context(), raw)
			require.NoError(t, err, file)
			if changed && apart(theirs, ours) <= 2 {
				file := filepath.Join(t.TempDir(), "dyed.svg")
				write(t, file, string(dyed))
				out := output(t, tool(t, "rsvg-convert", "librsvg2-bin", "-w", "64", "-h", "64", "--keep-aspect-ratio", file))
				theirs, err := png.Decode(strings.NewReader(out))
				require.NoError(t, err)
				n := recoloured[pack.part()]
				n.all++
				if far := apart(theirs, imagefile.Raster(t.Context(), dyed, size)); far <= 2 {
					n.same++
				} else if !pack.held {
					t.Logf("%s in another colour: %.1f/255 in the mean", strings.TrimPrefix(file, pack.root), far)
				}
			}
			n := parts[pack.part()]
			n.all++
			far := apart(theirs, ours)
			if far <= 2 {
				n.same++
			} else if !pack.held {
				t.Logf("%s: %.1f/255 in the mean", strings.TrimPrefix(file, pack.root), far)
			}
		}
	}
	for part, n := range parts {
		t.Logf("%s: %s icons within 2/255; of those in another colour %s", part, *n, *recoloured[part])
		assert.GreaterOrEqual(t, 100*recoloured[part].same, 98*recoloured[part].all)
	}
	assert.GreaterOrEqual(t, 60*parts["worked"].same, 57*parts["worked"].all)
}

// apart is the mean difference of the parts of two pictures' colours, 0–255; what one of
// them does not have is clear.
func apart(a, b image.Image) float64 {
	if b == nil {
		return 255
	}
	box := image.Rect(0, 0, max(a.Bounds().Dx(), b.Bounds().Dx()), max(a.Bounds().Dy(), b.Bounds().Dy()))
	sum := 0.0
	for y := range box.Dy() {
		for x := range box.Dx() {
			var p, q [4]uint32
			p[0], p[1], p[2], p[3] = a.At(a.Bounds().Min.X+x, a.Bounds().Min.Y+y).RGBA()
			q[0], q[1], q[2], q[3] = b.At(b.Bounds().Min.X+x, b.Bounds().Min.Y+y).RGBA()
			for i := range p {
				d := int(p[i]>>8) - int(q[i]>>8)
				sum += float64(max(d, -d))
			}
		}
	}
	return sum / float64(4*box.Dx()*box.Dy())
}
