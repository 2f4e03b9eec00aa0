// Package measure reads quantities that carry their measure and writes them in a system of measures.
package measure

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
)

// System says in which measures quantities are written.
type System uint8

// The systems: metres and kilometres; nautical miles and knots; the same with heights in feet.
const (
	Metric System = iota
	Nautical
	Flight
)

// ParseSystem reads the word for a system.
func ParseSystem(word string) (System, error) {
	switch word {
	case "", "metric":
		return Metric, nil
	case "nautical":
		return Nautical, nil
	case "flight":
		return Flight, nil
	}
	return 0, fmt.Errorf("%q is not a system of measures: use metric, nautical or flight", word)
}

const (
	nauticalMile = 1852.0 // ISO 80000-3
	foot         = 0.3048
	statuteMile  = 1609.344
	knot         = nauticalMile / 3600
)

// Length writes a length.
func (s System) Length(metres float64) string {
	if s == Metric {
		switch a := math.Abs(metres); {
		case a < 10:
			return trim(metres, 1) + " m"
		case a < 1000:
			return trim(metres, 0) + " m"
		case a < 100e3:
			return trim(metres/1000, 2) + " km"
		}
		return large(metres/1000) + " km"
	}
	switch nm := metres / nauticalMile; {
	case math.Abs(metres) < 100:
		return trim(metres, 1) + " m"
	case math.Abs(metres) < 500: // where clearances are
		return trim(metres, 0) + " m"
	case math.Abs(nm) < 100:
		return trim(nm, 2) + " nm"
	default:
		return large(nm) + " nm"
	}
}

// The measures of areas, in square metres.
const (
	hectare            = 1e4
	squareKilometre    = 1e6
	squareNauticalMile = nauticalMile * nauticalMile
)

// Area writes the size of an area; "" where it is not a number.
func (s System) Area(m2 float64) string {
	switch {
	case math.IsNaN(m2):
		return ""
	case m2 < hectare/10:
		return trim(m2, 0) + " m²"
	case m2 < hectare:
		return trim(m2/hectare, 2) + " ha"
	case m2 < 100*hectare:
		return trim(m2/hectare, 1) + " ha"
	case s != Metric && m2 < 100*squareNauticalMile:
		return trim(m2/squareNauticalMile, 2) + " nm²"
	case s != Metric:
		return large(m2/squareNauticalMile) + " nm²"
	case m2 < 1000*squareKilometre:
		return trim(m2/squareKilometre, 2) + " km²"
	}
	return large(m2/squareKilometre) + " km²"
}

// Height writes a height.
func (s System) Height(metres float64) string {
	if s == Flight {
		return trim(metres/foot, 0) + " ft"
	}
	if math.Abs(metres) < 100 {
		return trim(metres, 1) + " m"
	}
	return trim(metres, 0) + " m"
}

// Speed writes a speed given in metres per second.
func (s System) Speed(v float64) string {
	if s == Metric {
		return trim(v*3.6, 1) + " km/h"
	}
	return trim(v/knot, 1) + " kn"
}

func trim(v float64, decimals int) string {
	if math.Abs(v) >= 1e12 {
		return strconv.FormatFloat(v, 'g', 3, 64)
	}
	out := strconv.FormatFloat(v, 'f', decimals, 64)
	if strings.Trim(out, "-0.") == "" {
		out = strings.TrimPrefix(out, "-")
	}
	return out
}

// Counted writes how many there are of a thing: 1 row, 1,200 rows.
func Counted(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return Count(n) + " " + many
}

// Count writes a number with commas between the thousands.
func Count(n int) string {
	s, sign := strconv.Itoa(n), ""
	if n < 0 {
		s, sign = s[1:], "-"
	}
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return sign + s
}

// large writes a number without decimals, with commas between the thousands; what only damaged data have, in powers of
// ten.
func large(v float64) string {
	if math.Abs(v) < 1e12 {
		return Count(int(math.Round(v)))
	}
	return strconv.FormatFloat(v, 'g', 3, 64)
}

// Duration writes a span of time in its two largest measures.
func Duration(d time.Duration) string {
	if d < 0 {
		return "-" + Duration(-max(d, -math.MaxInt64))
	}
	days, h, m := int(d/(24*time.Hour)), int(d.Hours())%24, int(d.Minutes())%60
	out := ""
	switch s := int(d.Seconds()) % 60; {
	case days > 0:
		out = fmt.Sprintf("%d d %d h", days, h)
	case h > 0:
		out = fmt.Sprintf("%d h %d min", h, m)
	case m > 0:
		out = fmt.Sprintf("%d min %d s", m, s)
	default:
		return trim(d.Seconds(), 0) + " s"
	}
	for _, nothing := range []string{" 0 h", " 0 min", " 0 s"} {
		out = strings.TrimSuffix(out, nothing)
	}
	return out
}

