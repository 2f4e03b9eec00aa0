package plan

import (
	"strconv"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/nav"
	"gyrolith/core/pattern"
)

// The forms of the flight plan (ICAO Doc 4444, appendix 2, item 15): speed and level, airways, procedures, and a
// point by bearing and distance from a fix.
var (
	speedLevel      = pattern.New(`^(?:[NK]\d{4}|M\d{3})(F\d{3}|A\d{3}|S\d{4}|M\d{4}|VFR)?$`)
	airway          = pattern.New(`^[A-Z]{1,2}\d{1,4}[A-Z]?$`)
	procedure       = pattern.New(`^[A-Z]{3,5}\d[A-Z]$`)
	longAirway      = pattern.New(`^U[A-Z]\d{1,3}[A-Z]?$`)
	clockTime       = pattern.New(`^(?:([01]?\d|2[0-3]):([0-5]\d)(?::([0-5]\d))?|([01]\d|2[0-3])([0-5]\d)Z)(?:Z|UTC)?$`)
	radial          = pattern.New(`^(?:R-?)?(\d{3})°?([TM])?/(?:D|DME)?(\d{1,3}(?:\.\d+)?)(?:NM)?$`)
	radialOnly      = pattern.New(`^R-?(\d{3})°?([TM])?$`)
	distanceOnly    = pattern.New(`^(?:D|DME)(\d{1,3}(?:\.\d+)?)$|^(\d{1,3}(?:\.\d+)?)(?:NM|DME)$`)
	bearingDistance = pattern.New(`^([A-Z]{2,5})(\d{3})(\d{3})$`)
	identifier      = pattern.New(`^[A-Za-z][A-Za-z0-9]{1,9}$`)

	flightLevel = pattern.New(`(?i)\bFL ?(\d{2,3})\b|\bF(\d{3})\b`)
	// An altitude by itself, or behind the word for one; any other measure may be of anything.
	altitude = pattern.New(
		`(?i)(?:\bA(\d{3})\b|(?:^|[;,(]|\b(?:alt|altitude|height|elevation|elev|level|ele|hgt|at)\b[ .:=]*)\s*` +
			`([-+−]?(?:\d{1,3}(?:,\d{3})|\d{1,5}(?:\.\d+)?)) ?(ft|feet|m|metres|meters)\b` +
			`(?: ?(?:amsl|msl|alt|asl)\b)?\s*(?:$|[;,)]))`)
	measured = pattern.New(
		`(?i)\b(?:alt|altitude|height|elevation|elev|level)\b[^a-z]*\(? ?(ft|feet|m|metres)\b`)

	pageNumber = pattern.New(`(?i)^(?:page|p\.?)? ?[-–]? ?\d{1,4}(?: ?(?:of|/) ?\d{1,4})? ?[-–]?$|^page\b.*\d`)
	boundary   = pattern.New(`(?i)(?:\b|/)(?:FIR|UIR|BDY|BDRY|BOUNDARY|FIR/UIR)\b`)
	heading    = pattern.New(
		`(?i)\b(?:lat|latitude|lon|long|longitude|position|pos|coordinates|fix|ident|identifier|waypoint|name|wpt|leg|no|` +
			`nr|route|track|plan|list|remarks?)\b`)
	sequence = pattern.New(`^(\d{1,3})[.):]?$`)
)

// height reads an altitude or a flight level out of the rest of a row into a point, and gives the rest without it.
func height(p *nav.Point, rest string) string {
	if m := flightLevel.FindStringSubmatchIndex(rest); m != nil {
		digits := sub(rest, m, 1) + sub(rest, m, 2)
		level, _ := nav.ParseLevel("FL" + digits)
		p.SetHeight(level.Metres, decimal.PrecisionOf(1), nav.PressureLevel)
		return cutOut(rest, m[0], m[1])
	}
	m := altitude.FindStringSubmatchIndex(rest)
	if m == nil {
		return rest
	}
	text, unit := strings.NewReplacer(",", "", "−", "-").Replace(sub(rest, m, 2)), strings.ToLower(sub(rest, m, 3))
	if hundreds := sub(rest, m, 1); hundreds != "" {
		text, unit = hundreds+"00", "ft"
	}
	v, err := strconv.ParseFloat(text, 64)
	if err != nil {
		return rest
	}
	if strings.HasPrefix(unit, "f") {
		v *= 0.3048
	}
	p.SetHeight(v, decimal.PrecisionOf(1), nav.MeanSeaLevel)
	return cutOut(rest, m[0], m[1])
}

