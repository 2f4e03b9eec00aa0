package geodesy

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"

	"gyrolith/core/pattern"
)

// ErrNoPosition is given for a text that does not look like a position at all.
var ErrNoPosition = errors.New("is not a position: write it as 47.6012 S 11.3021 E, 47°36.075'S 011°18.126'E, " +
	"4736S01118E, 32 south 672887 4725593 or 32G PN 72887 25593")

// ParsePosition reads a latitude and longitude in degrees from a position in any notation: decimal degrees, degrees and
// minutes, or degrees, minutes and seconds, with signs or hemisphere letters before or behind, with or without marks;
// the compact forms of the flight plan; UTM, UPS and MGRS (the middle of its square). Numbers without letters are
// latitude first. An error says which part can't be right; it is ErrNoPosition where the text has not the shape of one.
func ParsePosition(text string) (lat, lon float64, err error) {
	s := strings.ToUpper(strings.TrimSpace(folder.Replace(text)))
	if rest, ok := strings.CutPrefix(s, "GEO:"); ok {
		return fromURI(rest)
	}
	if m := openCode.FindStringSubmatch(s); m != nil {
		return fromOpenCode(m[1], m[2])
	}
	s = respelled(s)
	for range 2 { // behind the degrees, and behind the minutes
		s = hyphens.ReplaceAllString(s, "$1 $2")
		s = hyphensBehind.ReplaceAllString(s, "$1 $2")
	}
	if m := compactForm.FindStringSubmatch(s); m != nil {
		return fromCompact(m)
	}
	if m := gridForm.FindStringSubmatch(s); m != nil {
		return fromGrid(m)
	}
	if m := polarForm.FindStringSubmatch(s); m != nil {
		return fromPolarGrid(m)
	}
	if m := militaryForm.FindStringSubmatch(s); m != nil {
		return fromMilitary(m)
	}
	lat, lon, err = fromAngles(s)
	if err == ErrNoPosition && letterO.MatchString(s) {
		err = errLetterO
	}
	return lat, lon, err
}

// letterO is a longitude whose letter stands for east in some languages and for west in others, behind a latitude.
var letterO = pattern.New(`\d[°'" ]*[NS]\b.*\d[°'" ]*O\b|\b[NS][°'" ]*\d.*\bO[°'" ]*\d`)

var errLetterO = errors.New("the letter O means east in some languages and west in others: write E or W")

// folder brings the many signs for one thing to one.
var folder = strings.NewReplacer("º", "°", "˚", "°", "′′", `"`, "′", "'", "’’", `"`, "’", "'", "‘", "'",
	"´´", `"`, "´", "'", "ʹ", "'", "`", "'", "″", `"`, "”", `"`, "“", `"`, "ʺ", `"`, "''", `"`,
	"−", "-", "–", "-", "‐", "-", "‑", "-", "\u00a0", " ", "\u2009", " ", "\u202f", " ", "\t", " ", "−", "-")

var (
	compactForm = pattern.New(
		`^(?:(\d{2}|\d{4}|\d{6})(\.\d+)?([NS])[ /,]?(\d{3}|\d{5}|\d{7})(\.\d+)?([EW])|([NS])(\d{2}|\d{4}|\d{6})(\.\d+)?[ ` +
			`/,]?([EW])(\d{3}|\d{5}|\d{7})(\.\d+)?)$`)
	gridForm = pattern.New(
		`^(?:UTM )?(?:ZONE )?(\d{1,2}) ?([C-HJ-NP-X]|NORTH|SOUTH),? (?:E(?:ASTING)?:? ?)?(\d{5,9}(?:\.\d+)?) ?(?:M ?)?E?[ ` +
			`,;]+(?:N(?:ORTHING)?:? ?)?(\d{1,8}(?:\.\d+)?) ?(?:M ?)?N?$`)
	polarForm = pattern.New(
		`^UPS (NORTH|SOUTH),? (\d{6,7}(?:\.\d+)?) ?(?:M ?)?E?[ ,;]+(\d{6,7}(?:\.\d+)?) ?(?:M ?)?N?$`)
	// MGRS without any digit is a square of 100 km: no position to go to.
	militaryForm = pattern.New(
		`^(?:MGRS )?(\d{1,2} ?[C-HJ-NP-X]|[ABYZ]) ?([A-HJ-NP-Z])([A-HJ-NP-V]|[A-HJ-NP-Z]) ?(\d{1,10})(?: (\d{1,10}))?$`)
	numberForm = pattern.New(`^(?:\d+(?:[.,]\d+)?|\.\d+)`)
)

