package table

import (
	"fmt"
	"math"
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
	packed bool    // degrees and minutes are one number, as in 4730.25 for 47° 30.25'
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
	if out.side == "O" {
		out.side = r.sideOfO
	}
	if _, power := headings.WithoutPower(headings.Folded(r.titles[at[0]])); power != 0 {
		out.factor, out.name = math.Pow10(-power), fmt.Sprintf("10⁻%c degrees", []rune("⁶⁷")[power-6])
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
func (a *angles) plain() bool { return a.factor == 1 && a.side == "" && !a.turns && !a.packed }

// together settles forms that both columns show by their numbers alone: whole numbers of a millionth of a degree, and
// degrees and minutes in one number.
func (r *reader) together(rows [][]string) {
	if r.latAngles.factor != 1 || r.lonAngles.factor != 1 || len(r.at["lat"]) != 1 || len(r.at["lon"]) != 1 {
		return
	}
	whole, minutes, farLat, farLon, n := true, true, 0.0, 0.0, 0
	for _, cells := range rows[r.header+1:] {
		if r.lat >= len(cells) || r.lon >= len(cells) {
			continue
		}
		lat, latDigits, ok1 := degrees(strings.TrimSpace(cells[r.lat]))
		lon, lonDigits, ok2 := degrees(strings.TrimSpace(cells[r.lon]))
		if !ok1 || !ok2 {
			continue
		}
		n++
		farLat, farLon = max(farLat, math.Abs(lat)), max(farLon, math.Abs(lon))
		a, _ := latDigits.Decimals()
		b, _ := lonDigits.Decimals()
		whole = whole && a == 0 && b == 0
		minutes = minutes && math.Mod(math.Abs(lat), 100) < 60 && math.Mod(math.Abs(lon), 100) < 60
	}
	const leastWhole = 1e5 // a tenth of a degree
	switch {
	case n == 0 || farLat <= 90:
	case whole && farLat > leastWhole && farLat <= 90e7 && farLon <= 180e7:
		factor, words := 1e-6, "millionths"
		if farLat > 90e6 || farLon > 180e6 {
			factor, words = 1e-7, "ten-millionths"
		}
		r.latAngles.factor, r.lonAngles.factor, r.latAngles.turns, r.lonAngles.turns = factor, factor, false, false
		r.doubt(r.header+2, "latitudes and longitudes are whole numbers and were read as %s of a degree; a title with e6 or "+
			"e7 says which they are", words)
	case minutes && (farLat > 180 || farLon > 360) && farLat <= 9000 && farLon <= 18000:
		r.latAngles.packed, r.lonAngles.packed, r.lonAngles.turns = true, true, false
		r.doubt(r.header+2, "latitudes and longitudes were read as degrees and minutes in one number, 4730.25 being "+
			"47° 30.25′")
	}
}

// read gives a number in degrees, with the letter of its hemisphere where the heading names one; why says what
// contradicts the heading.
func (a *angles) read(v *float64, digits *decimal.Precision, letter *string, cell, what string) (why string) {
	if a.factor != 1 {
		*v, *digits = *v*a.factor, 0
	}
	if a.packed {
		whole := math.Trunc(*v / 100)
		left := *v - 100*whole
		if math.Abs(left) >= 60 {
			return fmt.Sprintf("%s %s has 60 minutes or more, read as degrees and minutes", what, clip(cell))
		}
		*v, *digits = whole+left/60, 0
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
