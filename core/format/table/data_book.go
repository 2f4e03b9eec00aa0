package table

import (
	"errors"
	"io"
	"time"
	"unicode/utf8"

	"gyrolith/core/format"
	"gyrolith/core/instant"

	"github.com/xuri/excelize/v2"
)

// BookSheet is a sheet of rows of data under titles.
type BookSheet struct {
	Name   string
	Titles []format.Heading
	Rows   [][]any
}

// WriteBook writes sheets of data as a workbook: numbers as numbers, texts as texts, times as dates of the offset that
// all of their column have, which the title names, and else as texts; nil is an empty cell.
func WriteBook(w io.Writer, sheets ...BookSheet) error {
	book := excelize.NewFile()
	defer book.Close()
	dates, err1 := book.NewStyle(&excelize.Style{CustomNumFmt: &dateFormat})
	bold, err2 := book.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err := errors.Join(err1, err2); err != nil {
		return err
	}
	for i, x := range sheets {
		var err error
		if i == 0 {
			err = book.SetSheetName("Sheet1", x.Name)
		} else {
			_, err = book.NewSheet(x.Name)
		}
		if err == nil {
			err = x.write(book, dates, bold)
		}
		if err != nil {
			return err
		}
	}
	if err := book.SetDocProps(documentProperties); err != nil {
		return err
	}
	return ordered(book, w, "")
}

// write fills a sheet of a workbook in.
func (x *BookSheet) write(book *excelize.File, dates, bold int) error {
	titles, rows := x.Titles, x.Rows
	out, err := book.NewStreamWriter(x.Name)
	if err != nil {
		return err
	}
	head, shifting := make([]any, len(titles)), make([]bool, len(titles))
	for i, h := range titles {
		east, timed, one := offsetOf(rows, i)
		shifting[i] = !one
		if timed && one && !h.Given {
			h.Text += " (UTC)"
			if east != 0 {
				h.Text = titles[i].Text + " (UTC" + instant.OffsetText(east) + ")"
			}
		}
		wide := utf8.RuneCountInString(h.Text)
		for _, row := range rows[:min(len(rows), firstRows)] {
			if s, ok := row[i].(string); ok {
				wide = max(wide, utf8.RuneCountInString(s))
			}
		}
		if timed {
			wide = max(wide, len(dateFormat))
		}
		if err := out.SetColWidth(i+1, i+1, float64(min(wide, 60)+2)); err != nil {
			return err
		}
		head[i] = excelize.Cell{StyleID: bold, Value: h.Text}
	}
	err = errors.Join(out.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}),
		out.SetRow("A1", head))
	for n, row := range rows {
		cells := make([]any, len(row))
		for i, v := range row {
			if at, ok := v.(time.Time); ok && shifting[i] {
				v = at.Format(time.RFC3339)
			} else if ok { // as the clock shows it, since dates of workbooks name no zone
				_, east := at.Zone()
				v = excelize.Cell{StyleID: dates, Value: at.UTC().Add(time.Duration(east) * time.Second)}
			}
			cells[i] = v
		}
		at, _ := excelize.CoordinatesToCellName(1, n+2)
		err = errors.Join(err, out.SetRow(at, cells))
	}
	return errors.Join(err, out.Flush())
}

// offsetOf gives the offset from UTC of the times of a column; one is false where they have several.
func offsetOf(rows [][]any, column int) (east int, timed, one bool) {
	one = true
	for _, row := range rows {
		if at, ok := row[column].(time.Time); ok {
			_, here := at.Zone()
			if one = one && (!timed || here == east); !timed {
				east, timed = here, true
			}
		}
	}
	return east, timed, one && east%60 == 0
}

// documentProperties name no time of writing: the same data give the same bytes.
var documentProperties = &excelize.DocProperties{Creator: "Gyrolith", Created: "2000-01-01T00:00:00Z",
	Modified: "2000-01-01T00:00:00Z"}
