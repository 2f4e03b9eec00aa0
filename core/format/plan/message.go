package plan

import (
	"strings"
	"time"

	"gyrolith/core/pattern"
)

// The fields of a flight plan message that fixes come from (ICAO Doc 4444, appendix 2).
type messageField int

const (
	noMessage messageField = iota
	otherField
	departureField   // item 13
	routeField       // item 15
	destinationField // item 16
)

var (
	messageBegin  = pattern.New(`^\s*\(FPL-`)
	departureForm = pattern.New(`^([A-Z]{4})(\d{4})$`)
	routeForm     = pattern.New(`^(?:[NK]\d{4}|M\d{3})(?:F\d{3}|A\d{3}|S\d{4}|M\d{4}|VFR)\s`)
	arrivalForm   = pattern.New(`^([A-Z]{4})(\d{4})((?:\s+[A-Z]{4})*)$`)
	// What item 18 says of an aerodrome without a designator, and of the day.
	otherDeparture   = pattern.New(`\bDEP/(.+?)(?:\s+[A-Z]{3,4}/|$)`)
	otherDestination = pattern.New(`\bDEST/(.+?)(?:\s+[A-Z]{3,4}/|$)`)
	dayOfFlight      = pattern.New(`\bDOF/(\d{2})(\d{2})(\d{2})\b`)
)

// noDesignator stands for an aerodrome that has none.
const noDesignator = "ZZZZ"

// messageRow is a line of a message: the field that it begins or goes on with, and what of it is read.
type messageRow struct {
	field messageField
	text  string
	time  string // of departure
	rest  string // of the destination: the time of the flight, and alternates
}

// message takes a flight plan message apart, by the numbers of its lines; nil where the text is none. Day is the day of
// the flight; the zero time where it is not said.
func message(lines []string) (rows map[int]messageRow, day time.Time) {
	begin := -1
	for i, l := range lines {
		if messageBegin.MatchString(l) {
			begin = i
			break
		}
	}
	if begin < 0 {
		return nil, day
	}
	rows = map[int]messageRow{}
	last, departed := otherField, false
	var other strings.Builder
	for i := begin; i < len(lines); i++ {
		text := strings.TrimSpace(lines[i])
		text, ended := strings.CutSuffix(text, ")")
		body, begins := strings.CutPrefix(text, "-")
		row := messageRow{field: otherField, text: text}
		switch {
		case !begins && last == routeField && i > begin:
			row = messageRow{field: routeField, text: text}
		case !begins:
			row.text = text
		case !departed && departureForm.MatchString(body):
			m := departureForm.FindStringSubmatch(body)
			row, departed = messageRow{field: departureField, text: m[1], time: m[2] + "Z"}, true
		case routeForm.MatchString(body + " "):
			row = messageRow{field: routeField, text: body}
		case last == routeField && arrivalForm.MatchString(body):
			m := arrivalForm.FindStringSubmatch(body)
			row = messageRow{field: destinationField, text: m[1], rest: m[2] + m[3]}
		}
		if last = row.field; row.field == otherField {
			other.WriteString(" " + text)
		}
		rows[i] = row
		if ended {
			break
		}
	}
	for i, row := range rows {
		form := otherDeparture
		if row.field == destinationField {
			form = otherDestination
		}
		if m := form.FindStringSubmatch(other.String()); m != nil && row.text == noDesignator {
			row.text = m[1]
			rows[i] = row
		}
	}
	if m := dayOfFlight.FindStringSubmatch(other.String()); m != nil {
		day, _ = time.Parse("060102", m[1]+m[2]+m[3])
	}
	return rows, day
}
