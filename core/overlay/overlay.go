// Package overlay computes with areas: what any of them covers, what lies in both, outside of others, within a
// distance, and parts of one size.
package overlay

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"math"
	"slices"

	"gyrolith/core/choose"
	"gyrolith/core/format"
	"gyrolith/core/identity"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/region"
	"gyrolith/core/shape"
)

// What is one way of computing with areas.
type What string

// The ways, by the words of set arithmetic and of geometry.
const (
	Union        What = "union"
	Intersection What = "intersection"
	Difference   What = "difference"
	Divide       What = "divide"
	Buffer       What = "buffer"
)

// All lists them.
var All = []What{Union, Intersection, Difference, Divide, Buffer}

// Explain says in a line what is made.
func (w What) Explain() string {
	return map[What]string{
		Union:        "what any of the areas covers, as one",
		Intersection: "what lies inside of other areas: areas and lines cut, waypoints kept",
		Difference:   "what lies outside of other areas",
		Divide:       "areas in parts of one size side by side, or cut along lines",
		Buffer:       "all places within a distance of each item, as an area",
	}[w]
}

// Step says what is computed. Lengths are metres, angles degrees true.
type Step struct {
	What     What
	With     *choose.Zone // the file of what is computed with, and a pattern for names
	By       string       // "group" or a field: areas that differ in it stay apart
	Parts    int
	Heading  *float64 // of the lines between parts; nil is across the longer side
	Distance float64  // of a buffer; a negative one shrinks areas

	Other *nav.Dataset // what With names, once it is read
}

// Params lists the parameters of the step, but for what is computed.
func (s *Step) Params() param.Table {
	with := param.Func("with", "FILE", "the areas to compute with, or the lines to divide along, `FILE` or FILE:GLOB",
		func(text string) error { s.With = choose.ParseZone(text); return nil })
	with.Path = param.ReadPart
	return param.Table{
		with,
		param.Text("by", &s.By, "FIELD", "unite only areas that have the same group or the same value of a `FIELD`"),
		param.Count("parts", &s.Parts, 2, mostParts, "N", "divide into `N` parts of equal size"),
		param.Bearing("heading", &s.Heading, "the direction of the lines between parts, `DEGREES` true (default: across the "+
			"longer side)"),
		param.SignedLength("distance", &s.Distance, "DISTANCE",
			"how far a buffer reaches, `DISTANCE`; a negative one shrinks areas"),
	}.In("Computing")
}

const (
	mostParts = 10_000
	mostFar   = 5e6 // metres: a quarter of the way to the other side of the earth
)

// Check finds parameters that make no sense together.
func (s *Step) Check() error {
	var faults []error
	with := s.With != nil || s.Other != nil
	switch s.What {
	case Union:
		faults = append(faults, param.Need(!with, "with", "union takes the areas of its inputs; name that file among them"))
	case Intersection, Difference:
		faults = append(faults, param.Need(with, "with", "the file of areas is missing"))
	case Divide:
		faults = append(faults, param.Need(with != (s.Parts > 0), "parts",
			"give either a number of parts, or lines to divide along"),
			param.Need(s.Heading == nil || s.Parts > 0, "heading", "is the direction between parts, whose number is missing"))
	case Buffer:
		faults = append(faults, param.Need(s.Distance != 0, "distance", "is missing, such as 50m, or -50m to shrink areas"),
			param.Need(math.Abs(s.Distance) <= mostFar, "distance", "is more than 5,000 km"))
	default:
		return fmt.Errorf("there is no %q to compute", s.What)
	}
	faults = append(faults,
		param.Need(s.By == "" || s.What == Union, "by", "keeps areas of a union apart, and nothing else"),
		param.Need(s.Parts == 0 || s.What == Divide, "parts", "belongs to divide"),
		param.Need(s.Distance == 0 || s.What == Buffer, "distance", "belongs to buffer"),
		param.Need(s.What != Buffer || !with, "with", "does not belong to buffer"))
	return errors.Join(faults...)
}

// ErrNothing says that nothing is left.
var ErrNothing error = choose.Nothing("nothing is left: the result is empty")

// work is one run of a step.
type work struct {
	*Step
	made   nav.Dataset
	report nav.Report
}

