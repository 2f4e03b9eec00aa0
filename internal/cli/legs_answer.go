package cli

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/nav"
	"gyrolith/core/passage"
	"gyrolith/core/safefile"
)

// sayLegs prints the tables, and writes them for the office.
func (a *app) sayLegs(considered string, tables []*passage.Table, office string, o *options) error {
	if office != "" && (!o.dryRun || office == "-") {
		if err := a.writeOffice(considered, tables, office, o); err != nil {
			return err
		}
	}
	switch {
	case o.json:
		return a.printJSON(legsJSON(considered, tables))
	case office == "-":
		return nil
	}
	a.out.printf("%s\n", a.out.paint(faint, show(considered)))
	for i, t := range tables {
		if i > 0 {
			a.out.printf("\n")
		}
		a.printLegs(t, o)
	}
	if office != "" && !o.quiet {
		verb := a.err.paint(green, "wrote")
		if o.dryRun {
			verb = "would write"
		}
		a.err.printf("%s %s: the table of %s\n", verb, show(office), plural(len(tables), "route", "routes"))
	}
	return nil
}

// printLegs prints the table of a route and what speaks against it.
func (a *app) printLegs(t *passage.Table, o *options) {
	name := t.Route.Name
	if name == "" {
		name = "(route without a name)"
	}
	a.out.printf("%s\n", a.out.paint(bold, oneLine(name, 60)))
	course := func(v float64) string {
		if math.IsNaN(v) {
			return ""
		}
		return fmt.Sprintf("%03.0f°", math.Mod(math.Round(v), 360))
	}
	var rows [][]string
	for i := range t.Legs {
		l := &t.Legs[i]
		row := []string{strconv.Itoa(i + 1), oneLine(pointName(l.From, i), 22), oneLine(pointName(l.To, i+1), 22), o.position(l.To),
			o.measure.Length(l.Distance), o.measure.Length(l.Total), course(l.Course), course(l.Magnetic), "", "", "", "", "", ""}
		if !math.IsNaN(l.Climb) {
			row[8] = signed(o.measure.Height(l.Climb))
		}
		if !math.IsNaN(l.GroundSpeed) {
			row[9], row[10] = course(l.Heading), o.measure.Speed(l.GroundSpeed)
		}
		if l.Time > 0 {
			row[11], row[12] = clockTime(l.Time), clockTime(l.Elapsed)
		}
		if l.Arrive != 0 {
			row[13] = arrival(l.Arrive, t, o)
		}
		rows = append(rows, row)
	}
	if len(rows) == 0 {
		a.out.printf("a single point: no legs\n")
	}
	steady := true // without drift the heading is the course
	for i := range t.Legs {
		l := &t.Legs[i]
		steady = steady && (math.IsNaN(l.Heading) || math.Abs(math.Remainder(l.Heading-l.Course, 360)) < 1e-9)
	}
	if steady {
		for _, r := range rows {
			r[9], r[10] = "", ""
		}
	}
	a.out.table("", []column{{title: "leg", right: true}, {title: "from"}, {title: "to"}, {title: "at"}, {title: "distance", right: true}, {title: "total", right: true},
		{title: "true", right: true}, {title: "mag", right: true}, {title: "height", right: true}, {title: "steer", right: true}, {title: "ground", right: true},
		{title: "time", right: true}, {title: "elapsed", right: true}, {title: "arrive", right: true}}, rows)
	a.printNearest(t, o)
	for _, f := range t.Findings {
		a.out.printf("%s %s\n", a.out.paint(red, "finding:"), findingWords(&f, t, o))
	}
	for _, f := range t.Told {
		a.out.printf("%s %s\n", a.out.paint(faint, "told:"), findingWords(&f, t, o))
	}
	if s := declinationWords(t); s != "" {
		a.out.printf("%s\n", a.out.paint(faint, s))
	}
}

