// Package xlsx reads the rows of workbooks (ISO/IEC 29500-1, SpreadsheetML) one after the other, in little memory: what
// cells hold, whether they are shown as dates, and which cells are merged.
package xlsx

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"
	"time"

	"gyrolith/core/format/xmlscan"
)

// Book is an open workbook.
type Book struct {
	Sheets []Sheet
	Epoch  time.Time // the day from which dates are counted

	files  map[string]*zip.File
	shared []string
	dates  []bool // whether a style shows dates
	digits []int  // the decimals that a style shows; 0 is any
}

// Sheet is a worksheet.
type Sheet struct {
	Name   string
	Hidden bool
	part   string
}

// Row is a row of a sheet, with its number from 1. The cells stand at the places of their columns.
type Row struct {
	Number  int
	Hidden  bool
	Cells   []Cell
	Columns []bool // which columns are hidden, as far as any is
}

// Cell is what a cell holds: a text, or a number as it is stored; of dates the number.
type Cell struct {
	Text string
	Date bool // a number that is shown as a date or a time
	Flaw Flaw // why there is no text
}

// Flaw says why a cell that is not empty has no text.
type Flaw uint8

// The flaws.
const (
	Sound        Flaw = iota
	Uncalculated      // a formula whose value was never stored
	Failed            // a formula that gave an error, such as #N/A
	Missing           // a shared text that is not there
)

// Merged is a rectangle of merged cells, counted from 1; the first of them holds the value of all.
type Merged struct{ Top, Bottom, Left, Right int }

// The bounds of a sheet (ISO/IEC 29500-1, 18.3.1.4 and 18.3.1.73).
const (
	mostColumns = 1 << 14
	mostRows    = 1 << 20
)

// Open reads what all sheets of a workbook share. The archive is taken to be within the limits of the reader.
func Open(at io.ReaderAt, size int64) (*Book, error) {
	z, err := zip.NewReader(at, size)
	if err != nil {
		return nil, err
	}
	b := &Book{files: map[string]*zip.File{}}
	for _, f := range z.File {
		b.files[strings.ToLower(strings.TrimPrefix(f.Name, "/"))] = f
	}
	root, err := b.relations("")
	if err != nil {
		return nil, err
	}
	main := "xl/workbook.xml"
	for _, r := range root {
		if r.is("officeDocument") {
			main = r.target
		}
	}
	relations, err := b.relations(main)
	if err != nil {
		return nil, err
	}
	if err := b.workbook(main, relations); err != nil {
		return nil, err
	}
	for _, r := range relations {
		switch {
		case r.is("sharedStrings"):
			err = b.strings(r.target)
		case r.is("styles"):
			err = b.styles(r.target)
		}
		if err != nil {
			return nil, err
		}
	}
	return b, nil
}

// scan reads a part of the archive; it visits the children of its outermost element.
func (b *Book) scan(part string, visit func(s *xmlscan.Scanner, local string) error) error {
	f := b.files[strings.ToLower(part)]
	if f == nil {
		return fmt.Errorf("its part %s is missing", part)
	}
	in, err := f.Open()
	if err != nil {
		return fmt.Errorf("its part %s: %w", part, err)
	}
	defer in.Close()
	s, err := xmlscan.New(in, xmlscan.Limits{})
	if err != nil {
		return fmt.Errorf("its part %s: %w", part, err)
	}
	for {
		kind, err := s.Next()
		if err != nil {
			return fmt.Errorf("its part %s: %w", part, err)
		}
		if kind == xmlscan.EOF {
			return fmt.Errorf("its part %s is empty", part)
		}
		if kind == xmlscan.Start {
			break
		}
	}
	err = s.Children(func(local string) error { return visit(s, local) })
	if _, ok := errors.AsType[*xmlscan.Error](err); ok {
		return fmt.Errorf("its part %s: %w", part, err)
	}
	return err
}

// relation leads from one part of the archive to another (ISO/IEC 29500-2, 9.3).
type relation struct{ id, sort, target string }

