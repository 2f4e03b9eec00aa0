package table

import (
	"errors"
	"io"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"
)

// WriteBook writes rows of data as a workbook of one sheet: numbers as numbers, times as times (UTC), texts as texts;
// nil is an empty cell.
func WriteBook(w io.Writer, name string, titles []string, rows [][]any) error {
	book := excelize.NewFile()
	defer book.Close()
	dates, err1 := book.NewStyle(&excelize.Style{CustomNumFmt: &dateFormat})
	bold, err2 := book.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	err3 := book.SetSheetName("Sheet1", name)
	out, err4 := book.NewStreamWriter(name)
	if err := errors.Join(err1, err2, err3, err4); err != nil {
		return err
	}
	head := make([]any, len(titles))
	for i, title := range titles {
		wide := utf8.RuneCountInString(title)
		for _, row := range rows[:min(len(rows), firstRows)] {
			if s, ok := row[i].(string); ok {
				wide = max(wide, utf8.RuneCountInString(s))
			}
			if _, ok := row[i].(time.Time); ok {
				wide = max(wide, len(dateFormat))
				title = titles[i] + " (UTC)"
			}
		}
		if err := out.SetColWidth(i+1, i+1, float64(min(wide, 60)+2)); err != nil {
			return err
		}
		head[i] = excelize.Cell{StyleID: bold, Value: title}
	}
	err := errors.Join(out.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}),
		out.SetRow("A1", head))
	for n, row := range rows {
		cells := make([]any, len(row))
		for i, v := range row {
			if at, ok := v.(time.Time); ok {
				v = excelize.Cell{StyleID: dates, Value: at.UTC()}
			}
			cells[i] = v
		}
		at, _ := excelize.CoordinatesToCellName(1, n+2)
		err = errors.Join(err, out.SetRow(at, cells))
	}
	if err = errors.Join(err, out.Flush()); err != nil {
		return err
	}
	if err := book.SetDocProps(documentProperties); err != nil {
		return err
	}
	return ordered(book, w, "")
}

// documentProperties name no time of writing: the same data give the same bytes.
var documentProperties = &excelize.DocProperties{Creator: "Gyrolith", Created: "2000-01-01T00:00:00Z",
	Modified: "2000-01-01T00:00:00Z"}
