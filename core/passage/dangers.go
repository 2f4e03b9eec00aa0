package passage

import (
	"math"
	"slices"

	"gyrolith/core/choose"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/region"
	"gyrolith/core/shape"
)

// Danger is one hazard: a waypoint, a line or an area.
type Danger struct {
	Kind    nav.Kind
	Name    string
	KeepOut bool // an area that no leg may cross
	Limits  nav.Limits
	At      *nav.Point // of a waypoint; nil for others

	area   *nav.Area // nil but for areas
	region int       // the number of the area
	own    bool      // a waypoint of the route itself
}

// Dangers are hazards prepared for measuring.
type Dangers struct {
	List   []Danger
	Faults []string // what could not be read of limits

	edges   []edge
	nearby  *nearby // the edges
	regions *region.Index
	areas   []nav.Area
	danger  []int // that each of the areas is
}

// edge is a short piece of a danger, or a point where both ends are the same.
type edge struct {
	of, number     int        // the danger, and its place among all edges
	a, b           [2]float64 // latitude and longitude
	from, to       vec3       // the same places from the centre of the earth
	middle         vec3
	half           float64 // of its length, metres
	first, lastOne bool    // whether a and b are corners of the danger, not made up between them
}

// vec3 is a place from the centre of the earth, or a direction, in metres.
type vec3 [3]float64

func cartesian(at [2]float64) vec3 { return geodesy.Cartesian(at[0], at[1]) }

func (v vec3) minus(w vec3) vec3 { return vec3{v[0] - w[0], v[1] - w[1], v[2] - w[2]} }

func (v vec3) dot(w vec3) float64 { return v[0]*w[0] + v[1]*w[1] + v[2]*w[2] }

// piece is the greatest length of an edge and of a part of a leg, in metres.
const piece = 1000.0

// pieceAt is the greatest length of a piece of a line that bends as a parallel does, so that it is off a straight one
// by less than half a centimetre: L² tan φ / 8R.
func pieceAt(lat float64) float64 {
	const off = 0.005
	tan := math.Abs(math.Tan(min(math.Abs(lat), 89.999) * math.Pi / 180))
	return min(piece, math.Sqrt(8*off*geodesy.SemiMajor/max(tan, 1e-9)))
}

// NewDangers prepares the hazards of a dataset and the closures that the choices name, in the hazards and in the data
// themselves. Data may be the routes' own.
func NewDangers(hazards, data *nav.Dataset, keepOut []choose.Choice) *Dangers {
	out := &Dangers{}
	if hazards != nil {
		out.add(hazards, keepOut, false)
	}
	if data != nil && len(keepOut) > 0 {
		out.add(data, keepOut, true)
	}
	out.nearby = newNearby(out.edges)
	out.regions = region.New(out.areas, func(*nav.Area) bool { return true })
	return out
}

// Counts says how many of each kind there are, and how many closures among the areas.
func (d *Dangers) Counts() (kinds [4]int, closures int) {
	for i := range d.List {
		kinds[d.List[i].Kind]++
		if d.List[i].KeepOut {
			closures++
		}
	}
	return
}

func chosen(choices []choose.Choice, kind nav.Kind, item *nav.Item) bool {
	for _, c := range choices {
		if c.Matches(kind, item) {
			return true
		}
	}
	return false
}

// add takes the items of a dataset, or only those that are to be kept out of.
func (d *Dangers) add(from *nav.Dataset, keepOut []choose.Choice, closuresOnly bool) {
	if !closuresOnly {
		for i := range from.Waypoints {
			w := &from.Waypoints[i]
			d.List = append(d.List, Danger{Kind: nav.Waypoints, Name: w.Name, At: &w.Point})
			d.edge(w.Point, w.Point)
		}
		for i := range from.Routes {
			r := &from.Routes[i]
			d.List = append(d.List, Danger{Kind: nav.Routes, Name: r.Name})
			d.line(r.Line())
		}
	}
	for i := range from.Tracks {
		t := &from.Tracks[i]
		if area := closedTrack(t); area != nil && chosen(keepOut, nav.Tracks, &t.Item) {
			d.area(area, nav.Tracks, true)
			continue
		}
		if closuresOnly {
			continue
		}
		d.List = append(d.List, Danger{Kind: nav.Tracks, Name: t.Name})
		for j := range t.Segments {
			d.line(t.Segments[j].Points)
		}
	}
	for i := range from.Areas {
		a := &from.Areas[i]
		if out := chosen(keepOut, nav.Areas, &a.Item); out || !closuresOnly {
			d.area(a, nav.Areas, out)
		}
	}
}

// closedTrack makes an area of a track whose ends meet; nil where they don't.
func closedTrack(t *nav.Track) *nav.Area {
	a := &nav.Area{Item: t.Item}
	for i := range t.Segments {
		p := t.Segments[i].Points
		n := len(p)
		if n < 4 || !p[0].SamePlace(&p[n-1]) {
			return nil
		}
		if i == 0 {
			a.Outline = p[:n-1]
		} else {
			a.Holes = append(a.Holes, p[:n-1])
		}
	}
	if len(a.Outline) == 0 {
		return nil
	}
	return a
}

