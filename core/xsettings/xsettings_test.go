package xsettings_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/xsettings"
)

// What toolkits make of these bytes is compared in package truth; here is what
// comes back, and what is none.
func TestSettingsComeBack(t *testing.T) {
	s := xsettings.Settings{"Net/ThemeName": "Möwe", "Gtk/CursorThemeSize": int32(-3), "X/Colour": xsettings.Colour{1, 2, 3, 65535}, "A": "", "Ab": "x", "Abc": "wxyz"}
	back, err := xsettings.Parse(s.Bytes())
	require.NoError(t, err)
	require.Equal(t, s, back)
	// A provider on a machine of the other byte order.
	big, err := xsettings.Parse([]byte("\x01\x00\x00\x00\x00\x00\x00\x07\x00\x00\x00\x01\x00\x00\x00\x01X\x00\x00\x00\x00\x00\x00\x07\x00\x00\x01\x02"))
	require.NoError(t, err)
	require.Equal(t, xsettings.Settings{"X": int32(258)}, big)
	whole := s.Bytes()
	for n := range len(whole) {
		_, err := xsettings.Parse(whole[:n])
		require.ErrorIs(t, err, xsettings.ErrSettings, "cut off after %d bytes", n)
	}
}

func FuzzParse(f *testing.F) {
	f.Add(xsettings.Settings{"Net/ThemeName": "Reef", "N": int32(1), "C": xsettings.Colour{}}.Bytes())
	f.Fuzz(func(t *testing.T, b []byte) {
		s, err := xsettings.Parse(b)
		if err != nil {
			return
		}
		back, err := xsettings.Parse(s.Bytes())
		require.NoError(t, err)
		require.Equal(t, s, back)
	})
}
