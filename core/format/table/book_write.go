package table

import (
	"archive/zip"
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf16"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/pack"
	"gyrolith/core/instant"
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
	for _, p := range []part{{"Waypoints", &nav.Dataset{Origin: d.Origin, Waypoints: d.Waypoints}},
		{"Routes", &nav.Dataset{Origin: d.Origin, Routes: d.Routes}},
		{"Tracks", &nav.Dataset{Origin: d.Origin, Tracks: d.Tracks}},
		{"Areas", &nav.Dataset{Origin: d.Origin, Areas: d.Areas}}} {
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
	east, one := 0, true
	if asked.Zone != nil {
		east, one = oneOffset(d, asked.Zone)
	}
	t := layout(d, opt)
	t.clocked(east, one)
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
		t.judge(d)
		t.longMark = "" // its cells hold all digits
		err = filledIn(book, name, d, t)
	} else {
		defer book.Close()
		all := parts(d, &asked)
		sheets := make([]*sheet, len(all))
		mark := ""
		for i, p := range all {
			if sheets[i] = t; len(asked.Columns) == 0 {
				sheets[i] = layout(p.data, opt)
				sheets[i].clocked(east, one)
			}
			sheets[i].judge(p.data)
			mark = max(mark, sheets[i].longMark)
		}
		t.longMark = mark
		for i, p := range all {
			sheets[i].longMark = mark
			if i == 0 {
				err = book.SetSheetName("Sheet1", p.sheet)
			} else {
				_, err = book.NewSheet(p.sheet)
			}
			if err != nil {
				return nil, err
			}
			if err = streamed(book, p.sheet, p.data, sheets[i]); err != nil {
				return nil, err
			}
			if sheets[i] != t {
				t.cut += sheets[i].cut
			}
		}
	}
	if err != nil {
		return nil, err
	}
	if err := book.SetDocProps(documentProperties); err != nil {
		return nil, err
	}
	done := written(d, t)
	if t.cut > 0 {
		done.Ledger = append(done.Ledger, nav.Entry{KindWord: "cell", What: "ends of texts", Count: t.cut, Loss: true,
			Why: fmt.Sprintf("a cell of a workbook holds %d characters at most", excelize.TotalCellChars)})
	}
	return done, ordered(book, w, t.longMark)
}

// ordered writes the parts of a workbook by their names, so that the same data give the same bytes.
func ordered(book *excelize.File, w io.Writer, longMark string) error {
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
		if longMark != "" && strings.HasPrefix(part.Name, "xl/worksheets/sheet") {
			err = copyLong(out, part, longMark)
		} else {
			err = out.Copy(part)
		}
		if err != nil {
			return err
		}
	}
	return out.Close()
}

// copyLong copies a sheet and makes numbers of the texts behind the mark: the package writes fifteen digits of a
// number.
func copyLong(out *zip.Writer, part *zip.File, mark string) error {
	in, err := part.Open()
	if err != nil {
		return err
	}
	defer in.Close()
	text, err := io.ReadAll(in)
	if err != nil {
		return err
	}
	to, err := out.CreateHeader(&zip.FileHeader{Name: part.Name, Method: zip.Deflate})
	if err != nil {
		return err
	}
	opening, closing := []byte(` t="inlineStr"><is><t>`+mark), []byte(`</t></is>`)
	for {
		before, after, found := bytes.Cut(text, opening)
		if !found {
			_, err = to.Write(text)
			return err
		}
		number, rest, _ := bytes.Cut(after, closing)
		for _, piece := range [][]byte{before, []byte("><v>"), number, []byte("</v>")} {
			if _, err := to.Write(piece); err != nil {
				return err
			}
		}
		text = rest
	}
}

// longMark stands before numbers of more digits than the package writes, until the sheet is complete: a character for
// private use, repeated where some text has it.
const longMark = "\ue000"

// judge finds the columns of fields whose texts are codes and no numbers, by all of them together.
func (t *sheet) judge(d *nav.Dataset) {
	all := make([]decimal.Numbers, len(t.Columns))
	look := func(take func(n *decimal.Numbers, text string)) {
		rows(d, t.Items, func(r *row) error {
			for i, c := range t.Columns {
				if slices.Contains(reserved, c.Holds) {
					continue
				}
				switch v := r.value(c.Holds, t).(type) {
				case quantity:
					if !v.isText {
						take(&all[i], v.text)
					}
					if longer(v) > 0 && t.longMark == "" {
						t.longMark = longMark
					}
				case string:
					for t.longMark != "" && strings.Contains(v, t.longMark) || strings.Contains(v, longMark) && t.longMark == "" {
						t.longMark = cmp.Or(t.longMark, longMark) + longMark
					}
					if strings.Trim(v, "0123456789") == "" { // zeros in front, or too many digits
						take(&all[i], v)
					}
				}
			}
			return nil
		}, nil)
	}
	look((*decimal.Numbers).Take)
	if slices.ContainsFunc(all, func(n decimal.Numbers) bool { return n.Doubtful() }) {
		look(func(n *decimal.Numbers, text string) {
			if n.Doubtful() {
				n.Check(text)
			}
		})
	}
	t.codes = make([]bool, len(all))
	for i := range all {
		t.codes[i] = all[i].Codes()
	}
}

