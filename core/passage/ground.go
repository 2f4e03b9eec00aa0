package passage

import (
	"fmt"
	"math"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/terrain"
)

// mostSamples bounds the work for the corridor of one leg.
const mostSamples = 20_000_000

// overGround finds the highest ground of the corridor of each leg, and the height that is safe above it. It looks at
// every sample of the terrain there: the corridor is gone through at half their spacing.
func (s *Step) overGround(t *Table) {
	if s.Terrain == nil {
		return
	}
	for i := range t.Legs {
		l := &t.Legs[i]
		incomparable := notOverSea(l)
		if p := incomparable; p != nil {
			t.Findings = append(t.Findings, Finding{Code: NotOverSea, Route: t.Route.Name, Leg: i + 1,
				Why: fmt.Sprintf("its heights are above %s, and can't be compared with the ground, which is above mean sea level",
					p.VerticalDatum())})
		}
		highest, without, all := s.highest(l)
		switch {
		case all == 0:
			t.Findings = append(t.Findings, Finding{Code: NoGround, Route: t.Route.Name, Leg: i + 1,
				Why: "the corridor is too large to search its terrain: make it narrower, or the leg shorter"})
			continue
		case without > 0: // what is not known is not safe
			t.Findings = append(t.Findings, Finding{Code: NoGround, Route: t.Route.Name, Leg: i + 1,
				Why: fmt.Sprintf("%.0f%% of the corridor has no terrain: no safe height is given",
					math.Ceil(100*float64(without)/float64(all)))})
			continue
		}
		l.Ground, l.Safe = highest, highest+s.Margin
		if incomparable != nil {
			continue
		}
		low := math.Min(heightOf(&l.From.Point), heightOf(&l.To.Point))
		if low < l.Safe {
			t.Findings = append(t.Findings, Finding{Code: BelowSafe, Route: t.Route.Name, Leg: i + 1, Below: l.Safe - low})
		}
	}
}

// notOverSea gives the end of a leg whose height is above something else than the sea; nil where there is none.
func notOverSea(l *Leg) *nav.Point {
	for _, p := range []*nav.Point{&l.From.Point, &l.To.Point} {
		if p.HasHeight() && !p.VerticalDatum().AboveSea() {
			return p
		}
	}
	return nil
}

// highest goes through the corridor of a leg: half of it lies on either side, and it goes around both ends.
func (s *Step) highest(l *Leg) (highest float64, without, all int) {
	step := math.Inf(1)
	for _, part := range []float64{0, 0.5, 1} {
		lat, lon := l.line.at(part * l.Distance)
		if spacing := s.Terrain.Spacing(lat, lon); spacing > 0 {
			// Samples of a grid in degrees are nearer to one another from west to east.
			step = min(step, spacing/2*max(math.Cos(lat*math.Pi/180), 0.05))
		}
	}
	if math.IsInf(step, 1) {
		step = 30
	}
	half := s.Corridor / 2
	if (l.Distance+2*half)/step*(2*half/step) > mostSamples {
		return 0, 0, 0
	}
	highest = math.Inf(-1)
	look := func(lat, lon float64) {
		all++
		h, outcome := s.Terrain.Height(lat, lon)
		if outcome > terrain.Filled {
			without++
			return
		}
		highest = max(highest, h)
	}
	rows := int(math.Ceil(half / step))
	for at := -half; ; at += step {
		at = min(at, l.Distance+half)
		on := min(max(at, 0), l.Distance)
		lat, lon := l.line.at(on)
		course := l.Course
		if !l.Rhumb {
			_, _, course = geodesy.Direct(l.line.a.Lat, l.line.a.Lon, l.Course, on)
		}
		lat, lon, _ = geodesy.Direct(lat, lon, course, at-on)
		leftLat, leftLon, _ := geodesy.Direct(lat, lon, course-90, half)
		rightLat, rightLon, _ := geodesy.Direct(lat, lon, course+90, half)
		wide := nav.WrapLon(rightLon - leftLon)
		for k := range 2*rows + 1 { // a few kilometres across are straight enough
			part := float64(k) / float64(max(2*rows, 1))
			look(leftLat+part*(rightLat-leftLat), nav.WrapLon(leftLon+part*wide))
		}
		if at >= l.Distance+half {
			return
		}
	}
}
