// Package table writes waypoints, and the points of routes, tracks and areas, as rows of a table: CSV (RFC 4180) and
// office workbooks (ISO/IEC 29500).
package table

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// FormatCSV is the table as comma-separated values.
var FormatCSV = &format.Format{
	Name:       "csv",
	Title:      "CSV (RFC 4180)",
	Extensions: []string{".csv"},
	Holds:      "points as rows, with the item that they belong to in the column group; written only",
	Write:      writeCSV,
}

// FormatXLSX is the table as an office workbook.
var FormatXLSX = &format.Format{
	Name:       "xlsx",
	Title:      "office workbook (ISO/IEC 29500)",
	Extensions: []string{".xlsx"},
	Holds:      "as CSV, with real numbers and dates; written only",
	Write:      writeXLSX,
}

// usual are the columns where no layout says which.
var usual = []format.Column{{Title: "kind", Holds: "kind"}, {Title: "group", Holds: "group"}, {Title: "name", Holds: "name"}, {Title: "lat", Holds: "lat"}, {Title: "lon", Holds: "lon"},
	{Title: "height", Holds: "height"}, {Title: "time", Holds: "time"}, {Title: "symbol", Holds: "symbol"}, {Title: "description", Holds: "description"}}

// row is one point with what is said of it.
type row struct {
	kind   nav.Kind
	group  string // of a waypoint its own; otherwise the item that the point belongs to
	number int
	item   *nav.Item
	point  *nav.Point
}

