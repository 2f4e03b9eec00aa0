package table

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/format/xlsx"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// workbook is a workbook while it is read.
type workbook struct {
	*xlsx.Book
	d      *nav.Dataset
	opt    *format.ReadOptions
	hidden map[string]int // how many rows stand in hidden rows, columns and sheets
}

// errSheet says that a sheet can't be read.
var errSheet = errors.New("can't be read")

// unreadable keeps the cause beside errSheet.
type unreadable struct{ cause error }

func (e *unreadable) Error() string        { return e.cause.Error() }
func (e *unreadable) Unwrap() error        { return e.cause }
func (e *unreadable) Is(target error) bool { return target == errSheet }

// bookRow is a row with the values of merged cells in all of them. The hidden are said in words.
type bookRow struct {
	line   int
	cells  []xlsx.Cell
	hidden string
	masked []bool // the columns that are hidden
}

// rows visits the rows of a sheet, without the hidden ones where they are not wanted.
func (w *workbook) rows(sheet xlsx.Sheet, visit func(*bookRow) error) error {
	all, err := w.Merged(sheet)
	if err != nil {
		return &unreadable{err}
	}
	slices.SortStableFunc(all, func(a, b xlsx.Merged) int { return a.Top - b.Top })
	m := &merged{all: all}
	err = w.Rows(sheet, func(row *xlsx.Row) error {
		one := bookRow{line: row.Number, cells: m.fill(row.Cells, row.Number), masked: row.Columns}
		if row.Hidden {
			if one.hidden = "row"; w.opt.NoHidden {
				w.hidden["row"]++
				return nil
			}
		}
		if w.opt.NoHidden {
			for i := range one.cells {
				if i < len(row.Columns) && row.Columns[i] && one.cells[i].Text != "" {
					one.cells[i] = xlsx.Cell{}
					w.hidden["column"]++
				}
			}
		}
		if sheet.Hidden {
			one.hidden = "sheet"
		}
		return visit(&one)
	})
	if _, own := errors.AsType[*unreadable](err); err != nil && !own && !errors.Is(err, errEnough) {
		return &unreadable{err}
	}
	return err
}

// top reads the first rows of a sheet. The row of a cell is its place in the sheet, blank rows included.
func (w *workbook) top(sheet xlsx.Sheet) (rows [][]string, err error) {
	err = w.rows(sheet, func(row *bookRow) error {
		for len(rows) < min(row.line, firstRows) {
			rows = append(rows, nil)
		}
		if row.line > firstRows {
			return errEnough
		}
		rows[row.line-1] = textsOf(row.cells)
		return nil
	})
	if err != nil && !errors.Is(err, errEnough) {
		return nil, err
	}
	if blank(slices.Concat(rows...)) {
		return nil, nil
	}
	return rows, nil
}

func textsOf(cells []xlsx.Cell) []string {
	texts := make([]string, len(cells))
	for i, c := range cells {
		texts[i] = c.Text
	}
	return texts
}

// sheet reads a sheet, and says whether it holds a table of positions.
func (w *workbook) sheet(sheet xlsx.Sheet) (used bool, err error) {
	before := maps.Clone(w.hidden)
	rows, err := w.top(sheet)
	w.hidden = before
	if err != nil || len(rows) == 0 {
		return false, err
	}
	told := len(w.d.Problems)
	r, err := newReader(w.d, rows, w.opt, sheet.Name)
	if err != nil {
		return false, err
	}
	w.begin(r)
	if r.more = r.several(rows); !r.more {
		counts, rejects := w.d.Counts(), len(w.d.Rejects)
		if err := w.rows(sheet, func(row *bookRow) error {
			if row.line-1 > r.header {
				w.row(r, row)
			}
			return nil
		}); err != nil {
			return false, err
		}
		if !r.more {
			r.finish()
			return true, nil
		}
		w.forget(counts, rejects)
	}
	w.d.Problems = w.d.Problems[:told]
	w.hidden = before
	return w.tables(sheet)
}

// forget takes back what was read of a sheet.
func (w *workbook) forget(counts [4]int, rejects int) {
	d := w.d
	d.Waypoints, d.Routes, d.Tracks, d.Areas = d.Waypoints[:counts[0]], d.Routes[:counts[1]], d.Tracks[:counts[2]],
		d.Areas[:counts[3]]
	d.Rejects = d.Rejects[:rejects]
}

