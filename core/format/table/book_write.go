package table

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"gyrolith/core/format"
	"gyrolith/core/format/pack"
	"gyrolith/core/nav"
)

// part is the data of one sheet.
type part struct {
	sheet string
	data  *nav.Dataset
}

// parts splits the data over the sheets: one a kind, or all on the one that is named.
func parts(d *nav.Dataset, t *format.Table) []part {
	if t.Sheet != "" || t.Items {
		sheet := t.Sheet
		if sheet == "" {
			sheet = "Items"
		}
		return []part{{sheet, d}}
	}
	var out []part
	for _, p := range []part{{"Waypoints", &nav.Dataset{Waypoints: d.Waypoints}},
		{"Routes", &nav.Dataset{Routes: d.Routes}}, {"Tracks", &nav.Dataset{Tracks: d.Tracks}},
		{"Areas", &nav.Dataset{Areas: d.Areas}}} {
		if p.data.Points() > 0 {
			out = append(out, p)
		}
	}
	if len(out) == 0 {
		out = []part{{"Waypoints", d}}
	}
	return out
}

// writeXLSX writes a workbook: a new one, or the template with its sheet filled in and everything else as it stands.
func writeXLSX(w io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	var asked format.Table
	if opt.Table != nil {
		asked = *opt.Table
	}
	t := layout(d, opt, bookTimes)
	book := excelize.NewFile()
	var err error
	if asked.Template != "" {
		if book, err = excelize.OpenFile(asked.Template); err != nil {
			return nil, fmt.Errorf("%s: the template can't be read as a workbook: %w", asked.Template, err)
		}
		defer book.Close()
		name := asked.Sheet
		if name == "" {
			name = book.GetSheetName(0)
		}
		if i, err := book.GetSheetIndex(name); err != nil || i < 0 {
			return nil, fmt.Errorf("%s: the template has no sheet %q; it has %s", asked.Template, name,
				strings.Join(book.GetSheetList(), ", "))
		}
		err = filledIn(book, name, d, t)
	} else {
		defer book.Close()
		for i, p := range parts(d, &asked) {
			if i == 0 {
				err = book.SetSheetName("Sheet1", p.sheet)
			} else {
				_, err = book.NewSheet(p.sheet)
			}
			if err != nil {
				return nil, err
			}
			of := t
			if len(asked.Columns) == 0 {
				of = layout(p.data, opt, bookTimes)
			}
			if err = streamed(book, p.sheet, p.data, of); err != nil {
				return nil, err
			}
		}
	}
	if err != nil {
		return nil, err
	}
	if err := book.SetDocProps(documentProperties); err != nil {
		return nil, err
	}
	return written(d, t), ordered(book, w)
}

// ordered writes the parts of a workbook by their names, so that the same data give the same bytes.
func ordered(book *excelize.File, w io.Writer) error {
	book.SetZipWriter(func(w io.Writer) excelize.ZipWriter { return pack.NewZip(w) })
	packed, err := book.WriteToBuffer()
	if err != nil {
		return err
	}
	in, err := zip.NewReader(bytes.NewReader(packed.Bytes()), int64(packed.Len()))
	if err != nil {
		return err
	}
	slices.SortStableFunc(in.File, func(a, b *zip.File) int {
		return strings.Compare(strings.TrimPrefix(a.Name, "["), strings.TrimPrefix(b.Name, "[")) // the types first
	})
	out := zip.NewWriter(w)
	for _, part := range in.File {
		if err := out.Copy(part); err != nil {
			return err
		}
	}
	return out.Close()
}

// bookTimes is the title of the times of a workbook, whose cells name no zone.
const bookTimes = "time (UTC)"

// cellValue gives a value as a cell of a workbook holds it.
func cellValue(v any) any {
	switch v := v.(type) {
	case stamp:
		if v.mark < nav.Seconds || v.ns < firstSerial {
			return string(nav.AppendTime(nil, v.ns, v.mark))
		}
		return time.Unix(0, v.ns).UTC()
	case quantity:
		if strconv.FormatFloat(v.value, 'f', -1, 64) == v.text {
			return v.value
		}
		return v.text
	}
	return v
}