func (d *Dangers) area(a *nav.Area, kind nav.Kind, keepOut bool) {
	limits, faults := a.Limits()
	for _, f := range faults {
		d.Faults = append(d.Faults, "area "+a.Name+": "+f)
	}
	d.danger = append(d.danger, len(d.List))
	d.List = append(d.List, Danger{Kind: kind, Name: a.Name, KeepOut: keepOut, Limits: limits, area: a,
		region: len(d.areas)})
	d.areas = append(d.areas, *a)
	for _, ring := range a.Rings() {
		for i := range ring {
			d.edge(ring[i], ring[(i+1)%len(ring)])
		}
	}
}

func (d *Dangers) line(points []nav.Point) {
	if len(points) == 1 {
		d.edge(points[0], points[0])
	}
	for i := 1; i < len(points); i++ {
		a, b := points[i-1], points[i]
		d.pieces(a, b, func(t float64) [2]float64 {
			p := nav.Between(&a, &b, t)
			return [2]float64{p.Lat, p.Lon}
		})
	}
}

// edge adds an edge of an area, which is straight in longitude and latitude, to the danger that was added last.
func (d *Dangers) edge(a, b nav.Point) {
	dlon := nav.WrapLon(b.Lon - a.Lon)
	d.pieces(a, b, func(t float64) [2]float64 {
		return [2]float64{a.Lat + t*(b.Lat-a.Lat), nav.WrapLon(a.Lon + t*dlon)}
	})
}

// pieces adds the pieces of a line, of which a place is at a part of it.
func (d *Dangers) pieces(a, b nav.Point, at func(t float64) [2]float64) {
	length := geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon)
	n := max(int(math.Ceil(length/pieceAt(max(math.Abs(a.Lat), math.Abs(b.Lat))))), 1)
	for i := range n {
		e := edge{of: len(d.List) - 1, a: at(float64(i) / float64(n)), b: at(float64(i+1) / float64(n)),
			half: length / float64(n) / 2, first: i == 0, lastOne: i == n-1}
		if i == n-1 {
			e.b = [2]float64{b.Lat, b.Lon}
		}
		m := at((float64(i) + 0.5) / float64(n))
		e.from, e.to, e.middle = cartesian(e.a), cartesian(e.b), cartesian(m)
		d.edges = append(d.edges, e)
	}
}

// LeaveOut takes the waypoints out that are points of a route themselves, by name and place, and says how many.
func (d *Dangers) LeaveOut(routes []nav.Route) (n int) {
	const same = 1 // metres
	places := shape.NewGrid(same)
	var points []*nav.Waypoint
	for i := range routes {
		for k := range routes[i].Points {
			p := &routes[i].Points[k]
			places.Add(len(points), p.Name, p.Lat, p.Lon)
			points = append(points, p)
		}
	}
	for i := range d.edges {
		e := &d.edges[i]
		danger := &d.List[e.of]
		if danger.Kind != nav.Waypoints || danger.own {
			continue
		}
		places.Near(danger.Name, e.a[0], e.a[1], func(j int) bool {
			danger.own = geodesy.Distance(points[j].Lat, points[j].Lon, e.a[0], e.a[1]) < same
			return !danger.own
		})
		if danger.own {
			n++
		}
	}
	return
}

// around lists the edges within a reach of the leg between two places, and all of the areas that hold one of these.
func (d *Dangers) around(a, b *nav.Point, reach float64) (edges []int) {
	p, q := cartesian([2]float64{a.Lat, a.Lon}), cartesian([2]float64{b.Lat, b.Lon})
	middle := vec3{(p[0] + q[0]) / 2, (p[1] + q[1]) / 2, (p[2] + q[2]) / 2}
	half := p.minus(middle)
	radius := math.Sqrt(half.dot(half)) + reach + d.nearby.longest
	holding := map[int]bool{}
	for _, at := range []*nav.Point{a, b} {
		d.regions.Holding(at.Lat, at.Lon, func(i int) bool { holding[d.danger[i]] = true; return true })
	}
	d.nearby.around(middle, func() float64 { return radius }, func(e *edge) {
		if off := e.middle.minus(middle); off.dot(off) <= radius*radius && !holding[e.of] {
			edges = append(edges, e.number)
		}
	})
	for i := range d.edges {
		if len(holding) > 0 && holding[d.edges[i].of] {
			edges = append(edges, i)
		}
	}
	slices.Sort(edges) // neighbours belong together
	return edges
}

// inside says whether a position is in a danger that is an area.
func (d *Dangers) inside(k int, lat, lon float64) bool {
	return d.List[k].area != nil && d.regions.Holds(d.List[k].region, lat, lon)
}
