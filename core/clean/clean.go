// Package clean finds and removes the faults that receivers and planners leave in recordings. Each fault has one
// word, wherever it is spoken of.
package clean

import (
	"fmt"
	"math"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"

	"gyrolith/core/nav"
)

// Fault is one sort of fault.
type Fault string

// The faults, in the order in which they are dealt with.
const (
	Strays  Fault = "strays"
	Epoch   Fault = "epoch"
	Repeats Fault = "repeats"
	Order   Fault = "order"
	Spikes  Fault = "spikes"
	Heights Fault = "heights"
	Stops   Fault = "stops"
	Gaps    Fault = "gaps"
	Crumbs  Fault = "crumbs"
	Pins    Fault = "pins"
	Baggage Fault = "baggage"
)

// What is done besides, and is no fault: positions that smoothing moved, points that thinning left out.
const (
	Smoothed Fault = "smoothed"
	Thinned  Fault = "thinned"
)

// All lists the faults that can be asked for.
var All = []Fault{Strays, Epoch, Repeats, Order, Spikes, Heights, Stops, Gaps, Crumbs, Pins, Baggage}

// Default are those that are dealt with unless one says otherwise: they only take away what is plainly wrong.
var Default = []Fault{Strays, Epoch, Repeats, Order, Spikes}

// ParseFaults reads a list of faults parted by commas.
func ParseFaults(text string) ([]Fault, error) {
	var out []Fault
	for word := range strings.SplitSeq(text, ",") {
		f := Fault(strings.TrimSpace(word))
		if !slices.Contains(All, f) {
			return nil, fmt.Errorf("%q is no fault; there are %s", f, joinFaults(All))
		}
		out = append(out, f)
	}
	return out, nil
}

func joinFaults(list []Fault) string {
	words := make([]string, len(list))
	for i, f := range list {
		words[i] = string(f)
	}
	return strings.Join(words, ", ")
}

// Step says which faults are removed, and by which thresholds. Zero thresholds come from the carrier, and without
// one from the recording itself.
type Step struct {
	Faults        []Fault
	Carrier       string
	TopSpeed      float64 // m/s
	SpikeOver     float64 // metres: the least that a point must be off, beyond what the speed explains
	RepeatsWithin float64 // metres between waypoints of one name that are one
	StopWithin    float64 // metres around a stop
	StopLonger    time.Duration
	GapLonger     time.Duration
	GapWider      float64 // metres
	ClimbRate     float64 // m/s up or down
	HeightOver    float64 // metres: the least that a height must be off
	Around        int64   // nanoseconds since 1970 near which all dates must be; 0 for none
	Now           int64   // nanoseconds since 1970: no date is after it
	Smooth        bool
	ThinWithin    float64 // metres; 0 for none
	ThinTo        int     // points of a track; 0 for none

	dry bool // one round only, to name the faults
}

// carrier is what can be said of what carries a receiver.
type carrier struct {
	topSpeed, climb, spikeOver, gapWider float64
	acceleration                         float64 // m/s², for smoothing
}

// Carriers are the words for what carries a receiver.
var carriers = map[string]carrier{
	"walk":  {12 / 3.6, 1.5, 8, 500, 0.5},
	"cycle": {70 / 3.6, 4, 10, 1000, 1},
	"drive": {200 / 3.6, 10, 15, 3000, 2},
	"boat":  {60 * 1852.0 / 3600, 2, 15, 3000, 0.5},
	"fly":   {1200 / 3.6, 60, 50, 20000, 5},
}

// Carriers lists the words for carriers.
func Carriers() []string { return []string{"walk", "cycle", "drive", "boat", "fly"} }

// The defaults of thresholds that neither a carrier nor the recording sets.
const (
	DefaultSpikeOver  = 8.0
	DefaultStopWithin = 8.0
	DefaultStopLonger = 90 * time.Second
	DefaultGapLonger  = 5 * time.Minute
	DefaultGapWider   = 1000.0
	DefaultClimbRate  = 5.0
	DefaultHeightOver = 25.0
)

// Check finds parameters that make no sense.
func (s *Step) Check() error {
	if s.Carrier != "" {
		if _, ok := carriers[s.Carrier]; !ok {
			return fmt.Errorf("%q is no carrier; there are %s", s.Carrier, strings.Join(Carriers(), ", "))
		}
	}
	for name, v := range map[string]float64{"top speed": s.TopSpeed, "spike distance": s.SpikeOver, "repeat distance": s.RepeatsWithin,
		"stop distance": s.StopWithin, "gap distance": s.GapWider, "climb rate": s.ClimbRate, "height distance": s.HeightOver,
		"thinning distance": s.ThinWithin, "stop time": float64(s.StopLonger), "gap time": float64(s.GapLonger), "number of points": float64(s.ThinTo)} {
		if v < 0 || math.IsNaN(v) {
			return fmt.Errorf("the %s is negative", name)
		}
	}
	if s.ThinTo == 1 {
		return fmt.Errorf("a line can't be thinned to a single point")
	}
	return nil
}

