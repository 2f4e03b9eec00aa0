// Package gyrolith does the common jobs with navigation data in a few lines: read files of any format, choose, clean,
// elevate, convert, fit to a unit, and write.
//
//	data, err := gyrolith.Read(ctx, "walk.gpx")
//	…
//	report, err := data.Clean(ctx, "also=heights,stops")
//	…
//	report, err = data.Write(ctx, "walk.kml")
//
// Positions are degrees on WGS 84, heights and lengths metres, times time.Time. Options are those of the command line's
// verbs, as NAME=VALUE, or NAME of a switch; docs/reference.md lists them. Nothing is printed, nothing is written over,
// and what ends a context leaves no partial file.
//
// What this package shows stays as it is. The packages under core, which it is made of, may change.
package gyrolith

import (
	"context"
	"errors"
	"fmt"
	"io"
	"iter"
	"strings"
	"time"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/choose"
	"gyrolith/core/export"
	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/job"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/unit"
)

// Data are waypoints, routes, tracks and areas.
type Data struct {
	Notes []string // what was left out of the files, or had to be assumed, a line each

	set    *nav.Dataset
	source string
	kit    *chain.Kit
}

// Report says what a step did, or what a format could not hold.
type Report struct {
	Changes int      // values that were changed
	Lost    int      // properties that are gone though nobody asked for it
	Lines   []string // what, of which item, and why
}

// Counts are the items of each kind, and the points of all of them.
type Counts struct{ Waypoints, Routes, Tracks, Areas, Points int }

// Position is a place, with a height in metres and a time where it has them.
type Position struct {
	Name, Group string // of the item; the path of groups has slashes
	Lat, Lon    float64
	Height      float64 // metres above what the source says, mostly the sea
	HasHeight   bool
	Time        time.Time // UTC; the zero time is none
}

// Read reads files, whose content decides their format, into one. A name may be that of a folder.
func Read(ctx context.Context, paths ...string) (*Data, error) { return Reading{}.Read(ctx, paths...) }

// Reading is how files are read.
type Reading struct {
	Options []string // such as "clock=+02:00", "crs-in=32732" or "salvage"
}

// Read reads files into one.
func (r Reading) Read(ctx context.Context, paths ...string) (*Data, error) {
	reading, tools, err := r.open(ctx)
	if err != nil {
		return nil, err
	}
	found, err := input.Gather(paths, "", func(path string) bool { return input.IsData(ctx, tools.Formats, path) })
	if err != nil {
		return nil, err
	}
	if len(found.Files) == 0 {
		return nil, fmt.Errorf("%s: %w", strings.Join(paths, ", "), job.ErrNoData)
	}
	inputs, _, err := job.Inputs(ctx, reading, found.Files)
	if err != nil {
		return nil, err
	}
	return dataOf(reading, tools, inputs)
}

// From reads a stream; the name stands in messages.
func (r Reading) From(ctx context.Context, name string, in io.Reader) (*Data, error) {
	reading, tools, err := r.open(ctx)
	if err != nil {
		return nil, err
	}
	src, err := format.FromReader(ctx, name, in)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	loaded, err := reading.From(src)
	if err != nil {
		return nil, err
	}
	return dataOf(reading, tools, []*format.Loaded{loaded})
}

func (r Reading) open(ctx context.Context) (*input.Reading, *chain.Kit, error) {
	tools := kit.New(time.Now(), unit.UserFolder(), strings.NewReader(""))
	reading := tools.NewReading()
	settings, err := settingsOf(r.Options)
	if err == nil {
		err = set(reading.Params(), settings)
	}
	if err == nil {
		err = reading.Open(ctx)
	}
	return reading, tools, err
}

func dataOf(reading *input.Reading, tools *chain.Kit, inputs []*format.Loaded) (*Data, error) {
	d := &Data{source: chain.Stem(inputs[0].Path), kit: tools}
	for _, m := range chain.Remarks(inputs) {
		d.Notes = append(d.Notes, m.String())
	}
	d.set = input.Merge(inputs)
	return d, reading.NotEmpty(d.set, inputs[0].Path)
}

