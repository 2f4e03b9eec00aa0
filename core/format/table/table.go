// Package table reads and writes waypoints, and the points of routes, tracks and areas, as rows of a table: CSV (RFC
// 4180) and office workbooks (ISO/IEC 29500).
package table

import (
	"fmt"
	"slices"

	"gyrolith/core/figure"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/format/holds"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// FormatCSV is the table as comma-separated values.
var FormatCSV = &format.Format{
	Name:       "csv",
	Title:      "CSV (RFC 4180)",
	Extensions: []string{".csv"},
	Brief:      "points or items as rows, with all fields",
	Sniff:      sniffCSV,
	Read:       readCSV,
	Write:      writeCSV,
	Holds:      declare("CSV", holds.Step{}),
	Systems:    true,
	Tabular:    true,
}

// FormatXLSX is the table as an office workbook.
var FormatXLSX = &format.Format{
	Name:       "xlsx",
	Title:      "office workbook (ISO/IEC 29500)",
	Extensions: []string{".xlsx"},
	Brief:      "as CSV, one sheet per kind",
	Sniff:      sniffXLSX,
	Read: func(s *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
		return restored(readXLSX(s, opt))
	},
	Write:   writeXLSX,
	Holds:   declare("a workbook", holds.Step{Size: 0.001, Words: "a millisecond"}),
	Systems: true,
	Tabular: true,
}

func named(words ...string) (out []format.Column) {
	for _, w := range words {
		out = append(out, format.Column{Title: w, Holds: w})
	}
	return
}

// sheet is the table that is written of data: the columns, and the keys of its fields.
type sheet struct {
	format.Table
	keys    *format.FieldKeys
	system  *crs.System
	scales  []scale
	changes nav.Ledger
	asked   bool   // its columns were asked for
	east    int    // of a workbook: the offset of its times, in seconds
	shifts  bool   // of a workbook: its times have several offsets, and are texts
	codes   []bool // of a workbook: the columns whose texts are codes, though they look like numbers
	// of a workbook: what stands before numbers that are put in at the end; "" where there are none
	longMark string
	cut      int // of a workbook: cells whose texts were too long
}

// optional are the columns that are written where some row has a value for them.
var optional = []string{"height", "time", "line", "item", "segment", "group", "symbol", "colour", "description",
	"comment", "type", "item id"}

// layout is the table that is written: the one that is asked for, or one with a column for all that the data have.
func layout(d *nav.Dataset, opt *format.WriteOptions) *sheet {
	t := &sheet{system: opt.System, keys: format.NewFieldKeys(d, reserved...)}
	t.keys.Reserve = func(key string) bool {
		h, ok := headings.Of(key)
		return ok && slices.Contains([]string{"date", "north south", "east west"}, h.Holds) && !namesDatums(d, key)
	}
	if opt.Table != nil {
		t.Table = *opt.Table
	}
	if len(t.Columns) > 0 {
		t.Columns, t.asked = slices.Clone(t.Columns), true
		t.scaled()
		return t
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
	note := func(r *row, words []string) {
		for _, word := range words {
			if !present[word] {
				v := r.value(word, t)
				present[word] = v != nil && v != "" && (word != "segment" || v.(float64) > 1)
			}
		}
	}
	noteFields := func(list []nav.Field) {
		for i := range list {
			if seen[list[i].Key] && !t.keys.Clash(list) {
				continue
			}
			seen[list[i].Key] = true
			if name := t.keys.Names(list)[i]; !slices.Contains(fields, name) {
				fields = append(fields, name)
			}
		}
	}
	rows(d, t.Items, func(r *row) error {
		note(r, optional)
		noteFields(r.fields)
		return nil
	}, func(r *run) error {
		note(&r.row, optional)
		heights, times := false, false
		for k := range r.points {
			p := &r.points[k]
			heights, times = heights || p.HasHeight(), times || p.HasTime()
		}
		for d := range r.segment.Samples(r.points) {
			noteFields(d.Values)
		}
		present["height"], present["time"] = present["height"] || heights, present["time"] || times
		return nil
	})
	present["item"] = present["item"] && ambiguous(d)
	title := titling(d, t, fields)
	for _, word := range headings.Claimed(append(slices.Clone(fields), title.Beside()...), optional...) {
		present[word] = present[word] || title.Of(word) == nil
	}
	for _, c := range named(optional...) {
		if present[c.Holds] && !(t.Items && (c.Holds == "line" || c.Holds == "item" || c.Holds == "segment")) {
			t.Columns = append(t.Columns, c)
		}
	}
	for i, c := range t.Columns {
		if kept := title.Of(c.Holds); kept != nil {
			t.Columns[i].Title = kept.Text
		}
	}
	for _, text := range title.Beside() {
		t.Columns = append(t.Columns, format.Column{Title: text, Holds: titledPrefix + text})
	}
	for _, key := range fields {
		t.Columns = append(t.Columns, format.Column{Title: key, Holds: "field:" + key})
	}
	t.scaled()
	return t
}

// reserved are the titles that no field can have.
var reserved = slices.DeleteFunc(format.DataWords.Names(), func(word string) bool {
	return slices.Contains([]string{"depth", "speed", "course", "file", "folder"}, word) || // these are fields
		slices.Contains(figure.PointWords, word) || slices.Contains(latelyWorked, word)
})

// latelyWorked are words of items that fields had before they could be worked out.
var latelyWorked = []string{"duration", "mean-speed", "ascent", "descent"}

// ambiguous says whether lines of one kind share a name, or have none, so that their rows have to tell them apart
// otherwise.
func ambiguous(d *nav.Dataset) (yes bool) {
	names := [len(nav.Kinds)]map[string]bool{}
	d.Each(func(kind nav.Kind, it *nav.Item) {
		if kind == nav.Waypoints {
			return
		}
		if names[kind] == nil {
			names[kind] = map[string]bool{"": true}
		}
		yes = yes || names[kind][it.Name]
		names[kind][it.Name] = true
	})
	return
}

// reaches says whether a point has coordinates in a system.
func reaches(s *crs.System, p *nav.Point) bool {
	_, _, ok := s.Forward(p.Lat, p.Lon)
	return ok
}

// written counts the rows, and tells what they do not say.
func written(d *nav.Dataset, t *sheet) *format.Written {
	done := &format.Written{}
	t.tellWorked(d)
	outside, beyond := 0, 0
	var last *nav.Item
	count := func(r *row, points []nav.Point) error {
		if t.Items || r.kind == nav.Waypoints || r.whole != last {
			done.Items[r.kind]++
			last = r.whole
		}
		if n := len(points); t.Geometric() {
			done.Points += max(r.points, 1)
		} else {
			done.Points += max(n, 1)
		}
		if s := t.system; !s.WGS84() {
			if points == nil && r.point != nil {
				points = []nav.Point{*r.point}
			}
			for k := range points {
				if p := &points[k]; !reaches(s, p) {
					beyond++
				} else if !s.Area.Contains(p.Lat, p.Lon) {
					outside++
				}
			}
		}
		return nil
	}
	rows(d, t.Items, func(r *row) error { return count(r, nil) }, func(r *run) error { return count(&r.row, r.points) })
	done.Ledger = append(t.keys.Ledger, t.changes...)
	format.NoteReach(&done.Ledger, t.system, beyond, outside)
	if n := len(d.Routes) + len(d.Tracks) + len(d.Areas); t.Items && n > 0 && !t.Geometric() {
		done.Ledger = append(done.Ledger, nav.Entry{KindWord: "line", What: "points of lines",
			Why: "each item is one row, as requested", Count: n, Loss: true, Asked: true})
	}
	placed := func(c format.Column) bool { return slices.Contains(positions, c.Holds) }
	n := done.Points
	if t.Items {
		n = len(d.Waypoints)
	}
	if n > 0 && !t.Geometric() && !slices.ContainsFunc(t.Columns, placed) {
		done.Ledger = append(done.Ledger, nav.Entry{KindWord: "point", What: "position",
			Why: "no column for it was asked for", Count: n, Loss: true, Asked: true})
	}
	return done
}

// sheetLimit is the most rows of a sheet (ISO/IEC 29500-1, 18.3.1.73).
const sheetLimit = 1 << 20

var errSheetFull = fmt.Errorf("a worksheet holds at most %d rows, and there are more: write CSV, or "+
	"take fewer", sheetLimit)
