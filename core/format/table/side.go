package table

import (
	"fmt"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format/headings"
)

// angles is how the numbers of a column of latitudes or longitudes are meant by its heading.
type angles struct {
	side   string  // the hemisphere that the heading names: S, W, O where it could be east or west; "" is by the sign
	signed bool    // its numbers are negative there already
	factor float64 // degrees that one of its numbers is
	name   string  // of the measure, where it isn't degrees
	turns  bool    // longitudes are counted from 0 to 360
}

// anglesOf settles what the heading of the column says, where the whole coordinate stands in one.
func (r *reader) anglesOf(word string, letters int, rows [][]string) angles {
	out := angles{factor: 1}
	at := r.at[word]
	if len(at) != 1 || at[0] >= len(r.titles) {
		return out
	}
	if m, _ := headings.MeasureOf(r.titles[at[0]], headings.Angle); m.Name == "radians" || m.Name == "gon" {
		out.factor, out.name = m.Factor, m.Name
	}
	if side := headings.SideOf(r.titles[at[0]], word); letters < 0 && side != "N" && side != "E" {
		out.side = side
	}
	some, positive, farthest := false, false, 0.0
	for _, cells := range rows[r.header+1:] {
		if at[0] < len(cells) {
			v, _, _ := degrees(strings.TrimSpace(cells[at[0]]))
			some, positive, farthest = some || v < 0, positive || v > 0, max(farthest, v)
		}
	}
	out.signed = some && !positive
	if most := map[string]float64{"lat": 90, "lon": 180}[word]; headings.SaysGrad(r.titles[at[0]]) {
		if farthest > most {
			out.factor, out.name = 0.9, "gon"
		} else {
			r.doubt(r.header+1, "the column %s is in grad, which were read as degrees; a title with (gon) has gon read",
				r.title(at[0]))
		}
	}
	out.turns = word == "lon" && !some && farthest > 180 && farthest <= 360 && out.factor == 1 && out.side == ""
	return out
}

// plain says that the heading says nothing that the numbers don't.
func (a *angles) plain() bool { return a.factor == 1 && a.side == "" && !a.turns }

// read gives a number in degrees, with the letter of its hemisphere where the heading names one; why says what
// contradicts the heading.
func (a *angles) read(v *float64, digits *decimal.Precision, letter *string, cell, what string) (why string) {
	if a.factor != 1 {
		*v, *digits = *v*a.factor, 0
	}
	if a.turns && *v > 180 && *v <= 360 {
		*v -= 360
	}
	if a.side == "" || *v == 0 {
		return ""
	}
	if a.signed != (*v < 0) {
		said := map[bool]string{true: "positive beside negative ones", false: "negative"}[a.signed]
		return fmt.Sprintf("%s %s is %s, but the heading says %s: write the sign or the letter in the cells", what,
			clip(cell), said, a.side)
	}
	*letter = a.side
	return ""
}

// sayAngles lists what the headings of coordinates say.
func (r *reader) sayAngles() string {
	var parts []string
	for _, w := range []struct {
		what string
		of   *angles
	}{{"lat", &r.latAngles}, {"lon", &r.lonAngles}} {
		if w.of.name != "" {
			parts = append(parts, w.what+" in "+w.of.name)
		}
		if w.of.turns {
			parts = append(parts, w.what+" counts from 0 to 360")
		}
		if side := map[string]string{"S": "south", "W": "west"}[w.of.side]; side != "" {
			parts = append(parts, w.what+" is "+side)
		}
	}
	if len(parts) == 0 {
		return ""
	}
	return "; " + strings.Join(parts, ", ")
}
