// Package table reads and writes waypoints, and the points of routes, tracks and areas, as rows of a table: CSV (RFC
// 4180) and office workbooks (ISO/IEC 29500).
package table

import (
	"fmt"
	"maps"
	"slices"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// FormatCSV is the table as comma-separated values.
var FormatCSV = &format.Format{
	Name:       "csv",
	Title:      "CSV (RFC 4180)",
	Extensions: []string{".csv"},
	Holds:      "points or items as rows, with all fields",
	Sniff:      sniffCSV,
	Read:       readCSV,
	Write:      writeCSV,
	Systems:    true,
	Tabular:    true,
}

// FormatXLSX is the table as an office workbook.
var FormatXLSX = &format.Format{
	Name:       "xlsx",
	Title:      "office workbook (ISO/IEC 29500)",
	Extensions: []string{".xlsx"},
	Holds:      "as CSV, a sheet a kind",
	Sniff:      sniffXLSX,
	Read:       readXLSX,
	Write:      writeXLSX,
	Systems:    true,
	Tabular:    true,
}

func named(words ...string) (out []format.Column) {
	for _, w := range words {
		out = append(out, format.Column{Title: w, Holds: w})
	}
	return
}

// layout is the table that is written: the one that is asked for, or one with a column for all that the data have.
func layout(d *nav.Dataset, opt *format.WriteOptions) *format.Table {
	t := format.Table{}
	if opt.Table != nil {
		t = *opt.Table
	}
	if len(t.Columns) > 0 {
		return &t
	}
	var place []format.Column
	switch {
	case opt.System != nil && opt.System.Projected():
		place = named("easting", "northing")
	case t.Notation == geodesy.Grid:
		place = named("zone", "easting", "northing")
	case t.Notation == geodesy.MilitaryGrid || t.Notation == geodesy.FlightPlan:
		place = named("position")
	default:
		place = named("lat", "lon")
	}
	t.Columns = append(named("kind", "name"), place...)
	if t.Items {
		t.Columns = append(t.Columns, named("points", "length", "first", "last")...)
	}
	present, fields := map[string]bool{}, []string{}
	seen := map[string]bool{}
	rows(d, t.Items, func(r *row) error {
		for _, word := range []string{"height", "time", "line", "segment", "group", "symbol", "colour", "description",
			"comment", "type"} {
			if present[word] {
				continue
			}
			v := r.value(word, &t, nil)
			present[word] = v != nil && v != "" && (word != "segment" || v.(float64) > 1)
		}
		for i := range r.fields {
			if key := r.fields[i].Key; !seen[key] {
				seen[key] = true
				fields = append(fields, key)
			}
		}
		return nil
	})
	for _, c := range named("height", "time", "line", "segment", "group", "symbol", "colour", "description", "comment",
		"type") {
		if present[c.Holds] && !(t.Items && (c.Holds == "line" || c.Holds == "segment")) {
			t.Columns = append(t.Columns, c)
		}
	}
	for _, key := range fields {
		t.Columns = append(t.Columns, format.Column{Title: key, Holds: "field:" + key})
	}
	return &t
}

// written counts the rows, and tells what they do not say.
func written(d *nav.Dataset, t *format.Table, opt *format.WriteOptions, name string) *format.Written {
	done := &format.Written{Ledger: ledger(d, t, opt, name)}
	rows(d, t.Items, func(r *row) error {
		if t.Items || r.kind == nav.Waypoints || r.number == 1 {
			done.Items[r.kind]++
		}
		done.Points++
		return nil
	})
	return done
}

// ledger tells what the rows do not say.
func ledger(d *nav.Dataset, t *format.Table, opt *format.WriteOptions, name string) (l nav.Ledger) {
	format.LoseKept(&l, d, "table", name)
	holds := map[string]bool{}
	for _, c := range t.Columns {
		holds[c.Holds] = true
	}
	lost := map[string]int{}
	note := func(word string, has bool) {
		if has && !holds[word] {
			lost[word]++
		}
	}
	outside, beyond := 0, 0
	rows(d, t.Items, func(r *row) error {
		note("height", r.point != nil && r.point.HasHeight())
		note("time", r.point != nil && r.point.HasTime())
		note("symbol", r.item.Style.Symbol != "")
		note("description", r.item.Desc != "")
		note("line", r.line != "" && !holds["group"] && !t.Items)
		for i := range r.fields {
			if key := r.fields[i].Key; !holds["field:"+key] && !(key == "depth" && holds["depth"]) && !holds[key] {
				lost["field "+key]++
			}
		}
		if s := opt.System; !s.WGS84() && r.point != nil {
			if _, _, ok := s.Forward(r.point.Lat, r.point.Lon); !ok {
				beyond++
			} else if !s.Area.Contains(r.point.Lat, r.point.Lon) {
				outside++
			}
		}
		return nil
	})
	for _, word := range slices.Sorted(maps.Keys(lost)) {
		l = append(l, nav.Entry{KindWord: "point", What: nav.Property(word), Why: "the table has no column for it",
			Count: lost[word], Loss: true})
	}
	format.NoteReach(&l, opt.System, beyond, outside)
	if t.Items {
		if n := len(d.Routes) + len(d.Tracks) + len(d.Areas); n > 0 {
			l = append(l, nav.Entry{KindWord: "line", What: "points of lines", Why: "each item is one row, as asked for",
				Count: n, Loss: true, Asked: true})
		}
		return
	}
	styled := 0
	d.Each(func(kind nav.Kind, item *nav.Item) {
		if kind != nav.Waypoints && (item.Style != nav.Style{} || item.Desc != "" || len(item.Fields) > 0) {
			styled++
		}
	})
	if styled > 0 {
		l = append(l, nav.Entry{KindWord: "line", What: "colours, descriptions and fields of lines",
			Why:   "a table of points has no place for them",
			Count: styled, Loss: true, Advice: advice.Advice{Code: advice.ItemsAsRows}})
	}
	return
}

// sheetLimit is the most rows of a sheet (ISO/IEC 29500-1, 18.3.1.73).
const sheetLimit = 1 << 20

var errSheetFull = fmt.Errorf("a sheet of a workbook holds %d rows at most, and there are more: write CSV, or "+
	"take fewer", sheetLimit)