// Clone copies data; what is done to the copy is not done to them.
func (d *Data) Clone() *Data {
	out := *d
	out.set = d.set.Clone()
	return &out
}

// Counts counts the items and points.
func (d *Data) Counts() Counts {
	n := d.set.Counts()
	return Counts{n[nav.Waypoints], n[nav.Routes], n[nav.Tracks], n[nav.Areas], d.set.Points()}
}

// Waypoints visits the waypoints in their order.
func (d *Data) Waypoints() iter.Seq[Position] {
	return func(yield func(Position) bool) {
		for i := range d.set.Waypoints {
			if w := &d.set.Waypoints[i]; !yield(positionOf(&w.Point, &w.Item)) {
				return
			}
		}
	}
}

// Points visits all points of the routes and tracks in their order, each under the name and group of its line.
func (d *Data) Points() iter.Seq[Position] {
	return func(yield func(Position) bool) {
		for i := range d.set.Routes {
			r := &d.set.Routes[i]
			for k := range r.Points {
				if !yield(positionOf(&r.Points[k].Point, &r.Item)) {
					return
				}
			}
		}
		for i := range d.set.Tracks {
			t := &d.set.Tracks[i]
			for _, segment := range t.Segments {
				for k := range segment.Points {
					if !yield(positionOf(&segment.Points[k], &t.Item)) {
						return
					}
				}
			}
		}
	}
}

func positionOf(p *nav.Point, of *nav.Item) Position {
	out := Position{Name: of.Name, Group: of.Group, Lat: p.Lat, Lon: p.Lon, HasHeight: p.HasHeight()}
	if p.HasHeight() {
		out.Height = p.Height()
	}
	if p.HasTime() {
		out.Time = p.Time()
	}
	return out
}

// ErrNothing says that nothing of the data is what was chosen; they are empty then.
var ErrNothing = choose.ErrNothing

// Take keeps the items that are chosen, each a kind or all with a pattern for name or group: "waypoints:Rock*".
func (d *Data) Take(choices ...string) error {
	s := &choose.Selection{}
	for _, text := range choices {
		c, err := choose.Parse(text)
		if err != nil {
			return err
		}
		s.Take = append(s.Take, c)
	}
	return d.choose(s)
}

// Within keeps what lies in a box of degrees; west greater than east crosses the antimeridian. Tracks are cut at its
// edge.
func (d *Data) Within(west, south, east, north float64) error {
	return d.choose(&choose.Selection{Inside: &nav.Box{West: west, South: south, East: east, North: north}})
}

// Between keeps what has a time from one to another; the zero time is no limit.
func (d *Data) Between(since, until time.Time) error {
	s := &choose.Selection{}
	for _, end := range []struct {
		at time.Time
		to **int64
	}{{since, &s.Since}, {until, &s.Until}} {
		if !end.at.IsZero() {
			ns := end.at.UnixNano()
			*end.to = &ns
		}
	}
	return d.choose(s)
}

func (d *Data) choose(s *choose.Selection) error {
	if err := s.Check(); err != nil {
		return err
	}
	if err := s.Apply(d.set); err != nil && !errors.Is(err, choose.ErrNothing) {
		return err
	}
	if d.set.Counts() == [4]int{} {
		return ErrNothing
	}
	return nil
}

// Clean removes the faults of receivers and planning programs.
func (d *Data) Clean(ctx context.Context, options ...string) (*Report, error) {
	return d.Do(ctx, "clean", options...)
}

// Elevate gives points without a height those of terrain: grids, or folders with grids.
func (d *Data) Elevate(ctx context.Context, terrain ...string) (*Report, error) {
	options := make([]string, len(terrain))
	for i, path := range terrain {
		options[i] = "terrain=" + path
	}
	return d.Do(ctx, "elevate", options...)
}

// Fit adapts the data to what a unit takes, by its name or the path of a profile, as stow does for its card.
func (d *Data) Fit(ctx context.Context, unit string) (*Report, error) {
	return d.Do(ctx, "convert", "unit="+unit)
}

