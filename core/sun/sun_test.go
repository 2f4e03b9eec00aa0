package sun

import (
	"testing"
	"time"
)

// Times of rise and set as the almanac offices publish them, to the minute, on the meridian of Greenwich and elsewhere.
func TestDay(t *testing.T) {
	for _, x := range []struct {
		lat, lon  float64
		day       string
		zone      int // hours
		rise, set string
	}{
		{51.4769, 0, "2026-06-21", 0, "03:43", "20:21"},
		{51.4769, 0, "2026-12-21", 0, "08:03", "15:53"},
		{0, 0, "2026-03-20", 0, "06:04", "18:11"},
		{-33.87, 151.21, "2026-12-21", 11, "05:41", "20:05"},
		{40.71, -74.01, "2026-06-21", -4, "05:25", "20:31"},
	} {
		zone := time.FixedZone("", x.zone*3600)
		at, _ := time.ParseInLocation(time.DateOnly, x.day, zone)
		d := Of(x.lat, x.lon, at)
		for _, e := range []struct {
			got  time.Time
			want string
		}{{d.Rise, x.rise}, {d.Set, x.set}} {
			want, _ := time.ParseInLocation("2006-01-02 15:04", x.day+" "+e.want, zone)
			if off := e.got.Sub(want); off < -90*time.Second || off > 90*time.Second {
				t.Errorf("%v %v %s: %v, want %v", x.lat, x.lon, x.day, e.got, want)
			}
		}
		if !d.Dawn.Before(d.Rise) || !d.Dusk.After(d.Set) || d.Up || d.Down || d.Length != d.Set.Sub(d.Rise) {
			t.Errorf("%v %v %s: %+v", x.lat, x.lon, x.day, d)
		}
	}
}

func TestPolarDays(t *testing.T) {
	for day, up := range map[string]bool{"2026-06-21": true, "2026-12-21": false} {
		at, _ := time.Parse(time.DateOnly, day)
		d := Of(78.2, 15.6, at)
		if d.Up != up || d.Down == up || !d.Rise.IsZero() || !d.Set.IsZero() || up && d.Length != 24*time.Hour ||
			!up && d.Length != 0 {
			t.Errorf("%s: %+v", day, d)
		}
	}
}

// What is a place's own day to the clock moves with it: fifteen degrees west is an hour later, but for the seconds by
// which the sun itself moves.
func TestDayMovesWithLongitude(t *testing.T) {
	noon, _ := time.Parse(time.DateOnly, "2026-05-05")
	for lat := -60.0; lat <= 60; lat += 20 {
		east, west := Of(lat, 0, noon), Of(lat, -15, noon)
		if off := west.Rise.Sub(east.Rise) - time.Hour; off < -15*time.Second || off > 15*time.Second {
			t.Errorf("%v: an hour and %v", lat, off)
		}
	}
}
