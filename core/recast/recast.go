// Package recast turns waypoints, routes, tracks and areas into one another, and does to lines what makes one of
// another: reversing, joining, splitting, and giving times by a pace.
package recast

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"time"

	"gyrolith/core/advice"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/pace"
	"gyrolith/core/region"
	"gyrolith/core/shape"
)

// Order is the order in which waypoints are strung together.
type Order string

// The orders: as in the file; by name, with the numbers in names as numbers; by time; the shortest way.
const (
	ByFile Order = "file"
	ByName Order = "name"
	ByTime Order = "time"
	Near   Order = "near"
)

// Orders lists the orders.
var Orders = []Order{ByFile, ByName, ByTime, Near}

// The distances in metres within which a waypoint lies on a line, and the ends of a line meet, unless a step says so.
const (
	DefaultLendWithin    = 25.0
	DefaultClosingWithin = 10.0
)

// Step says what becomes of the data. The kinds are turned first, then lines are reversed, joined, given times, and
// split.
type Step struct {
	To         [4]*nav.Kind // what becomes of each kind; nil leaves it
	KeepSource bool
	Name       string // of what is made, all of it in one; "" makes one of each group of waypoints

	MaxPoints     int     // of a route that is made of a track; 0 is any number
	Within        float64 // metres that such a route may be off the track; 0 keeps every point
	LendWithin    float64 // metres from a line in which waypoints lend it their names
	ClosingWithin float64 // metres between the ends of a line that becomes an area
	Order         Order
	First, Last   string  // names of the waypoints that Near begins and ends with
	Every         float64 // metres between the points of a track that is made of a route; 0 makes straight legs

	Reverse    bool
	Join       bool
	Reversing  bool    // lines with times may be turned around where that joins them better
	JoinWithin float64 // metres between ends that are joined; 0 is any distance
	Shift      time.Duration
	Start      time.Time // of lines without times; the zero time is none
	Speed      float64   // m/s; 0 gives no times
	Pace       pace.Rule // how heights count in it
	Now        time.Time // when a pace has nothing else to begin with
	SplitAt    *Cut

	// PointsOf says how many points of each kind a unit takes, for lines that are split for it; nil where no unit is
	// known.
	PointsOf func(unit string) ([4]int, error)
}

// Check finds parameters that make no sense.
func (s *Step) Check() error {
	s.Join = s.Join || s.JoinWithin > 0 || s.Reversing
	for name, v := range map[string]float64{"distance from the track": s.Within,
		"distance of waypoints from a line": s.LendWithin,
		"distance between ends":             s.ClosingWithin, "step": s.Every, "speed": s.Speed,
		"joining distance": s.JoinWithin} {
		if v < 0 {
			return fmt.Errorf("the %s is negative", name)
		}
	}
	switch {
	case s.MaxPoints == 1 || s.MaxPoints < 0:
		return errors.New("a route has at least two points")
	case !s.Start.IsZero() && s.Speed == 0:
		return errors.New("a departure needs a speed as well, to calculate the times of arrival")
	case s.Pace != pace.Rule{} && s.Speed == 0:
		return errors.New("how heights count needs a speed as well, from which times are calculated")
	case (s.Last != "" || s.First != "" && s.To[nav.Waypoints] != nil) && s.Order != Near:
		return errors.New("a first and a last waypoint can be chosen only with the order near")
	case s.idle():
		return advice.Errorf(advice.AskForSomething, "no conversion given")
	}
	return nil
}

func (s *Step) idle() bool {
	return s.To == [4]*nav.Kind{} && !s.Reverse && !s.Join && s.Shift == 0 && s.Speed == 0 && s.SplitAt == nil &&
		s.First == ""
}

// work is one run of a step.
type work struct {
	*Step
	data   *nav.Dataset
	made   nav.Dataset
	ledger nav.Ledger

	bounded bool // a search was ended before it had nothing to gain

	taken map[string]bool // the names that points of the data have, of which none is given to another
}

