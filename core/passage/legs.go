// Package passage plans by routes: the table of legs, what they come near to and cross, and a way around.
package passage

import (
	"fmt"
	"math"
	"time"

	"gyrolith/core/advice"
	"gyrolith/core/choose"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/magnetic"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/pace"
	"gyrolith/core/sun"
	"gyrolith/core/terrain"
)

// Drift is a wind or a current.
type Drift = measure.Drift

// Step says by what a passage is planned.
type Step struct {
	Rhumb       bool            // lines of constant course; otherwise the shortest ones
	Speed       float64         // through the air or the water, m/s; 0 is that of the plan, and without one no times
	LegSpeeds   map[int]float64 // of single legs, from 1
	Pace        pace.Rule       // how heights count
	Waits       []Wait
	Depart      time.Time // the zero time gives no times of arrival
	Drifts      []Drift   // wind and current
	Winds       Winds     // by leg, height and time
	Currents    Winds
	Declination *float64
	On          time.Time // the day of the declination, where no departure says it

	Deviation   Deviation // of the compass; nil for none
	Burn        Fuel      // an hour
	BurnClimb   Fuel      // in a climb of its own
	BurnDescent Fuel
	BurnStay    Fuel // an hour in stays; as Burn where it has no measure
	Aboard      Fuel // at the start
	Reserve     Fuel // that is to be left

	Terrain  *terrain.Terrain // for safe heights; nil for none
	Corridor float64          // metres, the whole width
	Margin   float64          // metres above the highest ground

	TerrainPaths, WindPaths, CurrentPaths []string // that Open opens

	HazardsPath string          // of a file of hazards, for who loads them
	HazardsTake []choose.Choice // of the hazards; none is all

	Clear   float64 // metres that every leg has to keep from hazards; 0 asks for none
	KeepOut []choose.Choice
	Dangers *Dangers // nil for none
}

// Leg is a line of the table. What is not known is not a number.
type Leg struct {
	From, To    *nav.Waypoint
	Distance    float64 // metres
	Total       float64 // metres from the start of the route
	Course      float64 // degrees true at the leg's start
	Arriving    float64 // degrees true at its end
	Declination float64 // degrees, east is positive
	Magnetic    float64 // degrees
	Climb       float64 // metres
	Ground      float64 // metres, the highest of the corridor
	Safe        float64 // metres, with the margin
	Wind        *Drift  // of the tables; nil for none
	Current     *Drift
	Speed       float64 // m/s
	Heading     float64 // degrees true, with the drift allowed for
	Steer       float64 // degrees magnetic
	Compass     float64 // degrees by the compass, with its deviation
	FuelUsed    float64 // since the departure, in the measure of Burn
	FuelLeft    float64
	GroundSpeed float64 // m/s
	Time        time.Duration
	ByPhase     time.Duration // of it in a climb or a descent of its own
	Turns       [2]float64    // the headings between which it takes, where what drifts changes on the way; else zero
	Wait        time.Duration // at the end
	Elapsed     time.Duration // since the departure, at the arrival
	Arrive      int64         // nanoseconds since 1970; 0 is unknown
	Nearest     *Near         // of all hazards
	Rhumb       bool          // a line of constant course

	line line
}

// Table is what is planned for one route.
type Table struct {
	Route    *nav.Route
	Legs     []Leg
	Findings []Finding
	Notes    []Finding // what is worth knowing and no finding
}

// Finding is something that speaks against a leg.
type Finding struct {
	Code  FindingCode `json:"code"`
	Route string      `json:"route,omitempty"`
	Leg   int         `json:"leg,omitempty"` // from 1; 0 is the whole route
	Near  *Near       `json:"near,omitempty"`
	Name  string      `json:"name,omitempty"`
	Why   string      `json:"text,omitempty"`
	Enter *float64    `json:"enters_m,omitempty"` // metres along the leg
	Leave *float64    `json:"leaves_m,omitempty"`
	Light *Light      `json:"light,omitempty"`
	Below float64     `json:"below_m,omitempty"` // metres below the safe height

	Advice advice.Advice `json:"-"`
}

// FindingCode is one sort of finding.
type FindingCode string

