package table

import (
	"bytes"
	"fmt"
	"strings"
	"time"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/pattern"
)

// times settles how the times of a table are written: their columns, their zone, the order of dates.
func (r *reader) times(rows [][]string) {
	r.moments.zone = r.opt.Zone
	r.when = r.at["time"]
	r.tz = -1
	if at := r.at["time zone"]; len(at) > 0 {
		r.tz = at[0]
		r.fields[r.tz] = r.bare(r.tz) // its words stay a field, beside the times that they give a zone
	}
	for _, i := range r.parts {
		r.fields[i] = r.bare(i)
	}
	for _, i := range r.when {
		if i < len(r.titles) {
			if name, may := r.moments.says(r.titles[i]); name != "" && r.opt.Zone == nil {
				r.d.Note(nav.ProblemTimes, fmt.Sprintf("%s in the title %s could be %s; the times were read as UTC", name,
					r.title(i), may), r.header+1, 0).Advise(advice.NameZone)
			}
		}
	}
	if len(r.when) == 0 {
		return
	}
	clocks, serials, n := 0, 0, 0
	for _, cells := range rows[r.header+1:] {
		if r.when[0] < len(cells) {
			cell := strings.TrimSpace(cells[r.when[0]])
			r.moments.observe(cell)
			if cell != "" {
				n++
			}
			if clockTime.MatchString(cell) {
				clocks++
			}
			if dayNumber.MatchString(cell) {
				serials++
			}
		}
	}
	alone := len(r.when) == 1 && len(r.parts) == 0
	r.clocks = alone && n > 0 && clocks == n
	if r.sheet == "" && alone && n > 0 && serials == n {
		r.moments.serial, r.moments.since = true, time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC)
		r.d.Note(nav.ProblemTimes, "times are numbers of days, and were read as days since 1900, as workbooks count them",
			r.header+2, 0)
	}
}

// dayNumber is a number of days of the years from 1982 to 2064, as workbooks count them.
var dayNumber = pattern.New(`^[3-5]\d{4}(?:\.\d+)?$`)

// setTime takes the time of a row, whose text may stand in several columns.
func (r *reader) setTime(w *nav.Waypoint, cells [][]byte, line int) {
	if len(r.when) == 1 && len(r.parts) == 0 {
		cell := bytes.TrimSpace(at(cells, r.when[0]))
		if len(cell) == 0 {
			return
		}
		if ns, mark, ok := r.moments.clock.Parse(cell); ok {
			w.SetTime(ns, mark)
			return
		}
	}
	t := r.timeText(cells)
	if strings.TrimSpace(t) == "" {
		return
	}
	if strings.HasPrefix(t, "0000-00-00") || r.nothing(t) {
		r.d.Note(nav.ProblemTimes, fmt.Sprintf("%s stands for no time, and was left out", clip(t)), line, 0).Info = true
		return
	}
	if r.clocks && !r.opt.Day.IsZero() {
		day := r.opt.Day
		if r.opt.Zone != nil {
			day = day.In(r.opt.Zone)
		}
		t = day.Format("2006-01-02") + " " + t
	}
	m := &r.moments
	if r.tz >= 0 && !m.utc {
		m = m.ofZone(text(at(cells, r.tz)))
	}
	ns, mark, zoned, ok, ambiguous := m.parse(t)
	format.DoubtTime(r.d, []byte(t), m.zone, func() (int, int) { return line, 0 })
	if m.doubt != instant.NoDoubt {
		r.d.Note(nav.ProblemTimes, "a time "+m.doubt.String(), line, 0)
	}
	if !ok && r.kind >= 0 { // ours: a year or a month
		ns, mark, zoned, ok = instant.Parse([]byte(t), r.opt.Zone)
	}
	switch {
	case ok:
		if !zoned && !m.utc && r.opt.Zone == nil && mark >= instant.Seconds {
			r.d.Note(nav.ProblemTimes, "a time without a zone was read as UTC", line, 0).Advise(advice.NameZone)
		}
		w.SetTime(ns, mark)
		return
	case r.clocks:
		r.d.Note(nav.ProblemTimes, "a time of day without a date was kept as a field", line, 0).Advise(advice.NameFirstDay)
	case ambiguous:
		r.d.Note(nav.ProblemTimes, "a date could be day and month or month and day, and was kept as a field: write "+
			"it as 2026-03-14", line, 0)
	default:
		r.d.Note(nav.ProblemTimes, "an unreadable time was kept as a field", line, 0)
	}
	if len(r.when) == 0 { // whose parts are fields anyway
		return
	}
	key := "time"
	if r.when[0] < len(r.titles) {
		key = strings.TrimSpace(r.titles[r.when[0]])
	}
	w.Fields = append(w.Fields, nav.Field{Key: key, Value: t})
}

// timeText puts together what the columns of a time hold.
func (r *reader) timeText(cells [][]byte) string {
	if len(r.parts) > 0 {
		if r.clock && len(r.when) > 0 {
			if t := text(at(cells, r.when[0])); !clockTime.MatchString(t) {
				return t
			}
		}
		return r.joinedParts(cells)
	}
	t := text(bytes.TrimSpace(at(cells, r.when[0])))
	if len(r.when) > 1 && t != "" {
		if clock := text(at(cells, r.when[1])); clock != "" {
			if r.moments.serial && serialDate.MatchString(t) && strings.HasPrefix(clock, "0.") {
				return t + clock[1:]
			}
			if _, _, _, whole, _ := r.moments.parse(clock); whole && !clockTime.MatchString(clock) {
				return clock // which has the date as well
			}
			return t + " " + clock
		}
	}
	return t
}

// joinedParts writes a year, a month, a day, and a time of day in parts or not, as ISO 8601 does.
func (r *reader) joinedParts(cells [][]byte) string {
	var out strings.Builder
	for i, column := range r.parts {
		part := text(at(cells, column))
		if part == "" {
			break
		}
		if len(part) == 1 {
			part = "0" + part
		}
		out.WriteString([]string{"", "-", "-", " ", ":", ":"}[i] + part)
	}
	t := out.String()
	if r.clock && len(r.when) > 0 {
		t += " " + text(at(cells, r.when[0]))
	} else if len(r.parts) == 4 && len(t) > len("2006-01-02") {
		t += ":00"
	}
	return strings.TrimSpace(t)
}

// overMidnight puts times of day that follow one another on the next day where they go back by more than half of one.
func (r *reader) overMidnight() {
	if !r.clocks || r.opt.Day.IsZero() {
		return
	}
	days, last, passed := int64(0), int64(0), 0
	const day = int64(24 * time.Hour)
	shift := func(p *nav.Point) {
		if !p.HasTime() {
			return
		}
		at := p.UnixNano() + days
		if last != 0 && last-at > day/2 {
			days += day
			at += day
			passed++
		}
		last = at
		p.SetTime(at, p.TimeMark())
	}
	for i := range r.lines {
		days, last = 0, 0
		if i == 0 {
			for k := r.first; k < len(r.d.Waypoints); k++ {
				shift(&r.d.Waypoints[k].Point)
			}
			continue
		}
		for k := range r.lines[i].segment.Points {
			shift(&r.lines[i].segment.Points[k])
		}
	}
	if passed > 0 {
		r.d.Tell(nav.ProblemTimes, "times of day pass midnight, "+
			measure.Counted(passed, "day", "days")+" later than the first")
	}
}
