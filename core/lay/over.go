package lay

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strconv"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/region"
	"gyrolith/core/shape"
)

// mostLaid bounds what is laid over one area.
const mostLaid = 200_000

// outline is the rings of an area in a frame.
type outline [][]place

// outlineOf brings an area into a frame about its middle.
func outlineOf(a *nav.Area, heading float64) (frame, outline, error) {
	const most = 9e6 // metres from the middle; lines across another meet again at a quarter of the earth
	f := middleOf(a)
	f.heading = heading
	var out outline
	for _, ring := range dense(a) {
		var places []place
		for _, p := range ring {
			if geodesy.Distance(f.lat, f.lon, p[0], p[1]) > most {
				return f, nil, fmt.Errorf("area %q is too large to lay anything over it: it reaches farther than %s from its "+
					"middle; divide it", a.Name, distanceWords(most))
			}
			x, y := f.to(p[0], p[1])
			places = append(places, place{x, y})
		}
		out = append(out, places)
	}
	return f, out, nil
}

func middleOf(a *nav.Area) frame {
	if pole := nav.Around(a.Outline); pole != 0 {
		return frame{lat: 90 * float64(pole)}
	}
	first := a.Outline[0]
	var lat, lon float64
	for i := range a.Outline {
		lat += a.Outline[i].Lat
		lon += nav.WrapLon(a.Outline[i].Lon - first.Lon)
	}
	n := float64(len(a.Outline))
	return frame{lat: lat / n, lon: nav.WrapLon(first.Lon + lon/n)}
}

// dense gives latitude and longitude of the corners of the rings of an area. Long edges get points between, since they
// are straight in latitude and longitude and not on the ground.
func dense(a *nav.Area) (out [][][2]float64) {
	const step = 2000 // metres
	for _, ring := range a.Rings() {
		var points [][2]float64
		for _, p := range shape.DenseEdges(ring, step) {
			points = append(points, [2]float64{p.Lat, p.Lon})
		}
		out = append(out, points)
	}
	return
}

// seen is a corner from the middle of an area: sine and cosine of the arc to it, and of its course.
type seen struct{ sinArc, cosArc, sin, cos float64 }

// seenFrom gives the corners of an area from its middle.
func seenFrom(a *nav.Area) (out [][]seen) {
	f := middleOf(a)
	for _, ring := range dense(a) {
		var corners []seen
		for _, p := range ring {
			distance, course, _ := geodesy.Inverse(f.lat, f.lon, p[0], p[1])
			var s seen
			s.sinArc, s.cosArc = math.Sincos(distance / earth)
			s.sin, s.cos = math.Sincos(course * math.Pi / 180)
			corners = append(corners, s)
		}
		out = append(out, corners)
	}
	return
}

// rough is the outline in the frame of a heading by a sphere: to a centimetre within 50 km of the middle.
func rough(corners [][]seen, heading float64) (out outline) {
	sin, cos := math.Sincos(heading * math.Pi / 180)
	for _, ring := range corners {
		places := make([]place, len(ring))
		for i, s := range ring {
			ahead, aside := s.cos*cos+s.sin*sin, s.sin*cos-s.cos*sin
			places[i] = place{earth * math.Atan2(s.sinArc*ahead, s.cosArc), earth * math.Asin(s.sinArc*aside)}
		}
		out = append(out, places)
	}
	return
}

// across gives the least and the greatest y.
func (o outline) across() (low, high float64) {
	low, high = math.Inf(1), math.Inf(-1)
	for _, p := range o[0] {
		low, high = min(low, p.y), max(high, p.y)
	}
	return
}

// inside gives, for each of some lines of one y in their order, the parts that are in the outline and in no hole.
func (o outline) inside(rows []float64) [][][2]float64 {
	at := make([][]float64, len(rows))
	for _, ring := range o {
		for i, p := range ring {
			q := ring[(i+1)%len(ring)]
			first, _ := slices.BinarySearch(rows, min(p.y, q.y))
			for k := first; k < len(rows) && rows[k] < max(p.y, q.y); k++ {
				at[k] = append(at[k], p.x+(rows[k]-p.y)/(q.y-p.y)*(q.x-p.x))
			}
		}
	}
	out := make([][][2]float64, len(rows))
	for k, at := range at {
		slices.Sort(at)
		for i := 0; i+1 < len(at); i += 2 {
			if at[i+1]-at[i] > 1e-6 {
				out[k] = append(out[k], [2]float64{at[i], at[i+1]})
			}
		}
	}
	return out
}

// rows gives the values of y of lines so far apart that lie over the outline, as far from its two sides; how many they
// are is rounded up to cover all of it, or to the nearest number for samples of it.
func (o outline) rows(spacing float64, round func(float64) float64) (out []float64, err error) {
	low, high := o.across()
	n := max(round((high-low)/spacing), 1)
	if n > mostLaid {
		return nil, fmt.Errorf("there would be more than %d lines; use a wider spacing", mostLaid)
	}
	first := (low + high - (n-1)*spacing) / 2
	for i := range int(n) {
		out = append(out, first+float64(i)*spacing)
	}
	return out, nil
}

