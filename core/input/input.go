// Package input makes datasets of files: as what they are read, by which limits and layouts, and what is taken of them.
package input

import (
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"runtime"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"golang.org/x/sync/errgroup"

	"gyrolith/core/choose"
	"gyrolith/core/format"
	"gyrolith/core/nav"
	"gyrolith/core/reference"
)

// Reading says how files are read. Make one with New.
type Reading struct {
	Formats format.Formats
	Stdin   io.Reader // for the path "-"

	As       string // the name of a format; "" is the one that the content shows
	Salvage  bool   // of a file that is cut off, take what is complete
	Options  format.ReadOptions
	Take     choose.Selection
	Key      string            // the field that is an item's identity; "" is the source's own
	Fixes    string            // the path of known fixes; "" is none
	System   reference.Choice  // of tables and layers that do not say it
	Above    nav.VerticalDatum // what the heights that are read are above; unstated is what the files say
	Distinct bool              // leave out recordings that are wholly in another one
	Watching func(*format.Source) (stop func())
}

// New makes a reading of the usual kind. Now is the day of the declination of pasted plans, unless they say another.
func New(formats format.Formats, now time.Time) *Reading {
	r := &Reading{Formats: formats}
	r.Options.On = now
	return r
}

// Check finds parameters that make no sense.
func (r *Reading) Check() error { return nil }

// Open reads what the reading itself needs: known fixes, systems and shifts.
func (r *Reading) Open(ctx context.Context) error {
	if err := r.System.Open("crs-in"); err != nil {
		return err
	}
	r.Options.System, r.Options.Shift, r.Options.DatumColumn = r.System.System, r.System.Shift, r.System.Column()
	if r.Fixes == "" {
		return nil
	}
	fixes, err := r.knownFixes(ctx)
	r.Options.Fixes = fixes
	return err
}

// Beside is a reading of files that go with the data, such as hazards: of their own format, and taken whole.
func (r *Reading) Beside() *Reading {
	b := *r
	b.As, b.Take, b.Options.Inside = "", choose.Selection{}, nil
	return &b
}

// knownFixes reads a file of known fixes: its waypoints and the points of its routes.
func (r *Reading) knownFixes(ctx context.Context) ([]nav.Waypoint, error) {
	b := r.Beside()
	b.Options.List = true
	in, err := b.Load(ctx, r.Fixes)
	if err != nil { // a single row is not taken for a list of fixes by itself
		b.As = "plan"
		var asList error
		if in, asList = b.Load(ctx, r.Fixes); asList != nil {
			return nil, err
		}
	}
	var out []nav.Waypoint
	for _, w := range in.Data.AllWaypoints() {
		out = append(out, *w)
	}
	if len(out) == 0 {
		return nil, &format.Error{Path: r.Fixes, Msg: "has no waypoints or routes in which to look up fixes"}
	}
	return out, nil
}

// Resolve reads the areas in which a selection chooses.
func (r *Reading) Resolve(ctx context.Context, s *choose.Selection) error {
	if s.Within == nil || s.Within.Ready() {
		return nil
	}
	in, err := r.Beside().Load(ctx, s.Within.Path)
	if err != nil {
		return err
	}
	if s.Within.Take(in.Data.Areas) == 0 {
		msg := "has no area to select within"
		if s.Within.Pattern != "" && len(in.Data.Areas) > 0 {
			msg = fmt.Sprintf("has no area called %q", s.Within.Pattern)
		}
		return &format.Error{Path: s.Within.Path, Msg: msg}
	}
	return nil
}

// Load reads a file, or standard input for "-", and takes what is asked for of it. Nothing taken is no error.
func (r *Reading) Load(ctx context.Context, path string) (*format.Loaded, error) {
	src, err := format.Open(ctx, path, r.Stdin)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	return r.From(src)
}

// From reads an open source.
func (r *Reading) From(src *format.Source) (*format.Loaded, error) {
	if r.Watching != nil {
		defer r.Watching(src)()
	}
	opt := r.Options
	opt.Key = r.Key
	if r.Take.Inside != nil && r.Take.Plain() {
		opt.Inside = r.Take.Inside
	}
	in, err := r.Formats.Load(src, r.As, r.Salvage, &opt)
	if err != nil {
		return nil, err
	}
	if s := r.System.System; s != nil && r.System.Shift != nil && s.Shift == r.System.Shift {
		in.Data.Shifted = s.Geographic.Datum
	}
	state(r.Above, in.Data)
	withoutNoData(in.Data, r.Options.NoData)
	if r.Key != "" {
		if err := identify(in, r.Key); err != nil {
			return nil, err
		}
	}
	if err := r.Take.Apply(in.Data); err != nil && !errors.Is(err, choose.ErrNothing) {
		return nil, err
	}
	format.TellFlaws(in.Data)
	return in, nil
}

// identify takes the identities of items from a field, or from what a table's column of that title was taken for.
func identify(in *format.Loaded, key string) error {
	found, keys := false, map[string]bool{}
	in.Data.Each(func(_ nav.Kind, it *nav.Item) {
		for i := range it.Fields {
			keys[it.Fields[i].Key] = true
		}
		v, ok := nav.Get(it.Fields, key)
		if !ok && key == "name" {
			v, ok = it.Name, it.Name != ""
		}
		if found = found || ok; ok {
			it.ID = v
		}
	})
	if found || in.Data.Counts() == [4]int{} {
		return nil
	}
	msg := fmt.Sprintf("no item has the field %q to use as a key", key)
	if names := slices.Sorted(maps.Keys(keys)); len(names) > 0 {
		msg += "; there are " + strings.Join(names[:min(len(names), 12)], ", ") + ", and name"
	} else {
		msg += "; items have no fields; use the key name for their names"
	}
	return &format.Error{Path: in.Path, Msg: msg}
}

// LoadAll reads files on every core, in their order. A file that fails leaves nil in its place, and its error is among
// those that are joined, in the order of the files.
func (r *Reading) LoadAll(ctx context.Context, paths []string) ([]*format.Loaded, error) {
	out := make([]*format.Loaded, len(paths))
	faults := make([]error, len(paths))
	together := *r
	together.Options.Held = new(atomic.Int64)
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	for i, path := range paths {
		group.Go(func() error {
			out[i], faults[i] = together.Load(ctx, path)
			return nil
		})
	}
	group.Wait()
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	return out, errors.Join(faults...)
}

// Merge makes one dataset of several. Attached files of one name and other contents get names of their own, and what
// refers to them follows.
func Merge(inputs []*format.Loaded) *nav.Dataset {
	data := inputs[0].Data
	for _, in := range inputs[1:] {
		data.Merge(in.Data)
	}
	return data
}

// ErrEmpty says that a file holds no item.
var ErrEmpty error = choose.Nothing("holds no waypoint, route, track or area")

// Together reads files, merges them and refuses what holds nothing.
func (r *Reading) Together(ctx context.Context, paths []string) (*nav.Dataset, []*format.Loaded, error) {
	inputs, err := r.LoadAll(ctx, paths)
	if err != nil {
		return nil, nil, err
	}
	data := Merge(inputs)
	return data, inputs, r.NotEmpty(data, inputs[0].Path)
}

// NotEmpty refuses data without items.
func (r *Reading) NotEmpty(d *nav.Dataset, path string) error {
	switch {
	case d.Counts() != [4]int{}:
		return nil
	case !r.Take.Empty():
		return choose.ErrNothing
	}
	err := &format.Error{Path: path, Msg: ErrEmpty.Error(), Err: ErrEmpty}
	if len(d.Rejects) > 0 { // it has some, and none can be used
		err.Err = nil
	}
	return err
}
