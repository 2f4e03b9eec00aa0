// Package instant reads and writes times as sources have them: with their precision, in local time with its doubts, and
// as moments that people type. A time is a number of nanoseconds since 1970 UTC.
package instant

import (
	"bytes"
	"encoding/binary"
	"slices"
	"time"

	"gyrolith/core/decimal"
)

// Mark says how precisely a source gave a time. The zero value means that there is no time.
type Mark uint8

// The coarse marks; a time to the second is Seconds, one with n decimals of a second is Seconds+n.
const (
	NoTime Mark = iota
	Year
	Month
	Day
	Seconds
)

const mostTimeDigits = 9

// Decimals gives the number of decimals of a second that the source had.
func (m Mark) Decimals() int { return max(int(m)-int(Seconds), 0) }

const (
	nsPerSecond  = int64(time.Second)
	secondsInDay = 86400
	// A count of nanoseconds in 64 bits reaches from 1677-09-21 to 2262-04-11; whole years inside are taken.
	firstYear, lastYear = 1678, 2261
)

// daysFromCivil counts the days from 1970-01-01 to a date of the Gregorian calendar, by moving the start of
// the year to March so that the leap day is its last.
func daysFromCivil(y, m, d int) int64 {
	if m <= 2 {
		y--
		m += 12
	}
	return int64(365*y+y/4-y/100+y/400) + int64((153*(m-3)+2)/5) + int64(d) - 719469
}

func civilFromDays(z int64) (y, m, d int) {
	z += 719468
	era := z / 146097
	doe := z - era*146097
	yoe := (doe - doe/1460 + doe/36524 - doe/146096) / 365
	doy := doe - (365*yoe + yoe/4 - yoe/100)
	mp := (5*doy + 2) / 153
	d = int(doy - (153*mp+2)/5 + 1)
	m = int(mp + 3)
	if m > 12 {
		m -= 12
	}
	y = int(yoe + era*400)
	if m <= 2 {
		y++
	}
	return
}

func daysIn(y, m int) int {
	switch m {
	case 2:
		if y%4 == 0 && (y%100 != 0 || y%400 == 0) {
			return 29
		}
		return 28
	case 4, 6, 9, 11:
		return 30
	}
	return 31
}

func twoAt(b []byte, i int) (int, bool) {
	if i+2 > len(b) {
		return 0, false
	}
	p, q := b[i]-'0', b[i+1]-'0'
	return int(p)*10 + int(q), p <= 9 && q <= 9
}

// Parse reads the date and time forms of XML Schema and RFC 3339: a whole instant with decimals and a
// zone, or a date, a month or a year alone. A time without a zone is taken to be zoneless hours east of UTC
// by zone; zoned says whether the text named one.
func Parse(b []byte, zone *time.Location) (ns int64, mark Mark, zoned, ok bool) {
	if len(b) > 0 && (b[0] <= ' ' || b[len(b)-1] <= ' ') {
		b = bytes.TrimSpace(b)
	}
	hi, ok1 := twoAt(b, 0)
	lo, ok2 := twoAt(b, 2)
	if !ok1 || !ok2 {
		return
	}
	y, mo, d := hi*100+lo, 1, 1
	if y < firstYear || y > lastYear {
		return
	}
	switch {
	case len(b) == 4:
		return daysFromCivil(y, 1, 1) * secondsInDay * nsPerSecond, Year, true, true
	case b[4] != '-':
		return
	}
	if mo, ok1 = twoAt(b, 5); !ok1 || mo < 1 || mo > 12 {
		return
	}
	if len(b) == 7 {
		return daysFromCivil(y, mo, 1) * secondsInDay * nsPerSecond, Month, true, true
	}
	if b[7] != '-' {
		return
	}
	if d, ok1 = twoAt(b, 8); !ok1 || d < 1 || d > daysIn(y, mo) {
		return
	}
	if len(b) == 10 {
		return daysFromCivil(y, mo, d) * secondsInDay * nsPerSecond, Day, true, true
	}
	if b[10] != 'T' && b[10] != 't' && b[10] != ' ' {
		return
	}
	h, ok1 := twoAt(b, 11)
	mi, ok2 := twoAt(b, 14)
	if !ok1 || !ok2 || h > 24 || mi > 59 || b[13] != ':' {
		return
	}
	i, sec, frac, digits := 16, 0, int64(0), 0
	if i < len(b) && b[i] == ':' {
		if sec, ok1 = twoAt(b, 17); !ok1 || sec > 60 {
			return
		}
		i = 19
		if i < len(b) && (b[i] == '.' || b[i] == ',') {
			for i++; i < len(b) && b[i]-'0' <= 9; i++ {
				if digits < mostTimeDigits {
					frac = frac*10 + int64(b[i]-'0')
					digits++
				}
			}
		}
		for n := digits; n < mostTimeDigits; n++ {
			frac *= 10
		}
	}
	ns = (daysFromCivil(y, mo, d)*secondsInDay+int64(h*3600+mi*60+sec))*nsPerSecond + frac
	mark = Seconds + Mark(digits)
	offset, zoned, ok := parseZone(b[i:])
	if !ok {
		return 0, NoTime, false, false
	}
	if !zoned && zone != nil {
		ns, _ = LocalTime(ns, zone)
		return ns, mark, false, true
	}
	return ns - offset*nsPerSecond, mark, zoned, true
}

