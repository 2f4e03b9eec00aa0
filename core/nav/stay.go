package nav

import (
	"strconv"
	"strings"
	"time"

	"gyrolith/core/instant"
)

// scheduleStays are the fields that say how long one stays at a point of a route, as a duration of ISO 8601.
var scheduleStays = [...]string{"manual stay", "calculated stay", "stay"}

// StayOf gives how long fields say that one stays at a point; 0 where they don't.
func StayOf(fields []Field) time.Duration {
	for _, key := range scheduleStays {
		if v, ok := Get(fields, key); ok {
			if d, ok := ParseISODuration(v); ok {
				return d
			}
		}
	}
	return 0
}

// ParseISODuration reads a duration of ISO 8601 (4.4.3.2) of days, hours, minutes and seconds, such as PT45M. One of
// months or years has no fixed length and is none.
func ParseISODuration(text string) (time.Duration, bool) {
	rest, ok := strings.CutPrefix(text, "P")
	if !ok || rest == "" || rest == "T" {
		return 0, false
	}
	var sum time.Duration
	inDay := false
	for rest != "" {
		if rest[0] == 'T' && !inDay {
			inDay, rest = true, rest[1:]
			continue
		}
		end := strings.IndexFunc(rest, func(r rune) bool { return (r < '0' || r > '9') && r != '.' })
		if end <= 0 {
			return 0, false
		}
		v, err := strconv.ParseFloat(rest[:end], 64)
		unit := time.Duration(0)
		switch {
		case rest[end] == 'D' && !inDay:
			unit = 24 * time.Hour
		case rest[end] == 'W' && !inDay:
			unit = 7 * 24 * time.Hour
		case rest[end] == 'H' && inDay:
			unit = time.Hour
		case rest[end] == 'M' && inDay:
			unit = time.Minute
		case rest[end] == 'S' && inDay:
			unit = time.Second
		}
		const most = 100 * 366 * 24 * time.Hour
		if err != nil || unit == 0 || v*float64(unit) > float64(most) {
			return 0, false
		}
		sum += time.Duration(v * float64(unit))
		rest = rest[end+1:]
	}
	return sum, true
}

// ShiftSchedule moves the times of a schedule that fields say.
func ShiftSchedule(fields []Field, by time.Duration) []Field {
	var out []Field
	for _, f := range fields {
		if isScheduled(f.Key) {
			if ns, mark, _, ok := instant.Parse([]byte(f.Value), nil); ok && mark >= instant.Seconds {
				f.Value = string(instant.Append(nil, ns+int64(by), mark))
			}
		}
		out = append(out, f)
	}
	return out
}

// isScheduled says whether a field is a time of departure or arrival of a schedule.
func isScheduled(key string) bool {
	word, key, ok := strings.Cut(key, " ")
	return ok && (word == "manual" || word == "calculated") && (key == "etd" || key == "eta")
}

// WithoutSchedule takes away the times of a schedule beside the point's own, which do not hold once that is another.
func WithoutSchedule(fields []Field) []Field {
	var out []Field
	for _, f := range fields {
		if !isScheduled(f.Key) {
			out = append(out, f)
		}
	}
	return out
}
