package truth

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/turning"
)

// sunsOwn asks PyEphem (Debian: python3-ephem) for the next of each moment after a time at a
// place, in seconds of Unix time, "-" where there is none.
const sunsOwn = `
import sys, ephem
def seconds(d): return "%.0f" % ((float(d) + 15019.5 - 40587) * 86400)
for line in sys.stdin:
    unix, lat, lon = line.split()
    o = ephem.Observer()
    o.lat, o.lon, o.pressure = lat, lon, 0
    o.date = ephem.Date(float(unix) / 86400 + 40587 - 15019.5)
    sun = ephem.Sun()
    out = []
    for moment in ("dawn", "sunrise", "noon", "sunset", "dusk"):
        twilight = moment in ("dawn", "dusk")
        o.horizon = "-6" if twilight else "-0:34"
        try:
            if moment == "noon": d = o.next_transit(sun)
            elif moment in ("dawn", "sunrise"): d = o.next_rising(sun, use_center=twilight)
            else: d = o.next_setting(sun, use_center=twilight)
            out.append(seconds(d))
        except ephem.CircumpolarError:
            out.append("-")
    print(*out)
`

// TestSunRisesAndSetsWhereItDoes: 600 places and times by chance between 2001 and 2049, against
// PyEphem's, which takes the whole theory VSOP87. A moment is as exact as the sun is steep:
// ours is known to 0.01 degrees, which is some seconds at the equator and minutes where the
// sun goes along the horizon.
func TestSunRisesAndSetsWhereItDoes(t *testing.T) {
	t.Parallel()
	rnd := rand.New(rand.NewPCG(29, 11))
	type one struct {
		at    time.Time
		place turning.Place
	}
	var all []one
	var in strings.Builder
	for range 600 {
		c := one{time.Unix(978307200+rnd.Int64N(48*365*86400), 0).UTC(), turning.Place{Latitude: rnd.Float64()*176 - 88, Longitude: rnd.Float64()*360 - 180}}
		all = append(all, c)
		fmt.Fprintf(&in, "%d %.6f %.6f\n", c.at.Unix(), c.place.Latitude, c.place.Longitude)
	}
	python := tool(t, "/usr/bin/python3", "python3-ephem", "-c", sunsOwn)
	python.Stdin = strings.NewReader(in.String())
	lines := strings.Split(strings.TrimSpace(output(t, python)), "\n")
	require.Len(t, lines, len(all))
	asked, steep, worst, never, apart := 0, 0.0, 0.0, 0, 0
	for i, c := range all {
		told := strings.Fields(lines[i])
		for k, moment := range turning.Moments {
			show := turning.Show{Times: []turning.Timed{{From: moment, Picture: "/a.png"}}, At: &c.place}
			_, next := show.Next(c.at, turning.Shown{Picture: "/a.png"}, turning.Have{Pictures: []string{"/a.png"}})
			none := next.Equal(c.at.Add(24 * time.Hour))
			soon := told[k] != "-"
			var theirs time.Time
			if soon {
				var unix int64
				_, err := fmt.Sscan(told[k], &unix)
				require.NoError(t, err)
				theirs = time.Unix(unix, 0)
			}
			if none || !soon {
				never++
				if none == soon { // next to a polar day or night they need not agree to the day
					apart++
				}
				continue
			}
			asked++
			off, bound := next.Sub(theirs).Abs().Seconds(), 10.0
			if math.Abs(c.place.Latitude) <= 55 {
				steep = max(steep, off)
			} else {
				worst, bound = max(worst, off), 120
			}
			require.Less(t, off, bound, "%+v %s: %v, theirs %v", c, moment, next, theirs)
		}
	}
	require.LessOrEqual(t, apart, 3)
	t.Logf("%d moments, %d without one, which %d times one of the two finds; at most %.0f s apart up to 55 degrees, %.0f s beyond", asked, never, apart, steep, worst)
	require.Greater(t, asked, 2000)
}
