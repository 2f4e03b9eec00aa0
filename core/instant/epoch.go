package instant

import (
	"strconv"

	"gyrolith/core/pattern"
)

// sinceFirst are numbers of seconds, milliseconds, microseconds or nanoseconds since 1970, of the years from 2001 to
// 2030: one that begins with 20 is a date without marks between.
var sinceFirst = pattern.New(`^(1[0-8]\d{8})(?:(\d{3})(\d{3})?(\d{3})?|\.(\d{1,9}))?$`)

// SinceEpoch reads a number of seconds, or of parts of them, since 1970 UTC.
func SinceEpoch(text string) (ns int64, mark Mark, ok bool) {
	p := sinceFirst.FindStringSubmatch(text)
	if p == nil {
		return 0, NoTime, false
	}
	parts := p[2] + p[3] + p[4] + p[5]
	seconds, _ := strconv.ParseInt(p[1], 10, 64)
	fraction, _ := strconv.ParseInt((parts + "000000000")[:9], 10, 64)
	return seconds*1e9 + fraction, Seconds + Mark(len(parts)), true
}
