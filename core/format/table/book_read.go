package table

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/format/xlsx"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// sniffXLSX knows a workbook by the parts that its archive begins with.
func sniffXLSX(h *format.Head) bool {
	return bytes.HasPrefix(h.Raw, []byte("PK\x03\x04")) && (bytes.Contains(h.Raw, []byte("xl/")) ||
		bytes.Contains(h.Raw, []byte("[Content_Types].xml")) && !bytes.Contains(h.Raw, []byte(".kml")))
}

// checkArchive holds a workbook's archive to the limits before anything is unpacked.
func checkArchive(r io.ReaderAt, size int64, opt *format.ReadOptions) error {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return fmt.Errorf("can't be read as a workbook: %w; it may have been cut off", err)
	}
	whole := int64(0)
	book := false
	for _, f := range z.File {
		if f.UncompressedSize64 > math.MaxInt64/4 || int64(f.UncompressedSize64) > opt.Unpacked()-whole {
			return advice.Errorf(advice.AllowUnpacked, "unpacks to more than %d bytes", opt.Unpacked())
		}
		whole += int64(f.UncompressedSize64)
		if f.UncompressedSize64 > 1<<20 && int64(f.UncompressedSize64)/opt.Ratio() > int64(f.CompressedSize64) {
			return advice.Errorf(advice.AllowRatio, "has a part (%s) that unpacks to more than %d times its size", f.Name,
				opt.Ratio())
		}
		if err := checkSum(f); err != nil {
			return err
		}
		book = book || strings.HasPrefix(f.Name, "xl/")
		if f.Name == "mimetype" || strings.HasPrefix(f.Name, "word/") || strings.HasPrefix(f.Name, "ppt/") {
			return fmt.Errorf("is an office document, but not an .xlsx workbook: save the table as .xlsx or .csv")
		}
	}
	if !book {
		return fmt.Errorf("is an archive, but not an .xlsx workbook")
	}
	return nil
}

// checkSum unpacks a part to its end, where its checksum stands; the package that reads workbooks does not look at it.
func checkSum(f *zip.File) error {
	in, err := f.Open()
	if err == nil {
		_, err = io.Copy(io.Discard, io.LimitReader(in, int64(f.UncompressedSize64)+1))
		in.Close()
	}
	if err != nil {
		return fmt.Errorf("can't be read as a workbook: its part %s is damaged (%w): copy or fetch the file again",
			f.Name, err)
	}
	return nil
}

// readXLSX reads every sheet that holds a table, or the one that is asked for by name or number.
func readXLSX(s *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	at, size, err := s.ReaderAt(opt.Unpacked())
	if err != nil {
		return nil, err
	}
	if err := checkArchive(at, size, opt); err != nil {
		return nil, s.FaultOf(err)
	}
	book, err := xlsx.Open(at, size)
	if err != nil {
		return nil, s.Fault(fmt.Sprintf("can't be read as a workbook: %v", err))
	}
	sheets := book.Sheets
	if opt.Sheet != "" {
		i := slices.IndexFunc(sheets, func(x xlsx.Sheet) bool { return strings.EqualFold(x.Name, opt.Sheet) })
		if n, err := strconv.Atoi(opt.Sheet); i < 0 && err == nil && n >= 1 && n <= len(sheets) {
			i = n - 1
		}
		if i < 0 {
			var names []string
			for _, x := range sheets {
				names = append(names, x.Name)
			}
			return nil, s.Fault(fmt.Sprintf("has no sheet %q; it has %s", opt.Sheet, strings.Join(names, ", ")))
		}
		sheets = sheets[i : i+1]
	}
	d := &nav.Dataset{}
	var first error
	read := 0
	for _, sheet := range sheets {
		cells, rows, err := topRows(book, sheet)
		if err != nil {
			return nil, s.Fault(fmt.Sprintf("sheet %q can't be read: %v", sheet.Name, err))
		}
		if len(rows) == 0 {
			continue
		}
		r, err := newReader(d, rows, opt, sheet.Name)
		if err != nil {
			if first == nil {
				first = fmt.Errorf("sheet %q %w", sheet.Name, err)
			}
			if opt.Sheet == "" {
				continue
			}
			break
		}
		r.moments.serial, r.moments.since = true, book.Epoch
		read++
		if err := r.sheetRows(book, sheet, cells); err != nil {
			return nil, s.Fault(fmt.Sprintf("sheet %q can't be read: %v", sheet.Name, err))
		}
		r.finish()
	}
	if read == 0 {
		if first == nil {
			first = fmt.Errorf("contains only empty sheets")
		}
		return nil, s.Fault(first.Error())
	}
	if n := len(sheets) - read; n > 0 && first != nil {
		d.Tell(nav.ProblemSheets, fmt.Sprintf("%d of its sheets have no table of positions and were ignored (%v)", n,
			first))
	}
	return d, nil
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

func mergedOf(book *xlsx.Book, sheet xlsx.Sheet) (*merged, error) {
	all, err := book.Merged(sheet)
	slices.SortStableFunc(all, func(a, b xlsx.Merged) int { return a.Top - b.Top })
	return &merged{all: all}, err
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

// topRows reads the first rows of a sheet. The row of a cell is its place in the sheet, blank rows included.
func topRows(book *xlsx.Book, sheet xlsx.Sheet) (*merged, [][]string, error) {
	m, err := mergedOf(book, sheet)
	if err != nil {
		return nil, nil, err
	}
	top := *m
	var rows [][]string
	err = book.Rows(sheet, func(line int, cells []xlsx.Cell) error {
		for len(rows) < min(line, firstRows) {
			rows = append(rows, nil)
		}
		if line > firstRows {
			return errEnough
		}
		for _, c := range top.fill(cells, line) {
			rows[line-1] = append(rows[line-1], c.Text)
		}
		return nil
	})
	if err != nil && !errors.Is(err, errEnough) {
		return nil, nil, err
	}
	if blank(slices.Concat(rows...)) {
		return m, nil, nil
	}
	return m, rows, nil
}

// sheetRows reads all rows of a sheet: coordinates, heights and times as the cells hold them, fields that are dates as
// they are shown.
func (r *reader) sheetRows(book *xlsx.Book, sheet xlsx.Sheet, m *merged) error {
	var texts [][]byte
	return book.Rows(sheet, func(line int, cells []xlsx.Cell) error {
		cells = m.fill(cells, line)
		if line-1 <= r.header {
			return nil
		}
		for _, i := range r.fieldAt {
			if i < len(cells) && cells[i].Date && numeric(cells[i].Text) {
				if at, ok := r.day(cells[i].Text); ok {
					cells[i].Text = at
				}
			}
		}
		texts = texts[:0]
		for i, c := range cells {
			v := c.Text
			if c.Flaw != xlsx.Sound {
				r.flaw(c.Flaw, i, line)
			}
			if format.LikeFormula(v) && !numeric(v) { // no apostrophe of ours stands in a workbook
				v = "'" + v
			}
			texts = append(texts, []byte(v))
		}
		r.row(texts, line)
		return nil
	})
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
