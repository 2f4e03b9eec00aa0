// Package clean finds and removes the faults that receivers and planners leave in recordings. Each fault has one
// word, wherever it is spoken of.
package clean

import (
	"context"
	"fmt"
	"math"
	"runtime"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"gyrolith/core/motion"
	"gyrolith/core/nav"
	"gyrolith/core/pace"
)

// Fault is one sort of fault.
type Fault string

// What is done besides, and is no fault: positions that smoothing moved, points that thinning left out.
const (
	Smoothed Fault = "smoothed"
	Thinned  Fault = "thinned"
)

// fault is one sort of fault: its words, and its detectors, which see the whole data or a track at a time. A fault is
// defined in the file of its name, and is one line of the list below.
type fault struct {
	word  Fault
	help  string // what it is, for who chooses faults
	found string // what a look at data says
	done  string // what is done about it
	count string // what is counted
	usual bool   // it is dealt with unless one says otherwise: it takes away only what is plainly wrong

	data     func(*Step, *nav.Dataset) *Result // over the whole data, before the tracks are gone through
	round    func(*work, int)                  // over a segment, in rounds until nothing more is found
	measured bool                              // a round needs fresh limits of the recording
	track    func(*work)                       // over a track, after the rounds
	last     func(*Step, *nav.Dataset) *Result // over the whole data, at the end
}

// faults lists them in the order in which they are dealt with.
var faults = []*fault{&strays, &epoch, &repeats, &order, &spikes, &heights, &stops, &gaps, &crumbs, &pins,
	&openRings, &crossings, &badHoles, &baggage}

// All lists the faults that can be asked for.
var All = wordsOf(func(*fault) bool { return true })

// Default are those that are dealt with unless one says otherwise.
var Default = wordsOf(func(f *fault) bool { return f.usual })

func wordsOf(wanted func(*fault) bool) (out []Fault) {
	for _, f := range faults {
		if wanted(f) {
			out = append(out, f.word)
		}
	}
	return
}

// besides are what is done besides, by what is said of it.
var besides = map[Fault]string{Smoothed: "positions smoothed", Thinned: "points left out"}

func (f Fault) of() *fault {
	i := slices.IndexFunc(faults, func(x *fault) bool { return x.word == f })
	if i < 0 {
		return &fault{word: f, done: besides[f], found: besides[f], count: besides[f]}
	}
	return faults[i]
}

// Explain says in words what the fault is.
func (f Fault) Explain() string { return f.of().help }

// Found says in words what was found where there is one.
func (f Fault) Found() string { return f.of().found }

// Counted is the word for several of them, behind a number.
func (f Fault) Counted() string { return f.of().count }

// Done says in words what is done about it.
func (f Fault) Done() string { return f.of().done }