// Do does a step with options: clean, elevate, recast, dress, lay, or convert, which only fits and chooses.
func (d *Data) Do(ctx context.Context, verb string, options ...string) (*Report, error) {
	stage := d.kit.NewStage(verb)
	if stage == nil {
		return nil, fmt.Errorf("there is no step %q", verb)
	}
	settings, err := settingsOf(options)
	if err != nil {
		return nil, err
	}
	if err := set(stage.Params(), settings); err != nil {
		return nil, fmt.Errorf("%s: %w", verb, err)
	}
	c := &chain.Chain{Reading: d.kit.NewReading(), Stages: []*chain.Stage{stage}}
	if err := c.Check(); err != nil {
		return nil, fmt.Errorf("%s: %w", verb, err)
	}
	if err := c.Open(ctx); err != nil {
		return nil, err
	}
	defer c.Close()
	w := &chain.Work{Data: d.set, Source: d.source}
	if err := c.Apply(ctx, w); err != nil {
		return nil, err
	}
	return reportOf(w.Ledger()), nil
}

// Write writes a file in the format of its extension, or of the option write-as. A file that is there is an error.
func (d *Data) Write(ctx context.Context, path string, options ...string) (*Report, error) {
	files := &job.Files{}
	defer files.Discard()
	report, err := d.write(ctx, path, files, options)
	if err != nil {
		return nil, err
	}
	_, err = files.Commit()
	return report, err
}

// WriteTo writes to a stream in the format of a name's extension, or of the option write-as.
func (d *Data) WriteTo(ctx context.Context, w io.Writer, name string, options ...string) (*Report, error) {
	return d.write(ctx, name, stream{w}, options)
}

// stream is where a single file goes.
type stream struct{ io.Writer }

func (s stream) Create(string) (io.Writer, error) { return s.Writer, nil }

func (d *Data) write(ctx context.Context, name string, to export.Sink, options []string) (*Report, error) {
	end, _ := d.kit.NewEnd("convert")
	end.Name = name
	settings, err := settingsOf(options)
	if err != nil {
		return nil, err
	}
	if err := set(end.Params(), settings); err != nil {
		return nil, err
	}
	c := &chain.Chain{Reading: d.kit.NewReading(), Ends: []*chain.End{end}}
	if err := c.Check(); err != nil {
		return nil, err
	}
	if err := c.Open(ctx); err != nil {
		return nil, err
	}
	defer c.Close()
	made, err := end.Write(ctx, &chain.Work{Data: d.set, Source: d.source}, end.Name, to)
	if err != nil {
		return nil, err
	}
	if made == nil {
		return nil, ErrNothing
	}
	return reportOf(made.Ledger), nil
}

func reportOf(l nav.Ledger) *Report {
	r := &Report{}
	r.Changes, r.Lost = l.Changes()
	for _, e := range l {
		words := []string{string(e.What)}
		if e.Name != "" {
			words = append(words, e.Name)
		}
		if e.Old != "" || e.New != "" {
			words = append(words, e.Old+" → "+e.New)
		}
		if e.Why != "" {
			words = append(words, e.Why)
		}
		r.Lines = append(r.Lines, strings.Join(words, ": "))
	}
	return r
}

// settingsOf takes options apart. A name that is there several times has several values.
func settingsOf(options []string) (out []param.Setting, err error) {
	at := map[string]int{}
	for _, o := range options {
		name, value, valued := strings.Cut(o, "=")
		if name == "" || strings.HasPrefix(name, "-") {
			return nil, fmt.Errorf("%q is not an option: write NAME=VALUE, or NAME of a switch", o)
		}
		if !valued {
			value = "true"
		}
		if i, there := at[name]; there {
			out[i].Values = append(out[i].Values, value)
			continue
		}
		at[name] = len(out)
		out = append(out, param.Setting{Name: name, Values: []string{value}})
	}
	return out, nil
}

// set sets parameters, and refuses those that a table does not have.
func set(t param.Table, settings []param.Setting) error {
	for _, s := range settings {
		if t.Find(s.Name) == nil {
			return fmt.Errorf("there is no option %q here", s.Name)
		}
	}
	return t.Set(&param.Env{}, settings)
}