// firstSerial is 1900-03-01, before which the days of workbooks are counted wrongly by design (ISO/IEC 29500-1,
// 18.17.4.1); times before it are texts.
var firstSerial = time.Date(1900, 3, 1, 0, 0, 0, 0, time.UTC).UnixNano()

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

var errEnough = errors.New("enough")

// widths gives each column the room that its title and its first rows take, in letters.
func widths(d *nav.Dataset, t *sheet) []float64 {
	out := make([]float64, len(t.Columns))
	for i, c := range t.Columns {
		out[i] = float64(utf8.RuneCountInString(c.Title))
	}
	n := 0
	rows(d, t.Items, func(r *row) error {
		for i, c := range t.Columns {
			v := r.value(c.Holds, t)
			length := utf8.RuneCountInString(cellText(v))
			if _, ok := v.(stamp); ok {
				length = len(dateFormat)
			}
			out[i] = max(out[i], float64(length))
		}
		if n++; n == 200 {
			return errEnough
		}
		return nil
	}, nil)
	for i := range out {
		out[i] = min(max(out[i]+2, 8), 48)
	}
	return out
}

// streamed writes a new sheet row by row, with a frozen header.
func streamed(book *excelize.File, name string, d *nav.Dataset, t *sheet) error {
	dates, err1 := book.NewStyle(&excelize.Style{CustomNumFmt: &dateFormat})
	bold, err2 := book.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	out, err3 := book.NewStreamWriter(name)
	if err := errors.Join(err1, err2, err3); err != nil {
		return err
	}
	first := firstRow(&t.Table)
	titles := make([]any, len(t.Columns))
	wide := widths(d, t)
	for i, c := range t.Columns {
		if err := out.SetColWidth(i+1, i+1, wide[i]); err != nil {
			return err
		}
		titles[i] = excelize.Cell{StyleID: bold, Value: c.Title}
	}
	at := func(row int) string {
		cell, _ := excelize.CoordinatesToCellName(1, row)
		return cell
	}
	if !t.NoHeader && first > 1 {
		err := errors.Join(out.SetPanes(&excelize.Panes{Freeze: true, YSplit: first - 1, TopLeftCell: at(first),
			ActivePane: "bottomLeft"}), out.SetRow(at(first-1), titles))
		if err != nil {
			return err
		}
	}
	row1, cells := first, make([]any, len(t.Columns))
	err := rows(d, t.Items, func(r *row) error {
		if row1 > sheetLimit {
			return errSheetFull
		}
		for i, c := range t.Columns {
			switch v := cellValue(r.value(c.Holds, t)).(type) {
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
	}, nil)
	if err != nil {
		return err
	}
	return out.Flush()
}

// filledIn puts the rows into a sheet of a template, and leaves all other cells alone.
func filledIn(book *excelize.File, name string, d *nav.Dataset, t *sheet) error {
	dates, err := book.NewStyle(&excelize.Style{CustomNumFmt: &dateFormat})
	if err != nil {
		return err
	}
	at := firstRow(&t.Table)
	return rows(d, t.Items, func(r *row) error {
		for i, c := range t.Columns {
			v := cellValue(r.value(c.Holds, t))
			if v == nil || v == "" {
				continue
			}
			cell, err := excelize.CoordinatesToCellName(i+1, at)
			if err != nil {
				return err
			}
			if s, ok := v.(string); ok {
				err = book.SetCellStr(name, cell, s)
			} else {
				err = book.SetCellValue(name, cell, v)
			}
			if _, isTime := v.(time.Time); isTime && err == nil {
				err = book.SetCellStyle(name, cell, cell, dates)
			}
			if err != nil {
				return err
			}
		}
		at++
		return nil
	}, nil)
}