// The sorts of findings.
const (
	Clearance          FindingCode = "clearance"        // a hazard is nearer than is kept
	Closure            FindingCode = "closure"          // a leg crosses an area to keep out of
	Crossing           FindingCode = "crossing"         // a leg crosses another area of the hazards
	OutsideModel       FindingCode = "declination"      // the magnetic model does not hold on the day
	DriftBeyondControl FindingCode = "drift"            // the course can't be held
	OutOfFuel          FindingCode = "fuel"             // the fuel does not last, or not with its reserve
	NoGround           FindingCode = "ground"           // the terrain has no heights for a safe height
	NotOverSea         FindingCode = "height reference" // heights that can't be compared with the ground
	BelowSafe          FindingCode = "safe height"      // a leg is lower than is safe
	NoDrift            FindingCode = "no wind"          // a table of winds or currents has none for a leg
	InTheDark          FindingCode = "dark"             // the leg ends in the dark, after civil dusk
	PaceRule           FindingCode = "pace"             // how heights count in the times: only told
	InTwilight         FindingCode = "twilight"         // the leg ends in civil twilight: only told
	BurnsInStay        FindingCode = "stay"             // what stays burn was not said, which is only told
	HeadingTurns       FindingCode = "heading"          // the drift of a leg changes on the way, which is only told
	ConstantCourse     FindingCode = "rhumb"            // the plan itself asks for lines of constant course
)

// line is the way of a leg.
type line struct {
	a, b             nav.Point
	rhumb            bool
	distance, course float64
}

func newLine(a, b nav.Point, rhumb bool) (l line, arriving float64) {
	l = line{a: a, b: b, rhumb: rhumb}
	if rhumb {
		l.distance, l.course = geodesy.Rhumb(a.Lat, a.Lon, b.Lat, b.Lon)
		return l, l.course
	}
	l.distance, l.course, arriving = geodesy.Inverse(a.Lat, a.Lon, b.Lat, b.Lon)
	return l, arriving
}

// at gives the position after a distance in metres.
func (l *line) at(distance float64) (lat, lon float64) {
	switch {
	case distance <= 0:
		return l.a.Lat, l.a.Lon
	case distance >= l.distance:
		return l.b.Lat, l.b.Lon
	case l.rhumb:
		if lat, lon, ok := geodesy.RhumbDirect(l.a.Lat, l.a.Lon, l.course, distance); ok {
			return lat, lon
		}
		return l.b.Lat, l.b.Lon
	}
	lat, lon, _ = geodesy.Direct(l.a.Lat, l.a.Lon, l.course, distance)
	return lat, lon
}

// newLeg makes the leg between two points: its line, courses and climb. What is not known of it is not a number.
func (s *Step) newLeg(from, to *nav.Waypoint, rhumb, known bool, year float64) Leg {
	unknown := math.NaN()
	l := Leg{From: from, To: to, Declination: unknown, Climb: unknown, Heading: unknown, Steer: unknown, Compass: unknown,
		GroundSpeed: unknown, FuelUsed: unknown, FuelLeft: unknown, Ground: unknown, Safe: unknown, Speed: unknown}
	l.line, l.Arriving = newLine(from.Point, to.Point, rhumb)
	l.Rhumb, l.Distance, l.Course = l.line.rhumb, l.line.distance, l.line.course
	if s.Declination != nil {
		l.Declination = *s.Declination
	} else if known {
		l.Declination = magnetic.Declination(from.Lat, from.Lon, 0, year)
	}
	l.Magnetic = turn(l.Course - l.Declination)
	if from.HasHeight() && to.HasHeight() && from.VerticalDatum().Comparable(to.VerticalDatum()) {
		l.Climb = to.Height() - from.Height()
	}
	return l
}

// heading is that which allows for the drift, or else the course.
func (l *Leg) heading() float64 {
	if math.IsNaN(l.Heading) {
		return l.Course
	}
	return l.Heading
}

// way goes along a route leg by leg.
type way struct {
	step    *Step
	table   *Table
	total   float64 // metres so far
	elapsed time.Duration
	moving  bool // the time so far is known
}

// move goes along a leg, by its number from 1, at the speed that it has.
func (w *way) move(leg *Leg, i int) {
	s, t := w.step, w.table
	if s.speedOf(i, leg.From) == 0 {
		w.moving = false
		return
	}
	find := func(code FindingCode, why string) {
		t.Findings = append(t.Findings, Finding{Code: code, Route: t.Route.Name, Leg: i, Why: why})
	}
	if why := s.move(leg, i, w.elapsed); why != "" {
		find(DriftBeyondControl, why)
		w.moving, leg.Time = false, 0
	}
	if len(s.Winds) > 0 && leg.Wind == nil || len(s.Currents) > 0 && leg.Current == nil {
		find(NoDrift, "the table of winds or currents has none for its height and time; none is applied")
	}
	if turns := leg.Turns; turns != [2]float64{} {
		t.Notes = append(t.Notes, Finding{Code: HeadingTurns, Route: t.Route.Name, Leg: i, Why: fmt.Sprintf("the drift "+
			"changes on the way: headings from %03.0f° to %03.0f° true keep the course, and the table shows the middle one",
			turn(math.Round(turns[0])), turn(math.Round(turns[1])))})
	}
	if w.moving {
		w.arrive(leg, i)
	}
}

