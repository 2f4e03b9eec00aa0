package passage

import (
	"time"

	"gyrolith/core/sun"
)

// Light says how dark it is at an arrival.
type Light struct {
	Altitude float64   `json:"sun_altitude_deg"` // of the sun
	Sunset   time.Time `json:"sunset,omitzero"`  // the last one before
	Dark     time.Time `json:"dark,omitzero"`    // the end of civil twilight before
}

// darkness gives the light at an arrival between sunset and sunrise; nil by day.
func darkness(lat, lon float64, at time.Time) *Light {
	l := &Light{Altitude: sun.Altitude(lat, lon, at)}
	if l.Altitude >= sun.Horizon {
		return nil
	}
	if soon := sun.Altitude(lat, lon, at.Add(time.Minute)); l.Altitude >= sun.Civil && soon > l.Altitude {
		return l // in the morning
	}
	l.Sunset = sun.LastAbove(lat, lon, sun.Horizon, at)
	if l.Altitude < sun.Civil {
		l.Dark = sun.LastAbove(lat, lon, sun.Civil, at)
	}
	return l
}
