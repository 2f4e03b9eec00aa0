package table

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/pattern"
)

// place reads the usual case, a plain number in each of two columns.
func (r *reader) place(w *nav.Waypoint, cells [][]byte) bool {
	if !r.simple || r.lat >= len(cells) || r.lon >= len(cells) {
		return false
	}
	lat, lon := cells[r.lat], cells[r.lon]
	var n, m int
	w.Lat, w.LatPrecision, n = decimal.Prefix(lat)
	w.Lon, w.LonPrecision, m = decimal.Prefix(lon)
	return n == len(lat) && m == len(lon) && n > 0 && m > 0 && math.Abs(w.Lat) <= 90 && math.Abs(w.Lon) < 180
}

// number reads a number that may have a decimal comma, and blanks, apostrophes or full stops between its thousands.
func number(cell string) (float64, decimal.Precision, bool) {
	if v, d, ok := decimal.Parse([]byte(cell)); ok {
		return v, d, true
	}
	s := strings.NewReplacer(" ", "", "\u00a0", "", "\u202f", "", "\u2009", "", "'", "", "’", "", "−", "-").Replace(cell)
	dot, comma := strings.LastIndexByte(s, '.'), strings.LastIndexByte(s, ',')
	switch {
	case comma > dot && strings.Count(s, ",") == 1:
		s = strings.ReplaceAll(s, ".", "")
		s = strings.Replace(s, ",", ".", 1)
	case comma >= 0 && comma < dot:
		s = strings.ReplaceAll(s, ",", "")
	case strings.Count(s, ".") > 1 && comma < 0: // 5.273.456
		s = strings.ReplaceAll(s, ".", "")
	}
	return decimal.Parse([]byte(s))
}

// degrees reads a plain number that may have a decimal comma.
func degrees(cell string) (float64, decimal.Precision, bool) {
	return decimal.Parse([]byte(strings.Replace(strings.ReplaceAll(cell, "−", "-"), ",", ".", 1)))
}

// placeSlowly reads a position in any other form. Why is the reason for which the row can't be used; it is not used,
// without a reason, where it is blank or repeats the header.
func (r *reader) placeSlowly(w *nav.Waypoint, cells [][]byte, line int) (raw, why string, used bool) {
	if !slices.ContainsFunc(cells, func(c []byte) bool { return len(bytes.TrimSpace(c)) > 0 }) {
		return "", "", false
	}
	join := func(columns []int) string {
		var parts []string
		for _, i := range columns {
			if c := text(at(cells, i)); c != "" {
				parts = append(parts, c)
			}
		}
		return strings.Join(parts, " ")
	}
	var a, b string
	switch {
	case r.east >= 0:
		a, b = text(at(cells, r.east)), text(at(cells, r.north))
	case r.position >= 0:
		a = text(at(cells, r.position))
	default:
		a, b = join(r.found.at["lat"]), join(r.found.at["lon"])
	}
	if r.repeated(cells) {
		r.more = r.more || r.alone == line-1 // a title above it begins another table
		return "", "", false
	}
	if r.otherTable(cells) {
		r.more = true
		return "", "", false
	}
	raw = strings.TrimSpace(a + " " + b)
	if raw == "" {
		var rest []string
		for _, c := range cells {
			if t := text(c); t != "" {
				rest = append(rest, t)
			}
		}
		if len(rest) == 1 {
			r.alone = line
		}
		return "", fmt.Sprintf("the row has no coordinates (%s)", clip(strings.Join(rest, ", "))), false
	}
	switch {
	case r.east >= 0:
		zone := text(at(cells, r.zone))
		if side := text(at(cells, r.ns)); side != "" && strings.Trim(zone, " 0123456789") == "" {
			if !r.letters.take(&side, "N", "S") {
				return raw, fmt.Sprintf("%q is neither N nor S", clip(side)), true
			}
			zone += map[string]string{"N": " north", "S": " south"}[side]
		}
		why = r.placeGrid(w, a, b, zone)
	case r.position >= 0 && looksGeometric(a):
		why = r.placeGeometry(w, a)
	case r.position >= 0:
		if lat, lon, ok, err := r.opt.System.GridReference(a); ok {
			if err != nil {
				return raw, err.Error(), true
			}
			w.Point = nav.At(lat, lon)
			return raw, "", true
		}
		if r.sideOfO != "O" && strings.ContainsAny(a, "Oo") {
			a = letterO.ReplaceAllString(a, "${1}"+r.sideOfO+"${2}")
		}
		lat, lon, err := geodesy.ParsePosition(strings.TrimSuffix(strings.TrimPrefix(a, "("), ")"))
		if err != nil {
			return raw, sentence(err), true
		}
		w.Point = nav.At(lat, lon)
		w.LatPrecision, w.LonPrecision = digitsOf(a)
	default:
		if r.sideOfO != "O" && strings.ContainsAny(b, "Oo") {
			b = letterO.ReplaceAllString(b, "${1}"+r.sideOfO+"${2}")
		}
		why = r.placeAngles(w, a, b, text(at(cells, r.ns)), text(at(cells, r.ew)), line)
	}
	lon := b
	if r.position >= 0 {
		lon = a
	}
	if why != "" && r.sideOfO == "O" && letterO.MatchString(lon) {
		why = undecidedO
	}
	if why == "" && r.datum >= 0 {
		why = r.inDatum(&w.Point, text(at(cells, r.datum)))
	}
	return raw, why, true
}

