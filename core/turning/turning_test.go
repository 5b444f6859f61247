package turning_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/turning"
)

func at(t *testing.T, zone, text string) time.Time {
	t.Helper()
	loc, err := time.LoadLocation(zone)
	require.NoError(t, err)
	when, err := time.ParseInLocation("2006-01-02 15:04", text, loc)
	require.NoError(t, err)
	return when
}

func TestWhenItIsDark(t *testing.T) {
	clock := turning.Schedule{By: turning.ByClock, Light: "07:00", Dark: "19:30"}
	for _, c := range []struct {
		zone, now, until string
		dark             bool
	}{
		{"UTC", "2026-11-30 06:59", "2026-11-30 07:00", true},
		{"UTC", "2026-11-30 07:00", "2026-11-30 19:30", false},
		{"UTC", "2026-11-30 19:30", "2026-12-01 07:00", true},
		{"UTC", "2026-11-30 00:00", "2026-11-30 07:00", true},
		// Days of 23 and of 25 hours (tz database, Europe/Berlin).
		{"Europe/Berlin", "2026-03-28 20:00", "2026-03-29 07:00", true},
		{"Europe/Berlin", "2026-10-24 20:00", "2026-10-25 07:00", true},
	} {
		dark, until := clock.Shade(at(t, c.zone, c.now), false)
		require.Equal(t, c.dark, dark, c)
		require.True(t, at(t, c.zone, c.until).Equal(until), "%v: %v", c, until)
	}
	late := turning.Schedule{By: turning.ByClock, Light: "22:00", Dark: "06:00"} // who sleeps by day
	dark, until := late.Shade(at(t, "UTC", "2026-11-30 23:00"), true)
	require.False(t, dark)
	require.Equal(t, at(t, "UTC", "2026-12-01 06:00"), until)

	tromso := turning.Place{Latitude: 69.65, Longitude: 18.96}
	sun := turning.Schedule{By: turning.BySun, At: &tromso}
	for _, c := range []struct {
		now         string
		dark, stays bool
	}{{"2026-12-20 11:00", true, true}, {"2026-06-20 00:00", false, true}, {"2026-03-20 12:00", false, false}, {"2026-03-20 23:00", true, false}} {
		now := at(t, "UTC", c.now)
		dark, until := sun.Shade(now, !c.dark)
		require.Equal(t, c.dark, dark, c)
		require.Equal(t, c.stays, tromso.Stays(now), c)
		require.True(t, until.After(now) && !until.After(now.Add(36*time.Hour)))
	}
	for _, pole := range []float64{90, -90} {
		_, until := turning.Schedule{By: turning.BySun, At: &turning.Place{Latitude: pole}}.Shade(at(t, "UTC", "2026-09-01 00:00"), false)
		require.Equal(t, at(t, "UTC", "2026-09-02 00:00"), until, "it is looked again")
	}
	for _, by := range []turning.By{turning.ByHand, turning.ByDesk} {
		dark, until := turning.Schedule{By: by}.Shade(time.Now(), true)
		require.True(t, dark)
		require.Zero(t, until)
	}
}

func TestWhatIsNoSchedule(t *testing.T) {
	place := &turning.Place{Latitude: 54, Longitude: -4}
	for _, s := range []turning.Schedule{
		{}, {By: "moon"}, {By: turning.ByClock}, {By: turning.ByClock, Light: "7:00", Dark: "19:00"}, {By: turning.ByClock, Light: "07:00", Dark: "24:00"},
		{By: turning.ByClock, Light: "07:00", Dark: "07:00"}, {By: turning.BySun}, {By: turning.BySun, At: &turning.Place{Latitude: 90.5}}, {By: turning.BySun, At: &turning.Place{Longitude: 181}},
	} {
		require.Error(t, s.Valid(), "%+v", s)
	}
	require.NoError(t, turning.Schedule{By: turning.BySun, At: place}.Valid())
	two := []string{"/a.png", "/b.png"}
	for _, s := range []turning.Show{
		{}, {Every: "10m"}, {Every: "10m", Folder: "/x", Pictures: two}, {Every: "10 minutes", Folder: "/x"}, {Every: "1s", Folder: "/x"}, {Every: "10000h", Folder: "/x"}, {Every: "10m", Folder: "x"},
		{Every: "10m", Folder: "/x", Order: "size"}, {Every: "10m", Folder: "/x", Battery: "dim"}, {Every: "10m", Pictures: make([]string, 3000)},
		{Times: []turning.Timed{{"07:00", "a.png"}}}, {Times: []turning.Timed{{"dusk", "/a.png"}}}, {Times: []turning.Timed{{"late", "/a.png"}}}, {Times: []turning.Timed{{"07:00", "/a.png"}, {"07:00", "/b.png"}}},
	} {
		require.Error(t, s.Valid(), "%+v", s)
	}
	require.NoError(t, turning.Show{Times: []turning.Timed{{"dusk", "/a.png"}, {"07:00", "/b.png"}}, At: place}.Valid())
}

