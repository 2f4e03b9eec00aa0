package clean

import (
	"context"
	"fmt"
	"slices"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/pace"
	"gyrolith/core/param"
)

// New makes a step that deals with the usual faults.
func New() *Step { return &Step{Faults: slices.Clone(Default)} }

// Params lists the parameters of the step.
func (s *Step) Params() param.Table {
	asked := func(name, help string, add func([]Fault)) param.Param {
		p := param.Func(name, "LIST", help, func(text string) error {
			list, err := ParseFaults(text)
			if err == nil {
				add(list)
			}
			return err
		})
		for _, f := range All {
			p.Words = append(p.Words, string(f))
		}
		return p
	}
	return append(param.Table{
		asked("also", "faults to correct in addition to the default ones, a comma-separated "+
			"`LIST`", func(l []Fault) { s.also = l }),
		asked("not", "faults to leave alone, a comma-separated `LIST`", func(l []Fault) { s.not = l }),
		asked("only", "correct only these faults, a comma-separated `LIST`", func(l []Fault) { s.only = l }),
		param.Word("carrier", &s.Carrier, pace.Carriers(), "WORD",
			"how the receiver travelled, `WORD`: walk, cycle, drive, boat or fly; it sets the thresholds (default: the "+
				"recording itself does)"),
		param.Speed("top-speed", &s.TopSpeed, "SPEED",
			"the highest possible `SPEED`, such as 12km/h (default: the carrier's; else half as much again as nine "+
				"legs of ten)"),
		param.Length("spike-over", &s.SpikeOver, "DISTANCE",
			"the least `DISTANCE` of a spike (default: 8m, or eight times the jitter of the recording)"),
		param.Length("repeats-within", &s.RepeatsWithin, "DISTANCE",
			"waypoints of the same name within this `DISTANCE` are duplicates (default: only at the same place)"),
		param.Span("stop-longer", &s.Motion.Longer, "TIME", "the least `TIME` of a stop (default: 90s)"),
		param.Length("gap-wider", &s.GapWider, "DISTANCE",
			"a jump wider than this `DISTANCE` splits (default: 1000m, or twenty legs)"),
		param.Speed("climb-rate", &s.ClimbRate, "SPEED",
			"the highest possible vertical `SPEED` (default: the carrier's; else 5m/s)"),
		param.Length("height-over", &s.HeightOver, "HEIGHT",
			"the least `HEIGHT` of a height spike (default: 25m, or eight times the jitter)"),
		param.Moment("around", &s.Around, "DATE",
			"shift the dates of recordings by whole cycles of 1,024 weeks to bring them near this `DATE`"),
		param.Switch("smooth", &s.Smooth, "smooth the jitter of timed tracks"),
		param.Length("thin-within", &s.ThinWithin, "DISTANCE",
			"remove points as long as the line stays within this `DISTANCE`"),
		param.Count("thin-to", &s.ThinTo, 2, 1<<31-1, "N", "keep at most "+
			"`N` points of a track, those that best keep its shape"),
	}, s.Motion.Params()...).In("Cleaning")
}

// settle works out the faults that were asked for.
func (s *Step) settle() error {
	switch {
	case s.only != nil && (s.also != nil || s.not != nil):
		return param.Errorf("only", "lists every fault to correct; it can't be combined with also or not")
	case s.ThinTo > 0 && s.ThinWithin > 0:
		return param.Errorf("thin-to", "give only one of a distance and a number of points to thin by")
	}
	if s.only != nil {
		s.Faults = s.only
	}
	s.Faults = append(s.Faults, s.also...)
	if !s.Around.IsZero() && !slices.Contains(s.Faults, Epoch) {
		s.Faults = append(s.Faults, Epoch)
	}
	s.Faults = slices.DeleteFunc(s.Faults, func(f Fault) bool { return slices.Contains(s.not, f) })
	s.also, s.not, s.only = nil, nil, nil
	return nil
}

// Mends says that what is wrong with the input is what the step is there for.
func (s *Step) Mends() {}

// Apply cleans the data and reports it. The detail of the report is a *Result.
func (s *Step) Apply(ctx context.Context, d *nav.Dataset) (*nav.Report, error) {
	result, err := s.Clean(ctx, d)
	if err != nil {
		return nil, err
	}
	r := &nav.Report{Detail: result}
	found := 0
	for _, row := range result.Rows {
		why := row.Fault.Done()
		if row.Text != "" {
			why += ": " + row.Text
		}
		r.Ledger = append(r.Ledger, nav.Entry{Kind: row.Kind, KindWord: row.Kind.One(), Name: row.Item,
			What: nav.Property(row.Fault), Count: row.Count, Loss: true, Asked: true, Why: why})
		found += row.Count
	}
	for _, o := range result.Over {
		r.Ledger = append(r.Ledger, nav.Entry{Kind: nav.Tracks, KindWord: nav.Tracks.One(), Name: o.Item, What: "points",
			New: measure.Count(o.Points), Count: 1, Why: fmt.Sprintf("more than the %s wanted: both ends of each segment stay",
				measure.Count(s.ThinTo))})
	}
	for _, m := range result.Much {
		r.Ledger = append(r.Ledger, nav.Entry{Kind: nav.Tracks, KindWord: nav.Tracks.One(), Name: m.Item, What: "points",
			New: fmt.Sprintf("%s of %s", measure.Count(m.Points), measure.Count(m.Of)), Count: 1,
			Why: fmt.Sprintf("taken as %s, more than a tenth of the line", m.Fault)})
	}
	for _, x := range result.Left {
		r.Findings = append(r.Findings, fmt.Sprintf("area %q %s: no one answer, left as it is", x.Item, x.Why))
	}
	for _, sum := range result.Sums() {
		r.Count("cleaned: "+sum.Fault.Counted(), sum.Count)
	}
	if found > 0 {
		r.Findings = append(r.Findings, measure.Counted(found, "fault", "faults")+" found")
	}
	return r, nil
}

// Sum is what is said of one fault in all items together.
type Sum struct {
	Fault Fault
	Count int
	Off   float64 // metres, of the farthest one
	Rise  float64 // metres, of the height that is farthest off
	First Row
	Items int
}

// Sums adds the rows up by their faults.
func (r *Result) Sums() (out []*Sum) {
	for _, row := range r.Rows {
		i := slices.IndexFunc(out, func(s *Sum) bool { return s.Fault == row.Fault })
		if i < 0 {
			i = len(out)
			out = append(out, &Sum{Fault: row.Fault, First: row})
		}
		out[i].Count += row.Count
		out[i].Off = max(out[i].Off, row.Off)
		out[i].Rise = max(out[i].Rise, row.Rise)
		out[i].Items++
	}
	return
}
