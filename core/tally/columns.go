package tally

import (
	"math"
	"slices"
	"strings"
	"time"

	"gyrolith/core/column"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// Columns lists the columns of the table of recordings. Which of them are usual depends on what a row is of.
var Columns = slices.Concat(column.List[Row]{
	column.Words("folder", "folder", func(r *Row, _ *column.Layout) string { return r.Folder }).Shortened().
		Only(false, true),
	column.Words("file", "file", func(r *Row, _ *column.Layout) string { return r.File }).Shortened(),
	column.Words("name", "name", func(r *Row, _ *column.Layout) string { return r.Name }).Shortened(),
	column.Words("group", "group", func(r *Row, _ *column.Layout) string { return r.Group }).Shortened().Only(false, true),
	column.Words("area", "area", func(r *Row, _ *column.Layout) string { return r.Area }).Shortened(),
	column.Number("size", "size", column.Wide, column.Area, func(r *Row) float64 { return r.Size }),
	{Name: "tracks", Title: "tracks", Right: true, Data: true,
		Value: func(r *Row, _ *column.Layout) any { return r.Tracks },
		Show:  func(r *Row, _ *column.Layout) string { return countText(r.Tracks) }},
	column.Words("date", "date", func(r *Row, _ *column.Layout) string { return r.Day }),
	moment("start", func(r *Row) time.Time { return r.Start }),
	moment("end", func(r *Row) time.Time { return r.End }).Only(false, true),
	column.Span("elapsed", "elapsed", func(r *Row) time.Duration { return r.Elapsed }),
	column.Span("moving", "moving", func(r *Row) time.Duration { return r.Moving }),
	column.Span("standing", "standing", func(r *Row) time.Duration { return r.Standing }),
	column.Span("gaps", "gaps", func(r *Row) time.Duration { return r.Gaps() }).Only(false, true),
	column.Number("length", "length", column.Long, column.Length, func(r *Row) float64 { return r.Length }),
	column.Number("ascent", "up", column.High, column.Height, func(r *Row) float64 { return r.climb(r.Ascent) }),
	column.Number("descent", "down", column.High, column.Height, func(r *Row) float64 { return r.climb(r.Descent) }),
	column.Number("lowest", "lowest", column.High, column.Height, func(r *Row) float64 { return r.Low }).Only(false, true),
	column.Number("highest", "highest", column.High, column.Height, func(r *Row) float64 { return r.High }).
		Only(false, true),
	column.Number("mean-speed", "mean", column.Fast, column.Speed, func(r *Row) float64 { return r.Mean() }),
	column.Number("top-speed", "top", column.Fast, column.Speed, func(r *Row) float64 { return r.Top }),
	{Name: "points", Title: "points", Right: true, Usual: true, Data: true,
		Value: func(r *Row, _ *column.Layout) any { return r.Points },
		Show:  func(r *Row, _ *column.Layout) string { return countText(r.Points) }},
	{Name: "faults", Title: "faults", Right: true, Usual: true, Data: true,
		Value: func(r *Row, _ *column.Layout) any { return r.Faults },
		Show:  func(r *Row, _ *column.Layout) string { return countText(r.Faults) }},
	{Name: "field:", Field: func(r *Row, key string) string { v, _ := nav.Get(r.Fields, key); return v }},
}, column.Sun(func(r *Row) (lat, lon float64, at time.Time) { return r.From.Lat, r.From.Lon, r.Start }))

func countText(n int) string {
	if n == 0 {
		return ""
	}
	return measure.Count(n)
}

// climb is unknown where there are no heights.
func (s *Sum) climb(v float64) float64 {
	if math.IsNaN(s.High) {
		return math.NaN()
	}
	return v
}

// moment makes a column of a time, which a table to be read shows without its day where that is the row's.
func moment(name string, at func(*Row) time.Time) column.Column[Row] {
	return column.Column[Row]{Name: name, Title: name, Usual: true, Data: true,
		Value: func(r *Row, o *column.Layout) any { return in(at(r), o) },
		Show: func(r *Row, o *column.Layout) string {
			return strings.TrimPrefix(shown(at(r), o), r.Day+" ")
		}}
}

func in(at time.Time, o *column.Layout) time.Time {
	if at.IsZero() || o.Zone == nil {
		return at
	}
	return at.In(o.Zone)
}

func shown(at time.Time, o *column.Layout) string {
	if at.IsZero() {
		return ""
	}
	return in(at, o).Format("2006-01-02 15:04")
}

// VisitColumns lists the columns of the table of visits.
var VisitColumns = column.List[Visit]{
	column.Words("file", "file", func(v *Visit, _ *column.Layout) string { return v.File }).Shortened(),
	column.Words("name", "name", func(v *Visit, _ *column.Layout) string { return v.Name }).Shortened(),
	column.Words("area", "area", func(v *Visit, _ *column.Layout) string { return v.Area }).Shortened(),
	edge("in", func(v *Visit) time.Time { return v.In }, func(v *Visit) bool { return v.Begun }, false),
	edge("out", func(v *Visit) time.Time { return v.Out }, func(v *Visit) bool { return v.Ended }, true),
	column.Span("inside", "inside", func(v *Visit) time.Duration { return v.Inside }),
	column.Number("length", "length", column.Long, column.Length, func(v *Visit) float64 { return v.Length }),
	column.Number("size", "size", column.Wide, column.Area, func(v *Visit) float64 { return v.Size }).Only(false, true),
	column.Words("in-position", "came in at", func(v *Visit, o *column.Layout) string {
		return o.Notation.Format(v.From.Lat, v.From.Lon)
	}),
	column.Words("out-position", "went out at", func(v *Visit, o *column.Layout) string {
		return o.Notation.Format(v.To.Lat, v.To.Lon)
	}),
	{Name: "first-point", Title: "first", Right: true, Data: true,
		Value: func(v *Visit, _ *column.Layout) any { return v.First }},
	{Name: "last-point", Title: "last", Right: true, Data: true,
		Value: func(v *Visit, _ *column.Layout) any { return v.Last }},
}

// edge makes a column of the time at which a visit begins or ends, marked where the recording itself does. A short one
// shows no day where the visit began on it.
func edge(name string, at func(*Visit) time.Time, recording func(*Visit) bool, short bool) column.Column[Visit] {
	return column.Column[Visit]{Name: name, Title: name, Usual: true, Data: true,
		Value: func(v *Visit, o *column.Layout) any { return in(at(v), o) },
		Show: func(v *Visit, o *column.Layout) string {
			text := shown(at(v), o)
			if day := in(v.In, o).Format("2006-01-02 "); short { // which stands before it
				text = strings.TrimPrefix(text, day)
			}
			if recording(v) {
				text = strings.TrimSpace(text + " *")
			}
			return text
		}}
}
