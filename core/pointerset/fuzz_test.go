package pointerset_test

import (
	"image"
	"io/fs"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/curfile"
	"ivelt/core/pointerset"
	"ivelt/core/within"
	"ivelt/core/xcursor"
)

// FuzzConvert: whatever a set is called and holds, in either direction.
func FuzzConvert(f *testing.F) {
	still := arrow(f, 8, image.Pt(1, 1))
	moving, err := curfile.EncodeAnimation([][]byte{still, still}, []curfile.Step{{Jiffies: 1}, {Frame: 1, Jiffies: 9}}, "", "")
	require.NoError(f, err)
	f.Add("Tern Arrow.cur", still)
	f.Add("busy.ani", moving)
	f.Add("left_ptr", xcursor.Encode([]xcursor.Frame{{Size: 8, Picture: image.NewRGBA(image.Rect(0, 0, 8, 9))}, {Size: 9, Picture: image.NewRGBA(image.Rect(0, 0, 3, 9)), Delay: 7}}))
	f.Fuzz(func(t *testing.T, name string, b []byte) {
		if !fs.ValidPath(name) || strings.Contains(name, "/") || name == "." || name == "cursors" {
			return
		}
		within.Reason(t, len(b)+len(name), func() {
			for _, as := range []pointerset.Format{pointerset.XCursor, pointerset.Cur} {
				set, err := pointerset.SmallBudget().Convert(t.Context(), fstest.MapFS{name: {Data: b}, "cursors/default": {Data: b}}, ".", pointerset.Options{As: as})
				if err != nil {
					require.ErrorIs(t, err, pointerset.ErrNone)
					continue
				}
				entries, err := set.Entries("Tern")
				require.NoError(t, err)
				for _, e := range entries {
					if e.Make == nil {
						continue
					}
					if made, err := e.Make(); err == nil && as == pointerset.XCursor {
						require.Len(t, made, int(e.Size))
					}
				}
			}
		})
	})
}
