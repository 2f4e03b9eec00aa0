package kit

import (
	"context"
	"fmt"
	"math"
	"slices"
	"time"

	"gyrolith/core/geodesy/magnetic"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/passage"
	"gyrolith/core/picture"
)

// printed are the sheets that a page prints: those of a document, on paper of its size, or else A4.
func (d *Drawing) printed(ctx context.Context, m picture.Map) ([]*picture.Scene, error) {
	m.Theme = picture.Themes["print"]
	if !d.paper {
		m.Width, m.Height, _ = picture.ParseSize("A4")
	}
	return d.sheetsOf(ctx, &m, &picture.Drawn{})
}

// sheetsOf makes the sheets of a document: the map, true to its scale, and the tables and the section that are asked
// for.
func (d *Drawing) sheetsOf(ctx context.Context, m *picture.Map, drawn *picture.Drawn) (out []*picture.Scene,
	err error) {
	wanted := d.sheets
	if len(wanted) == 0 {
		if wanted = []string{string(picture.MapSheet)}; m.Section.Along != "" {
			wanted = append(wanted, string(picture.SectionSheet))
		}
	}
	drawn.Notes = nil
	for _, sheet := range picture.AllSheets { // in their order
		if !slices.Contains(wanted, sheet) {
			continue
		}
		switch picture.Sheet(sheet) {
		case picture.MapSheet:
			whole := *m
			whole.Imprint = d.imprint(m.Data, m.Scale)
			scenes, notes, err := whole.MapSheets(ctx)
			if err != nil {
				return nil, err
			}
			out, drawn.Notes = append(out, scenes...), append(drawn.Notes, notes...)
		case picture.LegsSheet:
			for i := range m.Data.Routes {
				out = append(out, d.legs(&m.Data.Routes[i], m).Sheets(m.Width, m.Height, m.Theme)...)
			}
		case picture.PointsSheet:
			out = append(out, d.points(m).Sheets(m.Width, m.Height, m.Theme)...)
		case picture.SectionSheet:
			alone := *m
			alone.Section.Alone = true
			if alone.Section.Along == "" {
				alone.Section.Along = "distance"
			}
			scene, err := alone.Draw(ctx)
			if err != nil {
				return nil, err
			}
			out, drawn.Notes = append(out, scene.Scene), append(drawn.Notes, scene.Notes...)
		}
	}
	drawn.Notes = slices.Compact(drawn.Notes)
	return out, nil
}

// imprint says what one has to know of a map: its datum, its scale on paper, where the compass points, and of which day
// the data are.
func (d *Drawing) imprint(data *nav.Dataset, scale float64) string {
	text := "WGS 84"
	if scale > 0 {
		text += "  ·  1:" + measure.Count(int(scale))
	}
	day := d.reading.Options.On
	var last time.Time
	at, any := nav.Point{}, false
	for p := range data.AllPoints() {
		if !any {
			at, any = *p, true
		}
		if p.HasTime() && p.Time().After(last) {
			last = p.Time()
		}
	}
	if any && magnetic.Covers(day) {
		v := magnetic.Declination(at.Lat, at.Lon, 0, magnetic.Year(day))
		side := "east"
		if v < 0 {
			side = "west"
		}
		text += fmt.Sprintf("  ·  magnetic north %.1f° %s of true north (%d)", math.Abs(v), side, day.Year())
	}
	if !last.IsZero() {
		text += "  ·  data up to " + last.UTC().Format("2 January 2006")
	}
	return text
}

// legs is the table of the legs of a route.
func (d *Drawing) legs(r *nav.Route, m *picture.Map) *picture.Listing {
	step := d.passage
	step.On = d.reading.Options.On
	t := step.Plan(r)
	name := r.Name
	if name == "" {
		name = "Route"
	}
	l := &picture.Listing{Title: name + ": legs",
		Footer: "courses at the start of each leg; distances along the shortest line on the ellipsoid"}
	if slices.ContainsFunc(t.Legs, func(l passage.Leg) bool { return l.Rhumb }) {
		l.Footer = "courses at the start of each leg; distances on the ellipsoid, along lines of constant course where the " +
			"plan says so"
	}
	layout := passage.Layout{Measure: m.Measure, Notation: d.notation, Zone: time.UTC}
	columns := passage.Columns.Named("leg", "from", "to", "to-position", "leg-distance", "along", "course-true",
		"course-magnetic", "to-height")
	for _, c := range columns {
		l.Heads, l.Right = append(l.Heads, c.Title), append(l.Right, c.Right)
	}
	for _, r := range t.Rows() {
		row := make([]string, len(columns))
		for i, c := range columns {
			row[i] = c.Text(&r, &layout)
		}
		l.Rows = append(l.Rows, row)
	}
	return l
}

// points is the list of waypoints, and of the points of routes, with their positions.
func (d *Drawing) points(m *picture.Map) *picture.Listing {
	l := &picture.Listing{Title: "Points", Heads: []string{"name", "position", "height", "symbol", "of", "description"},
		Right: []bool{false, false, true}, Footer: "positions in WGS 84"}
	add := func(w *nav.Waypoint, of string) {
		height := ""
		if w.HasHeight() {
			height = m.Measure.Height(w.Height())
		}
		l.Rows = append(l.Rows, []string{w.Name, d.notation.Format(w.Lat, w.Lon), height, w.Style.Symbol, of, w.Desc})
	}
	for i := range m.Data.Waypoints {
		add(&m.Data.Waypoints[i], m.Data.Waypoints[i].Group)
	}
	for i := range m.Data.Routes {
		for j := range m.Data.Routes[i].Points {
			if w := &m.Data.Routes[i].Points[j]; w.Name != "" {
				add(w, m.Data.Routes[i].Name)
			}
		}
	}
	return l
}
