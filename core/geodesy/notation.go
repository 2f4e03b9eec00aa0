package geodesy

import (
	"fmt"
	"math"
)

// Notation is a way to write a position.
type Notation uint8

// The notations: decimal degrees; degrees and minutes; degrees, minutes and seconds; UTM; the military grid; the
// compact form of the flight plan (ICAO Doc 4444, appendix 2, item 15) to the second.
const (
	Degrees Notation = iota
	Minutes
	SecondsOfArc
	Grid
	MilitaryGrid
	FlightPlan
)

var notationWords = [...]string{"deg", "min", "sec", "utm", "mgrs", "plan"}

// Notations lists all of them.
var Notations = [...]Notation{Degrees, Minutes, SecondsOfArc, Grid, MilitaryGrid, FlightPlan}

func (n Notation) String() string { return notationWords[n] }

// ParseNotation reads the word for a notation.
func ParseNotation(word string) (Notation, error) {
	if word == "" {
		return Degrees, nil
	}
	for i, w := range notationWords {
		if w == word {
			return Notation(i), nil
		}
	}
	return 0, fmt.Errorf("%q is not a notation of coordinates: use deg, min, sec, utm, mgrs or plan", word)
}

// Format writes a position to about a metre, 47.60125° S 11.30210° E, but for FlightPlan, which has whole seconds of
// arc. ParsePosition reads what it writes.
func (n Notation) Format(lat, lon float64) string {
	switch n {
	case Grid:
		if polarGrid(lat) {
			pole := "north"
			if lat < 0 {
				pole = "south"
			}
			e, no := UPS{lat < 0}.Forward(lat, lon)
			return fmt.Sprintf("UPS %s %.0f %.0f", pole, e, no)
		}
		u := ZoneOf(lat, lon)
		e, no := u.Forward(lat, lon)
		half := "north"
		if u.South {
			half = "south"
			no = math.Min(no, falseSouth-1) // on the equator a rounded northing would be beyond the zone
		}
		return fmt.Sprintf("%d %s %.0f %.0f", u.Zone, half, e, no)
	case MilitaryGrid:
		return MGRS(lat, lon, 5)
	case FlightPlan:
		return compact(lat, 2, "N", "S") + compact(lon, 3, "E", "W")
	}
	return n.angle(lat, 2, "N", "S") + " " + n.angle(lon, 3, "E", "W")
}

// FormatLat writes a latitude alone; in a grid's notation in decimal degrees.
func (n Notation) FormatLat(lat float64) string {
	if n == FlightPlan {
		return compact(lat, 2, "N", "S")
	}
	return n.angle(lat, 2, "N", "S")
}

// FormatLon writes a longitude alone.
func (n Notation) FormatLon(lon float64) string {
	if n == FlightPlan {
		return compact(lon, 3, "E", "W")
	}
	return n.angle(lon, 3, "E", "W")
}

func compact(v float64, width int, plus, minus string) string {
	hemisphere := plus
	if v < 0 {
		hemisphere = minus
	}
	s := int(math.Round(math.Abs(v) * 3600))
	return fmt.Sprintf("%0*d%02d%02d%s", width, s/3600, s/60%60, s%60, hemisphere)
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
