package pointerset

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/xcursor"
)

// TestFilesAreTakenByName: how makers call files, common practice, no source.
func TestFilesAreTakenByName(t *testing.T) {
	for _, c := range []struct{ name, files, want, left string }{
		{"words", "Normal Select.cur;Help Select.cur;Working In Background.ani;Busy.ani;Precision Select.cur;Text Select.cur;Handwriting.cur;Unavailable.cur;Vertical Resize.cur;Horizontal Resize.cur;Diagonal Resize 1.cur;Diagonal Resize 2.cur;Move.cur;Alternate Select.cur;Link Select.cur;Location Select.cur;Person Select.cur",
			"default=Normal Select.cur help=Help Select.cur progress=Working In Background.ani wait=Busy.ani crosshair=Precision Select.cur text=Text Select.cur pencil=Handwriting.cur not-allowed=Unavailable.cur ns-resize=Vertical Resize.cur ew-resize=Horizontal Resize.cur nwse-resize=Diagonal Resize 1.cur nesw-resize=Diagonal Resize 2.cur move=Move.cur up-arrow=Alternate Select.cur pointer=Link Select.cur pin=Location Select.cur person=Person Select.cur", ""},
		{"in short, with the set's name", "Tern_arrow.cur;Tern_busy.ani;Tern_SizeNS.cur;Tern_SizeNWSE.cur;tern_dgn2.cur;TernIBeam.cur;tern-link.cur",
			"default=Tern_arrow.cur wait=Tern_busy.ani text=TernIBeam.cur ns-resize=Tern_SizeNS.cur nwse-resize=Tern_SizeNWSE.cur nesw-resize=tern_dgn2.cur pointer=tern-link.cur", ""},
		{"numbered", "01 Arrow.cur;02 Help.cur;03 Wait.ani", "default=01 Arrow.cur help=02 Help.cur wait=03 Wait.ani", ""},
		{"as CSS has them", "default.cur;pointer.cur;nwse-resize.cur;zoom-in.cur;grab.cur", "default=default.cur nwse-resize=nwse-resize.cur pointer=pointer.cur grab=grab.cur zoom-in=zoom-in.cur", ""},
		{"as the X cursor font has them", "left_ptr.cur;left_ptr_watch.ani;sb_v_double_arrow.cur;top_left_corner.cur", "default=left_ptr.cur progress=left_ptr_watch.ani ns-resize=sb_v_double_arrow.cur nw-resize=top_left_corner.cur", ""},
		{"a pointer is the arrow if there is a hand", "pointer.cur;hand.cur", "default=pointer.cur pointer=hand.cur", ""},
		{"what nobody knows, and what is there twice", "arrow.cur;big arrow.cur;zebra.cur;text.cur", "default=arrow.cur text=text.cur", "big arrow.cur(default) zebra.cur"},
	} {
		t.Run(c.name, func(t *testing.T) {
			taken, left := byName(strings.Split(c.files, ";"))
			var is, rest []string
			for _, n := range taken {
				is = append(is, n.role.Name+"="+n.file)
			}
			for _, n := range left {
				if n.role != nil {
					n.file += "(" + n.role.Name + ")"
				}
				rest = append(rest, n.file)
			}
			require.Equal(t, c.want, strings.Join(is, " "))
			require.Equal(t, c.left, strings.Join(rest, " "))
		})
	}
}

// TestTheTableOfRoles: every name once, every role that lends there, and the names that programs
// use in it.
func TestTheTableOfRoles(t *testing.T) {
	seen, files := map[string]string{}, map[string]bool{}
	for _, r := range Roles {
		for _, n := range r.Names {
			require.Empty(t, seen[n], n)
			seen[n] = r.Name
		}
		require.False(t, files[r.File], r.File)
		files[r.File] = true
		for _, kin := range r.Kin {
			require.NotNil(t, RoleOf(kin), kin)
		}
		require.True(t, r.Lent == "" || RoleOf(r.Lent) != nil, r.Lent)
	}
	for _, names := range xcursor.Needed {
		r := RoleOf(names[0])
		require.NotNil(t, r, names)
		require.Contains(t, r.Needed, XCursor)
		for _, n := range names {
			of := RoleOf(n)
			require.True(t, of == r || of.Lent == r.Name, n)
		}
	}
	// CSS Basic User Interface Level 4, section 6.1.1, all keywords but auto and none.
	for _, n := range strings.Fields("default context-menu help pointer progress wait cell crosshair text vertical-text alias copy move no-drop not-allowed grab grabbing e-resize n-resize ne-resize nw-resize s-resize se-resize sw-resize w-resize ew-resize ns-resize nesw-resize nwse-resize col-resize row-resize all-scroll zoom-in zoom-out") {
		require.NotNil(t, RoleOf(n), n)
	}
}
