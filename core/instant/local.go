package instant

import (
	"fmt"
	"time"
)

// LocalDoubt says why a local time is not one instant.
type LocalDoubt uint8

// A local time is in doubt around the change of the clocks of its zone.
const (
	NoDoubt LocalDoubt = iota
	Twice              // clocks are put back, and it was the first of two
	Never              // clocks are put forward over it, and it has the offset before
)

func (d LocalDoubt) String() string {
	return [...]string{"", "exists twice in its zone, where clocks are put back, and was read as the first of the two",
		"doesn't exist in its zone, where clocks are put forward, and was read with the offset before"}[d]
}

// LocalTime gives the instant of a time on the clocks of a zone, both in nanoseconds since 1970, the local one as if it
// were UTC. One that exists twice is the first; one that doesn't exist has the offset before.
func LocalTime(local int64, zone *time.Location) (ns int64, doubt LocalDoubt) {
	const day = secondsInDay * nsPerSecond
	offset := func(at int64) int64 {
		_, east := time.Unix(0, at).In(zone).Zone()
		return int64(east) * nsPerSecond
	}
	before, after := offset(local-day), offset(local+day) // no zone changes twice within two days
	if before == after {
		return local - before, NoDoubt
	}
	first, second := local-before, local-after
	switch isFirst, isSecond := offset(first) == before, offset(second) == after; {
	case isFirst && isSecond:
		return first, Twice
	case isFirst:
		return first, NoDoubt
	case isSecond:
		return second, NoDoubt
	}
	return first, Never
}

// LocalDate is LocalTime of what the clocks of a zone show, which is that of the given time in its own.
func LocalDate(shown time.Time, zone *time.Location) (time.Time, LocalDoubt) {
	_, east := shown.Zone()
	ns, doubt := LocalTime(shown.UnixNano()+int64(east)*nsPerSecond, zone)
	return time.Unix(0, ns).In(zone), doubt
}

// DoubtOf says what is in doubt of the text of a time without a zone.
func DoubtOf(text []byte, zone *time.Location) LocalDoubt {
	if zone == nil {
		return NoDoubt
	}
	local, mark, zoned, ok := Parse(text, nil)
	if !ok || zoned || mark < Seconds {
		return NoDoubt
	}
	_, doubt := LocalTime(local, zone)
	return doubt
}

// AppendIn writes a time as RFC 3339 has it, in a zone with its offset; nil is UTC. A date without a time of day
// has no zone.
func AppendIn(dst []byte, ns int64, mark Mark, zone *time.Location) []byte {
	if zone == nil || zone == time.UTC || mark < Seconds {
		return Append(dst, ns, mark)
	}
	_, east := time.Unix(0, ns).In(zone).Zone()
	dst = Append(dst, ns+int64(east)*nsPerSecond, mark)
	return append(dst[:len(dst)-1], OffsetText(east)...) // in the place of its Z
}

// OffsetText writes an offset from UTC in seconds as hours and minutes.
func OffsetText(east int) string {
	sign := '+'
	if east < 0 {
		sign, east = '-', -east
	}
	return fmt.Sprintf("%c%02d:%02d", sign, east/3600, east/60%60)
}
