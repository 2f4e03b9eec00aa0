package lay

import (
	"context"
	"errors"
	"fmt"
	"math"
	"time"

	"gyrolith/core/choose"
	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
)

// What is one sort of thing that is laid.
type What string

// The things. The search patterns have the terms of the International Aeronautical and Maritime Search and Rescue
// Manual.
const (
	Lines          What = "lines" // parallel lines over areas
	ExpandingBox   What = "expanding-square"
	Sector         What = "sector"
	ParallelSweep  What = "parallel-sweep"
	CreepingLine   What = "creeping-line"
	TrackReturn    What = "track-line-return"
	TrackNonReturn What = "track-line-nonreturn"
	Rings          What = "rings"    // circles, or sectors of them, about a datum, as areas
	Points         What = "points"   // waypoints along lines
	Sections       What = "sections" // lines across lines
	Corridor       What = "corridor" // an area about a line
	Grid           What = "grid"     // sampling points over areas
	DriftDatum     What = "drift-datum"
)

// All lists them.
var All = []What{Lines, ExpandingBox, Sector, ParallelSweep, CreepingLine, TrackReturn, TrackNonReturn, Rings, Points,
	Sections, Corridor, Grid, DriftDatum}

// Explain says in a line what is laid.
func (w What) Explain() string {
	return map[What]string{
		Lines:          "parallel lines over areas, in flying order",
		ExpandingBox:   "expanding square search from a datum",
		Sector:         "sector search about a datum, three sectors of one radius",
		ParallelSweep:  "parallel sweep search of a rectangle, along its long side",
		CreepingLine:   "creeping line search of a rectangle, across its long side",
		TrackReturn:    "track line search along a line, out on one side and back on the other",
		TrackNonReturn: "track line search along a line, three passes that end at its far end",
		Rings:          "range rings around a datum, or sectors of bearings, as areas",
		Points:         "waypoints at regular distances, or times, along lines",
		Sections:       "cross lines at regular distances along lines",
		Corridor:       "corridors of one width around lines, as areas",
		Grid:           "sampling points over areas: square, triangular or random",
		DriftDatum:     "where something drifted to, with the circle and the box of a first search",
	}[w]
}

// Pattern is how sampling points stand.
type Pattern string

// The patterns.
const (
	Square     Pattern = "square"
	Triangular Pattern = "triangular"
	Random     Pattern = "random"
)

// Step says what is laid, and how. Zero values are the usual ones; lengths are metres, angles degrees true.
type Step struct {
	What      What
	Spacing   float64
	Every     time.Duration  // between points along lines, instead of a spacing
	Measure   measure.System // of names
	Heading   *float64       // of the lines or of the first course; nil is north, and for lines the one with the fewest
	Overshoot float64        // of each line, at both ends
	Turn      float64        // the radius of turns between lines; 0 is none
	Datum     *nav.Point
	Legs      int
	Length    float64 // of a rectangle, along the heading
	Width     float64 // of a rectangle, or of lines across
	Radii     []float64
	From, To  *float64       // the bearings of a sector
	Left      bool           // turn to the left
	Speed     float64        // of the searcher, for the drift and the time
	Drift     *measure.Drift // of what is searched
	Pattern   Pattern
	Count     int // of random points for each area
	Apart     float64
	Seed      int
	Name      string
	Drifting  Drifting // of a drift datum

	ways []float64 // metres through the water of each pattern that was laid
}

// Check finds what makes no sense together.
func (s *Step) Check() error {
	var faults []error
	switch s.What {
	case Lines:
		faults = append(faults, param.Need(s.Spacing > 0, "spacing", "the distance between lines is missing"))
	case ExpandingBox:
		faults = append(faults, param.Need(s.Spacing > 0, "spacing", "the distance between tracks is missing"))
	case Sector:
		faults = append(faults, param.Need(len(s.Radii) == 1, "radius", "a sector search has one radius"))
	case ParallelSweep, CreepingLine:
		faults = append(faults, param.Need(s.Spacing > 0, "spacing", "the distance between tracks is missing"),
			param.Need(s.Length > 0 && s.Width > 0, "size", "the size of the rectangle is missing, such as 6nmx4nm"))
	case Points:
		faults = append(faults, param.Need((s.Spacing > 0) != (s.Every > 0), "spacing",
			"give the distance between points, or the time (every), and only one of them"))
	case TrackReturn, TrackNonReturn:
		faults = append(faults, param.Need(s.Spacing > 0, "spacing", "the distance between them is missing"))
	case Sections:
		faults = append(faults, param.Need(s.Spacing > 0, "spacing", "the distance between them is missing"),
			param.Need(s.Width > 0, "width", "the length of the cross lines is missing"))
	case Corridor:
		faults = append(faults, param.Need(s.Width > 0, "width", "the width of the corridor is missing"))
	case Rings:
		faults = append(faults, param.Need(len(s.Radii) > 0, "radius", "the radius of the rings is missing, such as 1nm,2nm"),
			param.Need((s.From == nil) == (s.To == nil), "from",
				"a sector needs two bearings, where it begins and where it ends"))
	case Grid:
		random := s.Pattern == Random
		faults = append(faults, param.Need(random || s.Spacing > 0, "spacing", "the distance between points is missing"),
			param.Need(!random || s.Count > 0, "count", "the number of random points per area is missing"))
	case DriftDatum:
		faults = append(faults, s.Drifting.check()...)
	default:
		return fmt.Errorf("there is no %q to lay", s.What)
	}
	drifts := param.Need(s.Drift == nil || s.Speed > 0, "speed", "a drift needs a speed")
	faults = append(faults, drifts)
	return errors.Join(faults...)
}