// Apply computes: what is made takes the place of the data. When the context ends, the data are not to be used.
func (s *Step) Apply(ctx context.Context, d *nav.Dataset) (*nav.Report, error) {
	w := &work{Step: s}
	var err error
	switch s.What {
	case Union:
		err = w.union(ctx, d)
	case Divide:
		err = w.divide(ctx, d)
	case Buffer:
		err = w.buffer(ctx, d)
	default:
		err = w.inside(ctx, d, s.What == Difference)
	}
	if err != nil {
		return nil, err
	}
	if w.made.Counts() == [4]int{} {
		return nil, ErrNothing
	}
	d.Waypoints, d.Routes, d.Tracks, d.Areas = w.made.Waypoints, w.made.Routes, w.made.Tracks, w.made.Areas
	w.report.Count("areas made", len(d.Areas))
	return &w.report, ctx.Err()
}

// sound gives the polygons of an area. One that is flawed is mended where there is one answer, which is told.
func (w *work) sound(a *nav.Area) ([]shape.Polygon, error) {
	if !a.Flawed {
		if len(a.Outline) < 3 {
			return nil, nil
		}
		return []shape.Polygon{a.Rings()}, nil
	}
	polygons, flaw, err := shape.Mended(a)
	if flaw != nil {
		_, why := format.FlawWords(flaw)
		return nil, fmt.Errorf("area %q %s, and there is no one answer to what it covers: correct it, or leave it out",
			a.Name, why)
	}
	if err == nil {
		w.report.Ledger.Changed(nav.Areas, a.Name, "outline", "", "mended", "its rings crossed, or a hole lay across them")
	}
	return polygons, err
}

// all gives the polygons of areas.
func (w *work) all(areas []nav.Area) (out []shape.Polygon, err error) {
	for i := range areas {
		polygons, err := w.sound(&areas[i])
		if err != nil {
			return nil, err
		}
		out = append(out, polygons...)
	}
	return
}

// onlyAreas leaves out what is no area, which a union and a division do not concern.
func (w *work) onlyAreas(d *nav.Dataset) {
	for _, k := range []nav.Kind{nav.Waypoints, nav.Routes, nav.Tracks} {
		if n := d.Counts()[k]; n > 0 {
			w.report.Ledger = append(w.report.Ledger, nav.Entry{Kind: k, KindWord: k.One(), What: "item", Count: n, Loss: true,
				Asked: true, Why: string(w.What) + " takes areas only"})
		}
	}
}

// union unites the areas that have the same value of what they are kept apart by.
func (w *work) union(ctx context.Context, d *nav.Dataset) error {
	w.onlyAreas(d)
	of := map[string][]nav.Area{}
	var order []string
	for _, a := range d.Areas {
		key := ""
		if w.By == "group" {
			key = a.Group
		} else if w.By != "" {
			key, _ = nav.Get(a.Fields, w.By)
		}
		if _, known := of[key]; !known {
			order = append(order, key)
		}
		of[key] = append(of[key], a)
	}
	for _, key := range order {
		if err := ctx.Err(); err != nil {
			return err
		}
		polygons, err := w.all(of[key])
		if err != nil {
			return err
		}
		united, err := shape.Union(polygons)
		if err != nil {
			return err
		}
		if w.By != "" {
			w.made.Areas = append(w.made.Areas, nav.AreasOf(w.common(of[key], key), united)...)
			continue
		}
		w.parts(of[key], united)
	}
	return nil
}

// common is an area that says what all of some say. What only some say is told.
func (w *work) common(areas []nav.Area, name string) *nav.Area {
	if len(areas) == 1 {
		return &areas[0]
	}
	var items []*nav.Item
	for i := range areas {
		items = append(items, &areas[i].Item)
	}
	out := &nav.Area{Item: identity.Common(items, func(i int, word string) {
		if word == identity.Name {
			return // which is told as a change
		}
		e := w.report.Ledger.Lost(nav.Areas, items[i].Name, nav.Property(word), "the areas that became one differ in it", 1)
		e.Asked = true
	})}
	if out.Name == "" {
		out.Name = cmp.Or(name, fmt.Sprintf("%s and %s more", items[0].Name, measure.Count(len(items)-1)))
	}
	for _, it := range items {
		if it.Name != out.Name {
			w.report.Ledger.Changed(nav.Areas, it.Name, nav.PropertyName, it.Name, out.Name, "it is part of that area now")
		}
	}
	return out
}

