package passage

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"gyrolith/core/column"
	"gyrolith/core/decimal"
)

// Deviation is the card of a compass: how far it is off, east above zero, on magnetic headings.
type Deviation []struct{ Heading, Off float64 }

// ReadDeviation reads the card of a compass: a table of two columns, the magnetic heading and the deviation in degrees,
// comma-separated; east is above zero or has an E behind it. A row that is no number is a heading line.
func ReadDeviation(path string) (Deviation, error) {
	rows, err := column.ReadRows(path, true)
	if err != nil {
		return nil, err
	}
	var out Deviation
	for i, row := range rows {
		if len(row) < 2 {
			return nil, fmt.Errorf("%s:%d: a row has two columns: the magnetic heading and the deviation", path, i+1)
		}
		heading, _, ok := decimal.Parse([]byte(strings.TrimSpace(row[0])))
		off, okOff := degreesOff(row[1])
		switch {
		case i == 0 && !ok:
			continue
		case !ok || !okOff || heading < 0 || heading > 360 || off < -90 || off > 90:
			return nil, fmt.Errorf("%s:%d: %q is not a heading and a deviation: write 090,-2 or 090,2W", path, i+1,
				strings.Join(row, ","))
		}
		out = append(out, struct{ Heading, Off float64 }{turn(heading), off})
	}
	if len(out) < 2 {
		return nil, fmt.Errorf("%s: a deviation card has at least two rows", path)
	}
	slices.SortFunc(out, func(a, b struct{ Heading, Off float64 }) int { return cmp.Compare(a.Heading, b.Heading) })
	return out, nil
}

func degreesOff(text string) (float64, bool) {
	text = strings.ToUpper(strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(text), "°")))
	sign := 1.0
	if rest, west := strings.CutSuffix(text, "W"); west {
		text, sign = rest, -1
	} else {
		text = strings.TrimSuffix(text, "E")
	}
	v, _, ok := decimal.Parse([]byte(strings.TrimSuffix(strings.TrimSpace(text), "°")))
	return sign * v, ok
}

// Compass gives the heading by the compass for a magnetic one: the deviation between two rows is in proportion.
func (d Deviation) Compass(magnetic float64) float64 {
	for i := range d {
		a, b := d[i], d[(i+1)%len(d)]
		span := turn(b.Heading - a.Heading)
		if along := turn(magnetic - a.Heading); span == 0 || along <= span {
			off := a.Off
			if span > 0 {
				off += along / span * (b.Off - a.Off)
			}
			return turn(magnetic - off)
		}
	}
	return magnetic
}