// tables reads a sheet that holds several tables.
func (w *workbook) tables(sheet xlsx.Sheet) (bool, error) {
	var all []bookRow
	var texts [][]string
	err := w.rows(sheet, func(row *bookRow) error {
		row.cells = slices.Clone(row.cells)
		all, texts = append(all, *row), append(texts, textsOf(row.cells))
		return nil
	})
	if err != nil {
		return false, err
	}
	err = eachTable(w.d, texts, w.opt, sheet.Name, func(row int) int { return all[row].line },
		func(r *reader, from, to int) error {
			w.begin(r)
			for i := from + r.header + 1; i < to; i++ {
				w.row(r, &all[i])
			}
			return nil
		})
	return err == nil, err
}

func (w *workbook) begin(r *reader) { r.moments.serial, r.moments.since = true, w.Epoch }

// row reads a row: coordinates, heights and times as the cells hold them, fields that are dates as they are shown.
func (w *workbook) row(r *reader, row *bookRow) {
	cells := row.cells
	for _, i := range r.fieldAt {
		if i < len(cells) && cells[i].Date && numeric(cells[i].Text) {
			if at, ok := r.day(cells[i].Text); ok {
				cells[i].Text = at
			}
		}
	}
	texts := make([][]byte, 0, len(cells))
	r.hidden = row.hidden
	if r.hidden != "" {
		w.hidden[r.hidden]++
	}
	for i, c := range cells {
		v := c.Text
		if c.Flaw != xlsx.Sound {
			r.flaw(c.Flaw, i, row.line)
		}
		if i < len(row.masked) && row.masked[i] && v != "" {
			r.hidden = strings.TrimPrefix(r.hidden+", column "+r.bare(i), ", ")
			w.hidden["column"]++
		}
		if format.LikeFormula(v) && !numeric(v) { // no apostrophe of ours stands in a workbook
			v = "'" + v
		}
		texts = append(texts, []byte(v))
	}
	r.row(texts, row.line)
	r.hidden = ""
}

// merged gives the cells of rows that merged ones cover their value.
type merged struct {
	all  []xlsx.Merged // by their first row
	next int
	open []covering
}

// covering is merged cells whose first row was read.
type covering struct {
	xlsx.Merged
	cell xlsx.Cell
}

// fill completes the cells of a row; the rows have to come in their order.
func (m *merged) fill(cells []xlsx.Cell, line int) []xlsx.Cell {
	for ; m.next < len(m.all) && m.all[m.next].Top <= line; m.next++ {
		if c := m.all[m.next]; c.Top == line && c.Left <= len(cells) && cells[c.Left-1].Text != "" {
			m.open = append(m.open, covering{c, cells[c.Left-1]})
		}
	}
	m.open = slices.DeleteFunc(m.open, func(c covering) bool { return c.Bottom < line })
	for _, c := range m.open {
		for len(cells) < c.Right {
			cells = append(cells, xlsx.Cell{})
		}
		for i := c.Left - 1; i < c.Right; i++ {
			if cells[i].Text == "" {
				cells[i] = c.cell
			}
		}
	}
	return cells
}

// flaw tells of a cell that is not empty and has no text.
func (r *reader) flaw(f xlsx.Flaw, column, line int) {
	words := map[xlsx.Flaw]string{
		xlsx.Uncalculated: "has a formula whose value was never calculated: open the workbook, recalculate and save it",
		xlsx.Failed:       "has a formula that gave an error, and was read as empty",
		xlsx.Missing:      "refers to a text that the workbook lacks, and was read as empty",
	}
	r.d.Note(nav.ProblemLeftOut, fmt.Sprintf("a cell in the column %s %s", r.title(column), words[f]), line, 0)
}

// day writes the number of a cell that is shown as a date or time in the form of ISO 8601.
func (r *reader) day(cell string) (string, bool) {
	m := r.moments
	m.zone = nil
	if ns, mark, _, ok, _ := m.parse(cell); ok {
		return string(instant.Append(nil, ns, mark)), true
	}
	return "", false
}
