package passage

import (
	"encoding/csv"
	"io"
	"math"
	"strconv"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
)

// jsonNumber leaves out what is not known.
func jsonNumber(v float64) *float64 {
	if math.IsNaN(v) {
		return nil
	}
	return &v
}

type legJSON struct {
	Leg         int        `json:"leg"`
	From        string     `json:"from"`
	To          string     `json:"to"`
	FromAt      [2]float64 `json:"from_at"`
	ToAt        [2]float64 `json:"to_at"`
	Distance    float64    `json:"distance_m"`
	Total       float64    `json:"total_m"`
	Course      float64    `json:"course_true"`
	Rhumb       bool       `json:"rhumb,omitempty"`
	Arriving    float64    `json:"course_on_arrival"`
	Magnetic    *float64   `json:"course_magnetic,omitempty"`
	Declination *float64   `json:"declination,omitempty"`
	Climb       *float64   `json:"height_change_m,omitempty"`
	Heading     *float64   `json:"heading_true,omitempty"`
	Steer       *float64   `json:"heading_magnetic,omitempty"`
	Compass     *float64   `json:"heading_compass,omitempty"`
	FuelUsed    *float64   `json:"fuel_used,omitempty"`
	FuelLeft    *float64   `json:"fuel_left,omitempty"`
	GroundSpeed *float64   `json:"ground_speed_mps,omitempty"`
	Seconds     float64    `json:"time_s,omitempty"`
	Arrive      string     `json:"arrive,omitempty"`
	Nearest     *Near      `json:"nearest,omitempty"`
}

type routeJSON struct {
	Route    string    `json:"route"`
	Legs     []legJSON `json:"legs"`
	Findings []Finding `json:"findings"`
	Told     []Finding `json:"told"`
}

// JSON gives the tables of routes as JSON has them, with what was considered.
func JSON(considered string, tables []*Table) any {
	out := struct {
		Considered string      `json:"considered"`
		Routes     []routeJSON `json:"routes"`
	}{Considered: considered}
	for _, t := range tables {
		r := routeJSON{Route: t.Route.Name, Legs: []legJSON{}, Findings: append([]Finding{}, t.Findings...),
			Told: append([]Finding{}, t.Told...)}
		for i := range t.Legs {
			l := &t.Legs[i]
			j := legJSON{Leg: i + 1, From: l.From.Name, To: l.To.Name, FromAt: [2]float64{l.From.Lat, l.From.Lon},
				ToAt:     [2]float64{l.To.Lat, l.To.Lon},
				Distance: l.Distance, Total: l.Total, Course: l.Course, Rhumb: l.Rhumb, Arriving: l.Arriving,
				Magnetic:    jsonNumber(l.Magnetic),
				Declination: jsonNumber(l.Declination),
				Climb:       jsonNumber(l.Climb), Heading: jsonNumber(l.Heading), GroundSpeed: jsonNumber(l.GroundSpeed),
				Steer: jsonNumber(l.Steer), Compass: jsonNumber(l.Compass), FuelUsed: jsonNumber(l.FuelUsed),
				FuelLeft: jsonNumber(l.FuelLeft), Seconds: l.Time.Seconds(), Nearest: l.Nearest}
			if l.Arrive != 0 {
				j.Arrive = time.Unix(0, l.Arrive).UTC().Format(time.RFC3339)
			}
			r.Legs = append(r.Legs, j)
		}
		out.Routes = append(out.Routes, r)
	}
	return out
}

// Layout says in which measures, notation and zone a table is written.
type Layout struct {
	Measure  measure.System
	Notation geodesy.Notation
	Zone     *time.Location
}

// WriteCSV writes the tables of routes as CSV (RFC 4180).
func WriteCSV(w io.Writer, tables []*Table, o Layout) error {
	length, lengthOf := o.Measure.LongMeasure()
	height, heightOf := o.Measure.HeightMeasure()
	speed, speedOf := o.Measure.SpeedMeasure()
	out := csv.NewWriter(w)
	out.UseCRLF = true // RFC 4180
	rows := [][]string{{"route", "leg", "from", "to", "from position", "to position", "distance " + length, "total " +
		length, "course true", "course magnetic", "declination",
		"height change " + height, "heading true", "ground speed " + speed, "time s", "arrive", "nearest hazard",
		"hazard distance m", "hazard side", "hazard at " + length, "heading magnetic", "heading compass", "fuel used",
		"fuel left"}}
	number := func(v float64, decimals int) string {
		if math.IsNaN(v) {
			return ""
		}
		return strconv.FormatFloat(v, 'f', decimals, 64)
	}
	safe := format.FormulaSafe
	for _, t := range tables {
		for i := range t.Legs {
			l := &t.Legs[i]
			row := []string{safe(t.Route.Name), strconv.Itoa(i + 1), safe(l.From.Name), safe(l.To.Name),
				o.Notation.Format(l.From.Lat, l.From.Lon), o.Notation.Format(l.To.Lat, l.To.Lon),
				number(l.Distance/lengthOf, 3), number(l.Total/lengthOf, 3), number(l.Course, 1), number(l.Magnetic, 1),
				number(l.Declination, 1), number(l.Climb/heightOf, 1),
				number(l.Heading, 1), number(l.GroundSpeed/speedOf, 1), "", "", "", "", "", ""}
			if l.Time > 0 {
				row[14] = number(l.Time.Seconds(), 0)
			}
			if l.Arrive != 0 {
				row[15] = time.Unix(0, l.Arrive).In(o.Zone).Format(time.RFC3339)
			}
			if n := l.Nearest; n != nil {
				row[16], row[17], row[18], row[19] = safe(n.Name), number(n.Distance, 1), n.Side, number(n.Along/lengthOf, 3)
			}
			rows = append(rows, append(row, number(l.Steer, 1), number(l.Compass, 1), number(l.FuelUsed, 1),
				number(l.FuelLeft, 1)))
		}
	}
	return out.WriteAll(rows)
}
