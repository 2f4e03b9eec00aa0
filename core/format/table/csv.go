package table

import (
	"bufio"
	"bytes"
	"io"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"gyrolith/core/format"
	"gyrolith/core/format/inorder"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// csvWriter writes records by RFC 4180. The standard library's leaves blanks at the end of a cell without quotes, where
// most readers drop them.
type csvWriter struct {
	*bufio.Writer
	sep rune
}

func (w *csvWriter) record(cells []string) error {
	_, err := w.Write(appendRecord(w.AvailableBuffer(), cells, w.sep))
	return err
}

func appendRecord(dst []byte, cells []string, sep rune) []byte {
	for i, c := range cells {
		if i > 0 {
			dst = utf8.AppendRune(dst, sep)
		}
		dst = appendCell(dst, c, sep, len(cells) == 1)
	}
	return append(dst, "\r\n"...)
}

// appendCell appends a cell; an empty one needs its quotes where it is alone, so that its row is not blank.
func appendCell(dst []byte, c string, sep rune, alone bool) []byte {
	if c == "" && !alone {
		return dst
	}
	if c != "" && c != `\.` && (isPlain(c, sep) || c == strings.TrimSpace(c) && !strings.ContainsRune(c, sep) &&
		!strings.ContainsAny(c, "\"\r\n")) {
		return append(dst, c...)
	}
	dst = append(dst, '"')
	dst = append(dst, strings.ReplaceAll(c, `"`, `""`)...)
	return append(dst, '"')
}

// isPlain says whether a cell has nothing but such letters, digits and signs of ASCII as need no quotes.
func isPlain(c string, sep rune) bool {
	for i := 0; i < len(c); i++ {
		if b := c[i]; b <= ' ' || b >= 0x7f || b == '"' || rune(b) == sep {
			return false
		}
	}
	return true
}

func writeCSV(w io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	t := layout(d, opt)
	out := &csvWriter{bufio.NewWriterSize(w, 64<<10), ','}
	if t.Separator != 0 {
		out.sep = t.Separator
	}
	record := make([]string, len(t.Columns))
	if !t.NoHeader {
		for i, c := range t.Columns {
			record[i] = format.FormulaSafe(c.Title)
		}
		if err := out.record(record); err != nil {
			return nil, err
		}
	}
	visit := func(r *row) error {
		for i := range t.Columns {
			record[i] = cellText(t.cell(r, i))
		}
		return out.record(record)
	}
	err := rows(d, t.Items, visit, func(r *run) error { return out.run(r, t) })
	if err == nil {
		err = out.Flush()
	}
	return written(d, t), err
}

// pointCells is what cells have of each point.
var pointCells = []string{"lat", "lon", "easting", "northing", "zone", "position", "height", "time", "number"}

// rowsAtOnce is how many rows have their values made texts together.
const rowsAtOnce = 1 << 16

// run writes the rows of points of a segment, long runs on all cores.
func (w *csvWriter) run(r *run, t *sheet) error {
	varying := make([]bool, len(t.Columns)) // what differs from point to point; the rest is that of the first row
	first := make([]string, len(t.Columns))
	place := make([]int, len(t.Columns)) // of a column of values among those; -1 is another column
	var fields []int                     // the columns of values
	for i, c := range t.Columns {
		place[i] = -1
		switch {
		case slices.Contains(pointCells, c.Holds), r.worksOut(c.Holds):
			first[i] = cellText(t.cell(&r.row, i)) // what is worked out of the line is, once
			varying[i] = true
		case slices.Contains(reserved, c.Holds), strings.HasPrefix(c.Holds, blankPrefix), c.Holds == "file",
			c.Holds == "folder", slices.Contains(latelyWorked, c.Holds):
			first[i] = cellText(t.cell(&r.row, i))
		case r.segment.Details() > 0:
			place[i] = len(fields)
			fields = append(fields, i)
		}
	}
	cells := newValueCells(r, fields, t)
	text := func(dst []byte, from, to int) []byte {
		one := r.row
		var clock instant.Clock
		own := *cells
		for k := from; k < to; k++ {
			one.point, one.number = &r.points[k], r.number+k
			values := own.of(one.point)
			for i, c := range t.Columns {
				if i > 0 {
					dst = utf8.AppendRune(dst, w.sep)
				}
				cell := first[i]
				switch {
				case varying[i]:
					if per := t.scales[i].one; per == 0 || per == 1 {
						if after, ok := one.quick(dst, c.Holds, t, w.sep, &clock); ok {
							dst = after
							continue
						}
					}
					cell = cellText(t.cell(&one, i))
				case place[i] >= 0 && len(values) > 0:
					cell = t.scales[i].text(values[place[i]])
				}
				dst = appendCell(dst, cell, w.sep, len(t.Columns) == 1)
			}
			dst = append(dst, "\r\n"...)
		}
		return dst
	}
	var err error
	write := func(b []byte) {
		if err == nil {
			_, err = w.Write(b)
		}
	}
	for begin := 0; begin < len(r.points) && err == nil; begin += rowsAtOnce {
		n := min(rowsAtOnce, len(r.points)-begin)
		if len(fields) > 0 {
			cells.begin(r.points[begin : begin+n])
		}
		block := func(dst []byte, from, to int) []byte { return text(dst, begin+from, begin+to) }
		if inorder.Many(n) {
			inorder.Each(n, block, write)
			continue
		}
		for from := 0; from < n; from += inorder.Block {
			write(block(nil, from, min(from+inorder.Block, n)))
		}
	}
	return err
}

// quick appends what most cells hold by their digits, as cellText would: numbers that a float64 gives back digit by
// digit, and times.
func (r *row) quick(dst []byte, holds string, t *sheet, sep rune, clock *instant.Clock) ([]byte, bool) {
	if t.system != nil || t.Notation != geodesy.Degrees || sep >= '-' && sep <= ':' {
		return dst, false
	}
	begin := len(dst)
	switch p := r.point; holds {
	case "lat":
		dst = p.AppendLat(dst)
	case "lon":
		dst = p.AppendLon(dst)
	case "height":
		if !p.HasHeight() {
			return dst, true
		}
		dst = p.AppendHeight(dst)
	case "time":
		if t.clock() != nil {
			return instant.AppendIn(dst, p.UnixNano(), p.TimeMark(), t.Zone), true
		}
		return clock.Append(dst, p.UnixNano(), p.TimeMark()), true
	case "number":
		return strconv.AppendInt(dst, int64(r.number), 10), true
	default:
		return dst, false
	}
	return dst, !bytes.ContainsAny(dst[begin:], "eENn")
}