// Hyphens between degrees, minutes and seconds, as in 47-36.072S and S47-36.072.
var (
	hyphens       = pattern.New(`(\d{1,3})-(\d{1,2}(?:-\d{1,2})?(?:\.\d+)? ?[NSEW]\b)`)
	hyphensBehind = pattern.New(`([NSEW] ?\d{1,3}(?: \d{1,2})?)-(\d{1,2}(?:\.\d+)?)`)
)

// fromURI reads the coordinates of a geo URI (RFC 5870): latitude and longitude in WGS 84, an altitude that is not
// wanted here, and parameters.
func fromURI(s string) (lat, lon float64, err error) {
	coordinates, parameters, _ := strings.Cut(s, ";")
	for p := range strings.SplitSeq(parameters, ";") {
		if name, value, _ := strings.Cut(p, "="); name == "CRS" && value != "WGS84" {
			return 0, 0, fmt.Errorf("the geo URI is in the system %s, but only WGS 84 can be read", strings.ToLower(value))
		}
	}
	parts := strings.Split(coordinates, ",")
	if len(parts) < 2 || len(parts) > 3 {
		return 0, 0, ErrNoPosition
	}
	if lat, err = strconv.ParseFloat(parts[0], 64); err == nil {
		lon, err = strconv.ParseFloat(parts[1], 64)
	}
	if err != nil || math.IsNaN(lat+lon) {
		return 0, 0, ErrNoPosition
	}
	if err = inRange(lat, "latitude", 90); err == nil {
		err = inRange(lon, "longitude", 180)
	}
	return lat, wrapWhole(lon), err
}

// fromCompact reads 47S011E, 4736S01118E and 473604S0111808E.
func fromCompact(m []string) (lat, lon float64, err error) {
	a, af, ah, o, of, oh := m[1], m[2], m[3], m[4], m[5], m[6]
	if m[7] != "" {
		ah, a, af, oh, o, of = m[7], m[8], m[9], m[10], m[11], m[12]
	}
	if lat, err = compactAngle(a, af, 2, ah == "S", "latitude", 90); err != nil {
		return
	}
	lon, err = compactAngle(o, of, 3, oh == "W", "longitude", 180)
	return lat, wrapWhole(lon), err
}

func compactAngle(digits, fraction string, width int, negative bool, what string, limit float64) (float64, error) {
	parts := []string{digits[:width]}
	for i := width; i < len(digits); i += 2 {
		parts = append(parts, digits[i:i+2])
	}
	parts[len(parts)-1] += fraction
	v, err := sexagesimal(parts, what)
	if err != nil {
		return 0, err
	}
	if negative {
		v = -v
	}
	return v, inRange(v, what, limit)
}

// sexagesimal adds up degrees, minutes and seconds, of which only the last may have decimals.
func sexagesimal(parts []string, what string) (float64, error) {
	v, scale := 0.0, 1.0
	for i, p := range parts {
		x, err := strconv.ParseFloat(strings.Replace(p, ",", ".", 1), 64)
		if err != nil {
			return 0, fmt.Errorf("%q in the %s is not a number", p, what)
		}
		if i < len(parts)-1 && strings.ContainsAny(p, ".,") {
			return 0, fmt.Errorf("the %s has decimals in %q, followed by a smaller part", what, p)
		}
		if i > 0 && x >= 60 {
			return 0, fmt.Errorf("the %s has %s %s; it must be less than 60", what, p, [...]string{"", "minutes", "seconds"}[i])
		}
		v += x / scale
		scale *= 60
	}
	return v, nil
}

func inRange(v float64, what string, limit float64) error {
	if math.Abs(v) > limit {
		return fmt.Errorf("the %s %s is beyond %v degrees", what, strconv.FormatFloat(v, 'f', -1, 64), limit)
	}
	return nil
}

