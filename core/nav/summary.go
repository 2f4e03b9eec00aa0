package nav

import (
	"math"

	"gyrolith/core/geodesy"
)

// Extent is the smallest box around positions; it may cross the antimeridian.
type Extent struct {
	south, north float64
	// One bin a degree of longitude, each with the range of what fell into it.
	west, east [360]float64
	filled     [360]bool
	any        bool
}

// Add takes a position in.
func (e *Extent) Add(lat, lon float64) {
	if !e.any {
		e.any, e.south, e.north = true, lat, lat
	}
	e.south, e.north = min(e.south, lat), max(e.north, lat)
	bin := min(max(int(lon+180), 0), 359)
	if !e.filled[bin] {
		e.filled[bin], e.west[bin], e.east[bin] = true, lon, lon
	} else if lon < e.west[bin] {
		e.west[bin] = lon
	} else if lon > e.east[bin] {
		e.east[bin] = lon
	}
}

// AddBox takes all of a box in.
func (e *Extent) AddBox(b Box) {
	e.Add(b.South, b.West)
	e.Add(b.North, b.East)
	if b.West > b.East {
		b.East += 360
	}
	for lon := math.Floor(b.West); lon < b.East; lon++ {
		bin := (int(lon) + 180) % 360
		turn := float64(bin-180) - lon
		west, east := max(lon, b.West)+turn, min(lon+1, b.East)+turn
		if e.filled[bin] {
			west, east = min(west, e.west[bin]), max(east, e.east[bin])
		}
		e.filled[bin], e.west[bin], e.east[bin] = true, west, east
	}
}

// AddArea takes an area in, with the pole that it is around.
func (e *Extent) AddArea(a *Area) {
	for _, ring := range a.Rings() {
		for i := range ring {
			e.Add(ring[i].Lat, ring[i].Lon)
		}
	}
	if Around(a.Outline) == 0 {
		return
	}
	south, north := Latitudes(a.Outline)
	for _, hole := range a.Holes {
		if Around(hole) != 0 { // the pole is in it
			return
		}
	}
	e.AddBox(Box{-180, south, 180, north})
}

// Box gives the extent, false if nothing was added. It leaves out the widest empty range of longitude.
func (e *Extent) Box() (Box, bool) {
	if !e.any {
		return Box{}, false
	}
	var bins []int
	for i, f := range e.filled {
		if f {
			bins = append(bins, i)
		}
	}
	last := len(bins) - 1
	box := Box{e.west[bins[0]], e.south, e.east[bins[last]], e.north}
	widest := box.West + 360 - box.East
	for i := range last {
		if gap := e.west[bins[i+1]] - e.east[bins[i]]; gap > widest {
			widest = gap
			box.West, box.East = e.west[bins[i+1]], e.east[bins[i]]
		}
	}
	return box, true
}

// Summary is what there is to say about the points of a line, or of several.
type Summary struct {
	Points, Heights, Times int
	Length                 float64 // metres, along the segments; of an area along all of its edges
	Size                   float64 // square metres, of areas; not a number of a flawed one
	Low, High              float64 // heights, where there are any
	First, Last            Point   // the earliest and the latest, where there are times
	Ascent, Descent        float64 // metres climbed and come down, of changes above ClimbThreshold
}

// Add takes the points of an unbroken line in.
func (s *Summary) Add(points []Point) {
	s.climb(points)
	for i := range points {
		p := &points[i]
		s.add(p)
		if i > 0 {
			q := &points[i-1]
			s.Length += geodesy.Distance(q.Lat, q.Lon, p.Lat, p.Lon)
		}
	}
}

func (s *Summary) add(p *Point) {
	s.Points++
	if p.HasHeight() {
		if s.Heights == 0 {
			s.Low, s.High = math.Inf(1), math.Inf(-1)
		}
		s.Heights++
		s.Low, s.High = min(s.Low, p.height), max(s.High, p.height)
	}
	if p.HasTime() {
		if s.Times == 0 || p.time < s.First.time {
			s.First = *p
		}
		if s.Times == 0 || p.time > s.Last.time {
			s.Last = *p
		}
		s.Times++
	}
}

// Join adds what another summary counts.
func (s *Summary) Join(o Summary) {
	if o.Heights > 0 && s.Heights > 0 {
		s.Low, s.High = min(s.Low, o.Low), max(s.High, o.High)
	} else if o.Heights > 0 {
		s.Low, s.High = o.Low, o.High
	}
	if o.Times > 0 && (s.Times == 0 || o.First.time < s.First.time) {
		s.First = o.First
	}
	if o.Times > 0 && (s.Times == 0 || o.Last.time > s.Last.time) {
		s.Last = o.Last
	}
	s.Ascent, s.Descent = s.Ascent+o.Ascent, s.Descent+o.Descent
	s.Points, s.Heights, s.Times = s.Points+o.Points, s.Heights+o.Heights, s.Times+o.Times
	s.Length += o.Length
	if !math.IsNaN(o.Size) {
		s.Size += o.Size
	}
}

// Summary tells of one waypoint.
func (w *Waypoint) Summary() (s Summary) {
	s.add(&w.Point)
	return
}

// Summary tells of a route.
func (r *Route) Summary() (s Summary) {
	s.Add(r.Line())
	return
}

// Line gives the positions of a route.
func (r *Route) Line() []Point {
	line := make([]Point, len(r.Points))
	for i := range r.Points {
		line[i] = r.Points[i].Point
	}
	return line
}

// Summary tells of a track.
func (t *Track) Summary() (s Summary) {
	for i := range t.Segments {
		s.Add(t.Segments[i].Points)
	}
	return
}

// Summary tells of an area; its length is its perimeter.
func (a *Area) Summary() (s Summary) {
	for _, ring := range a.Rings() {
		s.climb(append(ring[:len(ring):len(ring)], ring[:min(len(ring), 1)]...))
		for i := range ring {
			s.add(&ring[i])
		}
	}
	s.Length, s.Size = a.Perimeter(), a.Size()
	return
}

// Extent gives the box around all positions of the data.
func (d *Dataset) Extent() (Box, bool) {
	var e Extent
	for p := range d.AllPoints() {
		e.Add(p.Lat, p.Lon)
	}
	for i := range d.Areas {
		if Around(d.Areas[i].Outline) != 0 {
			e.AddArea(&d.Areas[i])
		}
	}
	return e.Box()
}