func sub(s string, m []int, group int) string {
	if m[2*group] < 0 {
		return ""
	}
	return s[m[2*group]:m[2*group+1]]
}

func cutOut(s string, from, to int) string {
	return strings.TrimSpace(strings.TrimSpace(s[:from]) + " " + strings.TrimSpace(s[to:]))
}

// tiedLevel reads the level of a group such as N0120F085 or A045.
func tiedLevel(p *nav.Point, group string) {
	if m := speedLevel.FindStringSubmatch(group); m != nil {
		group = m[1]
	}
	if group == "" {
		return
	}
	v, err := strconv.ParseFloat(group[1:], 64)
	if err != nil {
		return
	}
	switch group[0] {
	case 'F':
		p.SetHeight(v*30.48, decimal.PrecisionOf(1), nav.PressureLevel)
	case 'A':
		p.SetHeight(v*30.48, decimal.PrecisionOf(1), nav.MeanSeaLevel)
	case 'S':
		p.SetHeight(v*10, decimal.PrecisionOf(0), nav.PressureLevel)
	case 'M':
		p.SetHeight(v*10, decimal.PrecisionOf(0), nav.MeanSeaLevel)
	}
}

// tiedSpeed gives the speed of a group of speed and level, such as 110kn; "" where it has none, or a Mach number.
func tiedSpeed(group string) string {
	if !speedLevel.MatchString(group) || group == "" {
		return ""
	}
	digits := strings.TrimLeft(group[1:min(len(group), 5)], "0")
	switch group[0] {
	case 'N':
		return digits + "kn"
	case 'K':
		return digits + "km/h"
	}
	return ""
}

// tableHeader says whether one of the first lines is the header of a table with columns for latitude and longitude,
// which is read as a table and not as a plan.
func tableHeader(lines []string) bool {
	seen := 0
	for _, l := range lines {
		if strings.TrimSpace(l) == "" {
			continue
		}
		if seen++; seen > 5 {
			break
		}
		for _, sep := range []string{",", ";", "\t"} {
			cells := strings.Split(strings.ToLower(l), sep)
			lat, lon := false, false
			for _, c := range cells {
				c = strings.Trim(c, " \"'")
				lat = lat || strings.HasPrefix(c, "lat") || c == "y" || c == "northing"
				lon = lon || strings.HasPrefix(c, "lon") || strings.HasPrefix(c, "lng") || c == "x" || c == "easting"
			}
			if lat && lon {
				return true
			}
		}
	}
	return false
}

// unused says why a row without a position is not used; "" where it is a fix that should have had one.
func (r *row) unused(first int, beforeFirst bool) string {
	text := r.words(first, len(r.tokens))
	upper := strings.ToUpper(strings.Trim(text, " ,;-"))
	digits := strings.ContainsAny(text, "0123456789")
	switch {
	case boundary.MatchString(text):
		return "a boundary crossing without a position"
	case pageNumber.MatchString(text):
		return "a page number"
	case airway.MatchString(upper):
		return "an airway"
	case procedure.MatchString(upper):
		return "the name of a procedure"
	case upper == "DCT":
		return "a direct leg"
	case heading.MatchString(text) && (!digits || beforeFirst):
		return "a heading"
	case !strings.ContainsFunc(text, func(c rune) bool {
		return c >= '0' && c <= '9' || c >= 'A' && c <= 'Z' ||
			c >= 'a' && c <= 'z'
	}):
		return "a line of signs"
	case beforeFirst && len(r.tokens) > first+1:
		return "a heading"
	case !identifier.MatchString(strings.Trim(r.tokens[first].text, ",;")) || r.wordsBeside() > 3 || len(r.tokens) > 8:
		return unplaced
	}
	return ""
}
