package table

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/instant"
	"gyrolith/core/pattern"
)

// dateOrder is the order in which numeric dates are written.
type dateOrder uint8

const (
	unsettled  dateOrder = iota
	dayFirst             // 14/03/2026
	monthFirst           // 03/14/2026
)

var (
	numericDate = pattern.New(`^(\d{1,2})([./-])(\d{1,2})[./-](\d{4}|\d{2})(?:[ T,]+(.*))?$`)
	clockTime   = pattern.New(
		`(?i)^(\d{1,2})[:h.](\d{2})(?:[:m.](\d{2})(?:[.,](\d{1,9}))?)?s?\s*(am|pm|a\. ?m\.|p\. ?m\.)?\s*` +
			`(z|utc|gmt|[+-]\d{2}:?\d{2})?$`)
	serialDate = pattern.New(`^\d{5}(?:\.\d+)?$`)
)

// moments reads the times of a table.
type moments struct {
	zone   *time.Location
	doubt  instant.LocalDoubt // of the time that was read last
	order  dateOrder
	clock  instant.Clock
	serial bool // numbers are days since 1900, as workbooks have them
	since  time.Time
	utc    bool // the title says so: times that name no zone are of UTC, and no day alone stands among them
}

// observe learns from a date which order the table has: a part beyond 12 is the day, and full stops put the day first.
func (m *moments) observe(text string) {
	p := numericDate.FindStringSubmatch(strings.TrimSpace(text))
	if p == nil || m.order != unsettled {
		return
	}
	a, _ := strconv.Atoi(p[1])
	b, _ := strconv.Atoi(p[3])
	switch {
	case p[2] == "." || a > 12:
		m.order = dayFirst
	case b > 12:
		m.order = monthFirst
	}
}

// titledOffset is an offset from UTC in the title of a column of times, such as time (UTC+02:00).
var titledOffset = pattern.New(`(?i)\b(?:UTC|GMT) ?[+-−] ?\d{1,2}(?::?\d\d)?\b`)

// says takes from the title of a column of times whether they are of UTC, of an offset from it or of a named zone. A
// name that several zones share is given back with their offsets.
func (m *moments) says(title string) (shared, may string) {
	words := []string{titledOffset.FindString(title)}
	if words[0] == "" {
		words = strings.FieldsFunc(title, func(r rune) bool { return strings.ContainsRune(" ()[]{},;", r) })
	}
	for _, word := range words {
		if word == "Z" || word != strings.ToUpper(word) && !strings.Contains(word, "/") && !strings.EqualFold(word, "utc") {
			continue // a word such as est is an ordinary one
		}
		zone, offsets := instant.ZoneOf(word)
		if zone != nil {
			m.utc, m.zone = true, zone
			return "", ""
		}
		if offsets != "" {
			shared, may = word, offsets
		}
	}
	return shared, may
}

// ofZone is the reader of times of another zone; where the text names none it is the same.
func (m *moments) ofZone(text string) *moments {
	zone, _ := instant.ZoneOf(text)
	if zone == nil {
		return m
	}
	other := *m
	other.utc, other.zone = true, zone
	return &other
}

// Ends of times: the name of a zone, or its abbreviation.
var namedZone = pattern.New(`^(.*\d(?: ?[aApP]\.?[mM]\.?)?) ?([A-Z]{2,5}|[A-Z][a-z]+/[A-Za-z_]+(?:/[A-Za-z_]+)?)$`)

