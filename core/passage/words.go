package passage

import (
	"fmt"
	"time"
)

// Words says what a finding of a table is, and of which leg.
func (f *Finding) Words(t *Table, o *Layout) string {
	leg := ""
	if f.Leg > 0 {
		l := &t.Legs[f.Leg-1]
		leg = fmt.Sprintf("leg %d, %s to %s: ", f.Leg, PointName(l.From, f.Leg),
			PointName(l.To, f.Leg+1))
	}
	name := f.Name
	if name == "" {
		name = "a hazard without a name"
	}
	switch f.Code {
	case Clearance:
		where := fmt.Sprintf("%s after its start, at %s", o.Measure.Length(f.Near.Along),
			o.Notation.Format(f.Near.Lat, f.Near.Lon))
		if f.Why != "" {
			where += "; " + f.Why
		}
		if f.Near.Distance == 0 {
			return fmt.Sprintf("%sgoes over %s, %s", leg, name, where)
		}
		return fmt.Sprintf("%s%s is %s to the %s, nearer than the clearance: %s", leg, name,
			o.Measure.Length(f.Near.Distance), f.Near.Side, where)
	case BelowSafe:
		return leg + "is up to " + o.Measure.Height(f.Below) + " lower than its safe height"
	case InTheDark:
		clock := func(at time.Time) string { return at.In(o.Zone).Format("15:04") }
		words := leg + "arrives in the dark"
		if !f.Light.Sunset.IsZero() {
			sunset, dark := clock(f.Light.Sunset), clock(f.Light.Dark)
			words += fmt.Sprintf(": the sun set at %s, and civil twilight ended at %s", sunset, dark)
		}
		return words
	case InTwilight:
		if f.Light.Sunset.IsZero() {
			return leg + "arrives before sunrise, in civil twilight"
		}
		return leg + fmt.Sprintf("arrives after sunset, in civil twilight: the sun set at %s",
			f.Light.Sunset.In(o.Zone).Format("15:04"))
	case Closure, Crossing:
		what := "crosses " + name
		if f.Code == Closure {
			what = "crosses the closure " + name
		}
		words := fmt.Sprintf("%s%s from %s to %s after its start", leg, what, o.Measure.Length(*f.Enter),
			o.Measure.Length(*f.Leave))
		if f.Why != "" {
			words += ", " + f.Why
		}
		return words
	}
	return leg + f.Why
}
