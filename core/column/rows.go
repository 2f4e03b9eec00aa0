package column

import (
	"encoding/csv"
	"errors"
	"fmt"
	"os"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/pattern"
)

// ReadRows reads a small table, separated by commas, semicolons or tabs, in any encoding that can be told. Of numbers a
// comma between digits is a decimal sign where it does not separate cells.
func ReadRows(path string, numbers bool) ([][]string, error) {
	raw, err := os.ReadFile(path)
	if err != nil {
		return nil, fmt.Errorf("%s: can't be read: %w", path, errors.Unwrap(err))
	}
	decoded, _ := format.DecodeText(raw)
	text := string(decoded)
	first, _, _ := strings.Cut(strings.TrimLeft(text, "\r\n"), "\n")
	r := csv.NewReader(strings.NewReader(text))
	for _, sep := range ";\t" {
		if strings.ContainsRune(first, sep) {
			r.Comma = sep
			break
		}
	}
	r.FieldsPerRecord, r.TrimLeadingSpace = -1, true
	rows, err := r.ReadAll()
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	if numbers && r.Comma != ',' {
		for _, cells := range rows {
			for i, c := range cells {
				if decimalComma.MatchString(c) {
					cells[i] = strings.Replace(c, ",", ".", 1)
				}
			}
		}
	}
	return rows, nil
}

var decimalComma = pattern.New(`^\s*[-+]?\d+,\d+\D*$`)