// ParseFaults reads a list of faults separated by commas.
func ParseFaults(text string) ([]Fault, error) {
	var out []Fault
	for word := range strings.SplitSeq(text, ",") {
		f := Fault(strings.TrimSpace(word))
		if !slices.Contains(All, f) {
			return nil, fmt.Errorf("%q is not a fault; there are %s", f, joinFaults(All))
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
	Carrier       pace.Carrier
	TopSpeed      float64       // m/s
	SpikeOver     float64       // metres: the least that a point must be off, beyond what the speed explains
	RepeatsWithin float64       // metres between waypoints of one name that are one
	Motion        motion.Limits // of halts and gaps
	GapWider      float64       // metres
	ClimbRate     float64       // m/s up or down
	HeightOver    float64       // metres: the least that a height must be off
	Around        time.Time     // near which the dates of recordings must be; the zero time is none
	Smooth        bool
	ThinWithin    float64 // metres; 0 for none
	ThinTo        int     // points of a track; 0 for none

	List bool // the removed points, which are only counted otherwise

	also, not, only []Fault // as asked for, until they are settled
	dry             bool    // one round only, to name the faults
}

// carrier is what can be said of what carries a receiver.
type carrier struct {
	topSpeed, climb, spikeOver, gapWider float64
	acceleration                         float64 // m/s², for smoothing
}

// Carriers are the words for what carries a receiver.
var carriers = map[pace.Carrier]carrier{
	pace.Walk:  {12 / 3.6, 1.5, 8, 500, 0.5},
	pace.Cycle: {70 / 3.6, 4, 10, 1000, 1},
	pace.Drive: {200 / 3.6, 10, 15, 3000, 2},
	pace.Boat:  {60 * 1852.0 / 3600, 2, 15, 3000, 0.5},
	pace.Fly:   {1200 / 3.6, 60, 50, 20000, 5},
}

// The defaults of thresholds that neither a carrier nor the recording sets.
const (
	DefaultSpikeOver  = 8.0
	DefaultGapWider   = 1000.0
	DefaultClimbRate  = 5.0
	DefaultHeightOver = 25.0
)

// Check settles what was asked for, and finds parameters that make no sense.
func (s *Step) Check() error {
	if err := s.settle(); err != nil {
		return err
	}
	if s.Carrier != "" {
		if _, ok := carriers[s.Carrier]; !ok {
			return fmt.Errorf("%q is not a carrier; there are %v", s.Carrier, pace.Carriers())
		}
	}
	for name, v := range map[string]float64{"top speed": s.TopSpeed, "spike distance": s.SpikeOver,
		"repeat distance": s.RepeatsWithin,
		"stop distance":   s.Motion.Within, "gap distance": s.GapWider,
		"climb rate": s.ClimbRate, "height distance": s.HeightOver,
		"thinning distance": s.ThinWithin, "stop time": float64(s.Motion.Longer), "gap time": float64(s.Motion.Gap),
		"number of points": float64(s.ThinTo)} {
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
	Rise   float64  `json:"farthest_height_m,omitempty"` // by which heights are off, of what was thinned
	Text   string   `json:"text,omitempty"`
}

// Result is what a step did.
type Result struct {
	Rows    []Row
	Removed []Removed
	Over    []Over
	Much    []Much
	Left    []Left
}

// Much is a fault that took more than a tenth of a line, so that it may be none.
type Much struct {
	Fault      Fault
	Item       string
	Points, Of int
}

// Over is a track that keeps more points than it was to be thinned to, since both ends of each segment stay.
type Over struct {
	Item             string
	Points, Segments int
}

func (r *Result) add(row Row) {
	if row.Count > 0 {
		row.Word = row.Kind.One()
		r.Rows = append(r.Rows, row)
	}
}

// list takes a removed point into the result if that is asked for.
func (s *Step) list(r *Result, x Removed) {
	if s.List {
		r.Removed = append(r.Removed, x)
	}
}

func (r *Result) join(o *Result) {
	r.Rows = append(r.Rows, o.Rows...)
	r.Removed = append(r.Removed, o.Removed...)
	r.Over = append(r.Over, o.Over...)
	r.Much = append(r.Much, o.Much...)
	r.Left = append(r.Left, o.Left...)
}

// Find looks for all faults of recordings and waypoints but baggage, and changes nothing.
func Find(ctx context.Context, d *nav.Dataset) (*Result, error) {
	others := []Fault{Baggage, OpenRings, Crossings, BadHoles}
	s := Step{Faults: slices.DeleteFunc(slices.Clone(All), func(f Fault) bool { return slices.Contains(others, f) }),
		dry: true}
	return s.Clean(ctx, d.Clone())
}

// Clean removes the faults from the data and says what it did. Tracks are dealt with on every core. When the context
// ends, the data are not to be used.
func (s *Step) Clean(ctx context.Context, d *nav.Dataset) (*Result, error) {
	out := &Result{}
	for _, f := range faults {
		if f.data != nil && s.wants(f.word) {
			out.join(f.data(s, d))
		}
	}
	results := make([]*Result, len(d.Tracks))
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(runtime.GOMAXPROCS(0))
	for i := range d.Tracks {
		group.Go(func() error {
			results[i] = s.track(ctx, &d.Tracks[i])
			return ctx.Err()
		})
	}
	if err := group.Wait(); err != nil {
		return nil, err
	}
	for _, r := range results {
		out.join(r)
	}
	for _, f := range faults {
		if f.last != nil && s.wants(f.word) {
			out.join(f.last(s, d))
		}
	}
	slices.SortStableFunc(out.Rows, func(a, b Row) int {
		return slices.Index(ranks, a.Fault) - slices.Index(ranks,
			b.Fault)
	})
	return out, nil
}

var ranks = append(slices.Clone(All), Smoothed, Thinned)

// mostRounds bounds how often a track is gone through; in practice two or three rounds find all.
const mostRounds = 20

// track deals with one track. It is gone through until nothing more is found, so that a second run of the
// whole step finds nothing.
func (s *Step) track(ctx context.Context, t *nav.Track) *Result {
	w := newWork(s, t)
	for range mostRounds {
		before := w.changes
		for _, f := range faults {
			if f.round == nil || !s.wants(f.word) || ctx.Err() != nil {
				continue
			}
			if f.measured {
				w.measure()
			}
			w.each(f.round)
		}
		if w.changes == before || s.dry || ctx.Err() != nil {
			break
		}
	}
	for _, f := range faults {
		if f.track != nil && s.wants(f.word) {
			f.track(w)
		}
	}
	if s.Smooth {
		w.measure()
		w.smooth()
	}
	w.thin()
	return w.finish()
}
