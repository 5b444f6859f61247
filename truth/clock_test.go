package truth

import (
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/ncruces/go-strftime"
	"github.com/stretchr/testify/require"
)

// TestClocksTellWhatDateTells: every letter of a form, at moments in which they differ, and ISO's week and
// its year around each of 400 turns of the year, as date tells them in the plain locale (Debian: coreutils).
func TestClocksTellWhatDateTells(t *testing.T) {
	t.Parallel()
	asked := func(form string, moments []time.Time) []string {
		var in strings.Builder
		for _, m := range moments {
			fmt.Fprintln(&in, m.Format("2006-01-02 15:04:05"))
		}
		c := tool(t, "date", "coreutils", "-u", "-f", "-", "+"+form)
		c.Env = append(os.Environ(), "LC_ALL=C", "TZ=UTC0")
		c.Stdin = strings.NewReader(in.String())
		return strings.Split(strings.TrimSuffix(output(t, c), "\n"), "\n")
	}
	var moments []time.Time
	for _, m := range []string{"2026-01-01 00:00:00", "2026-03-21 06:40:09", "1999-12-31 23:59:59", "2024-02-29 12:00:00", "2000-10-05 13:05:07", "2020-12-31 11:59:01"} {
		at, err := time.Parse("2006-01-02 15:04:05", m)
		require.NoError(t, err)
		moments = append(moments, at)
	}
	letters := 0
	for _, of := range "aAbBCdDeFgGhHIjklmMnpPrRsSTuUVwWyYZ%" {
		form := "%" + string(of)
		if of == 'n' {
			form = "%H %%n" // a new line is none of a clock's
		}
		told := asked(form, moments)
		for i, m := range moments {
			require.Equal(t, strings.TrimRight(told[i], " "), strings.TrimRight(strftime.Format(form, m), " "), "%s at %s", form, m)
		}
		letters++
	}
	var turns []time.Time
	for year := 1800; year < 2200; year++ {
		for day := -4; day <= 4; day++ {
			turns = append(turns, time.Date(year, 1, 1+day, 12, 0, 0, 0, time.UTC))
		}
	}
	for i, told := range asked("%V %G", turns) {
		require.Equal(t, told, strftime.Format("%V %G", turns[i]), turns[i].String())
	}
	t.Logf("%d letters at %d moments, %d days around turns of the year", letters, len(moments), len(turns))
}