// Needs says what has to be there: "a datum", "areas", "lines".
func (w What) Needs() string {
	switch w {
	case Lines, Grid:
		return "areas"
	case TrackReturn, TrackNonReturn, Points, Sections, Corridor:
		return "lines"
	}
	return "a datum"
}

// ErrNothing says that there is nothing to lay anything over.
var ErrNothing error = choose.Nothing("there is nothing to lay it over")

// Lay makes what is asked for over the areas, along the lines or about the waypoints of the data.
func (s *Step) Lay(ctx context.Context, d *nav.Dataset) (*nav.Dataset, error) {
	s.ways = nil
	out := &nav.Dataset{}
	switch s.What.Needs() {
	case "areas":
		for i := range d.Areas {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			if err := s.over(out, &d.Areas[i], len(d.Areas)); err != nil {
				return nil, err
			}
		}
	case "lines":
		along := func(name string, points []nav.Point) error {
			if s.What == Corridor {
				return s.corridor(out, name, points)
			}
			if err := s.along(out, name, points); err != nil {
				return err
			}
			return ctx.Err()
		}
		for i := range d.Routes {
			if err := along(d.Routes[i].Name, d.Routes[i].Line()); err != nil {
				return nil, err
			}
		}
		for i := range d.Tracks {
			for j := range d.Tracks[i].Segments {
				if err := along(d.Tracks[i].Name, d.Tracks[i].Segments[j].Points); err != nil {
					return nil, err
				}
			}
		}
	default:
		if s.Datum != nil {
			s.about(out, s.Name, *s.Datum)
		} else {
			for i := range d.Waypoints {
				s.about(out, d.Waypoints[i].Name, d.Waypoints[i].Point)
			}
		}
	}
	if out.Counts() == [4]int{} {
		return nil, ErrNothing
	}
	return out, ctx.Err()
}

// named gives the name of what is laid: the one that is asked for, with that of what it lies on.
func (s *Step) named(usual, of string, several bool) string {
	name := s.Name
	if name == "" {
		name = usual
	}
	if of != "" && of != name && (several || s.Name == "") {
		name += " " + of
	}
	return name
}

func (s *Step) heading() float64 {
	if s.Heading == nil {
		return 0
	}
	return *s.Heading
}

// route makes a route of places of a frame, which are moved by the drift for the time that it takes to come there.
func (s *Step) route(f frame, name string, places []place, label func(i int) string) nav.Route {
	r := nav.Route{Item: nav.Item{Name: name}}
	flown := 0.0
	for i, at := range places {
		p := f.from(at.x, at.y)
		if i > 0 {
			flown += math.Hypot(at.x-places[i-1].x, at.y-places[i-1].y)
		}
		if s.Drift != nil {
			lat, lon, _ := geodesy.Direct(p.Lat, p.Lon, s.Drift.To, s.Drift.Speed*flown/s.Speed)
			q := nav.At(lat, lon)
			p.Lat, p.Lon = q.Lat, q.Lon
		}
		w := nav.Waypoint{Point: p}
		w.Name = label(i)
		r.Points = append(r.Points, w)
	}
	s.ways = append(s.ways, flown)
	return r
}

// Takes is how long the route of this number that was laid takes at the speed through what drifts; 0 where no speed is
// given.
func (s *Step) Takes(number int, r *nav.Route) time.Duration {
	if s.Speed <= 0 {
		return 0
	}
	length := 0.0
	if number < len(s.ways) {
		length = s.ways[number]
	} else {
		sum := r.Summary()
		length = sum.Length
	}
	return time.Duration(length / s.Speed * float64(time.Second)).Round(time.Second)
}