// over lays lines or sampling points over an area.
func (s *Step) over(out *nav.Dataset, a *nav.Area, areas int) error {
	if len(a.Outline) < 3 {
		return nil
	}
	if s.What == Grid {
		return s.grid(out, a)
	}
	heading := s.heading()
	if s.Heading == nil {
		best, corners := math.Inf(1), seenFrom(a)
		for h := range 180 { // the one that is flown in the fewest lines, and of these the shortest
			o := rough(corners, float64(h))
			rows, err := o.rows(s.Spacing, math.Ceil)
			if err != nil {
				return err
			}
			lines := 0
			for _, parts := range o.inside(rows) {
				lines += len(parts)
			}
			low, high := o.across()
			if score := float64(lines) + (high-low)/1e9; score < best {
				best, heading = score, float64(h)
			}
		}
	}
	f, o, err := outlineOf(a, heading)
	if err != nil {
		return err
	}
	rows, err := o.rows(s.Spacing, math.Ceil)
	if err != nil {
		return err
	}
	r := nav.Route{Item: nav.Item{Name: s.named("Lines", a.Name, areas > 1), Group: a.Group}}
	ahead, line := 1.0, 0
	var last *pose
	for k, parts := range o.inside(rows) {
		y := rows[k]
		if ahead < 0 {
			slices.Reverse(parts)
		}
		for _, part := range parts {
			line++
			from, to := place{part[0] - s.Overshoot, y}, place{part[1] + s.Overshoot, y}
			if ahead < 0 {
				from, to = to, from
			}
			along := 0.0
			if ahead < 0 {
				along = math.Pi
			}
			if last != nil && s.Turn > 0 {
				for _, p := range turnBetween(*last, pose{from, along}, s.Turn) {
					r.Points = append(r.Points, nav.Waypoint{Point: f.from(p.x, p.y)})
				}
			}
			r.Points = append(r.Points, laid(f, from, strconv.Itoa(line)+"A"))
			for _, p := range f.straight(from, to) {
				r.Points = append(r.Points, nav.Waypoint{Point: f.from(p.x, p.y)})
			}
			r.Points[len(r.Points)-1].Name = strconv.Itoa(line) + "B"
			last = &pose{to, along}
		}
		if len(parts) > 0 {
			ahead = -ahead
		}
	}
	if len(r.Points) > 0 {
		r.Desc = fmt.Sprintf("%d lines, heading %03.0f", line, math.Mod(heading+360, 360))
		out.Routes = append(out.Routes, r)
	}
	return nil
}

func laid(f frame, at place, name string) nav.Waypoint {
	w := nav.Waypoint{Point: f.from(at.x, at.y)}
	w.Name = name
	return w
}

// grid lays sampling points over an area.
func (s *Step) grid(out *nav.Dataset, a *nav.Area) error {
	f, o, err := outlineOf(a, s.heading())
	if err != nil {
		return err
	}
	var places []place
	switch s.Pattern {
	case Random:
		found, err := s.random(a, f, o)
		if err != nil {
			return err
		}
		places = found
	default:
		spacing := s.Spacing
		if s.Pattern == Triangular {
			spacing *= math.Sqrt(3) / 2
		}
		rows, err := o.rows(spacing, math.Round)
		if err != nil {
			return err
		}
		for i, parts := range o.inside(rows) {
			shift := 0.0
			if s.Pattern == Triangular && i%2 == 1 {
				shift = s.Spacing / 2
			}
			for _, part := range parts {
				first := math.Ceil((part[0]-shift)/s.Spacing)*s.Spacing + shift
				for x := first; x <= part[1]; x += s.Spacing {
					if places = append(places, place{x, rows[i]}); len(places) > mostLaid {
						return fmt.Errorf("there would be more than %d points; use a wider spacing", mostLaid)
					}
				}
			}
		}
	}
	digits := len(strconv.Itoa(len(places)))
	for i, p := range places {
		w := laid(f, p, fmt.Sprintf("%s %0*d", s.named("Sample", a.Name, false), digits, i+1))
		w.Group = a.Group
		out.Waypoints = append(out.Waypoints, w)
	}
	return nil
}

// random gives as many places in an area as are asked for, spread evenly by chance, no two nearer than the least
// distance. The same seed gives the same places.
func (s *Step) random(a *nav.Area, f frame, o outline) (places []place, err error) {
	low, high := o.across()
	left, right := math.Inf(1), math.Inf(-1)
	for _, p := range o[0] {
		left, right = min(left, p.x), max(right, p.x)
	}
	chance := rand.New(rand.NewPCG(uint64(s.Seed), uint64(len(a.Outline))))
	near, interior := shape.NewGrid(max(s.Apart, 1)), region.NewInterior(a)
	const mostDraws = 2000 // draws for one point
	for range s.Count {
		found := false
		for range mostDraws {
			p := place{left + chance.Float64()*(right-left), low + chance.Float64()*(high-low)}
			at := f.from(p.x, p.y)
			if !interior.Contains(at.Lat, at.Lon) {
				continue
			}
			free := true
			if s.Apart > 0 {
				near.Near("", at.Lat, at.Lon, func(i int) bool {
					free = math.Hypot(places[i].x-p.x, places[i].y-p.y) >= s.Apart
					return free
				})
			}
			if free {
				near.Add(len(places), "", at.Lat, at.Lon)
				places, found = append(places, p), true
				break
			}
		}
		if !found {
			return nil, fmt.Errorf("area %q has room for %d points %s apart, and not for %d", a.Name, len(places),
				distanceWords(s.Apart), s.Count)
		}
	}
	return places, nil
}