// undecidedO says why a position with an O can't be used.
const undecidedO = "the letter O means east in some languages and west in others: write E or W"

// letterO is an O that stands alone beside an angle.
var letterO = pattern.New(`(^|[^\pL])[Oo]([^\pL]|$)`)

func sentence(err error) string {
	text := err.Error()
	if err == geodesy.ErrNoPosition {
		text, _, _ = strings.Cut(text, ":")
	}
	return text
}

func clip(s string) string {
	if r := []rune(s); len(r) > 48 {
		return string(r[:47]) + "…"
	}
	return s
}

// repeated says whether a row is the header again.
func (r *reader) repeated(cells [][]byte) bool {
	if r.header < 0 {
		return false
	}
	same := 0
	for i, t := range r.titles {
		if c := text(at(cells, i)); c != "" && c == strings.TrimSpace(t) {
			same++
		} else if c != "" {
			return false
		}
	}
	return same > 1
}

// digitsOf keeps the decimals of two plain numbers in one cell; otherwise the position is computed.
func digitsOf(cell string) (lat, lon decimal.Precision) {
	f := strings.FieldsFunc(cell, func(r rune) bool { return r == ' ' || r == ',' || r == ';' || r == '/' })
	if len(f) != 2 {
		return
	}
	_, lat, ok1 := decimal.Parse([]byte(f[0]))
	_, lon, ok2 := decimal.Parse([]byte(f[1]))
	if !ok1 || !ok2 {
		return 0, 0
	}
	return
}

// placeGrid reads an easting and a northing of the system, or of a zone of UTM.
func (r *reader) placeGrid(w *nav.Waypoint, a, b, zone string) string {
	for _, c := range []string{".", ","} { // what parts thousands in one of them does so in both: 432.000 beside 5.273.456
		if strings.Count(a, c) > 1 || strings.Count(b, c) > 1 {
			a, b = strings.ReplaceAll(a, c, ""), strings.ReplaceAll(b, c, "")
		}
	}
	if commaThousands.MatchString(a) && commaThousands.MatchString(b) {
		return fmt.Sprintf("%s and %s could be thousands or decimals: write them without commas", a, b)
	}
	e, _, ok1 := number(a)
	n, _, ok2 := number(b)
	switch {
	case !ok1:
		return fmt.Sprintf("easting %q is not a number", clip(a))
	case !ok2:
		return fmt.Sprintf("northing %q is not a number", clip(b))
	}
	s := r.opt.System
	if s == nil || !s.Projected() {
		if zone == "" {
			return "has no UTM zone"
		}
		lat, lon, err := geodesy.ParsePosition(fmt.Sprintf("%s %s %s", r.hemisphereOf(zone, n),
			strconv.FormatFloat(e, 'f', -1, 64), strconv.FormatFloat(n, 'f', -1, 64)))
		if err != nil {
			return sentence(err)
		}
		w.Point = nav.At(lat, lon)
		return ""
	}
	if s.Southing() { // its definition counts to the west and south
		e, n = -e, -n
	}
	lat, lon, ok := s.Inverse(e, n)
	r.beyond.look(s, e, n, lat, lon, ok)
	if !ok {
		return fmt.Sprintf("is out of range for %v", s)
	}
	if lat == 0 && lon == 0 || e == 0 && n == 0 {
		return "easting and northing are both zero"
	}
	w.Point = nav.At(lat, lon)
	return ""
}

// hemisphereOf settles what 32N and 32S in a column of zones mean, where only one reading is possible: N as a band of
// latitude lies in the north as well, and the band S has northings between 3,540,000 and 4,430,000 m. Between these
// both readings stay.
func (r *reader) hemisphereOf(zone string, northing float64) string {
	m := zoneLetter.FindStringSubmatch(strings.ToUpper(zone))
	switch {
	case m == nil:
		return zone
	case m[2] == "N":
		return m[1] + " north"
	case northing > 3.5e6 && northing < 4.5e6:
		return zone
	}
	if r.south == "" {
		r.south = strings.TrimSpace(zone)
	}
	return m[1] + " south"
}

