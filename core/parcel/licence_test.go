package parcel_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/archive"
	"ivelt/core/archive/archivetest"
)

// TestTheLicenceNearestToAPiece: its own description before a file beside it, that before
// one further up, and the file of a package last.
func TestTheLicenceNearestToAPiece(t *testing.T) {
	base := files("usr/share/doc/salt/copyright", "Format: x\n\nFiles: *\nCopyright: A\nLicense: GPL-3+\n", "usr/share/themes/Salt/gtk-3.0/gtk.css", css)
	told := files("usr/share/themes/Salt/index.theme", "[Desktop Entry]\nName=Salt\nX-License=CC0-1.0\n")
	beside, above := files("usr/share/themes/Salt/COPYING", "MIT License\n"), files("usr/share/LICENSE.md", "CC-BY-4.0\n")
	for want, lot := range map[string][][]archivetest.Entry{"GPL-3.0-or-later": {base}, "CC-BY-4.0": {base, above}, "MIT": {base, above, beside}, "CC0-1.0": {base, above, beside, told}} {
		var all []archivetest.Entry
		for _, more := range lot {
			all = append(all, more...)
		}
		p, err := open(t, "salt.tar", archivetest.Tar(t, all), archive.Options{})
		require.NoError(t, err)
		require.Equal(t, want, p.Recognise(t.Context()).Pieces[0].Licence)
	}
	p, err := open(t, "foam.tar", archivetest.Tar(t, files("Foam.Xresources", "! SPDX-License-Identifier: MIT\n"+palette16())), archive.Options{})
	require.NoError(t, err)
	require.Equal(t, "MIT", p.Recognise(t.Context()).Pieces[0].Licence)
}
