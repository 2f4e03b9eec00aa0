package passage

import (
	"encoding/csv"
	"errors"
	"fmt"
	"os"
)

// readRows reads a small comma-separated table.
func readRows(path string) ([][]string, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, fmt.Errorf("%s: can't be read: %w", path, errors.Unwrap(err))
	}
	defer f.Close()
	r := csv.NewReader(f)
	r.FieldsPerRecord, r.TrimLeadingSpace = -1, true
	rows, err := r.ReadAll()
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	return rows, nil
}
