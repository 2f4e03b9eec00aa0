package lay

import (
	"fmt"
	"math"
	"slices"
	"strconv"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// usualLegs is how many legs an expanding square has, unless it is said.
const usualLegs = 12

// about lays a search pattern, or rings, about a datum.
func (s *Step) about(out *nav.Dataset, name string, datum nav.Point) {
	f := frame{datum.Lat, datum.Lon, s.heading()}
	side := 1.0 // to the right
	if s.Left {
		side = -1
	}
	number := func(i int) string { return strconv.Itoa(i + 1) }
	switch s.What {
	case ExpandingBox:
		legs := s.Legs
		if legs == 0 {
			legs = usualLegs
		}
		at, places := place{}, []place{{}}
		for i := range legs {
			length := s.Spacing * float64(i/2+1)
			sin, cos := math.Sincos(float64(i) * side * math.Pi / 2)
			at = place{at.x + length*cos, at.y + length*sin}
			places = append(places, at)
		}
		out.Routes = append(out.Routes, s.route(f, s.named("Expanding square", name, false), squared(places), number))
	case Sector:
		out.Routes = append(out.Routes, s.route(f, s.named("Sector search", name, false), sector(s.Radii[0], side), number))
	case ParallelSweep, CreepingLine:
		usual, long, wide := "Parallel sweep", s.Length, s.Width
		if s.What == CreepingLine {
			usual, long, wide = "Creeping line", s.Width, s.Length
		}
		places := sweep(long, wide, s.Spacing, side)
		if s.What == CreepingLine { // the legs lie across the heading
			for i, p := range places {
				places[i] = place{p.y * side, p.x * side}
			}
		}
		out.Routes = append(out.Routes, s.route(f, s.named(usual, name, false), places, number))
	case DriftDatum:
		s.drift(out, name, datum)
	case Rings:
		for _, radius := range s.Radii {
			out.Areas = append(out.Areas, s.ring(f, name, radius))
		}
	}
}

// squared rounds away what is left of sines and cosines of right angles.
func squared(places []place) []place {
	for i := range places {
		places[i].x, places[i].y = math.Round(places[i].x*1e6)/1e6, math.Round(places[i].y*1e6)/1e6
	}
	return places
}

// sector gives the nine legs of a sector search: three triangles through the datum, each turn of 120 degrees, each leg
// as long as the radius.
func sector(radius, side float64) []place {
	at, course := place{}, 0.0
	out := []place{at}
	go1 := func() {
		sin, cos := math.Sincos(course * math.Pi / 180)
		at = place{at.x + radius*cos, at.y + radius*sin}
		out = append(out, at)
	}
	for range 3 {
		go1()
		course += 120 * side
		go1()
		course += 120 * side
		go1() // back at the datum, and on over it on the same course
	}
	return squared(out)
}

// sweep gives the tracks over a rectangle about the origin: long ones, so far apart, half of that inside its sides.
func sweep(long, wide, spacing, side float64) (out []place) {
	n := max(int(math.Round(wide/spacing)), 1)
	ahead := 1.0
	for i := range n {
		y := side * (-float64(n-1)/2*spacing + float64(i)*spacing)
		x := math.Max(long/2-spacing/2, 0)
		out = append(out, place{-x * ahead, y}, place{x * ahead, y})
		ahead = -ahead
	}
	return
}

// ring gives a circle, or a sector of one, as an area.
func (s *Step) ring(f frame, name string, radius float64) nav.Area {
	from, span := 0.0, 360.0
	if s.From != nil {
		from, span = *s.From, math.Mod(*s.To-*s.From+720, 360)
		if span == 0 {
			span = 360
		}
	}
	a := nav.Area{Item: nav.Item{Name: s.named(fmt.Sprintf("Ring %s", distanceWords(radius)), name, true)}}
	const step = 3 // degrees: a circle is off by a third of a thousandth of its radius
	n := max(int(math.Ceil(span/step)), 2)
	if span < 360 {
		to := math.Mod(from+span, 360)
		a.Name = s.named(fmt.Sprintf("Sector %03.0f-%03.0f %s", from, to, distanceWords(radius)), name, true)
		a.Outline = append(a.Outline, f.from(0, 0))
		n++
	}
	for i := range n {
		along := float64(i) / float64(n)
		if span < 360 {
			along = float64(i) / float64(n-1)
		}
		lat, lon, _ := geodesy.Direct(f.lat, f.lon, from+along*span, radius)
		a.Outline = append(a.Outline, exact(lat, lon))
	}
	shape.Poleward(a.Rings(), shape.WithClock)
	if nav.Around(a.Outline) == 0 { // as most formats have outlines
		slices.Reverse(a.Outline)
	}
	return a
}

// distanceWords writes a radius in the measure in which it is round.
func distanceWords(metres float64) string {
	const mile = 1852
	for _, m := range []struct {
		of   float64
		word string
	}{{mile, "nm"}, {1000, "km"}} {
		if v := metres / m.of; v >= 1 && math.Abs(v-math.Round(v*10)/10) < 1e-9 {
			return strconv.FormatFloat(math.Round(v*10)/10, 'f', -1, 64) + " " + m.word
		}
	}
	return strconv.FormatFloat(math.Round(metres*10)/10, 'f', -1, 64) + " m"
}