// commaThousands are numbers of which nobody can say whether their comma parts thousands or decimals.
var commaThousands = pattern.New(`^[-−+]?\d{1,3},\d{3}$`)

var zoneLetter = pattern.New(`^\s*(\d{1,2}) ?([NS])\s*$`)

// placeAngles reads latitude and longitude from two texts, with the letters of the hemispheres in columns of their own
// or not.
func (r *reader) placeAngles(w *nav.Waypoint, a, b, ns, ew string, line int) string {
	lat, latDigits, ok1 := degrees(a)
	lon, lonDigits, ok2 := degrees(b)
	if ok1 != ok2 && ns+ew == "" { // a sign beside a letter
		a, b = lettered(a, lat, ok1, "N", "S", b), lettered(b, lon, ok2, "E", "W", a)
	}
	switch {
	case a == "":
		return "has no latitude"
	case b == "":
		return "has no longitude"
	}
	if ok1 && ok2 {
		if why := r.latAngles.read(&lat, &latDigits, &ns, a, "latitude"); why != "" {
			return why
		}
		if why := r.lonAngles.read(&lon, &lonDigits, &ew, b, "longitude"); why != "" {
			return why
		}
	}
	if ns != "" && !r.letters.take(&ns, "N", "S") {
		return fmt.Sprintf("%q is neither N nor S", clip(ns))
	}
	if ew != "" && !r.letters.take(&ew, "E", "W") {
		if isO(ew) {
			return fmt.Sprintf("%q means east in some languages and west in others: write E or W", clip(ew))
		}
		return fmt.Sprintf("%q is neither E nor W", clip(ew))
	}
	if ok1 && ok2 {
		switch {
		case lat < 0 && ns == "N":
			return fmt.Sprintf("latitude %s is negative, but its hemisphere is N", clip(a))
		case lon < 0 && ew == "E":
			return fmt.Sprintf("longitude %s is negative, but its hemisphere is E", clip(b))
		}
		if ns != "" {
			lat = math.Copysign(lat, map[string]float64{"N": 1, "S": -1}[ns])
		}
		if ew != "" {
			lon = math.Copysign(lon, map[string]float64{"E": 1, "W": -1}[ew])
		}
		switch {
		case math.Abs(lat) > 90:
			r.faulty = append(r.faulty, fault{line, lat, lon})
			return fmt.Sprintf("latitude %s is beyond 90 degrees", clip(a))
		case math.Abs(lon) > 180:
			r.faulty = append(r.faulty, fault{line, lat, lon})
			return fmt.Sprintf("longitude %s is beyond 180 degrees", clip(b))
		}
	} else {
		if r.latAngles.factor != 1 || r.lonAngles.factor != 1 {
			return "is not a number in the measure of the heading"
		}
		if isO(r.lonAngles.side) && !strings.ContainsAny(b, "EeWw") {
			return "has a heading whose O means east in some languages and west in others: write E or W in the cells"
		}
		var err error
		lat, lon, err = geodesy.ParsePosition(withLetter(a, ns+r.latAngles.side) + " " + withLetter(b, ew+r.lonAngles.side))
		if err != nil { // the cells have letters of their own
			lat, lon, err = geodesy.ParsePosition(withLetter(a, ns) + " " + withLetter(b, ew))
		}
		if err != nil {
			// A comma between the two is surer than a blank where each has parts.
			lat, lon, err = geodesy.ParsePosition(strings.ReplaceAll(withLetter(a, ns), ",", ".") + ", " +
				strings.ReplaceAll(withLetter(b, ew), ",", "."))
		}
		if err != nil {
			switch {
			case ok1 && err == geodesy.ErrNoPosition:
				return fmt.Sprintf("longitude %q is not a number", clip(b))
			case ok2 && err == geodesy.ErrNoPosition:
				return fmt.Sprintf("latitude %q is not a number", clip(a))
			}
			return sentence(err)
		}
		latDigits, lonDigits = 0, 0
	}
	if s := r.opt.System; !s.WGS84() {
		var ok bool
		if lat, lon, ok = s.Inverse(lon/s.Measure, lat/s.Measure); !ok {
			return fmt.Sprintf("is out of range for %v", s)
		}
		latDigits, lonDigits = 0, 0
	}
	w.Point = nav.At(lat, lon)
	w.LatPrecision, w.LonPrecision = latDigits, lonDigits
	return ""
}

// lettered gives a plain number the letter of its sign, where the other coordinate has one.
func lettered(angle string, v float64, plain bool, positive, negative, other string) string {
	if !plain || !strings.ContainsAny(strings.ToUpper(other), "NSEW") {
		return angle
	}
	if v < 0 {
		positive = negative
	}
	return strings.TrimLeft(angle, "+-−") + "° " + positive
}

func withLetter(angle, letter string) string {
	if letter == "" {
		return angle
	}
	return angle + " " + letter
}