// Doubtful says of the text of a time whether its year is one that can't be held, and whether it is a leap second,
// which is read as the second after it.
func Doubtful(b []byte) (beyond, leap bool) {
	b = bytes.TrimSpace(b)
	digits := 0
	for digits < len(b) && b[digits]-'0' <= 9 {
		digits++
	}
	if digits >= 4 && (len(b) == digits || b[digits] == '-') && !bytes.ContainsAny(b, "/.") ||
		digits > 4 && len(b) > digits &&
			b[digits] == '-' {
		y := 0
		for _, c := range b[:min(digits, 9)] {
			y = y*10 + int(c-'0')
		}
		beyond = (y < firstYear || y > lastYear) && (len(b) > digits || digits == 4 && y > 0)
	}
	return beyond, len(b) > 19 && b[10] == 'T' && string(b[16:19]) == ":60"
}

func parseZone(b []byte) (offset int64, zoned, ok bool) {
	switch {
	case len(b) == 0:
		return 0, false, true
	case len(b) == 1 && (b[0] == 'Z' || b[0] == 'z'):
		return 0, true, true
	case b[0] != '+' && b[0] != '-':
		return 0, false, false
	}
	sign := int64(1)
	if b[0] == '-' {
		sign = -1
	}
	h, ok := twoAt(b, 1)
	if !ok || h > 23 {
		return 0, false, false
	}
	rest := b[3:]
	if len(rest) > 0 && rest[0] == ':' {
		rest = rest[1:]
	}
	m := 0
	if len(rest) > 0 {
		if m, ok = twoAt(rest, 0); !ok || m > 59 || len(rest) > 2 {
			return 0, false, false
		}
	}
	return sign * int64(h*3600+m*60), true, true
}

func appendTwo(dst []byte, v int) []byte {
	return append(dst, decimal.TwoDigits[2*v], decimal.TwoDigits[2*v+1])
}

// Append writes a time in UTC as RFC 3339 has it, with the precision of its source.
func Append(dst []byte, ns int64, mark Mark) []byte {
	if mark == NoTime {
		return dst
	}
	sec := ns / nsPerSecond
	frac := ns - sec*nsPerSecond
	if frac < 0 {
		sec--
		frac += nsPerSecond
	}
	day := sec / secondsInDay
	if sec%secondsInDay < 0 {
		day--
	}
	rest := int(sec - day*secondsInDay)
	y, m, d := civilFromDays(day)
	dst = appendTwo(appendTwo(dst, y/100), y%100)
	if mark == Year {
		return dst
	}
	dst = appendTwo(append(dst, '-'), m)
	if mark == Month {
		return dst
	}
	dst = appendTwo(append(dst, '-'), d)
	if mark == Day {
		return dst
	}
	dst = appendTwo(append(dst, 'T'), rest/3600)
	dst = appendTwo(append(dst, ':'), rest/60%60)
	dst = appendTwo(append(dst, ':'), rest%60)
	if n := mark.Decimals(); n > 0 {
		dst = appendDecimals(dst, frac, n)
	}
	return append(dst, 'Z')
}