func (r *relation) is(word string) bool { return strings.HasSuffix(r.sort, "/"+word) }

// relations lists those of a part; "" is the archive.
func (b *Book) relations(part string) (out []relation, err error) {
	folder, name := path.Split(part)
	at := folder + "_rels/" + name + ".rels"
	if b.files[strings.ToLower(at)] == nil {
		return nil, nil
	}
	err = b.scan(at, func(s *xmlscan.Scanner, local string) error {
		target := s.AttrString("Target")
		if !strings.HasPrefix(target, "/") {
			target = path.Join(folder, target)
		}
		out = append(out, relation{s.AttrString("Id"), s.AttrString("Type"), strings.TrimPrefix(target, "/")})
		return s.Skip()
	})
	return out, err
}

// workbook reads the list of sheets, and from which day dates are counted: 1899-12-30, since the format takes 1900 for
// a leap year (ISO/IEC 29500-1, 18.17.4.1), or 1904-01-01.
func (b *Book) workbook(part string, relations []relation) error {
	b.Epoch = time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC)
	return b.scan(part, func(s *xmlscan.Scanner, local string) error {
		switch local {
		case "workbookPr":
			if v := s.AttrString("date1904"); v == "1" || v == "true" {
				b.Epoch = time.Date(1904, 1, 1, 0, 0, 0, 0, time.UTC)
			}
		case "sheets":
			return s.Children(func(string) error {
				id := ""
				for _, a := range s.Attrs() {
					if name := string(a.Name); strings.HasSuffix(name, ":id") {
						id = s.AttrString(name)
					}
				}
				for _, r := range relations {
					if r.id == id && r.is("worksheet") {
						state := s.AttrString("state")
						b.Sheets = append(b.Sheets, Sheet{s.AttrString("name"), state == "hidden" || state == "veryHidden", r.target})
					}
				}
				return s.Skip()
			})
		}
		return s.Skip()
	})
}

// strings reads the texts that cells share.
func (b *Book) strings(part string) error {
	return b.scan(part, func(s *xmlscan.Scanner, local string) error {
		if local != "si" {
			return s.Skip()
		}
		text, err := rich(s)
		b.shared = append(b.shared, text)
		return err
	})
}

// rich reads a text with or without formatting; how it is pronounced is not part of it.
func rich(s *xmlscan.Scanner) (text string, err error) {
	err = s.Children(func(local string) error {
		switch local {
		case "t":
			b, err := s.Leaf()
			text += unescaped(b)
			return err
		case "r":
			part, err := rich(s)
			text += part
			return err
		}
		return s.Skip()
	})
	return text, err
}

// unescaped resolves characters that XML can't hold, written _xHHHH_ (ISO/IEC 29500-1, 22.4.2.4).
func unescaped(b []byte) string {
	text := string(b)
	if !strings.Contains(text, "_x") {
		return text
	}
	var out strings.Builder
	for i := 0; i < len(text); i++ {
		if n := len("_xHHHH_"); i+n <= len(text) && text[i] == '_' && text[i+1] == 'x' && text[i+n-1] == '_' {
			if v, ok := hexadecimal(text[i+2 : i+6]); ok {
				out.WriteRune(rune(v))
				i += n - 1
				continue
			}
		}
		out.WriteByte(text[i])
	}
	return out.String()
}

func hexadecimal(text string) (v int, ok bool) {
	for _, c := range text {
		d := strings.IndexRune("0123456789abcdef", c|0x20)
		if c >= '0' && c <= '9' {
			d = int(c - '0')
		}
		if d < 0 {
			return 0, false
		}
		v = v<<4 | d
	}
	return v, true
}