// Exactly writes a span of time to the second, and one of less than ten seconds to the millisecond.
func Exactly(d time.Duration) string {
	if d < 0 {
		return "-" + Exactly(-max(d, -math.MaxInt64))
	}
	if d < 10*time.Second {
		return strconv.FormatFloat(d.Round(time.Millisecond).Seconds(), 'f', -1, 64) + " s"
	}
	d = d.Round(time.Second)
	var parts []string
	for _, unit := range []struct {
		name string
		span time.Duration
	}{{"d", 24 * time.Hour}, {"h", time.Hour}, {"min", time.Minute}, {"s", time.Second}} {
		if n := d / unit.span; n > 0 {
			parts, d = append(parts, fmt.Sprintf("%d %s", n, unit.name)), d-n*unit.span
		}
	}
	return strings.Join(parts, " ")
}

func split(text string) (float64, string, bool) {
	text = strings.TrimSpace(text)
	i := strings.LastIndexAny(text, "0123456789.") + 1
	v, err := strconv.ParseFloat(text[:i], 64)
	return v, strings.TrimSpace(text[i:]), err == nil && !math.IsInf(v, 0)
}

// The most that a quantity may be: a length around the sun, the speed of light, three human lives.
const (
	mostLength   = 1e12           // metres
	mostSpeed    = 299_792_458    // metres per second
	mostDuration = 200 * 31557600 // seconds
)

// within says that a quantity is more than any can be.
func within(v, most float64, text string) error {
	if math.Abs(v) > most {
		return fmt.Errorf("%q is impossibly large", text)
	}
	return nil
}

var lengths = map[string]float64{"m": 1, "km": 1000, "nm": nauticalMile, "ft": foot, "mi": statuteMile, "yd": 0.9144,
	"cm": 0.01, "mm": 0.001}

// ParseLength reads a length such as 5m, 0.3nm or 800ft, in metres.
func ParseLength(text string) (float64, error) {
	v, unit, ok := split(text)
	factor, known := lengths[unit]
	switch {
	case ok && known:
		return v * factor, within(v*factor, mostLength, text)
	case ok && unit == "":
		return 0, fmt.Errorf("%q has no unit: write %sm for metres, %snm for nautical miles, %sft for feet", text, text,
			text, text)
	}
	return 0, fmt.Errorf("%q is not a length: write a number and a unit, such as 5m, 1.2km, 0.3nm or 800ft", text)
}

var areas = map[string]float64{"m2": 1, "m²": 1, "ha": hectare, "km2": 1e6, "km²": 1e6, "nm2": squareNauticalMile,
	"nm²": squareNauticalMile, "ac": 4046.8564224}

// ParseArea reads the size of an area such as 2ha or 0.5nm2, in square metres.
func ParseArea(text string) (float64, error) {
	text = strings.TrimSpace(text)
	i := strings.IndexFunc(text, unicode.IsLetter)
	if i < 0 {
		i = len(text)
	}
	v, err := strconv.ParseFloat(strings.TrimSpace(text[:i]), 64)
	if factor, known := areas[text[i:]]; known && err == nil && !math.IsNaN(v) {
		return v * factor, within(v, mostLength, text)
	}
	return 0, fmt.Errorf("%q is not the size of an area: write a number and a unit, such as 2ha, 400m2 or 0.5nm2", text)
}

var speeds = map[string]float64{"m/s": 1, "km/h": 1 / 3.6, "kn": knot, "kt": knot, "mph": statuteMile / 3600}

// ParseSpeed reads a speed such as 12kn or 4km/h, in metres per second.
func ParseSpeed(text string) (float64, error) {
	v, unit, ok := split(text)
	factor, known := speeds[unit]
	switch {
	case ok && known:
		return v * factor, within(v*factor, mostSpeed, text)
	case ok && unit == "":
		return 0, fmt.Errorf("%q has no unit: write %skm/h, %skn or %sm/s", text, text, text, text)
	}
	return 0, fmt.Errorf("%q is not a speed: write a number and a unit, such as 4km/h, 12kn or 1.5m/s", text)
}

var rates = map[string]float64{"m/s": 1, "m/min": 1.0 / 60, "ft/min": foot / 60}

