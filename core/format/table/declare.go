package table

import (
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// columnOf are the properties that have a column, by its word.
var columnOf = map[string]holds.Property{"name": holds.Name, "symbol": holds.Symbol, "colour": holds.Colour,
	"description": holds.Description, "comment": holds.Comment, "type": holds.Type, "group": holds.Group,
	"height": holds.Height, "time": holds.Time, "item id": holds.ID}

// declare says what a table holds: all that has a column, and in a table without a layout of its own has what the data
// have.
func declare(noun string, time holds.Step) func(*format.WriteOptions) *holds.Declaration {
	return func(opt *format.WriteOptions) *holds.Declaration {
		t := format.Table{}
		if opt.Table != nil {
			t = *opt.Table
		}
		c := &holds.Declaration{Noun: noun, Rounds: holds.Rounds{Time: time}}
		row, fields := rowHolds(&t)
		c.Rounds.Position = stepOf(&t)
		if t.Items {
			whole := row.And(holds.Group, holds.Empty, holds.OnePoint)
			asked := holds.Only(holds.Of(holds.TrackPoint).List()...)
			c.Holds = holds.Places{holds.Waypoint: whole, holds.Route: whole, holds.RoutePoint: asked,
				holds.Track: whole.And(holds.Segments), holds.TrackPoint: asked, holds.Area: whole.And(holds.Holes)}
			return c
		}
		line := holds.Only(holds.OnePoint)
		if len(t.Columns) == 0 || holdsWord(&t, "line") {
			line = line.And(holds.Name)
		}
		if len(t.Columns) == 0 || holdsWord(&t, "group") {
			line = line.And(holds.Group)
		}
		for p := range (holds.Of(holds.Area) &^ line.Set() &^ holds.SetOf(holds.Height, holds.HeightReference, holds.Time,
			holds.TimePrecision, holds.Details, holds.Empty)).Each() {
			line = line.With(p, holds.Held{Why: "a table of points can't store it", Advice: advice.ItemsAsRows})
		}
		parts := line
		if len(t.Columns) == 0 || holdsWord(&t, "segment") {
			parts = line.And(holds.Segments, holds.Holes)
		}
		c.Holds = holds.Places{
			holds.Waypoint:   row,
			holds.Route:      line,
			holds.RoutePoint: row.But(holds.Group),
			holds.Track:      parts,
			holds.TrackPoint: row.But(holds.Group).And(holds.Speed, holds.Course, holds.FixQuality, holds.Readings),
			holds.Area:       parts.And((row.Set() & holds.SetOf(holds.Height, holds.Time, holds.TimePrecision)).List()...),
		}
		if fields != nil {
			c.Holds[holds.TrackPoint] = c.Holds[holds.TrackPoint].But(holds.Speed, holds.Course,
				holds.FixQuality, holds.Readings)
		}
		return c
	}
}

func holdsWord(t *format.Table, word string) bool {
	for _, c := range t.Columns {
		if c.Holds == word {
			return true
		}
	}
	return false
}

// rowHolds is what a row says of its point or item. Fields is nil where every field has a column.
func rowHolds(t *format.Table) (row *holds.Part, fields func(*nav.Field) bool) {
	if len(t.Columns) == 0 {
		return holds.Only(holds.ID, holds.Name, holds.Symbol, holds.Colour, holds.Description, holds.Comment, holds.Type,
			holds.Group,
			holds.Height, holds.Time, holds.TimePrecision, holds.Fields), nil
	}
	row = holds.Only()
	why := "the table has no column for it"
	for p := range (holds.Of(holds.TrackPoint) &^ holds.SetOf(holds.Details, holds.HeightReference)).Each() {
		row = row.With(p, holds.Held{Why: why})
	}
	for word, p := range columnOf {
		if holdsWord(t, word) {
			row = row.And(p)
		}
	}
	if row.Set().Has(holds.Time) {
		row = row.And(holds.TimePrecision)
	}
	fields = func(f *nav.Field) bool {
		return holdsWord(t, "field:"+f.Key) || holdsWord(t, f.Key) && f.Key == strings.ToLower(f.Key)
	}
	return row.With(holds.Fields, holds.Held{Keys: fields, Why: why, KeyWords: "those that have a column"}), fields
}

// stepOf is what a notation rounds positions to.
func stepOf(t *format.Table) holds.Step {
	return map[geodesy.Notation]holds.Step{
		geodesy.Minutes:      {Size: 1.0 / 60_000, Words: "a thousandth of a minute"},
		geodesy.SecondsOfArc: {Size: 1.0 / 36_000, Words: "a tenth of a second"},
		geodesy.FlightPlan:   {Size: 1.0 / 3600, Words: "a second"},
		geodesy.MilitaryGrid: {Size: 2 / geodesy.EquatorDegree, Words: "a metre"}, // the corner of a square of a metre
	}[t.Notation]
}