// arrive adds the time of a leg, and of a stay at its end, and looks at the light there.
func (w *way) arrive(leg *Leg, i int) {
	s, t := w.step, w.table
	final := i == len(t.Route.Points)-1
	w.elapsed += leg.Time
	leg.Elapsed = w.elapsed
	if !final {
		leg.Wait = s.waitAt(leg.To, i+1)
		w.elapsed += leg.Wait
	}
	if s.Depart.IsZero() {
		return
	}
	leg.Arrive = s.Depart.Add(leg.Elapsed).Round(time.Second).UnixNano()
	light := darkness(leg.To.Lat, leg.To.Lon, time.Unix(0, leg.Arrive))
	switch {
	case light == nil || !final:
	case light.Altitude < sun.Civil:
		t.Findings = append(t.Findings, Finding{Code: InTheDark, Route: t.Route.Name, Leg: i, Light: light})
	default:
		t.Notes = append(t.Notes, Finding{Code: InTwilight, Route: t.Route.Name, Leg: i, Light: light})
	}
}

// Plan makes the table of a route.
func (s *Step) Plan(r *nav.Route) *Table {
	t := &Table{Route: r}
	if len(r.Points) == 0 {
		return t
	}
	year := magnetic.Year(s.day())
	known := magnetic.Covers(s.day())
	if s.Declination == nil && !known {
		t.Findings = append(t.Findings, Finding{Code: OutsideModel, Route: r.Name,
			Advice: advice.Advice{Code: advice.SetDeclination},
			Why: fmt.Sprintf("%s is outside the validity of the %s, %d to %d: no magnetic courses are given",
				s.day().UTC().Format(time.DateOnly), magnetic.Name, magnetic.First, magnetic.End)})
	}
	planned := 0 // legs of constant course
	w := &way{step: s, table: t, moving: true}
	for i := 1; i < len(r.Points); i++ {
		leg := s.newLeg(&r.Points[i-1], &r.Points[i], s.Rhumb || r.Loxodromic(i), known, year)
		if leg.Rhumb {
			planned++
		}
		w.total += leg.Distance
		leg.Total = w.total
		w.move(&leg, i)
		leg.Steer = turn(leg.heading() - leg.Declination)
		if s.Deviation != nil {
			leg.Compass = s.Deviation.Compass(leg.Steer)
		}
		t.Legs = append(t.Legs, leg)
	}
	s.burn(t)
	s.sayPace(t)
	s.overGround(t)
	if planned > 0 && !s.Rhumb {
		t.Notes = append(t.Notes, Finding{Code: ConstantCourse, Route: r.Name,
			Why: fmt.Sprintf("%d of %d legs are lines of constant course, as the plan specifies", planned, len(t.Legs))})
	}
	if s.Dangers != nil {
		s.watch(t)
	}
	return t
}

// day is the day of the declination.
func (s *Step) day() time.Time {
	if !s.Depart.IsZero() {
		return s.Depart
	}
	return s.On
}

// turn brings a course into 0 up to but not including 360.
func turn(course float64) float64 {
	c := math.Mod(course, 360)
	if c < 0 {
		c += 360
	}
	if c >= 360 {
		return 0
	}
	return c
}

// steer solves the triangle of velocities: the heading that makes a course good, and the speed over the ground; false
// where the drift is too strong.
func steer(course, speed float64, drifts []Drift) (heading, ground float64, ok bool) {
	sin, cos := math.Sincos(course * math.Pi / 180)
	var along, across float64 // along the course, and to the right of it
	for _, d := range drifts {
		east, north := d.Vector()
		along += east*sin + north*cos
		across += east*cos - north*sin
	}
	if math.Abs(across) >= speed {
		return math.NaN(), math.NaN(), false
	}
	angle := math.Asin(-across / speed)
	ground = speed*math.Cos(angle) + along
	if ground <= 0 {
		return math.NaN(), math.NaN(), false
	}
	return turn(course + angle*180/math.Pi), ground, true
}
