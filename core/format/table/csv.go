package table

import (
	"bufio"
	"io"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// csvWriter writes records by RFC 4180. The standard library's leaves blanks at the end of a cell without quotes, where
// most readers drop them.
type csvWriter struct {
	*bufio.Writer
	sep rune
}

func (w *csvWriter) record(cells []string) error {
	for i, c := range cells {
		if i > 0 {
			w.WriteRune(w.sep)
		}
		if c == "" && len(cells) > 1 {
			continue
		}
		if c != "" && c != `\.` && c == strings.TrimSpace(c) && !strings.ContainsRune(c, w.sep) &&
			!strings.ContainsAny(c, "\"\r\n") {
			w.WriteString(c)
			continue
		}
		w.WriteByte('"')
		w.WriteString(strings.ReplaceAll(c, `"`, `""`))
		w.WriteByte('"')
	}
	_, err := w.WriteString("\r\n")
	return err
}

func writeCSV(w io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	t := layout(d, opt, "time")
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
	err := rows(d, t.Items, func(r *row) error {
		for i, c := range t.Columns {
			record[i] = cellText(r.value(c.Holds, t))
		}
		return out.record(record)
	})
	if err == nil {
		err = out.Flush()
	}
	return written(d, t), err
}