// wrapWhole is 180 degrees east, which is written as 180 degrees west.
func wrapWhole(lon float64) float64 {
	if lon == 180 {
		return -180
	}
	return lon
}

func fromGrid(m []string) (lat, lon float64, err error) {
	zone, _ := strconv.Atoi(m[1])
	east, _ := strconv.ParseFloat(m[3], 64)
	north, _ := strconv.ParseFloat(m[4], 64)
	if zone < 1 || zone > 60 {
		return 0, 0, fmt.Errorf("there is no UTM zone %d; they go from 1 to 60", zone)
	}
	if east < 100000 || east >= 1000000 {
		return 0, 0, fmt.Errorf("the easting %s is outside of a UTM zone, where it lies between 100000 and 900000", m[3])
	}
	if north > falseSouth {
		return 0, 0, fmt.Errorf("the northing %s is beyond 10000000", m[4])
	}
	letter := m[2]
	switch letter {
	case "N", "S":
		return 0, 0, fmt.Errorf("%s%s is ambiguous: the %s half of the earth, or the latitude band %s; "+
			"write %s %s, or the band's own letter", m[1], letter,
			map[string]string{"N": "northern", "S": "southern"}[letter], map[string]string{"N": "N, 0° to 8° north",
				"S": "S, 32° to 40° north"}[letter], m[1], map[string]string{"N": "north", "S": "south"}[letter])
	case "NORTH", "SOUTH":
		u := UTM{zone, letter == "SOUTH"}
		lat, lon = u.Inverse(east, north)
		if u.South && lat > 0.0001 || lat > 84.5 || lat < -80.5 {
			return 0, 0, fmt.Errorf("the northing %s is outside of the %s half of the zone", m[4], strings.ToLower(letter))
		}
		return lat, wrap(lon), nil
	}
	low, high := bandRange(letter[0])
	lat, lon = UTM{zone, low < 0}.Inverse(east, north)
	if lat < low-0.01 || lat > high+0.01 {
		return 0, 0, fmt.Errorf("the northing %s is not in the band %s, which goes from %v° to %v°", m[4], letter, low, high)
	}
	return lat, wrap(lon), nil
}

func fromPolarGrid(m []string) (lat, lon float64, err error) {
	east, _ := strconv.ParseFloat(m[2], 64)
	north, _ := strconv.ParseFloat(m[3], 64)
	lat, lon = UPS{m[1] == "SOUTH"}.Inverse(east, north)
	if math.Abs(lat) < 79 {
		return 0, 0, errors.New("the coordinates are outside of the polar grid")
	}
	return lat, lon, nil
}

func fromMilitary(m []string) (lat, lon float64, err error) {
	digits := m[4] + m[5]
	switch {
	case m[5] == "" && len(digits)%2 != 0:
		return 0, 0, fmt.Errorf("the grid reference has %d digits, which don't divide evenly into easting and northing",
			len(digits))
	case m[5] != "" && len(m[4]) != len(m[5]):
		return 0, 0, fmt.Errorf("the grid reference has %d digits for the easting and %d for the northing; they must "+
			"be as many", len(m[4]), len(m[5]))
	case len(digits) > 10:
		return 0, 0, fmt.Errorf("the grid reference has %d digits; there are at most 10", len(digits))
	}
	name := strings.ReplaceAll(m[1], " ", "")
	zone, _ := strconv.Atoi(name[:len(name)-1])
	letter := name[len(name)-1]
	if zone == 0 && len(name) > 1 || zone > 60 {
		return 0, 0, fmt.Errorf("there is no grid zone %s", name)
	}
	return fromMGRS(zone, letter, m[2][0], m[3][0], digits)
}

// piece is a part of a position in angles: a number, a sign, a hemisphere letter or a mark.
type piece struct {
	kind byte // '0' number, '+' or '-', 'N' 'S' 'E' 'W', '°' as 'd', '\'' , '"', ',' between coordinates
	text string
}

var errNot = ErrNoPosition