// digitStyles are the formats that show numbers with so many decimals.
type digitStyles struct {
	book  *excelize.File
	known map[int]int
}

// of gives the style in which a number shows the digits of its text; 0 is that of every cell.
func (s *digitStyles) of(q quantity) (int, error) {
	_, fraction, _ := strings.Cut(q.text, ".")
	n := len(fraction)
	if strconv.FormatFloat(q.value, 'f', -1, 64) == q.text || n == 0 || n > 30 || strings.ContainsAny(q.text, "eE") {
		return 0, nil
	}
	id, ok := s.known[n]
	if ok {
		return id, nil
	}
	code := "0." + strings.Repeat("0", n)
	id, err := s.book.NewStyle(&excelize.Style{CustomNumFmt: &code})
	s.known[n] = id
	return id, err
}

// set puts a quantity into a cell of a sheet that is there. A style that the cell has stays.
func (s *digitStyles) set(sheet, cell string, q quantity, number bool) error {
	if !number {
		return s.book.SetCellStr(sheet, cell, q.text)
	}
	decimals := longer(q)
	if decimals == 0 {
		decimals = -1
	}
	if err := s.book.SetCellFloat(sheet, cell, q.value, decimals, 64); err != nil {
		return err
	}
	if old, err := s.book.GetCellStyle(sheet, cell); err != nil || old != 0 {
		return err
	}
	style, err := s.of(q)
	if err != nil || style == 0 {
		return err
	}
	return s.book.SetCellStyle(sheet, cell, cell, style)
}

// measure counts the texts that a cell cuts off.
func (t *sheet) measure(text string) {
	if len(text) > excelize.TotalCellChars && len(utf16.Encode([]rune(text))) > excelize.TotalCellChars {
		t.cut++
	}
}

// number says whether a quantity is a number in a column, and not a text.
func (t *sheet) number(q quantity, column int) bool { return !q.isText && !t.codes[column] }

// cellValue gives a value as a cell of a workbook holds it.
func (t *sheet) cellValue(v any) any {
	switch v := v.(type) {
	case stamp:
		if v.mark < instant.Seconds || v.ns < firstSerial || t.shifts {
			return string(instant.AppendIn(nil, v.ns, v.mark, v.zone))
		}
		return time.Unix(int64(t.east), v.ns).UTC()
	}
	return v
}

// clocked settles how a workbook has times, whose dates name no zone: with the offset in the titles where all times
// have one, and else as texts.
func (t *sheet) clocked(east int, one bool) {
	t.east, t.shifts = east, !one
	if !one {
		t.east = 0
	}
	for i := range t.Columns {
		c := &t.Columns[i]
		if c.Title == c.Holds && one && slices.Contains([]string{"time", "first", "last"}, c.Holds) {
			c.Title += " (UTC)"
			if east != 0 {
				c.Title = c.Holds + " (UTC" + instant.OffsetText(east) + ")"
			}
		}
	}
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
		for i := range t.Columns {
			v := t.cell(r, i)
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
	digits := &digitStyles{book, map[int]int{}}
	row1, cells := first, make([]any, len(t.Columns))
	err := rows(d, t.Items, func(r *row) error {
		if row1 > sheetLimit {
			return errSheetFull
		}
		for i := range t.Columns {
			switch v := t.cellValue(t.cell(r, i)).(type) {
			case time.Time:
				cells[i] = excelize.Cell{StyleID: dates, Value: v}
			case string:
				cells[i] = nil
				if v != "" { // a text, never a formula
					cells[i] = v
				}
				t.measure(v)
			case quantity:
				if !t.number(v, i) {
					cells[i] = v.text
					continue
				}
				style, err := digits.of(v)
				if err != nil {
					return err
				}
				cells[i] = excelize.Cell{StyleID: style, Value: v.value}
				if longer(v) > 0 && t.longMark != "" {
					cells[i] = excelize.Cell{StyleID: style, Value: t.longMark + strconv.FormatFloat(v.value, 'f', -1, 64)}
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

// longer gives the decimals of a number that has more digits than are written unasked; 0 of any other.
func longer(q quantity) int {
	const usual = 15
	text := strconv.FormatFloat(q.value, 'f', -1, 64)
	_, fraction, _ := strings.Cut(text, ".")
	if len(strings.Trim(text, "-0.")) <= usual {
		return 0
	}
	return len(fraction)
}

// filledIn puts the rows into a sheet of a template, and leaves all other cells alone.
func filledIn(book *excelize.File, name string, d *nav.Dataset, t *sheet) error {
	dates, err := book.NewStyle(&excelize.Style{CustomNumFmt: &dateFormat})
	if err != nil {
		return err
	}
	digits := &digitStyles{book, map[int]int{}}
	at := firstRow(&t.Table)
	return rows(d, t.Items, func(r *row) error {
		for i := range t.Columns {
			v := t.cellValue(t.cell(r, i))
			if v == nil || v == "" {
				continue
			}
			cell, err := excelize.CoordinatesToCellName(i+1, at)
			if err != nil {
				return err
			}
			switch v := v.(type) {
			case string:
				t.measure(v)
				err = book.SetCellStr(name, cell, v)
			case quantity:
				err = digits.set(name, cell, v, t.number(v, i))
			default:
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
