package motion

import (
	"cmp"
	"slices"
	"time"

	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// Course is where a recording was, by time.
type Course struct {
	Fixes []nav.Point   // with times to the second at least, in their order, one for each time
	Gap   time.Duration // a silence that is longer is a gap, over which no place is believed

	values nav.Segment // of the fixes
}

// CourseOf makes the course of the segments of one track, or of several as one.
func CourseOf(segments []nav.Segment, l Limits) *Course {
	c := &Course{Gap: GapOf(segments, l)}
	for i := range segments {
		carry := nav.Carry{From: &segments[i], To: &c.values}
		for _, p := range segments[i].Points {
			if p.HasTime() && p.TimeMark() >= instant.Seconds {
				c.Fixes = append(c.Fixes, carry.Point(p))
			}
		}
	}
	slices.SortStableFunc(c.Fixes, func(a, b nav.Point) int { return cmp.Compare(a.UnixNano(), b.UnixNano()) })
	c.Fixes = slices.CompactFunc(c.Fixes, func(a, b nav.Point) bool { return a.UnixNano() == b.UnixNano() })
	return c
}

// Values gives what a fix has beside its place, height and time.
func (c *Course) Values(fix *nav.Point) []nav.Field { return c.values.Values(nil, fix) }

// At gives the place at a time, in nanoseconds since 1970, and the fixes before and after: both the same at a fix
// itself, and nil beyond an end. It is false where no place is believed.
func (c *Course) At(at int64) (p nav.Point, before, after *nav.Point, ok bool) {
	n, exact := slices.BinarySearchFunc(c.Fixes, at, func(p nav.Point, at int64) int {
		return cmp.Compare(p.UnixNano(), at)
	})
	if n > 0 {
		before = &c.Fixes[n-1]
	}
	if n < len(c.Fixes) {
		after = &c.Fixes[n]
	}
	switch {
	case exact:
		return after.Loose(), after, after, true
	case before == nil || after == nil || after.Since(before) > c.Gap:
		return nav.Point{}, before, after, false
	}
	return nav.Between(before, after, float64(at-before.UnixNano())/float64(after.Since(before))), before, after, true
}
