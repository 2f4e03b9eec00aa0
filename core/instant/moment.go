package instant

import (
	"fmt"
	"strings"
	"time"
)

// ParseMoment reads a time or a day; what names no zone is in the given one, nil for UTC. A day, a month or a year is
// its beginning, or its end where that is asked for.
func ParseMoment(text string, zone *time.Location, end bool) (time.Time, error) {
	ns, mark, _, ok := Parse([]byte(text), zone)
	if !ok {
		return time.Time{}, fmt.Errorf("%q is not a time: write 2026-03-14, or 2026-03-14T05:30:00Z", text)
	}
	at := time.Unix(0, ns).UTC()
	if mark < Seconds && zone != nil {
		at, _ = LocalDate(at, zone)
	}
	if end {
		switch mark {
		case Year:
			at = at.AddDate(1, 0, 0).Add(-1)
		case Month:
			at = at.AddDate(0, 1, 0).Add(-1)
		case Day:
			at = at.AddDate(0, 0, 1).Add(-1)
		}
	}
	return at, nil
}

// ParseZone reads a zone of time: UTC, local or an offset such as +02:00.
func ParseZone(text string) (*time.Location, error) {
	switch text {
	case "UTC", "utc":
		return time.UTC, nil
	case "local":
		return time.Local, nil
	}
	if t, err := time.Parse("-07:00", text); err == nil {
		_, offset := t.Zone()
		return time.FixedZone("UTC"+text, offset), nil
	}
	if strings.Contains(text, "/") { // a name of the zone database, which is part of the program
		if zone, err := time.LoadLocation(text); err == nil {
			return zone, nil
		}
	}
	const zones = "UTC, local, an offset such as +02:00 or a name of the time zone database, Area/City"
	return nil, fmt.Errorf("%q is not a time zone: use %s", text, zones)
}
