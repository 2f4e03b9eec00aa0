package table

import (
	"encoding/csv"
	"io"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

func writeCSV(w io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	t := layout(d, opt)
	out := csv.NewWriter(w)
	out.UseCRLF = true
	if t.Separator != 0 {
		out.Comma = t.Separator
	}
	record := make([]string, len(t.Columns))
	if !t.NoHeader {
		for i, c := range t.Columns {
			record[i] = c.Title
		}
		if err := out.Write(record); err != nil {
			return nil, err
		}
	}
	err := rows(d, t.Items, func(r *row) error {
		for i, c := range t.Columns {
			record[i] = cellText(r.value(c.Holds, t, opt.System))
		}
		return out.Write(record)
	})
	out.Flush()
	if err == nil {
		err = out.Error()
	}
	return written(d, t, opt, "CSV"), err
}
