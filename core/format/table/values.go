package table

import (
	"bytes"
	"fmt"
	"gyrolith/core/advice"
	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"math"
	"strings"
)

func (r *reader) setHeight(w *nav.Waypoint, cells [][]byte, line int) {
	cell := bytes.TrimSpace(at(cells, r.height.column))
	if len(cell) == 0 {
		return
	}
	v, digits, ok := r.height.read(cell, at(cells, r.lat))
	if !ok {
		r.badNumber(w, "height", r.height.column, text(cell), line)
		return
	}
	if noHeight(v / r.height.measure.Factor) {
		r.d.Note(nav.ProblemHeights, fmt.Sprintf("%s stands for no height, and was left out", text(cell)), line, 0)
		return
	}
	w.SetHeight(v, digits, r.over)
}

// noHeight says whether a number is one that programs write where there is no height.
func noHeight(v float64) bool {
	switch v {
	case -9999, -99999, -999999, -32768, -32767, 32767, 99999, 999999:
		return true
	}
	return math.IsNaN(v) || math.Abs(v) > 1e9
}

// setQuantity gathers a number of another quantity as a field of our own.
func (r *reader) setQuantity(w *nav.Waypoint, n *numbers, key string, cells [][]byte, line int) {
	cell := bytes.TrimSpace(at(cells, n.column))
	if n.column < 0 || len(cell) == 0 {
		return
	}
	value, ok := n.value(cell, at(cells, r.lat))
	if !ok {
		r.badNumber(w, key, n.column, text(cell), line)
		return
	}
	w.Fields = append(w.Fields, nav.Field{Key: key, Value: value, Literal: decimal.IsNumber(value)})
}

func (r *reader) setTime(w *nav.Waypoint, cells [][]byte, columns []int, line int) {
	cell := bytes.TrimSpace(at(cells, columns[0]))
	if len(columns) == 1 {
		if ns, mark, ok := r.moments.clock.Parse(cell); ok {
			w.SetTime(ns, mark)
			return
		}
	}
	if len(cell) == 0 {
		return
	}
	t := text(cell)
	if len(columns) > 1 {
		if clock := text(at(cells, columns[1])); clock != "" {
			if r.moments.serial && serialDate.MatchString(t) && strings.HasPrefix(clock, "0.") {
				t += clock[1:]
			} else {
				t += " " + clock
			}
		}
	}
	ns, mark, zoned, ok, ambiguous := r.moments.parse(t)
	format.DoubtTime(r.d, []byte(t), r.moments.zone, func() (int, int) { return line, 0 })
	if doubt := r.moments.doubt; doubt != instant.NoDoubt {
		r.d.Note(nav.ProblemTimes, "a time "+doubt.String(), line, 0)
	}
	if !ok && r.kind >= 0 { // ours: a year or a month
		ns, mark, zoned, ok = instant.Parse([]byte(t), r.opt.Zone)
	}
	switch {
	case ok:
		if !zoned && !r.moments.utc && r.opt.Zone == nil && mark >= instant.Seconds {
			r.d.Note(nav.ProblemTimes, "a time without a zone was read as UTC", line, 0).Advise(advice.NameZone)
		}
		w.SetTime(ns, mark)
		return
	case ambiguous:
		r.d.Note(nav.ProblemTimes, "a date could be day and month or month and day, and was kept as a field: write "+
			"it as 2026-03-14", line, 0)
	default:
		r.d.Note(nav.ProblemTimes, "an unreadable time was kept as a field", line, 0)
	}
	key := "time"
	if columns[0] < len(r.titles) {
		key = strings.TrimSpace(r.titles[columns[0]])
	}
	w.Fields = append(w.Fields, nav.Field{Key: key, Value: t})
}

// setFields gathers the other columns, in room for those of many rows.
func (r *reader) setFields(w *nav.Waypoint, cells [][]byte) {
	const rows = 1024
	most := len(w.Fields) + 4 + len(r.fieldAt)
	if cap(r.fieldPool)-len(r.fieldPool) < most {
		r.fieldPool = make([]nav.Field, 0, max(most, min(2*cap(r.fieldPool), rows*most)))
	}
	from := len(r.fieldPool)
	r.fieldPool = append(r.fieldPool, w.Fields...)
	add := func(column int, key string) {
		if c := text(at(cells, column)); c != "" {
			r.fieldPool = append(r.fieldPool, nav.Field{Key: key, Value: c})
		}
	}
	if r.kind >= 0 {
		if _, ok := nav.ParseKind(text(at(cells, r.kind))); !ok {
			add(r.kind, "kind")
		}
	}
	for i, column := range r.fieldAt {
		add(column, r.fieldKeys[i])
	}
	if to := len(r.fieldPool); to > from {
		w.Fields = r.fieldPool[from:to:to]
	}
}
