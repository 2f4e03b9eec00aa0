package plan

import (
	"strconv"
	"strings"
	"time"

	"gyrolith/core/instant"
)

// clock gives fixes the times of day that stand beside them, once the day is known. Past midnight the days count on.
type clock struct {
	day  time.Time
	zone *time.Location
	last time.Time
}

// take finds a time of day in what is said of a fix, and takes it out of it.
func (c *clock) take(f *fix) {
	if c.day.IsZero() {
		return
	}
	words := strings.Fields(f.Comment)
	for i, w := range words {
		m := clockTime.FindStringSubmatch(strings.Trim(w, ",;"))
		if m == nil {
			continue
		}
		number := func(k int) int { n, _ := strconv.Atoi(m[k]); return n }
		hour, minute, second := number(1)+number(4), number(2)+number(5), number(3)
		zone := c.zone
		if zone == nil || strings.ContainsAny(w, "ZU") {
			zone = time.UTC
		}
		year, month, day := c.day.In(zone).Date()
		at, _ := instant.LocalDate(time.Date(year, month, day, hour, minute, second, 0, time.UTC), zone)
		for at.Before(c.last) {
			at = at.AddDate(0, 0, 1)
		}
		c.last = at
		f.SetTime(at.UnixNano(), instant.Seconds)
		f.Comment = strings.Join(append(words[:i:i], words[i+1:]...), " ")
		return
	}
}