// fromAngles reads two angles.
func fromAngles(s string) (lat, lon float64, err error) {
	pieces, err := split(s)
	if err != nil {
		return 0, 0, err
	}
	first, second, err := halves(pieces)
	if err != nil {
		return 0, 0, err
	}
	a, err := newAngle(first)
	if err != nil {
		return 0, 0, err
	}
	b, err := newAngle(second)
	if err != nil {
		return 0, 0, err
	}
	if (a.letter == 0) != (b.letter == 0) {
		return 0, 0, errors.New("only one of the two coordinates has a hemisphere letter")
	}
	if a.letter != 0 && a.isLat() == b.isLat() {
		return 0, 0, fmt.Errorf("both coordinates have the same kind of letter, %c and %c", a.letter, b.letter)
	}
	if len(a.parts) != len(b.parts) && !a.marked && !b.marked { // as of a row's number and a position
		return 0, 0, errNot
	}
	if a.letter != 0 && !a.isLat() {
		a, b = b, a
	}
	if lat, err = a.value("latitude", 90); err != nil {
		return 0, 0, err
	}
	lon, err = b.value("longitude", 180)
	return lat, wrapWhole(lon), err
}

// split takes a text apart. A comma between digits is the decimal sign where there is no full stop and something else
// parts the numbers.
func split(s string) ([]piece, error) {
	comma := !strings.Contains(s, ".") && decimalComma.MatchString(s)
	var out []piece
	for i := 0; i < len(s); {
		rest := s[i:]
		switch c := s[i]; {
		case c >= '0' && c <= '9' || c == '.':
			n := numberForm.FindString(rest)
			if n == "" {
				return nil, errNot
			}
			if !comma {
				n, _, _ = strings.Cut(n, ",")
			}
			out = append(out, piece{'0', n})
			i += len(n)
		case strings.HasPrefix(rest, "°"):
			out = append(out, piece{kind: 'd'})
			i += len("°")
		case c == 'S' && unitWord.MatchString(rest):
			out = append(out, piece{kind: '"'})
			i += len(unitWord.FindString(rest))
		case c == '\'' || c == '"' || c == '+' || c == '-' || c == 'N' || c == 'S' || c == 'E' || c == 'W':
			if i+1 < len(s) && letterAt(s, i) && letterAt(s, i+1) {
				word := longWord.FindString(rest)
				if len(word) < 4 {
					return nil, errNot
				}
				out = append(out, piece{kind: c})
				i += len(word)
				continue
			}
			out = append(out, piece{kind: c})
			i++
		case c == ',' || c == ';' || c == '/' || c == '|':
			out = append(out, piece{kind: ','})
			i++
		case c == ' ' || c == ':' || c == '(' || c == ')':
			if c == ' ' {
				out = append(out, piece{kind: ' '})
			}
			i++
		case c == 'L' && longWord.MatchString(rest): // Lat, Lon and the like in front of an angle
			i += len(longWord.FindString(rest))
			for i < len(s) && (s[i] == ':' || s[i] == '=' || s[i] == '.') {
				i++
			}
		case unitWord.MatchString(rest) && c == 'D':
			out = append(out, piece{kind: 'd'})
			i += len(unitWord.FindString(rest))
		case unitWord.MatchString(rest) && c == 'M':
			out = append(out, piece{kind: '\''})
			i += len(unitWord.FindString(rest))
		default:
			return nil, errNot
		}
	}
	return out, nil
}

var (
	decimalComma = pattern.New(`^[^,]*\d,\d+[^\d,]+(?:[^,]*\d)?(?:,\d+)?[^,]*$|^[^,]*[^\d,]\d+,\d+[^,]*$`)
	unitWord     = pattern.New(`^(?:DEGREES?|DEG|MINUTES?|MINS?|SECONDS?|SECS?)\b\.?`)
	longWord     = pattern.New(`^(?:NORTH|SOUTH|EAST|WEST|LATITUDE|LONGITUDE|LAT|LONG|LON)\b`)
)

func letterAt(s string, i int) bool { return s[i] >= 'A' && s[i] <= 'Z' }

