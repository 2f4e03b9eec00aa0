package recast

import (
	"fmt"
	"time"

	"gyrolith/core/advice"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// pace gives times to the points of routes and tracks that have none. A line begins at the start that is asked for, or
// else at the time that its first points have, that the file has, or now.
func (w *work) pace() {
	for i := range w.data.Routes {
		r := &w.data.Routes[i]
		points, stays := make([]*nav.Point, len(r.Points)), make([]time.Duration, len(r.Points))
		for j := range r.Points {
			points[j], stays[j] = &r.Points[j].Point, nav.StayOf(r.Points[j].Fields)
			if !points[j].HasTime() {
				r.Points[j].Fields = nav.WithoutSchedule(r.Points[j].Fields)
			}
		}
		w.paceLine(nav.Routes, r.Name, points, stays)
	}
	for i := range w.data.Tracks {
		t := &w.data.Tracks[i]
		points := make([]*nav.Point, 0, t.Len())
		for j := range t.Segments {
			for k := range t.Segments[j].Points {
				points = append(points, &t.Segments[j].Points[k])
			}
		}
		w.paceLine(nav.Tracks, t.Name, points, nil)
	}
}

func (w *work) paceLine(kind nav.Kind, name string, points []*nav.Point, stays []time.Duration) {
	missing := 0
	for _, p := range points {
		if !p.HasTime() {
			missing++
		}
	}
	if missing == 0 {
		if len(points) > 0 && !w.Start.IsZero() {
			w.ledger = append(w.ledger, nav.Entry{Kind: kind, KindWord: kind.One(), Name: name, What: "no times from the speed",
				Why: "it already has times", Count: 1, Loss: true,
				Advice: advice.Advice{Code: advice.ShiftTimes}})
		}
		return
	}
	begin, why := w.Start.UnixNano(), "from the given start"
	first := points[0]
	switch {
	case !w.Start.IsZero():
	case first.HasTime():
		begin, why = first.UnixNano(), "from the time of its first point"
	case w.data.Meta.Time.HasTime():
		begin, why = w.data.Meta.Time.UnixNano(), "from the time of the file, as no start was given"
	default:
		begin, why = w.Now.Truncate(time.Minute).UnixNano(), "from now, as no start was given"
	}
	clock, stayed := begin, time.Duration(0)
	heights, climbs, tooSteep := 0, 0, 0
	for i, p := range points {
		if i > 0 {
			q := points[i-1]
			climb := 0.0
			if p.HasHeight() && q.HasHeight() && p.VerticalDatum().Comparable(q.VerticalDatum()) {
				climb = p.Height() - q.Height()
				if heights++; climb != 0 {
					climbs++
				}
			}
			took, _, err := w.Pace.Leg(geodesy.Distance(q.Lat, q.Lon, p.Lat, p.Lon), climb, w.Speed, level)
			if err != nil {
				tooSteep++
			}
			clock += int64(took)
		}
		if p.HasTime() { // a time that is known goes on counting from there
			clock = p.UnixNano()
		} else {
			p.SetTime(int64(time.Duration(clock).Round(time.Second)), instant.Seconds)
		}
		if i < len(stays) && i > 0 { // the first one is left at its time
			clock += int64(stays[i])
			stayed += stays[i]
		}
	}
	if stayed > 0 {
		why += ", with stays of " + measure.Exactly(stayed) + " in all"
	}
	took := time.Duration(clock - begin).Round(time.Minute)
	switch {
	case climbs > 0:
		why += ", " + w.Pace.Words(w.Speed)
	case heights == 0 && w.Pace.Walks(w.Speed):
		why += ", without heights"
	}
	if tooSteep > 0 {
		w.ledger = append(w.ledger, nav.Entry{Kind: kind, KindWord: kind.One(), Name: name, What: "times of legs", Loss: true,
			Why: "legs are too short for their change of height at the given rates, and take as long as that", Count: tooSteep})
	}
	w.changed(kind, name, "times", "none",
		fmt.Sprintf("%s, %d:%02d h", time.Unix(0, begin).UTC().Format("2006-01-02T15:04Z"), int(took.Hours()),
			int(took.Minutes())%60), why)
}

// level is the speed over the ground where nothing drifts.
func level(speed float64) (float64, error) { return speed, nil }