func TestAShowOfPictures(t *testing.T) {
	pictures := []string{"/p/a.png", "/p/b.png", "/p/c.png", "/p/d.png"}
	show := turning.Show{Folder: "/p", Every: "10m"}
	now := at(t, "UTC", "2026-11-30 08:00")
	is := turning.Shown{Picture: "/p/a.png", Since: now}
	same, due := show.Next(now.Add(9*time.Minute), is, turning.Have{Pictures: pictures})
	require.Equal(t, is, same)
	require.Equal(t, now.Add(10*time.Minute), due)
	var seen []string
	for range 5 {
		is, due = show.Next(due, is, turning.Have{Pictures: pictures})
		seen = append(seen, is.Picture)
	}
	require.Equal(t, []string{"/p/b.png", "/p/c.png", "/p/d.png", "/p/a.png", "/p/b.png"}, seen)

	later := due.Add(5 * time.Hour) // asleep meanwhile: one turn, not thirty
	is, due = show.Next(later, is, turning.Have{Pictures: pictures})
	require.Equal(t, "/p/c.png", is.Picture)
	require.Equal(t, later.Add(10*time.Minute), due)
	back := later.Add(-3 * time.Hour) // the clock was set back: it stays ten minutes, not three hours more
	is, due = show.Next(back, is, turning.Have{Pictures: pictures})
	require.Equal(t, "/p/c.png", is.Picture)
	require.Equal(t, back.Add(10*time.Minute), due)

	kept, _ := show.Next(due, is, turning.Have{}) // the folder was emptied
	require.Equal(t, "/p/c.png", kept.Picture)
	next, _ := show.Next(due.Add(-time.Minute), is, turning.Have{Pictures: []string{"/p/a.png", "/p/d.png"}})
	require.Equal(t, "/p/d.png", next.Picture, "what is shown was taken away: the next, at once")
	show.Battery = turning.Pause
	kept, due = show.Next(due, is, turning.Have{Pictures: pictures, OnBattery: true})
	require.Equal(t, "/p/c.png", kept.Picture)
	next, _ = show.Next(due, kept, turning.Have{Pictures: pictures})
	require.Equal(t, "/p/d.png", next.Picture)
}

func TestAShowByChance(t *testing.T) {
	show := turning.Show{Every: "1m", Order: turning.ByChance}
	for n := 1; n <= 7; n++ {
		var pictures []string
		for i := range n {
			pictures = append(pictures, "/"+string(rune('a'+i)))
		}
		is, due := turning.Shown{Picture: "/z", Since: time.Unix(0, 0)}, time.Unix(60, 0)
		var seen []string
		for range 12 * n {
			is, due = show.Next(due, is, turning.Have{Pictures: pictures})
			seen = append(seen, is.Picture)
		}
		for i := range seen[1:] {
			require.True(t, n == 1 || seen[i] != seen[i+1], "%d: %v", n, seen)
		}
		rounds := map[string]bool{}
		for round := range slices.Chunk(seen, n) {
			rounds[string(round[0])] = true
			sorted := slices.Clone(round)
			slices.Sort(sorted)
			require.Equal(t, pictures, sorted, "each once a round")
		}
		require.True(t, n < 3 || len(rounds) > 1, "the rounds are not alike")
	}
}

func TestPicturesByTheTimeOfDay(t *testing.T) {
	show := turning.Show{Times: []turning.Timed{{"dawn", "/dawn"}, {"sunrise", "/day"}, {"17:00", "/tea"}, {"dusk", "/night"}}, At: &turning.Place{Latitude: 52.5, Longitude: 13.4}}
	have := turning.Have{Pictures: []string{"/dawn", "/day", "/night", "/tea"}}
	is := turning.Shown{}
	var seen []string
	now := at(t, "Europe/Berlin", "2026-06-10 00:00")
	for end := now.Add(24 * time.Hour); now.Before(end); {
		var next time.Time
		is, next = show.Next(now, is, have)
		seen = append(seen, now.Format("15:04 ")+is.Picture)
		require.True(t, next.After(now))
		now = next
	}
	// The times are PyEphem's for that day and place, to the minute (python3-ephem 4.1.4).
	require.Equal(t, []string{"00:00 /night", "03:54 /dawn", "04:44 /day", "17:00 /tea", "22:17 /night"}, seen)
	is, _ = show.Next(at(t, "Europe/Berlin", "2026-06-10 12:00"), turning.Shown{Picture: "/night"}, turning.Have{Pictures: []string{"/dawn", "/night"}})
	require.Equal(t, "/dawn", is.Picture, "the picture that is gone is passed over")
	is, _ = show.Next(now, turning.Shown{Picture: "/night"}, turning.Have{})
	require.Equal(t, "/night", is.Picture)
	pole := turning.Show{Times: []turning.Timed{{"sunrise", "/day"}, {"sunset", "/night"}}, At: &turning.Place{Latitude: 89}}
	is, next := pole.Next(at(t, "UTC", "2026-06-10 12:00"), turning.Shown{Picture: "/night"}, turning.Have{Pictures: []string{"/day", "/night"}})
	require.Equal(t, "/night", is.Picture, "no sun rises: it stays")
	require.Equal(t, at(t, "UTC", "2026-06-11 12:00"), next)
}