// styles finds out which styles of cells show dates, by the formats of their numbers.
func (b *Book) styles(part string) error {
	own, decimals := map[string]bool{}, map[string]int{"2": 2}
	return b.scan(part, func(s *xmlscan.Scanner, local string) error {
		switch local {
		case "numFmts":
			return s.Children(func(string) error {
				code := s.AttrString("formatCode")
				own[s.AttrString("numFmtId")] = showsDates(code)
				decimals[s.AttrString("numFmtId")] = decimalsOf(code)
				return s.Skip()
			})
		case "cellXfs":
			return s.Children(func(string) error {
				id := s.AttrString("numFmtId")
				date, ok := own[id]
				b.dates = append(b.dates, ok && date || !ok && builtInDates[id])
				b.digits = append(b.digits, decimals[id])
				return s.Skip()
			})
		}
		return s.Skip()
	})
}

// decimalsOf gives the decimals that a format such as 0.00 shows; 0 of any other.
func decimalsOf(code string) int {
	zeros, ok := strings.CutPrefix(code, "0.")
	if !ok || strings.Trim(zeros, "0") != "" {
		return 0
	}
	return len(zeros)
}

// shown gives a number the zeros that its format shows behind it.
func shown(text string, decimals int) string {
	if decimals == 0 || decimals > 30 || strings.Trim(text, "-.0123456789") != "" {
		return text
	}
	_, fraction, point := strings.Cut(text, ".")
	if len(fraction) >= decimals {
		return text
	}
	if !point {
		text += "."
	}
	return text + strings.Repeat("0", decimals-len(fraction))
}

// builtInDates are the numbers of the formats that need not be described (ISO/IEC 29500-1, 18.8.30).
var builtInDates = func() map[string]bool {
	out := map[string]bool{}
	for _, span := range [][2]int{{14, 22}, {27, 36}, {45, 47}, {50, 58}} {
		for id := span[0]; id <= span[1]; id++ {
			out[fmt.Sprint(id)] = true
		}
	}
	return out
}()

// showsDates says whether a format of numbers has years, months, days, hours or seconds outside of its texts.
func showsDates(code string) bool {
	for i := 0; i < len(code); i++ {
		switch code[i] {
		case ';': // the formats of negative numbers and so on
			return false
		case '\\', '_', '*':
			i++
		case '"':
			end := strings.IndexByte(code[i+1:], '"')
			if end < 0 {
				return false
			}
			i += end + 1
		case '[': // a colour or a condition, but for spans of time
			end := strings.IndexByte(code[i:], ']')
			if end < 0 {
				return false
			}
			if inner := strings.ToLower(code[i+1 : i+end]); strings.Trim(inner, "hms") == "" && inner != "" {
				return true
			}
			i += end
		case 'y', 'Y', 'd', 'D', 'h', 'H', 'm', 'M', 's', 'S':
			return true
		case 'G', 'g':
			if strings.HasPrefix(strings.ToLower(code[i:]), "general") {
				i += len("general") - 1
			}
		}
	}
	return false
}

// Rows visits the rows of a sheet that have cells. A row is valid until the next. An error of visit ends it.
func (b *Book) Rows(sheet Sheet, visit func(*Row) error) error {
	line := 0
	var cells []Cell
	var hidden []bool
	return b.scan(sheet.part, func(s *xmlscan.Scanner, local string) error {
		if local == "cols" {
			return s.Children(func(string) error {
				from, _ := number(s.AttrString("min"))
				to, _ := number(s.AttrString("max"))
				for i := from; isTrue(s.AttrString("hidden")) && i > 0 && i <= min(to, mostColumns); i++ {
					for len(hidden) < i {
						hidden = append(hidden, false)
					}
					hidden[i-1] = true
				}
				return s.Skip()
			})
		}
		if local != "sheetData" {
			return s.Skip()
		}
		return s.Children(func(local string) error {
			if local != "row" {
				return s.Skip()
			}
			rowHidden := isTrue(s.AttrString("hidden"))
			line++
			if n, ok := number(s.AttrString("r")); ok && n > 0 {
				line = n
			}
			if line > mostRows {
				return fmt.Errorf("row %d is beyond the end of a sheet", line)
			}
			cells = cells[:0]
			column := 0
			err := s.Children(func(local string) error {
				if local != "c" {
					return s.Skip()
				}
				if n := columnOf(s.AttrString("r")); n > 0 {
					column = n
				} else {
					column++
				}
				if column > mostColumns {
					return fmt.Errorf("row %d has more columns than a sheet", line)
				}
				for len(cells) < column {
					cells = append(cells, Cell{})
				}
				cell, err := b.cell(s)
				cells[column-1] = cell
				return err
			})
			if err != nil {
				return err
			}
			return visit(&Row{Number: line, Hidden: rowHidden, Cells: cells, Columns: hidden})
		})
	})
}