// halves finds where the first angle ends.
func halves(pieces []piece) (a, b []piece, err error) {
	var dense []piece
	numbers, letters, commas := 0, 0, 0
	for _, p := range pieces {
		switch {
		case p.kind == ' ':
			continue
		case p.kind == '0':
			numbers++
		case p.kind == ',':
			commas++
		case p.kind >= 'A' && p.kind <= 'Z':
			letters++
		}
		dense = append(dense, p)
	}
	if numbers < 2 || numbers > 6 || commas > 1 || letters > 2 {
		return nil, nil, errNot
	}
	at := -1
	switch {
	case commas == 1:
		for i, p := range dense {
			if p.kind == ',' {
				return dense[:i], dense[i+1:], nil
			}
		}
	case letters > 0 && dense[0].kind >= 'A' && dense[0].kind <= 'Z': // letters in front
		for i := 1; i < len(dense); i++ {
			if k := dense[i].kind; k >= 'A' && k <= 'Z' {
				at = i
			}
		}
	case letters > 0:
		for i, p := range dense {
			if p.kind >= 'A' && p.kind <= 'Z' {
				at = i + 1
				break
			}
		}
	default:
		// A sign begins the second angle, or a second mark of degrees, or half of the numbers are passed.
		seen, degrees := 0, 0
		for i, p := range dense {
			if p.kind == 'd' {
				degrees++
			}
			if p.kind == '0' {
				if seen++; degrees == 1 && i+1 < len(dense) && dense[i+1].kind == 'd' {
					at = i
					if dense[i-1].kind == '-' || dense[i-1].kind == '+' {
						at--
					}
					break
				}
			}
			if (p.kind == '-' || p.kind == '+') && i > 0 {
				at = i
				break
			}
		}
		if at < 0 {
			if numbers%2 != 0 {
				return nil, nil, errNot
			}
			seen = 0
			for i, p := range dense {
				if p.kind == '0' {
					if seen++; seen == numbers/2+1 {
						at = i
						break
					}
				}
			}
		}
	}
	if at <= 0 || at >= len(dense) {
		return nil, nil, errNot
	}
	return dense[:at], dense[at:], nil
}

// angle is one coordinate taken apart.
type angle struct {
	parts  []string
	letter byte
	sign   byte
	marked bool
}

func (a *angle) isLat() bool { return a.letter == 'N' || a.letter == 'S' }

// marks are what may stand behind degrees, minutes and seconds.
var marks = [...]byte{'d', '\'', '"'}

func newAngle(pieces []piece) (*angle, error) {
	a := &angle{}
	for i, p := range pieces {
		switch p.kind {
		case '0':
			if len(a.parts) == 3 || a.letter != 0 && i > 1 && pieces[0].kind != a.letter {
				return nil, errNot
			}
			a.parts = append(a.parts, p.text)
		case 'd', '\'', '"':
			if len(a.parts) == 0 || marks[len(a.parts)-1] != p.kind {
				return nil, errNot
			}
			a.marked = true
		case '+', '-':
			if len(a.parts) > 0 || a.sign != 0 {
				return nil, errNot
			}
			a.sign = p.kind
		default:
			if a.letter != 0 || i > 0 && i < len(pieces)-1 && pieces[0].kind != a.sign {
				return nil, errNot
			}
			a.letter = p.kind
		}
	}
	if len(a.parts) == 0 {
		return nil, errNot
	}
	return a, nil
}

func (a *angle) value(what string, limit float64) (float64, error) {
	if a.letter != 0 && a.sign != 0 {
		return 0, fmt.Errorf("the %s has both a sign and a letter, %c and %c", what, a.sign, a.letter)
	}
	v, err := sexagesimal(a.parts, what)
	if err != nil {
		return 0, err
	}
	if a.sign == '-' || a.letter == 'S' || a.letter == 'W' {
		v = -v
	}
	return v, inRange(v, what, limit)
}

// Compass writes a position in decimal degrees with the letters of its hemispheres, as exactly as it is: 47.6S 11.3E.
func Compass(lat, lon float64) string {
	angle := func(v float64, letters string) string {
		if math.Signbit(v) {
			return strconv.FormatFloat(-v, 'f', -1, 64) + letters[1:]
		}
		return strconv.FormatFloat(v, 'f', -1, 64) + letters[:1]
	}
	return angle(lat, "NS") + " " + angle(lon, "EW")
}
