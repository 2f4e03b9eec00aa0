package lay

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
)

// Drifting says how something was set between two times, and how well that is known. The method is that of the
// International Aeronautical and Maritime Search and Rescue Manual (IMO and ICAO, volume II, chapter 4): the datum is
// where current and leeway have set the last known position to; its total probable error is the root of the sum of the
// squares of the errors of the position, of the search craft, and of the drift, which is three tenths of it; a first
// search covers a circle of 1.1 times that, and the box about it.
type Drifting struct {
	Since, Until              time.Time
	Current, Leeway           measure.Drift
	Divergence                float64 // degrees to either side of the leeway; 0 is none
	PositionError, CraftError float64 // metres
}

const (
	driftError  = 0.3 // of the drift
	firstFactor = 1.1 // of the total probable error, for a first search
)

// driftParams lists the parameters of a datum for drift.
func (s *Step) driftParams() param.Table {
	known := s.positionParam("last-known",
		"the last known `POSITION` of what drifts (default: each waypoint of the files)")
	return param.Table{known,
		param.Moment("from-time", &s.Drifting.Since, "TIME", "the `TIME` of the last known position"),
		param.Moment("to-time", &s.Drifting.Until, "TIME", "the `TIME` for which the datum is wanted"),
		param.Func("current", "TO/SPEED", "the total current, towards which it sets, `TO/SPEED` such as 090/1.5kn",
			func(text string) (err error) { s.Drifting.Current, err = measure.ParseDrift(text, false); return }),
		param.Func("leeway", "TO/SPEED[,DIVERGENCE]", "the leeway, `TO/SPEED[,DIVERGENCE]` such as 045/0.8kn,20, with the "+
			"angle to either side", func(text string) (err error) {
			drift, angle, diverges := strings.Cut(text, ",")
			if s.Drifting.Leeway, err = measure.ParseDrift(drift, false); err == nil && diverges {
				s.Drifting.Divergence, err = strconv.ParseFloat(strings.TrimSuffix(strings.TrimSpace(angle), "°"), 64)
				if err != nil || !(s.Drifting.Divergence >= 0 && s.Drifting.Divergence <= 90) {
					err = fmt.Errorf("%q is not a divergence from 0 to 90 degrees", angle)
				}
			}
			return err
		}),
		param.Length("position-error", &s.Drifting.PositionError, "DISTANCE",
			"the probable error of the last known position, `DISTANCE`"),
		param.Length("craft-error", &s.Drifting.CraftError, "DISTANCE",
			"the probable error of the search craft's own position, `DISTANCE`"),
	}
}

// positionParam makes a parameter of the position that something is laid around.
func (s *Step) positionParam(name, help string) param.Param {
	return param.Func(name, "POSITION", help, func(text string) error {
		lat, lon, err := geodesy.ParsePosition(text)
		p := nav.At(lat, lon)
		s.Datum = &p
		return err
	})
}

// check finds what is missing for a datum.
func (d *Drifting) check() []error {
	return []error{
		param.Need(!d.Since.IsZero(), "from-time", "the time of the last known position is missing"),
		param.Need(!d.Until.IsZero(), "to-time", "the time for which the datum is wanted is missing"),
		param.Need(d.Since.IsZero() || d.Until.IsZero() || d.Until.After(d.Since), "to-time",
			"is not after the time of the last known position"),
		param.Need(d.Current.Speed > 0 || d.Leeway.Speed > 0, "current", "give a current or a leeway"),
	}
}

// drifted is a datum: where it is, and what it is worth.
type drifted struct {
	nav.Point
	drift, course float64
	errorOf       float64 // the total probable error, in metres
}

// datums gives the datum, or the one to the left and the one to the right of the leeway.
func (d *Drifting) datums(from nav.Point) (out []drifted) {
	angles := []float64{0}
	if d.Divergence > 0 && d.Leeway.Speed > 0 {
		angles = []float64{-d.Divergence, d.Divergence}
	}
	span := d.Until.Sub(d.Since).Seconds()
	for _, angle := range angles {
		east, north := d.Current.Vector()
		aside, ahead := measure.Drift{To: d.Leeway.To + angle, Speed: d.Leeway.Speed}.Vector()
		set := measure.DriftOf(east+aside, north+ahead)
		x := drifted{drift: span * set.Speed, course: set.To}
		lat, lon, _ := geodesy.Direct(from.Lat, from.Lon, x.course, x.drift)
		x.Point = exact(lat, lon)
		x.SetTime(d.Until.UnixNano(), instant.Seconds)
		x.errorOf = math.Sqrt(d.PositionError*d.PositionError + d.CraftError*d.CraftError +
			math.Pow(driftError*x.drift, 2))
		out = append(out, x)
	}
	return out
}

// drift lays the datum of what drifts from a position: waypoints, the circles of a first search, and the box about
// them.
func (s *Step) drift(out *nav.Dataset, name string, from nav.Point) {
	d := &s.Drifting
	start := nav.Waypoint{Item: nav.Item{Name: s.named("Last known", name, true)}, Point: from.Loose()}
	start.Style.Symbol = "question"
	start.SetTime(d.Since.UnixNano(), instant.Seconds)
	out.Waypoints = append(out.Waypoints, start)
	all := d.datums(from)
	words := [2]string{"Datum", ""}
	if len(all) == 2 {
		words = [2]string{"Datum left", "Datum right"}
	}
	number := func(v float64) string { return string(decimal.AppendShort(nil, v, 1)) }
	for i, x := range all {
		w := nav.Waypoint{Item: nav.Item{Name: s.named(words[i], name, true)}, Point: x.Point}
		w.Style.Symbol = "mark"
		radius := firstFactor * x.errorOf
		long := measure.Nautical.Length
		w.Desc = fmt.Sprintf("drift %s towards %03.0f° in %s; total probable error %s; a first search has a radius of %s",
			long(x.drift), math.Mod(math.Round(x.course), 360), measure.Exactly(d.Until.Sub(d.Since)), long(x.errorOf),
			long(radius))
		w.Fields = []nav.Field{{Key: "drift m", Value: number(x.drift)}, {Key: "drift course", Value: number(x.course)},
			{Key: "total probable error m", Value: number(x.errorOf)}, {Key: "radius m", Value: number(radius)}}
		out.Waypoints = append(out.Waypoints, w)
		if radius > 0 {
			circle := s.ring(frame{x.Lat, x.Lon, 0}, "", radius)
			circle.Name = s.named(strings.Replace(words[i], "Datum", "Circle", 1), name, true)
			out.Areas = append(out.Areas, circle)
		}
	}
	out.Areas = append(out.Areas, s.box(name, from, all))
}

// box is the rectangle about the circles: along the line from one datum to the other, or along the drift.
func (s *Step) box(name string, from nav.Point, all []drifted) nav.Area {
	f := frame{all[0].Lat, all[0].Lon, all[0].course}
	if len(all) == 2 {
		_, f.heading, _ = geodesy.Inverse(all[0].Lat, all[0].Lon, all[1].Lat, all[1].Lon)
	}
	west, east, south, north := math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)
	for _, x := range all {
		ahead, aside := f.to(x.Lat, x.Lon)
		radius := firstFactor * x.errorOf
		west, east = min(west, aside-radius), max(east, aside+radius)
		south, north = min(south, ahead-radius), max(north, ahead+radius)
	}
	return nav.Area{Item: nav.Item{Name: s.named("Search box", name, true),
		Desc: "about the circles of a first search, by the method of the IAMSAR Manual, volume II"},
		Outline: []nav.Point{f.from(south, west), f.from(south, east), f.from(north, east), f.from(north, west)}}
}
