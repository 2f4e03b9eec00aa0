package table

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/nav"
)

func (r *reader) setHeight(w *nav.Waypoint, cells [][]byte, line int) {
	cell := bytes.TrimSpace(at(cells, r.height.column))
	if len(cell) == 0 {
		return
	}
	v, digits, ok := r.height.read(cell, at(cells, r.lat))
	none := (!ok || len(r.opt.NoData) > 0) && r.nothing(text(cell))
	if !ok && !none {
		r.badNumber(w, "height", r.height.column, text(cell), line)
		return
	}
	if none || noHeight(v/r.height.measure.Factor) {
		r.noted("height", text(cell), line)
		return
	}
	w.SetHeight(v, digits, r.over)
}

// Words that stand for no value in the cells of numbers, in capital letters.
var nothingWords = strings.Fields("N/A NA #N/A N.A. K.A. NULL NONE NIL NAN NODATA NO_DATA - -- --- – — ? KEINE " +
	"KEIN AUCUN AUCUNE NINGUNO INGEN GEEN BRAK UNKNOWN UNBEKANNT INCONNU")

// nothing says whether the cell of a number stands for no value.
func (r *reader) nothing(cell string) bool {
	upper := strings.ToUpper(strings.TrimSpace(cell))
	return slices.Contains(nothingWords, upper) || slices.ContainsFunc(r.opt.NoData, func(word string) bool {
		return strings.EqualFold(strings.TrimSpace(word), upper)
	})
}

// noted tells of a cell that stands for no value, by which nothing is lost.
func (r *reader) noted(what, cell string, line int) {
	r.d.Note(nav.ProblemHeights, fmt.Sprintf("%s stands for no %s, and was left out", cell, what), line, 0).Info = true
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
	if (!ok || len(r.opt.NoData) > 0) && r.nothing(text(cell)) {
		r.noted(key, text(cell), line)
		return
	}
	if !ok {
		r.badNumber(w, key, n.column, text(cell), line)
		return
	}
	w.Fields = append(w.Fields, nav.Field{Key: key, Value: value, Literal: decimal.IsNumber(value)})
}

// setFields gathers the other columns, in room for those of many rows.
func (r *reader) setFields(w *nav.Waypoint, cells [][]byte) {
	const rows = 1024
	most := len(w.Fields) + 5 + len(r.fieldAt)
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
	if r.hidden != "" {
		r.fieldPool = append(r.fieldPool, nav.Field{Key: "hidden", Value: r.hidden})
	}
	if to := len(r.fieldPool); to > from {
		w.Fields = r.fieldPool[from:to:to]
	}
}
