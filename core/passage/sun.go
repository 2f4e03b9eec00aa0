package passage

import (
	"math"
	"time"
)

// The altitudes of the sun's centre, in degrees, at which day and civil twilight begin and end: refraction and the
// sun's radius make the first (US Naval Observatory, Rise, Set, and Twilight Definitions).
const (
	sunrise       = -0.833
	civilTwilight = -6.0
)

// sunAltitude gives the altitude of the sun's centre in degrees, without refraction, by the low-accuracy formulas of
// J. Meeus, Astronomical Algorithms (2nd ed., chapters 12, 13 and 25), which are good to a hundredth of a degree.
func sunAltitude(lat, lon float64, at time.Time) float64 {
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

// lastAbove finds when the sun was last above an altitude, in the day before a time; the zero time if it was not.
func lastAbove(lat, lon, altitude float64, before time.Time) time.Time {
	const step = 4 * time.Minute
	for t := before; before.Sub(t) < 24*time.Hour; t = t.Add(-step) {
		if sunAltitude(lat, lon, t) >= altitude {
			low, high := t, t.Add(step) // it is above at low
			for high.Sub(low) > time.Second {
				mid := low.Add(high.Sub(low) / 2)
				if sunAltitude(lat, lon, mid) >= altitude {
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

// Light says how dark it is at an arrival.
type Light struct {
	Altitude float64   `json:"sun_altitude_deg"` // of the sun
	Sunset   time.Time `json:"sunset,omitzero"`  // the last one before
	Dark     time.Time `json:"dark,omitzero"`    // the end of civil twilight before
}

// darkness gives the light at an arrival between sunset and sunrise; nil by day.
func darkness(lat, lon float64, at time.Time) *Light {
	l := &Light{Altitude: sunAltitude(lat, lon, at)}
	if l.Altitude >= sunrise {
		return nil
	}
	if soon := sunAltitude(lat, lon, at.Add(time.Minute)); l.Altitude >= civilTwilight && soon > l.Altitude {
		return l // in the morning
	}
	l.Sunset = lastAbove(lat, lon, sunrise, at)
	if l.Altitude < civilTwilight {
		l.Dark = lastAbove(lat, lon, civilTwilight, at)
	}
	return l
}
