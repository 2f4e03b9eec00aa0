package cli

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/nav"
	"gyrolith/core/passage"
	"gyrolith/internal/cli/console"
)

// printLegs prints the table of a route and what speaks against it.
func (j *job) printLegs(t *passage.Table) {
	name := t.Route.Name
	if name == "" {
		name = "(route without a name)"
	}
	j.out.Printf("%s\n", j.out.Paint(console.Bold, console.OneLine(name, 60)))
	course := func(v float64) string {
		if math.IsNaN(v) {
			return ""
		}
		return fmt.Sprintf("%03.0f°", math.Mod(math.Round(v), 360))
	}
	var rows [][]string
	for i := range t.Legs {
		l := &t.Legs[i]
		row := []string{strconv.Itoa(i + 1), console.OneLine(pointName(l.From, i), 22),
			console.OneLine(pointName(l.To, i+1), 22), j.position(l.To),
			j.measure.Length(l.Distance), j.measure.Length(l.Total), course(l.Course), course(l.Magnetic), "", "", "", "", "",
			"", "", "", "", ""}
		if !math.IsNaN(l.Climb) {
			row[8] = signed(j.measure.Height(l.Climb))
		}
		if !math.IsNaN(l.GroundSpeed) {
			row[9], row[12] = course(l.Heading), j.measure.Speed(l.GroundSpeed)
		}
		row[10], row[11] = course(l.Steer), course(l.Compass)
		if l.Time > 0 {
			row[13], row[14] = clockTime(l.Time), clockTime(l.Elapsed)
		}
		if l.Arrive != 0 {
			row[15] = arrival(l.Arrive, t, j.zone())
		}
		row[16], row[17] = amount(l.FuelUsed), amount(l.FuelLeft)
		rows = append(rows, row)
	}
	if len(rows) == 0 {
		j.out.Printf("a single point: no legs\n")
	}
	steady := true // without drift the heading is the course
	for i := range t.Legs {
		l := &t.Legs[i]
		steady = steady && (math.IsNaN(l.Heading) || math.Abs(math.Remainder(l.Heading-l.Course, 360)) < 1e-9)
	}
	if steady {
		for _, r := range rows {
			r[9], r[10], r[12] = "", "", ""
		}
	}
	j.out.Table("", []console.Column{{Title: "leg", Right: true}, {Title: "from"}, {Title: "to"}, {Title: "at"},
		{Title: "distance", Right: true}, {Title: "total", Right: true},
		{Title: "course true", Right: true}, {Title: "mag", Right: true}, {Title: "height", Right: true},
		{Title: "heading true", Right: true}, {Title: "mag", Right: true}, {Title: "compass", Right: true},
		{Title: "ground", Right: true}, {Title: "time", Right: true}, {Title: "elapsed", Right: true},
		{Title: "arrive", Right: true}, {Title: "fuel used", Right: true}, {Title: "left", Right: true}}, rows)
	j.printNearest(t)
	for _, f := range t.Findings {
		j.out.Printf("%s %s\n", j.out.Paint(console.Red, "finding:"), j.findingWords(&f, t))
	}
	for _, f := range t.Told {
		j.out.Printf("%s %s\n", j.out.Paint(console.Faint, "told:"), j.findingWords(&f, t))
	}
	if s := declinationWords(t); s != "" {
		j.out.Printf("%s\n", j.out.Paint(console.Faint, s))
	}
}

// printNearest prints how each leg passes the hazard that is nearest to it.
func (j *job) printNearest(t *passage.Table) {
	var rows [][]string
	for i := range t.Legs {
		n := t.Legs[i].Nearest
		if n == nil {
			continue
		}
		name, off, side := n.Name, j.measure.Length(n.Distance), n.Side
		if name == "" {
			name = n.Kind
		}
		if n.Distance == 0 {
			off = "crossed"
		}
		if slices.ContainsFunc(t.Findings, func(f passage.Finding) bool { return f.Leg == i+1 && f.Name == n.Name }) {
			off = j.out.Paint(console.Red, off)
		}
		rows = append(rows, []string{strconv.Itoa(i + 1), console.OneLine(name, 40), off, side, j.measure.Length(n.Along),
			j.notation.Format(n.Lat, n.Lon)})
	}
	j.out.Table("", []console.Column{{Title: "leg", Right: true}, {Title: "nearest hazard"}, {Title: "off", Right: true},
		{Title: "to the"}, {Title: "after", Right: true}, {Title: "passed at"}}, rows)
}

