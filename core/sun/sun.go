// Package sun says where the sun stands, and when it rises and sets.
package sun

import (
	"math"
	"time"
)

// The altitudes of the sun's centre, in degrees, at which day and the twilights begin and end over a sea horizon:
// refraction and the sun's radius make the first (US Naval Observatory, Rise, Set, and Twilight Definitions).
const (
	Horizon      = -0.833
	Civil        = -6.0
	Nautical     = -12.0
	Astronomical = -18.0
)

// Altitude gives the altitude of the sun's centre in degrees, without refraction, by the low-accuracy formulas of
// J. Meeus, Astronomical Algorithms (2nd ed., chapters 12, 13 and 25), which are good to a hundredth of a degree.
func Altitude(lat, lon float64, at time.Time) float64 {
	const degree = math.Pi / 180
	days := float64(at.Unix())/86400 - 10957.5 // since 2000-01-01 12:00
	century := days / 36525
	mean := math.Mod(280.46646+century*(36000.76983+century*0.0003032), 360)
	anomaly := (357.52911 + century*(35999.05029-0.0001537*century)) * degree
	centre := (1.914602-century*(0.004817+0.000014*century))*math.Sin(anomaly) +
		(0.019993-0.000101*century)*math.Sin(2*anomaly) + 0.000289*math.Sin(3*anomaly)
	node := (125.04 - 1934.136*century) * degree
	longitude := (mean + centre - 0.00569 - 0.00478*math.Sin(node)) * degree
	tilt := (23.439291 - 0.0130042*century + 0.00256*math.Cos(node)) * degree
	declination := math.Asin(math.Sin(tilt) * math.Sin(longitude))
	ascension := math.Atan2(math.Cos(tilt)*math.Sin(longitude), math.Cos(longitude))
	sidereal := (280.46061837 + 360.98564736629*days + 0.000387933*century*century) * degree
	hour := sidereal + lon*degree - ascension
	sin := math.Sin(lat*degree)*math.Sin(declination) + math.Cos(lat*degree)*math.Cos(declination)*math.Cos(hour)
	return math.Asin(min(max(sin, -1), 1)) / degree
}

// LastAbove finds when the sun was last above an altitude, in the day before a time; the zero time if it was not.
func LastAbove(lat, lon, altitude float64, before time.Time) time.Time {
	const step = 4 * time.Minute
	for t := before; before.Sub(t) < 24*time.Hour; t = t.Add(-step) {
		if Altitude(lat, lon, t) >= altitude {
			low, high := t, t.Add(step) // it is above at low
			for high.Sub(low) > time.Second {
				mid := low.Add(high.Sub(low) / 2)
				if Altitude(lat, lon, mid) >= altitude {
					low = mid
				} else {
					high = mid
				}
			}
			return low
		}
	}
	return time.Time{}
}

// Day is what the sun does on a day at a place. Times are unset where it does not come or go there on that day.
type Day struct {
	Rise, Set                  time.Time
	Dawn, Dusk                 time.Time // civil twilight
	NauticalDawn, NauticalDusk time.Time
	StarsEnd, StarsBegin       time.Time // astronomical twilight
	Length                     time.Duration
	Up, Down                   bool // throughout the day
}

// Of gives the day that begins at a midnight, in its zone.
func Of(lat, lon float64, midnight time.Time) Day {
	next := time.Date(midnight.Year(), midnight.Month(), midnight.Day()+1, 0, 0, 0, 0, midnight.Location())
	d := Day{Up: true, Down: true}
	const step = time.Minute
	before, was := midnight, Altitude(lat, lon, midnight)
	for at := midnight.Add(step); !at.After(next); at = at.Add(step) {
		is := Altitude(lat, lon, at)
		for _, x := range []struct {
			of         float64
			rise, fall *time.Time
		}{{Horizon, &d.Rise, &d.Set}, {Civil, &d.Dawn, &d.Dusk}, {Nautical, &d.NauticalDawn, &d.NauticalDusk},
			{Astronomical, &d.StarsEnd, &d.StarsBegin}} {
			if was < x.of && is >= x.of {
				*x.rise = crossing(lat, lon, x.of, before, at)
			} else if was >= x.of && is < x.of {
				*x.fall = crossing(lat, lon, x.of, before, at)
			}
		}
		if was >= Horizon {
			d.Length += step
			d.Down = false
		} else {
			d.Up = false
		}
		before, was = at, is
	}
	switch { // to the second, where it is one stretch of light
	case !d.Rise.IsZero() && !d.Set.IsZero() && d.Set.After(d.Rise):
		d.Length = d.Set.Sub(d.Rise)
	case !d.Rise.IsZero() && !d.Set.IsZero():
		d.Length = next.Sub(d.Rise) + d.Set.Sub(midnight)
	}
	return d
}

// crossing finds when the sun goes through an altitude between two times, to the second.
func crossing(lat, lon, altitude float64, from, to time.Time) time.Time {
	rising := Altitude(lat, lon, from) < altitude
	for to.Sub(from) > time.Second {
		mid := from.Add(to.Sub(from) / 2)
		if (Altitude(lat, lon, mid) < altitude) == rising {
			from = mid
		} else {
			to = mid
		}
	}
	return from.Round(time.Second)
}

// Word says that the sun is up, or down, throughout the day; "" on a day on which it rises or sets.
func (d *Day) Word() string {
	switch {
	case d.Length == 0 && d.Down:
		return "down"
	case d.Up:
		return "up"
	}
	return ""
}
