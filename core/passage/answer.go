package passage

import (
	"math"
	"time"

	"gyrolith/core/instant"
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
	FromAt      At         `json:"from_at"`
	ToAt        At         `json:"to_at"`
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
	Ground      *float64   `json:"highest_ground_m,omitempty"`
	Safe        *float64   `json:"safe_height_m,omitempty"`
	Wind        *driftJSON `json:"wind,omitempty"`
	Current     *driftJSON `json:"current,omitempty"`
	Wait        float64    `json:"wait_s,omitempty"`
	Nearest     *Near      `json:"nearest,omitempty"`
}

// driftJSON is a wind, by where it comes from, or a current, by where it goes to.
type driftJSON struct {
	Direction float64 `json:"direction_true"`
	Speed     float64 `json:"speed_mps"`
}

func jsonDrift(d *Drift, comesFrom bool) *driftJSON {
	switch {
	case d == nil:
		return nil
	case comesFrom:
		return &driftJSON{turn(d.To + 180), d.Speed}
	}
	return &driftJSON{turn(d.To), d.Speed}
}

type routeJSON struct {
	Route    string    `json:"route"`
	Legs     []legJSON `json:"legs"`
	Findings []Finding `json:"findings"`
	Told     []Finding `json:"told"`
}

// At is a position as JSON has it.
type At struct {
	Lat float64 `json:"lat"`
	Lon float64 `json:"lon"`
}

// Answer is what legs answers as JSON.
type Answer struct {
	Considered string      `json:"considered"`
	Routes     []routeJSON `json:"routes"`
	Written    []string    `json:"written,omitempty"`
}

// JSON gives the tables of routes as JSON has them, with what was considered and times in a zone; nil is UTC.
func JSON(considered string, tables []*Table, zone *time.Location) *Answer {
	out := &Answer{Considered: considered, Routes: []routeJSON{}}
	for _, t := range tables {
		r := routeJSON{Route: t.Route.Name, Legs: []legJSON{}, Findings: append([]Finding{}, t.Findings...),
			Told: append([]Finding{}, t.Notes...)}
		for i := range t.Legs {
			l := &t.Legs[i]
			j := legJSON{Leg: i + 1, From: l.From.Name, To: l.To.Name, FromAt: At{l.From.Lat, l.From.Lon},
				ToAt:     At{l.To.Lat, l.To.Lon},
				Distance: l.Distance, Total: l.Total, Course: l.Course, Rhumb: l.Rhumb, Arriving: l.Arriving,
				Magnetic:    jsonNumber(l.Magnetic),
				Declination: jsonNumber(l.Declination),
				Climb:       jsonNumber(l.Climb), Heading: jsonNumber(l.Heading), GroundSpeed: jsonNumber(l.GroundSpeed),
				Steer: jsonNumber(l.Steer), Compass: jsonNumber(l.Compass), FuelUsed: jsonNumber(l.FuelUsed),
				FuelLeft: jsonNumber(l.FuelLeft), Seconds: l.Time.Seconds(), Nearest: l.Nearest,
				Ground: jsonNumber(l.Ground), Safe: jsonNumber(l.Safe), Wind: jsonDrift(l.Wind, true),
				Current: jsonDrift(l.Current, false),
				Wait:    l.Wait.Seconds()}
			if l.Arrive != 0 {
				j.Arrive = string(instant.AppendIn(nil, l.Arrive, instant.Seconds, zone))
			}
			r.Legs = append(r.Legs, j)
		}
		out.Routes = append(out.Routes, r)
	}
	return out
}