// amount writes an amount of fuel.
func amount(v float64) string {
	if math.IsNaN(v) {
		return ""
	}
	return fmt.Sprintf("%.1f", v)
}

// clockTime writes a span of time as hours, minutes and seconds.
func clockTime(d time.Duration) string {
	s := int(d.Round(time.Second).Seconds())
	return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
}

// arrival writes a time, with its day where the passage goes over midnight.
func arrival(ns int64, t *passage.Table, zone *time.Location) string {
	at := func(ns int64) time.Time { return time.Unix(0, ns).In(zone).Round(time.Second) }
	first, last := at(t.Legs[0].Arrive-int64(t.Legs[0].Time)), at(t.Legs[len(t.Legs)-1].Arrive)
	if first.YearDay() == last.YearDay() && first.Year() == last.Year() {
		return at(ns).Format("15:04:05")
	}
	return at(ns).Format("02 Jan 15:04:05")
}

func pointName(w *nav.Waypoint, i int) string {
	if w.Name == "" {
		return fmt.Sprintf("point %d", i+1)
	}
	return w.Name
}

// position writes where a leg ends, where a notation was asked for.
func (j *job) position(w *nav.Waypoint) string {
	if !j.notated {
		return ""
	}
	return j.notation.Format(w.Lat, w.Lon)
}

func signed(s string) string {
	if !strings.HasPrefix(s, "-") {
		return "+" + s
	}
	return s
}

func (j *job) findingWords(f *passage.Finding, t *passage.Table) string {
	leg := ""
	if f.Leg > 0 {
		l := &t.Legs[f.Leg-1]
		leg = fmt.Sprintf("leg %d, %s to %s: ", f.Leg, console.OneLine(pointName(l.From, f.Leg-1), 28),
			console.OneLine(pointName(l.To, f.Leg), 28))
	}
	name := console.OneLine(f.Name, 40)
	if name == "" {
		name = "a hazard without a name"
	}
	switch f.Code {
	case passage.Clearance:
		where := fmt.Sprintf("%s after its start, at %s", j.measure.Length(f.Near.Along),
			j.notation.Format(f.Near.Lat, f.Near.Lon))
		if f.Near.Distance == 0 {
			return fmt.Sprintf("%sgoes over %s, %s", leg, name, where)
		}
		return fmt.Sprintf("%s%s is %s to the %s, nearer than the clearance: %s", leg, name,
			j.measure.Length(f.Near.Distance), f.Near.Side, where)
	case passage.Passing:
		return fmt.Sprintf("%spasses %s at %s to the %s, nearer than the clearance: %s after its start", leg, name,
			j.measure.Length(f.Near.Distance), f.Near.Side, j.measure.Length(f.Near.Along))
	case passage.InTheDark:
		clock := func(at time.Time) string { return at.In(j.zone()).Format("15:04") }
		words := leg + "arrives in the dark"
		if !f.Light.Sunset.IsZero() {
			sunset, dark := clock(f.Light.Sunset), clock(f.Light.Dark)
			words += fmt.Sprintf(": the sun set at %s, and civil twilight ended at %s", sunset, dark)
		}
		return words
	case passage.Closure, passage.Crossing:
		what := "crosses " + name
		if f.Code == passage.Closure {
			what = "crosses the closure " + name
		}
		words := fmt.Sprintf("%s%s from %s to %s after its start", leg, what, j.measure.Length(*f.Enter),
			j.measure.Length(*f.Leave))
		if f.Why != "" {
			words += ", " + f.Why
		}
		return words
	}
	return leg + advised(f.Why, f.Advice)
}

func declinationWords(t *passage.Table) string {
	if len(t.Legs) == 0 || math.IsNaN(t.Legs[0].Declination) {
		return ""
	}
	low, high := math.Inf(1), math.Inf(-1)
	for i := range t.Legs {
		low, high = min(low, t.Legs[i].Declination), max(high, t.Legs[i].Declination)
	}
	words := "declination " + eastWest(low)
	if eastWest(low) != eastWest(high) {
		words += " to " + eastWest(high)
	}
	return words
}

func eastWest(v float64) string {
	if v < 0 {
		return fmt.Sprintf("%.1f° W", -v)
	}
	return fmt.Sprintf("%.1f° E", v)
}