// printNearest prints how each leg passes the hazard that is nearest to it.
func (a *app) printNearest(t *passage.Table, o *options) {
	var rows [][]string
	for i := range t.Legs {
		n := t.Legs[i].Nearest
		if n == nil {
			continue
		}
		name, off, side := n.Name, o.measure.Length(n.Distance), n.Side
		if name == "" {
			name = n.Kind
		}
		if n.Distance == 0 {
			off = "crossed"
		}
		if slices.ContainsFunc(t.Findings, func(f passage.Finding) bool { return f.Leg == i+1 && f.Name == n.Name }) {
			off = a.out.paint(red, off)
		}
		rows = append(rows, []string{strconv.Itoa(i + 1), oneLine(name, 40), off, side, o.measure.Length(n.Along), o.notation.Format(n.Lat, n.Lon)})
	}
	a.out.table("", []column{{title: "leg", right: true}, {title: "nearest hazard"}, {title: "off", right: true}, {title: "to the"}, {title: "after", right: true}, {title: "passed at"}}, rows)
}

// clockTime writes a span of time as hours, minutes and seconds.
func clockTime(d time.Duration) string {
	s := int(d.Round(time.Second).Seconds())
	return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
}

// arrival writes a time, with its day where the passage goes over midnight.
func arrival(ns int64, t *passage.Table, o *options) string {
	at := func(ns int64) time.Time { return time.Unix(0, ns).In(o.zone).Round(time.Second) }
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
func (o *options) position(w *nav.Waypoint) string {
	if !o.notated {
		return ""
	}
	return o.notation.Format(w.Lat, w.Lon)
}

func signed(s string) string {
	if !strings.HasPrefix(s, "-") {
		return "+" + s
	}
	return s
}

func findingWords(f *passage.Finding, t *passage.Table, o *options) string {
	leg := ""
	if f.Leg > 0 {
		l := &t.Legs[f.Leg-1]
		leg = fmt.Sprintf("leg %d, %s to %s: ", f.Leg, oneLine(pointName(l.From, f.Leg-1), 28), oneLine(pointName(l.To, f.Leg), 28))
	}
	name := oneLine(f.Name, 40)
	if name == "" {
		name = "a hazard without a name"
	}
	switch f.Code {
	case "clearance":
		where := fmt.Sprintf("%s after its start, at %s", o.measure.Length(f.Near.Along), o.notation.Format(f.Near.Lat, f.Near.Lon))
		if f.Near.Distance == 0 {
			return fmt.Sprintf("%sgoes over %s, %s", leg, name, where)
		}
		return fmt.Sprintf("%s%s is %s to the %s, nearer than the clearance: %s", leg, name, o.measure.Length(f.Near.Distance), f.Near.Side, where)
	case "closure", "crossing":
		what := "crosses " + name
		if f.Code == "closure" {
			what = "crosses the closure " + name
		}
		words := fmt.Sprintf("%s%s from %s to %s after its start", leg, what, o.measure.Length(*f.Enter), o.measure.Length(*f.Leave))
		if f.Why != "" {
			words += ", " + f.Why
		}
		return words
	}
	return leg + f.Why
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

// jsonNumber leaves out what is not known.
func jsonNumber(v float64) *float64 {
	if math.IsNaN(v) {
		return nil
	}
	return &v
}

type legJSON struct {
	Leg         int           `json:"leg"`
	From        string        `json:"from"`
	To          string        `json:"to"`
	FromAt      [2]float64    `json:"from_at"`
	ToAt        [2]float64    `json:"to_at"`
	Distance    float64       `json:"distance_m"`
	Total       float64       `json:"total_m"`
	Course      float64       `json:"course_true"`
	Arriving    float64       `json:"course_on_arrival"`
	Magnetic    *float64      `json:"course_magnetic,omitempty"`
	Declination *float64      `json:"declination,omitempty"`
	Climb       *float64      `json:"height_change_m,omitempty"`
	Heading     *float64      `json:"heading_true,omitempty"`
	GroundSpeed *float64      `json:"ground_speed_mps,omitempty"`
	Seconds     float64       `json:"time_s,omitempty"`
	Arrive      string        `json:"arrive,omitempty"`
	Nearest     *passage.Near `json:"nearest,omitempty"`
}

type routeJSON struct {
	Route    string            `json:"route"`
	Legs     []legJSON         `json:"legs"`
	Findings []passage.Finding `json:"findings"`
	Told     []passage.Finding `json:"told"`
}

func legsJSON(considered string, tables []*passage.Table) any {
	out := struct {
		Considered string      `json:"considered"`
		Routes     []routeJSON `json:"routes"`
	}{Considered: considered}
	for _, t := range tables {
		r := routeJSON{Route: t.Route.Name, Legs: []legJSON{}, Findings: append([]passage.Finding{}, t.Findings...), Told: append([]passage.Finding{}, t.Told...)}
		for i := range t.Legs {
			l := &t.Legs[i]
			j := legJSON{Leg: i + 1, From: l.From.Name, To: l.To.Name, FromAt: [2]float64{l.From.Lat, l.From.Lon}, ToAt: [2]float64{l.To.Lat, l.To.Lon},
				Distance: l.Distance, Total: l.Total, Course: l.Course, Arriving: l.Arriving, Magnetic: jsonNumber(l.Magnetic), Declination: jsonNumber(l.Declination),
				Climb: jsonNumber(l.Climb), Heading: jsonNumber(l.Heading), GroundSpeed: jsonNumber(l.GroundSpeed), Seconds: l.Time.Seconds(), Nearest: l.Nearest}
			if l.Arrive != 0 {
				j.Arrive = time.Unix(0, l.Arrive).UTC().Format(time.RFC3339)
			}
			r.Legs = append(r.Legs, j)
		}
		out.Routes = append(out.Routes, r)
	}
	return out
}

// writeOffice writes the tables as CSV or JSON.
func (a *app) writeOffice(considered string, tables []*passage.Table, path string, o *options) error {
	var whole bytes.Buffer
	if strings.EqualFold(filepath.Ext(path), ".json") {
		enc := json.NewEncoder(&whole)
		enc.SetEscapeHTML(false)
		enc.SetIndent("", "  ")
		if err := enc.Encode(legsJSON(considered, tables)); err != nil {
			return err
		}
	} else if err := legsCSV(&whole, tables, o); err != nil {
		return err
	}
	if path == "-" {
		_, err := a.out.Write(whole.Bytes())
		return err
	}
	p, err := safefile.Create(path, o.replace)
	if err != nil {
		return err
	}
	defer p.Discard()
	if _, err := p.Write(whole.Bytes()); err != nil {
		return err
	}
	_, err = p.Commit()
	return err
}

func legsCSV(w io.Writer, tables []*passage.Table, o *options) error {
	length, lengthOf := o.measure.LongMeasure()
	height, heightOf := o.measure.HeightMeasure()
	speed, speedOf := o.measure.SpeedMeasure()
	out := csv.NewWriter(w)
	out.UseCRLF = true // RFC 4180
	rows := [][]string{{"route", "leg", "from", "to", "from position", "to position", "distance " + length, "total " + length, "course true", "course magnetic", "declination",
		"height change " + height, "heading true", "ground speed " + speed, "time s", "arrive", "nearest hazard", "hazard distance m", "hazard side", "hazard at " + length}}
	number := func(v float64, decimals int) string {
		if math.IsNaN(v) {
			return ""
		}
		return strconv.FormatFloat(v, 'f', decimals, 64)
	}
	for _, t := range tables {
		for i := range t.Legs {
			l := &t.Legs[i]
			row := []string{cell(t.Route.Name), strconv.Itoa(i + 1), cell(l.From.Name), cell(l.To.Name), o.notation.Format(l.From.Lat, l.From.Lon), o.notation.Format(l.To.Lat, l.To.Lon),
				number(l.Distance/lengthOf, 3), number(l.Total/lengthOf, 3), number(l.Course, 1), number(l.Magnetic, 1), number(l.Declination, 1), number(l.Climb/heightOf, 1),
				number(l.Heading, 1), number(l.GroundSpeed/speedOf, 1), "", "", "", "", "", ""}
			if l.Time > 0 {
				row[14] = number(l.Time.Seconds(), 0)
			}
			if l.Arrive != 0 {
				row[15] = time.Unix(0, l.Arrive).In(o.zone).Format(time.RFC3339)
			}
			if n := l.Nearest; n != nil {
				row[16], row[17], row[18], row[19] = cell(n.Name), number(n.Distance, 1), n.Side, number(n.Along/lengthOf, 3)
			}
			rows = append(rows, row)
		}
	}
	return out.WriteAll(rows)
}

// cell makes a text harmless for a spreadsheet, which would take it for a formula.
func cell(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}