func isTrue(text string) bool { return text == "1" || text == "true" }

// cell reads a cell.
func (b *Book) cell(s *xmlscan.Scanner) (out Cell, err error) {
	sort := s.AttrString("t")
	style, _ := number(s.AttrString("s"))
	formula, value := false, false
	err = s.Children(func(local string) error {
		switch local {
		case "f":
			formula = true
		case "v":
			value = true
			text, err := s.Leaf()
			if sort == "str" {
				out.Text = unescaped(text)
			} else {
				out.Text = string(bytes.TrimSpace(text))
			}
			return err
		case "is":
			text, err := rich(s)
			out.Text = text
			return err
		}
		return s.Skip()
	})
	switch sort {
	case "s":
		n, ok := number(out.Text)
		if out.Text = ""; ok && n < len(b.shared) {
			out.Text = b.shared[n]
		} else if value {
			out.Flaw = Missing
		}
	case "e":
		out.Text, out.Flaw = "", Failed
	case "", "n":
		out.Date = out.Text != "" && style < len(b.dates) && b.dates[style]
		if !out.Date && style < len(b.digits) {
			out.Text = shown(out.Text, b.digits[style])
		}
	}
	if formula && !value {
		out.Flaw = Uncalculated
	}
	return out, err
}

// Merged lists the merged cells of a sheet, which stand behind its rows.
func (b *Book) Merged(sheet Sheet) (out []Merged, err error) {
	if f := b.files[strings.ToLower(sheet.part)]; f == nil || !mentions(f, "mergeCell") {
		return nil, nil
	}
	err = b.scan(sheet.part, func(s *xmlscan.Scanner, local string) error {
		if local != "mergeCells" {
			return s.Skip()
		}
		return s.Children(func(string) error {
			from, to, ok := strings.Cut(s.AttrString("ref"), ":")
			m := Merged{rowOf(from), rowOf(to), columnOf(from), columnOf(to)}
			if ok && m.Top > 0 && m.Bottom >= m.Top && m.Left > 0 && m.Right >= m.Left && m.Right <= mostColumns {
				out = append(out, m)
			}
			return s.Skip()
		})
	})
	return out, err
}

// mentions says whether a part has a word anywhere.
func mentions(f *zip.File, word string) bool {
	in, err := f.Open()
	if err != nil {
		return false
	}
	defer in.Close()
	b := make([]byte, 0, 64<<10)
	for {
		n, err := in.Read(b[len(b):cap(b)])
		if b = b[:len(b)+n]; bytes.Contains(b, []byte(word)) {
			return true
		}
		if err != nil {
			return false
		}
		if len(b) == cap(b) {
			b = append(b[:0], b[len(b)-len(word):]...)
		}
	}
}

// columnOf gives the column of a reference such as AB12, from 1; 0 is none.
func columnOf(ref string) (n int) {
	for i := 0; i < len(ref) && i < 4; i++ {
		switch c := ref[i]; {
		case c >= 'A' && c <= 'Z':
			n = 26*n + int(c-'A') + 1
		case c == '$':
		default:
			return n
		}
	}
	return n
}

// rowOf gives the row of a reference, from 1; 0 is none.
func rowOf(ref string) int {
	n, _ := number(strings.TrimLeft(ref, "$ABCDEFGHIJKLMNOPQRSTUVWXYZ"))
	return n
}

// number reads a whole number that is not negative.
func number(text string) (n int, ok bool) {
	for i := range len(text) {
		c := text[i]
		if c < '0' || c > '9' || n > 1<<31 {
			return 0, false
		}
		n = 10*n + int(c-'0')
	}
	return n, text != ""
}