// parts gives each polygon of a union what its areas say: all that a single one does, else what they have in common.
func (w *work) parts(areas []nav.Area, united []shape.Polygon) {
	made := make([]nav.Area, len(united))
	for k, rings := range united {
		made[k] = nav.Area{Outline: rings[0], Holes: rings[1:]}
	}
	sources, first := make([][]nav.Area, len(united)), make([]int, len(united))
	index := region.New(made, func(*nav.Area) bool { return true })
	for i := range areas {
		polygons, _ := w.sound(&areas[i])
		for _, polygon := range polygons {
			if p, ok := shape.InnerPoint(polygon); ok {
				index.Holding(p.Lat, p.Lon, func(k int) bool {
					if len(sources[k]) == 0 {
						first[k] = i
					}
					sources[k] = append(sources[k], areas[i])
					return false
				})
			}
		}
	}
	order := make([]int, len(made))
	for k := range made {
		if order[k] = k; len(sources[k]) > 0 {
			made[k].Item = w.common(sources[k], "").Item
		}
	}
	slices.SortStableFunc(order, func(a, b int) int { return first[a] - first[b] }) // as their areas stand
	for _, k := range order {
		w.made.Areas = append(w.made.Areas, made[k])
	}
}

// others are the areas that With names, ready for polygon arithmetic: near gives those that may touch an area.
type others struct {
	zone  choose.Zone
	parts []shape.Polygon
	index *region.Index
}

func (w *work) others() (*others, error) {
	o := &others{}
	parts, err := w.all(w.Other.Areas)
	if err != nil {
		return nil, err
	}
	o.parts = parts
	var areas []nav.Area
	for _, rings := range parts {
		areas = append(areas, nav.Area{Outline: rings[0], Holes: rings[1:]})
	}
	o.zone.Take(areas)
	o.index = o.zone.Regions()
	return o, nil
}

// inside takes what lies inside of the other areas, or outside.
func (w *work) inside(ctx context.Context, d *nav.Dataset, outside bool) error {
	o, err := w.others()
	if err != nil {
		return err
	}
	for _, p := range d.Waypoints {
		if o.zone.Holds(p.Lat, p.Lon) != outside {
			w.made.Waypoints = append(w.made.Waypoints, p)
		}
	}
	for i := range d.Routes {
		w.cutRoute(&d.Routes[i], &o.zone, outside)
	}
	for _, t := range d.Tracks {
		if t.Segments = o.zone.Cut(t.Segments, outside); len(t.Segments) > 0 {
			w.made.Tracks = append(w.made.Tracks, t)
		}
	}
	for i := range d.Areas {
		if err := ctx.Err(); err != nil {
			return err
		}
		if err := w.cutArea(&d.Areas[i], o, outside); err != nil {
			return err
		}
	}
	return nil
}

// cutRoute takes the pieces of a route that lie inside or outside; several are told apart by letters.
func (w *work) cutRoute(r *nav.Route, zone *choose.Zone, outside bool) {
	var seg nav.Segment
	for i := range r.Points {
		seg.Add(&r.Points[i])
	}
	pieces := zone.Cut([]nav.Segment{seg}, outside)
	for i := range pieces {
		made := nav.Route{Item: r.Item, Points: pieces[i].Waypoints()}
		if len(pieces) > 1 {
			made.Name += letter(i)
			made.ID = ""
		}
		w.made.Routes = append(w.made.Routes, made)
	}
}

// cutArea takes what of an area lies inside or outside. An area that none of the others comes near stays as it is, or
// goes.
func (w *work) cutArea(a *nav.Area, o *others, outside bool) error {
	polygons, err := w.sound(a)
	if err != nil {
		return err
	}
	var near []shape.Polygon
	o.index.Around(a.Outline, func(i int) { near = append(near, o.parts[i]) })
	switch {
	case len(near) == 0 && outside:
		w.made.Areas = append(w.made.Areas, *a)
		return nil
	case len(near) == 0:
		return nil
	}
	if in, apart := o.apart(a); apart && len(polygons) == 1 { // no edge meets another: all of it is inside, or none
		if in != outside {
			w.made.Areas = append(w.made.Areas, *a)
		}
		return nil
	}
	switch {
	case outside:
		polygons, err = shape.Difference(polygons, near)
	default:
		polygons, err = shape.Intersection(polygons, near)
	}
	w.made.Areas = append(w.made.Areas, nav.AreasOf(a, polygons)...)
	return err
}

// apart says whether no edge of an area meets one of the others, of which none lies inside of it either, and if so
// whether it lies in one of them.
func (o *others) apart(a *nav.Area) (in, ok bool) {
	var parts []float64
	for _, ring := range a.Rings() {
		for i := range ring {
			if parts = o.index.Straight(&ring[i], &ring[(i+1)%len(ring)], parts[:0]); len(parts) > 0 {
				return false, false
			}
		}
	}
	if o.index.AnyBegins(a.Outline) {
		return false, false
	}
	p, ok := shape.InnerPoint(a.Rings())
	return ok && o.zone.Holds(p.Lat, p.Lon), ok
}