// parse reads a time. Ambiguous says that it is a date of which day and month can't be told apart.
func (m *moments) parse(text string) (ns int64, mark instant.Mark, zoned, ok, ambiguous bool) {
	text, m.doubt = strings.TrimSpace(text), instant.NoDoubt
	if ns, mark, ok = m.clock.Parse([]byte(text)); ok {
		return ns, mark, true, true, false
	}
	if m.serial && serialDate.MatchString(text) {
		v, err := strconv.ParseFloat(text, 64)
		if err == nil {
			at := m.since.Add(time.Duration(v*86400*1e3+0.5) * time.Millisecond)
			mark = instant.Seconds
			if at.Nanosecond() != 0 {
				mark += 3
			}
			if v == float64(int64(v)) && !m.utc {
				mark = instant.Day
			}
			return m.local(at), mark, m.utc, true, false
		}
	}
	if ns, mark, zoned, ok = instant.Parse([]byte(text), m.zone); ok && mark >= instant.Day {
		return
	}
	if ns, mark, ok = instant.SinceEpoch(text); ok {
		return ns, mark, true, true, false
	}
	if z := namedZone.FindStringSubmatch(text); z != nil && !slices.Contains([]string{"AM", "PM"}, z[2]) {
		if zone, _ := instant.ZoneOf(z[2]); zone != nil {
			other := m.ofZone(z[2])
			ns, mark, _, ok, ambiguous = other.parse(z[1])
			m.doubt = other.doubt
			return ns, mark, true, ok, ambiguous
		}
	}
	if day, clock, written := writtenDate(text); written {
		if clock == "" {
			return m.local(day), instant.Day, true, true, false
		}
		return m.withClock(day, clock)
	}
	p := numericDate.FindStringSubmatch(text)
	if p == nil {
		// ISO dates with other clocks behind: 2026-03-14 5:30 pm
		if len(text) > 10 && (text[10] == ' ' || text[10] == 'T') {
			if day, _, _, dayOK := instant.Parse([]byte(text[:10]), nil); dayOK {
				return m.withClock(time.Unix(0, day).UTC(), strings.TrimSpace(text[11:]))
			}
		}
		return 0, instant.NoTime, false, false, false
	}
	day, _ := strconv.Atoi(p[1])
	month, _ := strconv.Atoi(p[3])
	year, _ := strconv.Atoi(p[4])
	if len(p[4]) == 2 {
		year += century(year)
	}
	if m.order == unsettled && day != month {
		return 0, instant.NoTime, false, false, true
	}
	if m.order == monthFirst {
		day, month = month, day
	}
	at := time.Date(year, time.Month(month), day, 0, 0, 0, 0, time.UTC)
	if at.Day() != day || int(at.Month()) != month {
		return 0, instant.NoTime, false, false, false
	}
	if strings.TrimSpace(p[5]) == "" {
		return m.local(at), instant.Day, true, true, false
	}
	return m.withClock(at, strings.TrimSpace(p[5]))
}

// withClock adds a time of day to a day.
func (m *moments) withClock(day time.Time, text string) (ns int64, mark instant.Mark, zoned, ok, ambiguous bool) {
	p := clockTime.FindStringSubmatch(text)
	if p == nil {
		return
	}
	h, _ := strconv.Atoi(p[1])
	min, _ := strconv.Atoi(p[2])
	sec, _ := strconv.Atoi(p[3])
	if h > 23 || min > 59 || sec > 60 || p[5] != "" && (h > 12 || h == 0) {
		return
	}
	if p[5] != "" {
		h %= 12
		if strings.EqualFold(p[5][:1], "p") {
			h += 12
		}
	}
	frac := p[4]
	nanos, _ := strconv.Atoi((frac + "000000000")[:9])
	at := time.Date(day.Year(), day.Month(), day.Day(), h, min, sec, nanos, time.UTC)
	mark = instant.Seconds + instant.Mark(len(frac))
	switch z := strings.ToUpper(p[6]); z {
	case "":
		return m.local(at), mark, false, true, false
	case "Z", "UTC", "GMT":
		return at.UnixNano(), mark, true, true, false
	default:
		z = strings.ReplaceAll(z, ":", "")
		hours, _ := strconv.Atoi(z[1:3])
		minutes, _ := strconv.Atoi(z[3:])
		offset := time.Duration(hours)*time.Hour + time.Duration(minutes)*time.Minute
		if z[0] == '+' {
			offset = -offset
		}
		return at.Add(offset).UnixNano(), mark, true, true, false
	}
}

// local takes a wall time for one of the zone.
func (m *moments) local(at time.Time) int64 {
	if m.zone == nil {
		return at.UnixNano()
	}
	at, m.doubt = instant.LocalDate(at, m.zone)
	return at.UnixNano()
}
