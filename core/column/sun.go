package column

import (
	"time"

	"gyrolith/core/sun"
)

// Sun makes the columns of what the sun does on the day of a time at a place, in the zone of the layout: when it rises
// and sets, the twilights, and how long the day is.
func Sun[R any](of func(*R) (lat, lon float64, at time.Time)) (out []Column[R]) {
	day := func(r *R, o *Layout) (d sun.Day) {
		lat, lon, at := of(r)
		if at.IsZero() {
			return d
		}
		if o.Zone != nil {
			at = at.In(o.Zone)
		}
		return sun.Of(lat, lon, time.Date(at.Year(), at.Month(), at.Day(), 0, 0, 0, 0, at.Location()))
	}
	event := func(name string, at func(*sun.Day) time.Time) {
		out = append(out, Column[R]{Name: name, Title: name, Right: true,
			Value: func(r *R, o *Layout) any { d := day(r, o); return at(&d) },
			Show: func(r *R, o *Layout) string {
				d := day(r, o)
				if t := at(&d); !t.IsZero() {
					return t.Format("15:04")
				}
				return ""
			}})
	}
	event("sunrise", func(d *sun.Day) time.Time { return d.Rise })
	event("sunset", func(d *sun.Day) time.Time { return d.Set })
	event("dawn", func(d *sun.Day) time.Time { return d.Dawn })
	event("dusk", func(d *sun.Day) time.Time { return d.Dusk })
	event("nautical-dawn", func(d *sun.Day) time.Time { return d.NauticalDawn })
	event("nautical-dusk", func(d *sun.Day) time.Time { return d.NauticalDusk })
	event("astronomical-dawn", func(d *sun.Day) time.Time { return d.StarsEnd })
	event("astronomical-dusk", func(d *sun.Day) time.Time { return d.StarsBegin })
	return append(out, Column[R]{Name: "day-length", Title: "day length", Right: true, Of: Seconds,
		Value: func(r *R, o *Layout) any { return day(r, o).Length }},
		Column[R]{Name: "sun", Title: "sun", Value: func(r *R, o *Layout) any { d := day(r, o); return d.Word() }})
}