// divide cuts areas into parts of one size, or along lines.
func (w *work) divide(ctx context.Context, d *nav.Dataset) error {
	w.onlyAreas(d)
	var lines [][]nav.Point
	if w.Other != nil {
		for i := range w.Other.Routes {
			lines = append(lines, w.Other.Routes[i].Line())
		}
		for i := range w.Other.Tracks {
			for k := range w.Other.Tracks[i].Segments {
				lines = append(lines, w.Other.Tracks[i].Segments[k].Points)
			}
		}
	}
	for from := 0; from < len(d.Areas); {
		if err := ctx.Err(); err != nil {
			return err
		}
		a, to := &d.Areas[from], from+1
		for to < len(d.Areas) && a.Whole != nil && d.Areas[to].Whole == a.Whole {
			to++
		}
		polygons, err := w.all(d.Areas[from:to])
		if err != nil {
			return err
		}
		from = to
		var parts [][]shape.Polygon
		ok := true
		if w.Parts > 0 {
			var divided *shape.Divided
			divided, ok = shape.Divide(polygons, w.Parts, w.Heading)
			parts = divided.Parts
			w.told(a, divided)
		} else {
			var split []shape.Polygon
			split, ok = shape.Split(polygons, lines)
			for _, p := range split {
				parts = append(parts, []shape.Polygon{p})
			}
		}
		if !ok {
			return fmt.Errorf("area %q has too many edges over one another to be divided: thin it first", a.Name)
		}
		for k, part := range parts {
			made := nav.Area{Item: a.Item}
			if len(parts) > 1 {
				made.Name, made.ID, made.Whole = made.Name+letter(k), "", nil
			}
			w.made.Areas = append(w.made.Areas, nav.AreasOf(&made, part)...)
		}
	}
	return nil
}

// Cut tells how an area was divided into equal parts.
type Cut struct {
	Name             string
	Parts            int
	Size             float64 // square metres of a part
	Heading, Turning float64 // of the lines between, in the middle, and by how much it is another at their ends
}

func (w *work) told(a *nav.Area, d *shape.Divided) {
	cuts, _ := w.report.Detail.([]Cut)
	size := 0.0
	for _, rings := range d.Parts[0] {
		size += (&nav.Area{Outline: rings[0], Holes: rings[1:]}).Size()
	}
	w.report.Detail = append(cuts, Cut{a.Name, len(d.Parts), size, d.Heading, d.Turning})
}

// letter is what is put behind the name of a part: (a) to (z), then (27).
func letter(k int) string {
	if k < 26 {
		return fmt.Sprintf(" (%c)", 'a'+k)
	}
	return fmt.Sprintf(" (%d)", k+1)
}

// buffer gives each item an area of all places within the distance.
func (w *work) buffer(ctx context.Context, d *nav.Dataset) error {
	one := func(kind nav.Kind, item *nav.Item, set []shape.Polygon, lines [][]nav.Point) error {
		if err := ctx.Err(); err != nil {
			return err
		}
		if w.Distance < 0 && kind != nav.Areas {
			w.report.Ledger.Lost(kind, item.Name, "item", "a negative distance shrinks areas, and this is none", 1)
			return nil
		}
		polygons, err := shape.Buffer(set, lines, w.Distance)
		if err != nil {
			return fmt.Errorf("%s %q: %w", kind.One(), item.Name, err)
		}
		if len(polygons) == 0 {
			w.report.Ledger.Lost(kind, item.Name, "item", "nothing is left of it", 1).Asked = true
			return nil
		}
		w.made.Areas = append(w.made.Areas, nav.AreasOf(&nav.Area{Item: *item}, polygons)...)
		return nil
	}
	for i := range d.Waypoints {
		p := &d.Waypoints[i]
		if err := one(nav.Waypoints, &p.Item, nil, [][]nav.Point{{p.Point}}); err != nil {
			return err
		}
	}
	for i := range d.Routes {
		if err := one(nav.Routes, &d.Routes[i].Item, nil, [][]nav.Point{d.Routes[i].Line()}); err != nil {
			return err
		}
	}
	for i := range d.Tracks {
		var lines [][]nav.Point
		for k := range d.Tracks[i].Segments {
			lines = append(lines, d.Tracks[i].Segments[k].Points)
		}
		if err := one(nav.Tracks, &d.Tracks[i].Item, nil, lines); err != nil {
			return err
		}
	}
	for i := range d.Areas {
		set, err := w.sound(&d.Areas[i])
		if err == nil {
			err = one(nav.Areas, &d.Areas[i].Item, set, nil)
		}
		if err != nil {
			return err
		}
	}
	return nil
}
