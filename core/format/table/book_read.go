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
	"gyrolith/core/measure"
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
	w := &workbook{Book: book, d: &nav.Dataset{}, opt: opt, hidden: map[string]int{}}
	var first error
	read, left := 0, 0
	for _, sheet := range sheets {
		if sheet.Hidden && opt.NoHidden && opt.Sheet == "" {
			left++
			continue
		}
		used, err := w.sheet(sheet)
		switch {
		case errors.Is(err, errSheet):
			return nil, s.Fault(fmt.Sprintf("sheet %q can't be read: %v", sheet.Name, errors.Unwrap(err)))
		case err != nil && first == nil:
			first = fmt.Errorf("sheet %q: %w", sheet.Name, err)
		}
		if used {
			read++
		}
	}
	if read == 0 {
		if first == nil {
			first = fmt.Errorf("contains only empty sheets")
		}
		return nil, s.FaultOf(first)
	}
	if n := len(sheets) - read - left; n > 0 && first != nil {
		w.d.Tell(nav.ProblemSheets, fmt.Sprintf("%d of its sheets have no table of positions and were ignored (%v)", n,
			first))
	}
	w.sayHidden(left)
	return w.d, nil
}

// sayHidden says how much stands in hidden rows, columns and sheets, and how many sheets were left out for that.
func (w *workbook) sayHidden(sheets int) {
	var parts []string
	w.hidden["whole"] = sheets
	for _, of := range [][3]string{{"row", "hidden row", "hidden rows"},
		{"column", "cell of a hidden column", "cells of hidden columns"},
		{"sheet", "row of a hidden sheet", "rows of hidden sheets"}, {"whole", "hidden sheet", "hidden sheets"}} {
		if n := w.hidden[of[0]]; n > 0 {
			parts = append(parts, measure.Counted(n, of[1], of[2]))
		}
	}
	switch text := strings.Join(parts, ", "); {
	case text == "":
	case w.opt.NoHidden:
		w.d.Tell(nav.ProblemSheets, "left out, as requested: "+text)
	default:
		w.d.Tell(nav.ProblemSheets, "read, and marked in the field hidden: "+text).Advise(advice.LeaveHidden)
	}
}