// ParseRate reads a rate of climb such as 500ft/min or 2m/s, in metres per second.
func ParseRate(text string) (float64, error) {
	v, unit, ok := split(text)
	if factor, known := rates[unit]; ok && known && v > 0 {
		return v * factor, within(v*factor, mostSpeed, text)
	}
	return 0, fmt.Errorf("%q is not a rate of climb or descent: write a number and a unit, such as 500ft/min or 2m/s",
		text)
}

var durations = map[string]float64{"s": 1, "min": 60, "h": 3600, "d": 86400, "ms": 0.001}

// Ambiguous is the error of a quantity that could be minutes or metres.
type Ambiguous struct{ Text string }

func (a *Ambiguous) Error() string {
	return fmt.Sprintf("%q could be minutes or metres: write %smin for minutes", a.Text, strings.TrimSuffix(a.Text, "m"))
}

// spanParts finds the parts of a span of time that is written in several measures: 7h2min13s, or 7 h 2 min 13 s.
var spanParts = regexp.MustCompile(`^\s*([0-9]+\s*d\s*)?([0-9]+\s*h\s*)?([0-9]+\s*min\s*)?([0-9.]+\s*s)?\s*$`)

// ParseDuration reads a span of time such as 90s, 5min, 2h or 1h30min.
func ParseDuration(text string) (time.Duration, error) {
	sign, unsigned := time.Duration(1), text
	if strings.HasPrefix(text, "-") {
		sign, unsigned = -1, text[1:]
	}
	parts := slices.DeleteFunc(spanParts.FindStringSubmatch(unsigned), func(part string) bool { return part == "" })
	if len(parts) > 2 { // the first one is all of it
		var sum time.Duration
		for _, part := range parts[1:] {
			d, err := ParseDuration(part)
			if err != nil {
				return 0, err
			}
			sum += d
		}
		return sign * sum, within(sum.Seconds(), mostDuration, text)
	}
	v, unit, ok := split(text)
	factor, known := durations[unit]
	switch {
	case ok && known:
		return time.Duration(v * factor * float64(time.Second)), within(v*factor, mostDuration, text)
	case ok && unit == "m":
		return 0, &Ambiguous{text}
	case ok && unit == "":
		return 0, fmt.Errorf("%q has no unit: write %ss, %smin or %sh", text, text, text, text)
	}
	return 0, fmt.Errorf("%q is not a time span: write a number and a unit, such as 90s, 5min or 2h", text)
}

// LongMeasure names the measure of long lengths, and says how many metres it has.
func (s System) LongMeasure() (name string, metres float64) {
	if s == Metric {
		return "km", 1000
	}
	return "nm", nauticalMile
}

// AreaMeasure names the measure of the sizes of areas, and says how many square metres it has.
func (s System) AreaMeasure() (name string, m2 float64) {
	if s == Metric {
		return "ha", hectare
	}
	return "nm²", squareNauticalMile
}

// HeightMeasure names the measure of heights, and says how many metres it has.
func (s System) HeightMeasure() (name string, metres float64) {
	if s == Flight {
		return "ft", foot
	}
	return "m", 1
}

// SpeedMeasure names the measure of speeds, and says how many metres per second it has.
func (s System) SpeedMeasure() (name string, metresPerSecond float64) {
	if s == Metric {
		return "km/h", 1 / 3.6
	}
	return "kn", knot
}

// RateMeasure names the measure of rates of climb, and says how many metres per second it has.
func (s System) RateMeasure() (name string, metresPerSecond float64) {
	if s == Flight {
		return "ft/min", foot / 60
	}
	return "m/s", 1
}

var sizes = map[string]float64{"": 1, "B": 1, "KIB": 1 << 10, "MIB": 1 << 20, "GIB": 1 << 30, "TIB": 1 << 40,
	"KB": 1e3, "MB": 1e6, "GB": 1e9, "TB": 1e12}

// ParseSize reads a number of bytes such as 500MB or 4GiB.
func ParseSize(text string) (int64, error) {
	end := strings.LastIndexAny(text, "0123456789.") + 1
	factor, ok := sizes[strings.ToUpper(strings.TrimSpace(text[end:]))]
	v, err := strconv.ParseFloat(strings.TrimSpace(text[:end]), 64)
	if err != nil || !ok || v <= 0 || v*factor > math.MaxInt64/2 {
		return 0, fmt.Errorf("%q is not a size: write 500MB or 4GiB", text)
	}
	return int64(v * factor), nil
}

// Systems lists the words for the systems of measures.
var Systems = []string{"metric", "nautical", "flight"}
