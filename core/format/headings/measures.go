package headings

import (
	_ "embed"
	"strconv"
	"strings"
	"sync"

	"gyrolith/core/pattern"
)

// Quantity is what a column of numbers measures.
type Quantity uint8

// The quantities whose measures titles name.
const (
	None   Quantity = iota // what has no measure
	Length                 // of heights and depths, in metres
	Speed                  // in metres a second
	Angle                  // of courses, in degrees
	Area                   // of the sizes of areas, in square metres
	Span                   // of time, in seconds
)

// Measure is one that a title names: its name, and how many of our own it is.
type Measure struct {
	Name   string
	Factor float64
}

// FlightLevels is the measure of pressure heights: hundreds of feet in the standard atmosphere.
const FlightLevels = "flight levels"

//go:embed measures.txt
var measureWords string

// measures are those of each quantity by the words that stand for them, folded.
var measures = sync.OnceValue(func() (out [Span + 1]map[string]Measure) {
	q := None
	for line := range strings.Lines(measureWords) {
		line = strings.TrimSpace(line)
		if strings.HasPrefix(line, "[") {
			q++
			out[q] = map[string]Measure{}
		}
		cells := strings.Split(line, " | ")
		if q == None || len(cells) != 3 {
			continue
		}
		factor, _ := strconv.ParseFloat(cells[1], 64) // held by a test
		for w := range strings.SplitSeq(cells[2], ", ") {
			out[q][w] = Measure{cells[0], factor}
		}
	}
	return out
})

// remarks are words in brackets or behind a title that are no measures, but say more of a quantity.
var remarks = func() map[string]bool {
	out := map[string]bool{}
	for w := range strings.FieldsSeq("msl amsl asl gps wgs84 wgs nhn nn hae egm96 egm2008 dgm dem dtm srtm baro max min " +
		"avg mean est approx utc cog sog cmg calc z sea geoid dhhn92 dhhn2016 ellipsoid lat mllw chart datum corr raw " +
		"abs rel ca gemessen geschatzt mittel ned up down true magn") {
		out[w] = true
	}
	return out
}()

// MeasureOf finds the measure that a title names for a quantity: in brackets, or as its last words. Unknown is a word
// in brackets that looks like a measure and is none that is known; "" is none. Where nothing is named the factor is
// 1.
func MeasureOf(title string, q Quantity) (m Measure, unknown string) {
	m = Measure{Factor: 1}
	if p := inBrackets.FindStringSubmatch(title); p != nil {
		inside := Folded(p[1])
		if found, ok := inWords(inside, q); ok {
			return found, ""
		}
		const longest = 8 // letters of a measure
		if inside != "" && !strings.Contains(inside, " ") && len(inside) <= longest && !remarks[inside] &&
			strings.Trim(inside, "0123456789") == inside {
			return m, strings.TrimSpace(p[1])
		}
	}
	words := strings.Fields(Folded(inBrackets.ReplaceAllString(title, " ")))
	for n := min(3, len(words)-1); n > 0; n-- {
		if found, ok := measures()[q][strings.Join(words[len(words)-n:], " ")]; ok {
			return found, ""
		}
	}
	return m, ""
}

// Named finds the measure of a quantity that a text names.
func Named(text string, q Quantity) (Measure, bool) { return inWords(Folded(text), q) }

// InMetres says whether a title of heights names no other measure.
func InMetres(title string) bool {
	m, _ := MeasureOf(title, Length)
	return m.Factor == 1
}

// inWords finds the measure in the words of a text, the longest first: m, m ü. M., ft MSL.
func inWords(text string, q Quantity) (Measure, bool) {
	words := strings.Fields(text)
	for n := min(3, len(words)); n > 0; n-- {
		for i := 0; i+n <= len(words); i++ {
			if found, ok := measures()[q][strings.Join(words[i:i+n], " ")]; ok {
				return found, true
			}
		}
	}
	return Measure{}, false
}

// quantities are those of columns by what they hold.
var quantities = map[string]Quantity{"height": Length, "depth": Length, "speed": Speed, "course": Angle}

// QuantityOf says what a column of numbers measures by what it holds.
func QuantityOf(holds string) (Quantity, bool) {
	q, ok := quantities[holds]
	return q, ok
}

// withoutMeasure takes the measure off the end of a folded title: depth fathoms becomes depth.
func withoutMeasure(folded string) string {
	words := strings.Fields(folded)
	for n := min(3, len(words)-1); n > 0; n-- {
		rest, last := words[:len(words)-n], strings.Join(words[len(words)-n:], " ")
		last = strings.TrimPrefix(last, "in ")
		h, known := headRanks()[strings.Join(rest, " ")]
		if !known {
			continue
		}
		if q, ok := quantities[h.Holds]; ok {
			if _, is := measures()[q][last]; is {
				return strings.Join(rest, " ")
			}
		}
	}
	return folded
}

// CellMeasure parts a cell such as 12 ft into its number and the measure that it names itself.
func CellMeasure(cell string, q Quantity) (number string, m Measure, ok bool) {
	p := withUnit.FindStringSubmatch(cell)
	if p == nil {
		return cell, Measure{}, false
	}
	m, ok = measures()[q][Folded(p[2])]
	if !ok {
		return cell, Measure{}, false
	}
	return strings.TrimSpace(p[1]), m, true
}

var withUnit = pattern.New(`^\s*([-+−]?[0-9][0-9 .,'’]*)\s*([^0-9]+?)\s*$`)
