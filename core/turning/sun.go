package turning

import (
	"math"
	"time"
)

// Place is where on Earth a desk stands, in degrees: north and east are above 0.
type Place struct {
	Latitude  float64 `toml:"latitude" json:"latitude"`
	Longitude float64 `toml:"longitude" json:"longitude"`
}

// Height is an altitude of the sun's middle over the horizon, in degrees.
type Height float64

const (
	// Rises: the upper limb stands on the horizon, with 34 minutes of arc of refraction and
	// 16 of the sun's half width, as almanacs have it (Explanatory Supplement to the
	// Astronomical Almanac, 9.3).
	Rises Height = -50.0 / 60
	// Dawns: the sun is six degrees below it, where civil twilight begins and ends (the same).
	Dawns Height = -6
)

// sunAt is the sun's right ascension and declination in radians, and the sidereal time of
// Greenwich in radians (The Astronomical Almanac, "Low precision formulas for the Sun": 0.01
// degrees between 1950 and 2050; the sidereal time by its linear formula).
func sunAt(t time.Time) (ascension, declination, sidereal float64) {
	n := float64(t.UnixNano())/float64(24*time.Hour) + 2440587.5 - 2451545 // days from J2000.0
	rad := func(deg float64) float64 { return math.Mod(deg, 360) * math.Pi / 180 }
	mean, anomaly := rad(280.460+0.9856474*n), rad(357.528+0.9856003*n)
	lambda := mean + rad(1.915)*math.Sin(anomaly) + rad(0.020)*math.Sin(2*anomaly)
	tilt := rad(23.439 - 0.0000004*n)
	ascension = math.Atan2(math.Cos(tilt)*math.Sin(lambda), math.Cos(lambda))
	declination = math.Asin(math.Sin(tilt) * math.Sin(lambda))
	return ascension, declination, rad(280.46062 + 360.98564737*n)
}

// Height is where the sun stands over a place, without refraction.
func (p Place) Height(t time.Time) Height {
	ascension, declination, sidereal := sunAt(t)
	hour := sidereal + p.Longitude*math.Pi/180 - ascension
	lat := p.Latitude * math.Pi / 180
	return Height(math.Asin(math.Sin(lat)*math.Sin(declination)+math.Cos(lat)*math.Cos(declination)*math.Cos(hour)) * 180 / math.Pi)
}

// step is how far apart the sun is looked at: a day or a night that is shorter is none.
const step = 10 * time.Minute

// crossing is the first time after t, or with a negative step the last one up to t, at which
// the sun goes through a height, upwards or downwards; ok is false where it does not for a day
// and a half: beyond the polar circles, and next to them.
func (p Place) crossing(t time.Time, at Height, up bool, step time.Duration) (when time.Time, ok bool) {
	above := func(t time.Time) bool { return p.Height(t) >= at }
	was := above(t)
	for n := 1; n <= int(36*time.Hour/step.Abs()); n++ {
		next := t.Add(time.Duration(n) * step)
		is := above(next)
		rises := !was && is // in the direction that is looked in
		if step < 0 {
			rises = was && !is
		}
		if was == is || rises != up {
			was = is
			continue
		}
		from, to := next.Add(-step), next
		for to.Sub(from).Abs() > time.Second {
			middle := from.Add(to.Sub(from) / 2)
			if above(middle) == was {
				from = middle
			} else {
				to = middle
			}
		}
		if step < 0 {
			to = from
		}
		return whole(to), true
	}
	return time.Time{}, false
}

// whole is the next full second: at that time what happens has happened.
func whole(t time.Time) time.Time {
	if s := t.Truncate(time.Second); s.Before(t) {
		return s.Add(time.Second)
	}
	return t
}

// noon is the first time after t, or with a negative step the last one up to t, at which the
// sun stands in the meridian, which it does everywhere once a day.
func (p Place) noon(t time.Time, step time.Duration) time.Time {
	east := func(t time.Time) float64 { // how far it is past it, in radians from -π to π
		ascension, _, sidereal := sunAt(t)
		return math.Remainder(sidereal+p.Longitude*math.Pi/180-ascension, 2*math.Pi)
	}
	const day = 24 * time.Hour
	left := time.Duration(-east(t) / (2 * math.Pi) * float64(day))
	if step > 0 && left < time.Second {
		left += day
	} else if step < 0 && left >= time.Second {
		left -= day
	}
	when := t.Add(left)
	for range 3 { // the sun's own way in that time
		when = when.Add(time.Duration(-east(when) / (2 * math.Pi) * float64(day)))
	}
	return whole(when)
}