func (s *Step) wants(f Fault) bool { return slices.Contains(s.Faults, f) }

// Removed is a point that was taken out, or a value of one.
type Removed struct {
	Fault  Fault
	Kind   nav.Kind
	Item   string
	Number int       // in its item, from 1, as the source counts; 0 for a waypoint
	Point  nav.Point // where it was; of a stray, where its neighbour is
	Off    float64   // metres from where it should have been, where that can be said
	Raw    string
}

// Row is what is said of one fault in one item.
type Row struct {
	Fault  Fault    `json:"fault"`
	Kind   nav.Kind `json:"-"`
	Word   string   `json:"kind"`
	Item   string   `json:"item,omitempty"`
	Count  int      `json:"count"`
	Number int      `json:"first,omitempty"` // of the first such point, from 1
	Off    float64  `json:"farthest_m,omitempty"`
	Text   string   `json:"text,omitempty"`
}

// Result is what a step did.
type Result struct {
	Rows    []Row
	Removed []Removed
}

func (r *Result) add(row Row) {
	if row.Count > 0 {
		row.Word = row.Kind.One()
		r.Rows = append(r.Rows, row)
	}
}

func (r *Result) join(o *Result) {
	r.Rows = append(r.Rows, o.Rows...)
	r.Removed = append(r.Removed, o.Removed...)
}

// Find looks for all faults but baggage and changes nothing.
func Find(d *nav.Dataset, now int64) *Result {
	s := Step{Faults: slices.DeleteFunc(slices.Clone(All), func(f Fault) bool { return f == Baggage }), Now: now, dry: true}
	return s.Apply(Copy(d))
}

// Copy copies a dataset as far as a step changes it.
func Copy(d *nav.Dataset) *nav.Dataset {
	out := *d
	out.Waypoints = slices.Clone(d.Waypoints)
	out.Routes = slices.Clone(d.Routes)
	out.Tracks = slices.Clone(d.Tracks)
	for i := range out.Tracks {
		out.Tracks[i].Segments = slices.Clone(d.Tracks[i].Segments)
		for j := range out.Tracks[i].Segments {
			seg := &out.Tracks[i].Segments[j]
			seg.Points = slices.Clone(seg.Points)
			seg.Details = slices.Clone(seg.Details)
		}
	}
	return &out
}

// Apply removes the faults from the data and says what it did. Tracks are dealt with on every core.
func (s *Step) Apply(d *nav.Dataset) *Result {
	out := &Result{}
	if s.wants(Strays) {
		out.join(rejected(d))
		out.join(zeros(d))
	}
	if s.wants(Epoch) {
		out.join(s.epochs(d))
	}
	if s.wants(Repeats) {
		out.join(s.repeatedWaypoints(d))
	}
	if s.wants(Pins) {
		out.join(pins(d))
	}
	results := make([]*Result, len(d.Tracks))
	var group sync.WaitGroup
	free := make(chan bool, runtime.GOMAXPROCS(0))
	for i := range d.Tracks {
		group.Add(1)
		free <- true
		go func() {
			defer func() { <-free; group.Done() }()
			results[i] = s.track(&d.Tracks[i])
		}()
	}
	group.Wait()
	for _, r := range results {
		out.join(r)
	}
	if s.wants(Crumbs) {
		d.Tracks = slices.DeleteFunc(d.Tracks, func(t nav.Track) bool { return len(t.Segments) == 0 })
	}
	if s.wants(Baggage) {
		out.join(baggage(d))
	}
	slices.SortStableFunc(out.Rows, func(a, b Row) int { return slices.Index(ranks, a.Fault) - slices.Index(ranks, b.Fault) })
	return out
}

var ranks = append(slices.Clone(All), Smoothed, Thinned)

// mostRounds bounds how often a track is gone through; in practice two or three rounds find all.
const mostRounds = 20

// track deals with one track. It is gone through until nothing more is found, so that a second run of the
// whole step finds nothing.
func (s *Step) track(t *nav.Track) *Result {
	w := newWork(s, t)
	for range mostRounds {
		before := w.changes
		if s.wants(Repeats) {
			w.each((*work).repeats)
		}
		if s.wants(Order) {
			w.each((*work).order)
		}
		if s.wants(Spikes) {
			w.measure()
			w.each((*work).spikes)
		}
		if s.wants(Heights) {
			w.measure()
			w.each((*work).heights)
		}
		if s.wants(Stops) {
			w.measure()
			w.each((*work).stops)
		}
		if w.changes == before || s.dry {
			break
		}
	}
	if s.wants(Gaps) {
		w.gaps()
	}
	if s.wants(Crumbs) {
		w.crumbs()
	}
	if s.Smooth {
		w.measure()
		w.smooth()
	}
	w.thin()
	return w.finish()
}