// appendDecimals writes the decimals of a second.
func appendDecimals(dst []byte, ns int64, n int) []byte {
	dst = append(dst, '.')
	for div := nsPerSecond / 10; n > 0; n-- {
		dst = append(dst, byte('0'+ns/div%10))
		div /= 10
	}
	return dst
}

// Clock reads and writes times one after the other. It remembers the last day, since nearly every time of a recording
// is of the same day as the one before. It is for one goroutine.
type Clock struct {
	date [10]byte // that was read last
	days int64    // nanoseconds from 1970 to the start of that day

	day  int64    // that was written last, counted from 1970
	text [11]byte // the day as it is written, with a T behind
}

// Parse reads a time in UTC in the usual form, 2026-03-14T05:30:00Z with or without decimals of a second. Any
// other form is left to ParseTime.
func (c *Clock) Parse(b []byte) (ns int64, mark Mark, ok bool) {
	if len(b) < 20 || len(b) > 30 || b[10] != 'T' || b[len(b)-1] != 'Z' {
		return 0, NoTime, false
	}
	if [10]byte(b) != c.date || b[0] == 0 {
		day, mark, _, ok := Parse(b[:10], nil)
		if !ok || mark != Day {
			return 0, NoTime, false
		}
		c.date, c.days = [10]byte(b), day
	}
	// Of 05:30:00 each byte less its zero: digits below ten, and ten where a colon stands.
	const zeros = 0x30303a30303a3030
	x := binary.LittleEndian.Uint64(b[11:]) ^ zeros
	if (x+0x7676_7f76_767f_7676|x)&0x8080808080808080 != 0 {
		return 0, NoTime, false
	}
	h, m, s := x&0xff*10+x>>8&0xff, x>>24&0xff*10+x>>32&0xff, x>>48&0xff*10+x>>56
	if h > 23 || m > 59 || s > 59 {
		return 0, NoTime, false
	}
	ns = c.days + int64(h*3600+m*60+s)*nsPerSecond
	if len(b) == 20 {
		return ns, Seconds, true
	}
	if b[19] != '.' {
		return 0, NoTime, false
	}
	scale := nsPerSecond
	for _, d := range b[20 : len(b)-1] {
		if d-'0' > 9 {
			return 0, NoTime, false
		}
		scale /= 10
		ns += int64(d-'0') * scale
	}
	return ns, Seconds + Mark(len(b)-21), true
}

// Append writes a time as AppendTime does.
func (c *Clock) Append(dst []byte, ns int64, mark Mark) []byte {
	if mark < Seconds {
		return Append(dst, ns, mark)
	}
	day := ns / (secondsInDay * nsPerSecond)
	rest := ns - day*(secondsInDay*nsPerSecond)
	if rest < 0 {
		day, rest = day-1, rest+secondsInDay*nsPerSecond
	}
	if day != c.day || c.text[0] == 0 {
		c.day = day
		copy(c.text[:], Append(make([]byte, 0, 32), ns, Seconds))
	}
	const whole = 20 // without decimals
	at := len(dst)
	if cap(dst)-at < whole {
		dst = slices.Grow(dst, whole)
	}
	dst = dst[:at+whole]
	b := (*[whole]byte)(dst[at:])
	*(*[11]byte)(b[:]) = c.text
	second := uint32(rest / nsPerSecond)
	minute := second / 60
	hour := minute / 60
	two := func(at int, v uint32) { b[at], b[at+1] = decimal.TwoDigits[2*v], decimal.TwoDigits[2*v+1] }
	two(11, hour)
	two(14, minute-60*hour)
	two(17, second-60*minute)
	b[13], b[16], b[19] = ':', ':', 'Z'
	if n := mark.Decimals(); n > 0 {
		return append(appendDecimals(dst[:at+whole-1], rest%nsPerSecond, n), 'Z')
	}
	return dst
}
