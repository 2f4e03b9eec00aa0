package geodesy

import (
	"fmt"
	"math"
)

// Notation is a way to write a position.
type Notation uint8

// The notations: decimal degrees; degrees and minutes; degrees, minutes and seconds.
const (
	Degrees Notation = iota
	Minutes
	SecondsOfArc
)

// ParseNotation reads the word for a notation.
func ParseNotation(word string) (Notation, error) {
	switch word {
	case "", "deg":
		return Degrees, nil
	case "min":
		return Minutes, nil
	case "sec":
		return SecondsOfArc, nil
	}
	return 0, fmt.Errorf("%q is no notation of coordinates: say deg, min or sec", word)
}

// Format writes a position to about a metre: 47.60125° S 11.30210° E.
func (n Notation) Format(lat, lon float64) string {
	return n.angle(lat, 2, "N", "S") + " " + n.angle(lon, 3, "E", "W")
}

func (n Notation) angle(v float64, width int, plus, minus string) string {
	hemisphere := plus
	if v < 0 {
		hemisphere = minus
	}
	v = math.Abs(v)
	switch n {
	case Minutes:
		thousandths := math.Round(v * 60000)
		d := math.Floor(thousandths / 60000)
		return fmt.Sprintf("%0*.0f°%06.3f′ %s", width, d, (thousandths-d*60000)/1000, hemisphere)
	case SecondsOfArc:
		tenths := math.Round(v * 36000)
		d := math.Floor(tenths / 36000)
		m := math.Floor((tenths - d*36000) / 600)
		return fmt.Sprintf("%0*.0f°%02.0f′%04.1f″ %s", width, d, m, (tenths-d*36000-m*600)/10, hemisphere)
	}
	return fmt.Sprintf("%.5f° %s", v, hemisphere)
}