// rows visits every point of the data.
func rows(d *nav.Dataset, visit func(*row) error) error {
	none := &nav.Item{}
	for i := range d.Waypoints {
		w := &d.Waypoints[i]
		if err := visit(&row{nav.Waypoints, w.Group, i + 1, &w.Item, &w.Point}); err != nil {
			return err
		}
	}
	for i := range d.Routes {
		r := &d.Routes[i]
		for j := range r.Points {
			if err := visit(&row{nav.Routes, r.Name, j + 1, &r.Points[j].Item, &r.Points[j].Point}); err != nil {
				return err
			}
		}
	}
	for i := range d.Tracks {
		t := &d.Tracks[i]
		n := 0
		for j := range t.Segments {
			s := &t.Segments[j]
			for k := range s.Points {
				n++
				item := none
				if x := s.Detail(&s.Points[k]); x != nil && x.Item != nil {
					item = x.Item
				}
				if err := visit(&row{nav.Tracks, t.Name, n, item, &s.Points[k]}); err != nil {
					return err
				}
			}
		}
	}
	for i := range d.Areas {
		a := &d.Areas[i]
		n := 0
		for _, ring := range a.Rings() {
			for k := range ring {
				n++
				if err := visit(&row{nav.Areas, a.Name, n, none, &ring[k]}); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// value gives what a cell holds: a number, a time, a text, or nil.
func (r *row) value(holds string, t *format.Table) any {
	number := func(text []byte) any {
		v, err := strconv.ParseFloat(string(text), 64)
		if err != nil || math.IsNaN(v) {
			return nil
		}
		return v
	}
	switch holds {
	case "kind":
		return r.kind.One()
	case "name":
		return r.item.Name
	case "group":
		return r.group
	case "number":
		return float64(r.number)
	case "lat":
		return number(r.point.AppendLat(nil))
	case "lon":
		return number(r.point.AppendLon(nil))
	case "position":
		return t.Notation.Format(r.point.Lat, r.point.Lon)
	case "height":
		if r.point.HasHeight() {
			return number(r.point.AppendHeight(nil))
		}
		return nil
	case "time":
		if r.point.HasTime() {
			return r.point.Time()
		}
		return nil
	case "symbol":
		return r.item.Style.Symbol
	case "colour":
		return r.item.Style.Colour.String()
	case "description":
		return r.item.Desc
	case "comment":
		return r.item.Comment
	}
	key := strings.TrimPrefix(holds, "field:")
	text, ok := nav.Get(r.item.Fields, key)
	if !ok {
		return nil
	}
	if v, _, isNumber := nav.ParseDecimal([]byte(text)); isNumber {
		return v
	}
	return text
}

// text writes a value for CSV. A text that a spreadsheet would take for a formula gets an apostrophe in front.
func text(v any) string {
	switch v := v.(type) {
	case float64:
		return strconv.FormatFloat(v, 'f', -1, 64)
	case time.Time:
		return v.Format(time.RFC3339Nano)
	case string:
		if v != "" && strings.ContainsRune("=+-@\t\r", rune(v[0])) {
			return "'" + v
		}
		return v
	}
	return ""
}

func layout(opt *format.WriteOptions) *format.Table {
	t := format.Table{}
	if opt.Table != nil {
		t = *opt.Table
	}
	if len(t.Columns) == 0 {
		t.Columns = usual
	}
	return &t
}

// ledger tells what the rows do not say.
func ledger(d *nav.Dataset, t *format.Table, name string) (l nav.Ledger) {
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
	rows(d, func(r *row) error {
		note("height", r.point.HasHeight())
		note("time", r.point.HasTime())
		note("symbol", r.item.Style.Symbol != "")
		note("description", r.item.Desc != "")
		for i := range r.item.Fields {
			if f := &r.item.Fields[i]; !holds["field:"+f.Key] && !(f.Key == "depth" && holds["depth"]) {
				lost["field "+f.Key]++
			}
		}
		return nil
	})
	for _, word := range slices.Sorted(maps.Keys(lost)) {
		l = append(l, nav.Entry{KindWord: "point", What: word, Why: "the table has no column for it", Count: lost[word], Loss: true})
	}
	styled := 0
	d.Each(func(kind nav.Kind, item *nav.Item) {
		if kind != nav.Waypoints && (item.Style != nav.Style{} || item.Desc != "" || len(item.Fields) > 0) {
			styled++
		}
	})
	if styled > 0 {
		l = append(l, nav.Entry{KindWord: "line", What: "colours, descriptions and fields of lines", Why: "a table of points has no place for them", Count: styled, Loss: true})
	}
	return
}

func writeCSV(w io.Writer, d *nav.Dataset, opt *format.WriteOptions) (nav.Ledger, error) {
	t := layout(opt)
	out := csv.NewWriter(w)
	out.UseCRLF = true
	if t.Separator != 0 {
		out.Comma = t.Separator
	}
	record := make([]string, len(t.Columns))
	if !t.NoHeader {
		for i, c := range t.Columns {
			record[i] = c.Title
		}
		if err := out.Write(record); err != nil {
			return nil, err
		}
	}
	err := rows(d, func(r *row) error {
		for i, c := range t.Columns {
			record[i] = text(r.value(c.Holds, t))
		}
		return out.Write(record)
	})
	out.Flush()
	if err == nil {
		err = out.Error()
	}
	return ledger(d, t, "CSV"), err
}

// writeXLSX writes a workbook: a new one, or the template with its sheet filled in and everything else as it stands.
func writeXLSX(w io.Writer, d *nav.Dataset, opt *format.WriteOptions) (nav.Ledger, error) {
	t := layout(opt)
	sheet := t.Sheet
	if sheet == "" {
		sheet = "Points"
	}
	book := excelize.NewFile()
	if t.Template != "" {
		var err error
		if book, err = excelize.OpenFile(t.Template); err != nil {
			return nil, fmt.Errorf("%s: the template can't be read as a workbook: %w", t.Template, err)
		}
		if i, err := book.GetSheetIndex(sheet); err != nil || i < 0 {
			return nil, fmt.Errorf("%s: the template has no sheet %q; it has %s", t.Template, sheet, strings.Join(book.GetSheetList(), ", "))
		}
	} else if err := book.SetSheetName("Sheet1", sheet); err != nil {
		return nil, err
	}
	defer book.Close()
	var err error
	if t.Template == "" {
		err = streamed(book, sheet, d, t)
	} else {
		err = filledIn(book, sheet, d, t)
	}
	if err != nil {
		return nil, err
	}
	// The same data give the same bytes: no time of writing.
	if err := book.SetDocProps(&excelize.DocProperties{Creator: "Gyrolith", Created: "2000-01-01T00:00:00Z", Modified: "2000-01-01T00:00:00Z"}); err != nil {
		return nil, err
	}
	return ledger(d, t, "a workbook"), book.Write(w)
}

// dateFormat is how workbooks show times.
var dateFormat = "yyyy-mm-dd hh:mm:ss"

// firstRow is the row in which the data begin, from 1.
func firstRow(t *format.Table) int {
	switch {
	case t.FirstRow > 0:
		return t.FirstRow
	case t.NoHeader:
		return 1
	}
	return 2
}

// streamed writes a new sheet row by row, with a frozen header.
func streamed(book *excelize.File, sheet string, d *nav.Dataset, t *format.Table) error {
	dates, err1 := book.NewStyle(&excelize.Style{CustomNumFmt: &dateFormat})
	bold, err2 := book.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	out, err3 := book.NewStreamWriter(sheet)
	if err := errors.Join(err1, err2, err3); err != nil {
		return err
	}
	first := firstRow(t)
	titles := make([]any, len(t.Columns))
	for i, c := range t.Columns {
		width := 14.0
		if c.Holds == "name" || c.Holds == "description" || c.Holds == "time" || c.Holds == "position" {
			width = 26
		}
		if err := out.SetColWidth(i+1, i+1, width); err != nil {
			return err
		}
		titles[i] = excelize.Cell{StyleID: bold, Value: c.Title}
	}
	at := func(row int) string {
		cell, _ := excelize.CoordinatesToCellName(1, row)
		return cell
	}
	if !t.NoHeader && first > 1 {
		err := errors.Join(out.SetPanes(&excelize.Panes{Freeze: true, YSplit: first - 1, TopLeftCell: at(first), ActivePane: "bottomLeft"}), out.SetRow(at(first-1), titles))
		if err != nil {
			return err
		}
	}
	row1, cells := first, make([]any, len(t.Columns))
	err := rows(d, func(r *row) error {
		for i, c := range t.Columns {
			switch v := r.value(c.Holds, t).(type) {
			case time.Time:
				cells[i] = excelize.Cell{StyleID: dates, Value: v}
			case string:
				cells[i] = nil
				if v != "" { // a text, never a formula
					cells[i] = v
				}
			default:
				cells[i] = v
			}
		}
		err := out.SetRow(at(row1), cells)
		row1++
		return err
	})
	if err != nil {
		return err
	}
	return out.Flush()
}

// filledIn puts the rows into a sheet of a template, and leaves all other cells alone.
func filledIn(book *excelize.File, sheet string, d *nav.Dataset, t *format.Table) error {
	dates, err := book.NewStyle(&excelize.Style{CustomNumFmt: &dateFormat})
	if err != nil {
		return err
	}
	at := firstRow(t)
	return rows(d, func(r *row) error {
		for i, c := range t.Columns {
			v := r.value(c.Holds, t)
			if v == nil || v == "" {
				continue
			}
			cell, err := excelize.CoordinatesToCellName(i+1, at)
			if err != nil {
				return err
			}
			if s, ok := v.(string); ok {
				err = book.SetCellStr(sheet, cell, s)
			} else {
				err = book.SetCellValue(sheet, cell, v)
			}
			if _, isTime := v.(time.Time); isTime && err == nil {
				err = book.SetCellStyle(sheet, cell, cell, dates)
			}
			if err != nil {
				return err
			}
		}
		at++
		return nil
	})
}
