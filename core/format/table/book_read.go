package table

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"

	"gyrolith/core/advice"
	"gyrolith/core/format"
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
	book, err := excelize.OpenReader(io.NewSectionReader(at, 0, size), excelize.Options{UnzipSizeLimit: opt.Unpacked(),
		UnzipXMLSizeLimit: min(opt.Unpacked(), 64<<20), RawCellValue: true})
	if err != nil {
		return nil, s.Fault(fmt.Sprintf("can't be read as a workbook: %v", err))
	}
	defer book.Close()
	sheets := book.GetSheetList()
	if opt.Sheet != "" {
		i := slices.IndexFunc(sheets, func(n string) bool { return strings.EqualFold(n, opt.Sheet) })
		if n, err := strconv.Atoi(opt.Sheet); i < 0 && err == nil && n >= 1 && n <= len(sheets) {
			i = n - 1
		}
		if i < 0 {
			return nil, s.Fault(fmt.Sprintf("has no sheet %q; it has %s", opt.Sheet, strings.Join(sheets, ", ")))
		}
		sheets = sheets[i : i+1]
	}
	d := &nav.Dataset{}
	if size > mostMerged {
		d.Tell(nav.ProblemSheets, "merged cells are not expanded in a workbook of more than 32 MiB: only the first of "+
			"the merged cells has the value")
	}
	var first error
	read := 0
	for _, sheet := range sheets {
		merged, err := mergedCells(book, sheet, size)
		if err != nil {
			return nil, s.Fault(fmt.Sprintf("sheet %q can't be read: %v", sheet, err))
		}
		rows, err := topRows(book, sheet, merged)
		if err != nil {
			return nil, s.Fault(fmt.Sprintf("sheet %q can't be read: %v", sheet, err))
		}
		if len(rows) == 0 {
			continue
		}
		r, err := newReader(d, rows, opt, sheet)
		if err != nil {
			if first == nil {
				first = fmt.Errorf("sheet %q %w", sheet, err)
			}
			if opt.Sheet == "" {
				continue
			}
			break
		}
		r.moments.serial, r.moments.since = true, epoch(book)
		read++
		if err := r.sheetRows(book, sheet, merged); err != nil {
			return nil, s.Fault(fmt.Sprintf("sheet %q can't be read: %v", sheet, err))
		}
		r.finish(s.Path)
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

// epoch is the day that a workbook counts from: 1899-12-30, since the format takes 1900 for a leap year (ISO/IEC
// 29500-1, 18.17.4.1), or 1904-01-01.
func epoch(book *excelize.File) time.Time {
	if p, err := book.GetWorkbookProps(); err == nil && p.Date1904 != nil && *p.Date1904 {
		return time.Date(1904, 1, 1, 0, 0, 0, 0, time.UTC)
	}
	return time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC)
}

// mergedRange is a rectangle of merged cells, whose value all rows of it have.
type mergedRange struct {
	top, bottom, left, right int // from 1
	value                    string
}

// mostMerged is the size of a workbook up to which its merged cells are looked for, since that takes a whole sheet into
// memory.
const mostMerged = 32 << 20

// mergedCells lists the merged cells of a sheet.
func mergedCells(book *excelize.File, sheet string, size int64) (out []mergedRange, err error) {
	if size > mostMerged {
		return nil, nil
	}
	all, err := book.GetMergeCells(sheet)
	if err != nil {
		return nil, err
	}
	for _, m := range all {
		left, top, err1 := excelize.CellNameToCoordinates(m.GetStartAxis())
		right, bottom, err2 := excelize.CellNameToCoordinates(m.GetEndAxis())
		if err1 == nil && err2 == nil {
			out = append(out, mergedRange{top, bottom, left, right, m.GetCellValue()})
		}
	}
	return out, nil
}

// fill gives the cells of a row that merged ones cover their value.
func fill(cells []string, row int, merged []mergedRange) []string {
	for _, m := range merged {
		if row < m.top || row > m.bottom || m.value == "" {
			continue
		}
		for i := m.left - 1; i < m.right; i++ {
			for len(cells) <= i {
				cells = append(cells, "")
			}
			if cells[i] == "" {
				cells[i] = m.value
			}
		}
	}
	return cells
}

// topRows reads the first rows of a sheet. The row of a cell is its place in the sheet, blank rows included.
func topRows(book *excelize.File, sheet string, merged []mergedRange) (rows [][]string, err error) {
	in, err := book.Rows(sheet)
	if err != nil {
		return nil, err
	}
	defer in.Close()
	for len(rows) < firstRows && in.Next() {
		cells, err := in.Columns()
		if err != nil {
			return nil, err
		}
		rows = append(rows, fill(cells, len(rows)+1, merged))
	}
	if blank(slices.Concat(rows...)) {
		return nil, nil
	}
	return rows, in.Error()
}

// sheetRows reads all rows of a sheet: coordinates, heights and times as the cells hold them, fields that are dates as
// they are shown.
func (r *reader) sheetRows(book *excelize.File, sheet string, merged []mergedRange) error {
	raw, err := book.Rows(sheet)
	if err != nil {
		return err
	}
	defer raw.Close()
	shown, err := book.Rows(sheet)
	if err != nil {
		return err
	}
	defer shown.Close()
	var cells [][]byte
	for line := 1; raw.Next(); line++ {
		values, err := raw.Columns()
		if err != nil {
			return err
		}
		var texts []string
		if len(r.fieldAt) > 0 && shown.Next() {
			if texts, err = shown.Columns(excelize.Options{RawCellValue: false}); err != nil {
				return err
			}
		}
		if line-1 <= r.header {
			continue
		}
		values = fill(values, line, merged)
		for _, i := range r.fieldAt {
			if i < len(values) && i < len(texts) && numeric(values[i]) && !numeric(texts[i]) &&
				strings.ContainsAny(texts[i], "/:-") {
				if at, ok := r.day(values[i]); ok {
					values[i] = at
				}
			}
		}
		cells = cells[:0]
		for _, v := range values {
			if format.LikeFormula(v) && !numeric(v) { // no apostrophe of ours stands in a workbook
				v = "'" + v
			}
			cells = append(cells, []byte(v))
		}
		r.row(cells, line)
	}
	return raw.Error()
}

// day writes the number of a cell that is shown as a date or time in the form of ISO 8601.
func (r *reader) day(cell string) (string, bool) {
	m := r.moments
	m.zone = nil
	if ns, mark, _, ok, _ := m.parse(cell); ok {
		return string(nav.AppendTime(nil, ns, mark)), true
	}
	return "", false
}