// Recast changes the data and says what was changed; what could not be done as it was asked for is a loss. When the
// context ends, the data are not to be used.
func (s *Step) Recast(ctx context.Context, d *nav.Dataset) (nav.Ledger, error) {
	w := &work{Step: s, data: d, taken: map[string]bool{}}
	for _, p := range d.AllWaypoints() {
		w.taken[p.Name] = true
	}
	if err := w.turn(); err != nil {
		return nil, err
	}
	if s.Reverse {
		w.reverse()
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	if s.Join {
		w.join()
	}
	if s.First != "" && s.Order != Near {
		if err := w.begin(); err != nil {
			return nil, err
		}
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	if s.Shift != 0 {
		for p := range d.AllPoints() {
			if p.HasTime() {
				p.SetTime(p.UnixNano()+int64(s.Shift), p.TimeMark())
			}
		}
		for i := range d.Routes {
			for j := range d.Routes[i].Points {
				p := &d.Routes[i].Points[j]
				p.Fields = nav.ShiftSchedule(p.Fields, s.Shift)
			}
		}
		w.changed(nav.Tracks, "", "times", "", "shifted by "+s.Shift.String(), "requested")
	}
	if s.Speed > 0 {
		w.pace()
	}
	if s.SplitAt != nil {
		if err := w.split(); err != nil {
			return nil, err
		}
	}
	return w.ledger, nil
}

// turn makes the kinds of one another. What is made stands behind what was there.
func (w *work) turn() error {
	asked, found := 0, 0
	counts := w.data.Counts()
	source := *w.data
	for _, from := range nav.Kinds {
		to := w.To[from]
		if to == nil || *to == from {
			continue
		}
		asked++
		if counts[from] == 0 {
			continue
		}
		found++
		if err := w.turnKind(from, *to, &source); err != nil {
			return err
		}
	}
	if asked > 0 && found == 0 {
		return fmt.Errorf("there is nothing to recast: the data have no %s", w.missing())
	}
	w.data.Waypoints = append(w.data.Waypoints, w.made.Waypoints...)
	w.data.Routes = append(w.data.Routes, w.made.Routes...)
	w.data.Tracks = append(w.data.Tracks, w.made.Tracks...)
	w.data.Areas = append(w.data.Areas, w.made.Areas...)
	return nil
}

func (w *work) missing() (words string) {
	for _, k := range nav.Kinds {
		if w.To[k] != nil && *w.To[k] != k {
			if words != "" {
				words += " and no "
			}
			words += k.String()
		}
	}
	return
}

func (w *work) turnKind(from, to nav.Kind, source *nav.Dataset) error {
	d := w.data
	switch from {
	case nav.Waypoints:
		used, err := w.string(source.Waypoints, to)
		if err != nil {
			return err
		}
		if !w.KeepSource && used {
			d.Waypoints = nil
		}
	case nav.Routes:
		d.Routes = nil
		for i := range source.Routes {
			w.route(&source.Routes[i], to)
		}
	case nav.Tracks:
		d.Tracks = nil
		for i := range source.Tracks {
			w.track(&source.Tracks[i], to, source.Waypoints)
		}
	case nav.Areas:
		d.Areas = nil
		for i := range source.Areas {
			w.area(&source.Areas[i], to)
		}
	}
	return nil
}

// changed notes a change that was asked for.
func (w *work) changed(kind nav.Kind, name string, what nav.Property, old, new, why string) {
	w.ledger = append(w.ledger, nav.Entry{Kind: kind, KindWord: kind.One(), Name: name, What: what, Old: old, New: new,
		Why: why, Count: 1, Asked: true})
}

func (w *work) turned(from, to nav.Kind, name string) {
	w.changed(from, name, "kind", from.One(), to.One(), "requested")
}

// route turns a route into a track, an area or waypoints.
func (w *work) route(r *nav.Route, to nav.Kind) {
	if w.KeepSource {
		w.data.Routes = append(w.data.Routes, *r)
	}
	switch to {
	case nav.Waypoints:
		for i := range r.Points {
			p := r.Points[i]
			if p.Name == "" {
				p.Name = w.pointName(r.Name, i, len(r.Points))
			}
			if p.Group == "" {
				p.Group = join(r.Group, r.Name)
			}
			w.made.Waypoints = append(w.made.Waypoints, p)
		}
	case nav.Tracks:
		w.made.Tracks = append(w.made.Tracks, nav.Track{Item: r.Item, Segments: []nav.Segment{w.segment(r.Points)}})
	case nav.Areas:
		ring := w.segment(r.Points)
		if !w.close(nav.Routes, &r.Item, &ring, true) {
			w.keep(func() { w.data.Routes = append(w.data.Routes, *r) })
			return
		}
		w.made.Areas = append(w.made.Areas, nav.Area{Item: r.Item, Outline: w.outline(r.Name, ring.Points)})
	}
	w.turned(nav.Routes, to, r.Name)
}

// keep puts back what could not be turned, unless it is there anyway.
func (w *work) keep(put func()) {
	if !w.KeepSource {
		put()
	}
}

// segment makes a segment of route points; what they are called stands in its details.
func (w *work) segment(points []nav.Waypoint) (s nav.Segment) {
	for i := range points {
		p := &points[i]
		if i > 0 && w.Every > 0 {
			for _, q := range shape.Stations(&points[i-1].Point, &p.Point, w.Every) {
				s.Points = append(s.Points, nav.At(q.Lat, q.Lon))
			}
		}
		at := p.Point
		d := nav.Detail{Exact: p.Exact}
		if item := p.Item; !blank(&item) {
			d.Item = &item
		}
		s.Attach(&at, d)
		s.Points = append(s.Points, at)
	}
	return
}

func blank(item *nav.Item) bool {
	return item.Name == "" && item.Comment == "" && item.Desc == "" && item.Source == "" && item.Type == "" &&
		len(item.Links) == 0 &&
		item.Style == nav.Style{} && len(item.Fields) == 0 && len(item.Kept) == 0
}

// track turns a track into routes, areas or waypoints, one for each segment where they can't be one.
func (w *work) track(t *nav.Track, to nav.Kind, waypoints []nav.Waypoint) {
	if w.KeepSource {
		w.data.Tracks = append(w.data.Tracks, *t)
	}
	switch to {
	case nav.Waypoints:
		n, total := 0, t.Len()
		for i := range t.Segments {
			s := &t.Segments[i]
			for j := range s.Points {
				p := s.Waypoint(&s.Points[j])
				if p.Name == "" {
					p.Name = w.pointName(t.Name, n, total)
				}
				p.Group = join(t.Group, t.Name)
				w.made.Waypoints = append(w.made.Waypoints, p)
				n++
			}
		}
	case nav.Routes:
		for i := range t.Segments {
			r := nav.Route{Item: t.Item}
			if len(t.Segments) > 1 {
				r.Name = numbered(t.Name, i, len(t.Segments))
			}
			r.Points = w.routePoints(&t.Segments[i], r.Name, waypoints)
			w.made.Routes = append(w.made.Routes, r)
		}
		if len(t.Segments) > 1 {
			w.changed(nav.Tracks, t.Name, "segments", strconv.Itoa(len(t.Segments)), strconv.Itoa(len(t.Segments))+" routes",
				"a route has no gaps")
		}
	case nav.Areas:
		w.trackToAreas(t)
		return
	}
	w.turned(nav.Tracks, to, t.Name)
}

// trackToAreas makes areas of the segments that close; those that lie in the first one are its holes.
func (w *work) trackToAreas(t *nav.Track) {
	rest := nav.Track{Item: t.Item}
	var areas []nav.Area
	for i := range t.Segments {
		s := t.Segments[i]
		s.Points = append([]nav.Point{}, s.Points...)
		if !w.close(nav.Tracks, &t.Item, &s, true) {
			rest.Segments = append(rest.Segments, t.Segments[i])
			continue
		}
		ring := w.outline(t.Name, s.Points)
		if len(areas) > 0 && within(ring, areas[0].Outline) {
			areas[0].Holes = append(areas[0].Holes, ring)
			continue
		}
		a := nav.Area{Item: t.Item, Outline: ring}
		if len(areas) > 0 {
			a.Name = fmt.Sprintf("%s %d", t.Name, len(areas)+1)
		}
		areas = append(areas, a)
	}
	if len(rest.Segments) > 0 {
		w.keep(func() { w.data.Tracks = append(w.data.Tracks, rest) })
	}
	if len(areas) > 0 {
		w.made.Areas = append(w.made.Areas, areas...)
		w.turned(nav.Tracks, nav.Areas, t.Name)
	}
}

// outline makes a ring of a closed line. One around the earth is the edge of what holds the nearer pole.
func (w *work) outline(name string, line []nav.Point) []nav.Point {
	ring := loose(line)
	if pole := shape.Poleward([][]nav.Point{ring}, shape.AnyWay); pole != 0 {
		holds := "the north pole in it"
		if pole < 0 {
			holds = "the south pole in it"
		}
		w.changed(nav.Areas, name, "outline", "", holds, "it goes around the earth, and this pole is the nearer one")
	}
	return ring
}

func within(ring, outer []nav.Point) bool {
	in := region.NewInterior(&nav.Area{Outline: outer})
	return !slices.ContainsFunc(ring, func(p nav.Point) bool { return !in.Contains(p.Lat, p.Lon) })
}

// close takes the last point away where it is the first again; it says what keeps a line from being an outline.
// Waypoints close by themselves.
func (w *work) close(kind nav.Kind, item *nav.Item, s *nav.Segment, mustMeet bool) bool {
	n := len(s.Points)
	refuse := func(why string) bool {
		w.ledger = append(w.ledger, nav.Entry{Kind: kind, KindWord: kind.One(), Name: item.Name, What: "no area made of it",
			Why: why, Count: 1, Loss: true})
		return false
	}
	if n < 3 {
		return refuse("an outline needs at least three points")
	}
	a, b := &s.Points[0], &s.Points[n-1]
	apart := geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon)
	limit := w.ClosingWithin
	if limit == 0 {
		limit = DefaultClosingWithin
	}
	if mustMeet && apart > limit {
		refuse(fmt.Sprintf("its ends are %.0f m apart", apart))
		w.ledger[len(w.ledger)-1].Advise(advice.CloseWider)
		return false
	}
	if a.SamePlace(b) {
		s.Points = s.Points[:n-1]
	}
	if len(s.Points) < 3 {
		return refuse("an outline needs at least three points")
	}
	w.cornersLose(kind, item, s)
	return true
}

// cornersLose says what the corners of an outline don't have any more: names and all else that is said of points.
func (w *work) cornersLose(kind nav.Kind, item *nav.Item, s *nav.Segment) {
	names, more := 0, 0
	for i := range s.Points {
		p := &s.Points[i]
		if it := s.Item(p); it != nil && it.Name != "" {
			names++
		}
		if it := s.Item(p); len(s.Values(nil, p)) > 0 || it != nil && len(it.Fields) > 0 {
			more++
		}
	}
	if names > 0 {
		w.ledger.Lost(kind, item.Name, "names of points", "corners of an area have none", names).Asked = true
	}
	if more > 0 {
		w.ledger.Lost(kind, item.Name, "fields of points", "corners of an area have none", more).Asked = true
	}
}

// area turns an area into a closed track, or its corners into waypoints or routes.
func (w *work) area(a *nav.Area, to nav.Kind) {
	if w.KeepSource {
		w.data.Areas = append(w.data.Areas, *a)
	}
	rings := a.Rings()
	item := a.Item
	item.Style.Fill, item.Style.NoFill, item.Style.NoOutline = nav.Colour{}, false, false
	if !item.Style.Colour.Set && a.Style.Fill.Set {
		item.Style.Colour = nav.RGB(a.Style.Fill.R, a.Style.Fill.G, a.Style.Fill.B) // or a filled area would lose its colour
	} else if a.Style.Fill.Set {
		w.ledger.Lost(nav.Areas, a.Name, "fill colour", "a "+to.One()+" has none", 1).Asked = true
	}
	switch to {
	case nav.Tracks:
		t := nav.Track{Item: item}
		for _, ring := range rings {
			if len(ring) > 0 {
				t.Segments = append(t.Segments, nav.Segment{Points: append(append([]nav.Point{}, ring...), ring[0])})
			}
		}
		w.made.Tracks = append(w.made.Tracks, t)
	case nav.Routes, nav.Waypoints:
		for i, ring := range rings {
			name := a.Name
			if i > 0 {
				name = fmt.Sprintf("%s hole %d", a.Name, i)
			}
			var points []nav.Waypoint
			for j := range ring {
				points = append(points, nav.Waypoint{Item: nav.Item{Name: w.pointName(name, j, len(ring))}, Point: ring[j]})
			}
			if to == nav.Waypoints {
				for j := range points {
					points[j].Group, points[j].Style = join(a.Group, a.Name), nav.Style{Colour: item.Style.Colour,
						Symbol: item.Style.Symbol}
				}
				w.made.Waypoints = append(w.made.Waypoints, points...)
				continue
			}
			if len(points) > 0 {
				points = append(points, points[0])
			}
			r := nav.Route{Item: item, Points: points}
			r.Name = name
			w.made.Routes = append(w.made.Routes, r)
		}
	}
	w.turned(nav.Areas, to, a.Name)
}

// loose gives points that belong to no segment.
func loose(points []nav.Point) []nav.Point {
	out := make([]nav.Point, len(points))
	for i := range points {
		out[i] = points[i].Loose()
	}
	return out
}

// numbered gives the name of one of several, from 1, with as many digits as the last one has.
func numbered(name string, i, of int) string {
	n := fmt.Sprintf("%0*d", len(strconv.Itoa(of)), i+1)
	if name == "" {
		return n
	}
	return name + " " + n
}

// pointName is numbered, for a point: none that another point of the data has.
func (w *work) pointName(name string, i, of int) string {
	for {
		out := numbered(name, i, of)
		if !w.taken[out] {
			return out
		}
		i += of
	}
}

func join(group, name string) string {
	if group == "" || name == "" {
		return group + name
	}
	return group + "/" + name
}
