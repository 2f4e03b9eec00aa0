// Package inspect finds out what there is to say about a file: its items, what tells a recording from a drawing,
// totals, and the problems that one should know of.
package inspect

import (
	"context"
	"fmt"
	"math"
	"runtime"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"gyrolith/core/advice"
	"gyrolith/core/clean"
	"gyrolith/core/format"
	"gyrolith/core/measure"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

// View is what there is to say about a file.
type View struct {
	Path     string
	Format   *format.Format
	Data     *nav.Dataset
	Entries  []Entry
	Total    nav.Summary
	Problems []Problem
	Notes    []Note // how it was read

	motion motion.Limits
}

// Entry is one item.
type Entry struct {
	Kind   nav.Kind
	Item   *nav.Item
	Sum    nav.Summary
	At     *nav.Point // of a waypoint; nil for others
	Nature *Nature    // of a track; nil for others
	Holes  int        // of an area
	Astray int        // points of a track that are plainly wrong, which its length is given without
}

// Note is how something was read, where that had to be checked.
type Note struct {
	Text   string
	Advice advice.Advice
}

// Problem is something that is not as it should be: a fault that clean removes, or what a reader met.
type Problem struct {
	Code   nav.ProblemCode
	Count  int
	Text   string
	Advice advice.Advice
}

// The sorts of problems that are found here, beside those of readers and the faults of recordings.
const (
	NoHeights nav.ProblemCode = "no heights"
	CutOff    nav.ProblemCode = "cut off"
)

// Look finds out what there is to say. Now is the time of looking, after which nothing was recorded.
func Look(ctx context.Context, in *format.Loaded, now time.Time, limits motion.Limits) (*View, error) {
	v := &View{Path: in.Path, Format: in.Format, Data: in.Data, motion: limits}
	d := in.Data
	var found *clean.Result
	var finding errgroup.Group
	finding.Go(func() (err error) { found, err = clean.Find(ctx, d); return })
	for i := range d.Waypoints {
		w := &d.Waypoints[i]
		v.Entries = append(v.Entries, Entry{Kind: nav.Waypoints, Item: &w.Item, Sum: w.Summary(), At: &w.Point})
	}
	for i := range d.Routes {
		r := &d.Routes[i]
		v.Entries = append(v.Entries, Entry{Kind: nav.Routes, Item: &r.Item, Sum: r.Summary()})
	}
	for i := range d.Tracks {
		t := &d.Tracks[i]
		v.Entries = append(v.Entries, Entry{Kind: nav.Tracks, Item: &t.Item, Sum: t.Summary(), Nature: NatureOf(t, nil)})
	}
	for i := range d.Areas {
		a := &d.Areas[i]
		v.Entries = append(v.Entries, Entry{Kind: nav.Areas, Item: &a.Item, Sum: a.Summary(), Holes: len(a.Holes)})
	}
	v.lengths()
	if err := finding.Wait(); err != nil {
		return nil, err
	}
	if err := v.faults(ctx, found.Sums()); err != nil {
		return nil, err
	}
	v.ahead(now)
	for _, e := range v.Entries {
		v.Total.Join(e.Sum)
	}
	v.heights()
	v.readers(in)
	return v, nil
}

// faults names what clean would remove, by the same detectors.
func (v *View) faults(ctx context.Context, found []*clean.Sum) error {
	if slices.ContainsFunc(found, func(f *clean.Sum) bool { return slices.Contains(clean.Plain, f.Fault) }) {
		if err := v.sound(ctx); err != nil {
			return err
		}
	}
	for _, f := range found {
		text := f.Fault.Found() + ": " + Where(f)
		if f.Fault == clean.Strays && len(v.Data.Rejects) > 0 {
			text += fmt.Sprintf(", line %d (%s)", v.Data.Rejects[0].Line, v.Data.Rejects[0].Why)
		} else if f.Off > 0 {
			text += fmt.Sprintf("; the farthest is %s off", measure.Metric.Length(f.Off))
		}
		v.Problems = append(v.Problems, Problem{Code: nav.ProblemCode(f.Fault), Count: f.Count, Text: text})
	}
	return nil
}

// lengths gives the lengths of recordings without the scatter of halts.
func (v *View) lengths() {
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	for i, n := 0, 0; i < len(v.Entries); i++ {
		e := &v.Entries[i]
		if e.Kind != nav.Tracks {
			continue
		}
		t := &v.Data.Tracks[n]
		if n++; e.Sum.Times > 1 {
			group.Go(func() error {
				m := motion.Of(t.Segments, v.motion)
				e.Sum.Length, e.Nature = m.Length(), NatureOf(t, m)
				return nil
			})
		}
	}
	group.Wait()
}

// sound gives the lengths of tracks without what is astray: a single point on the other side of the earth would be
// most of a length otherwise.
func (v *View) sound(ctx context.Context) error {
	tracks, err := clean.Sound(ctx, v.Data)
	if err != nil {
		return err
	}
	n := 0
	for i := range v.Entries {
		e := &v.Entries[i]
		if e.Kind != nav.Tracks {
			continue
		}
		t := &tracks[n]
		n++
		if e.Astray = e.Sum.Points - t.Len(); e.Astray > 0 {
			e.Sum.Length = motion.Of(t.Segments, v.motion).Length()
		}
	}
	return nil
}

// ahead tells of recordings with dates in the future: a receiver whose count of weeks began anew gives such dates, and
// a plan has them too, so that nothing is said to be wrong.
func (v *View) ahead(now time.Time) {
	for _, e := range v.Entries {
		if e.Kind != nav.Tracks || e.Sum.Times == 0 || e.Sum.Last.Time().Before(now.Add(24*time.Hour)) {
			continue
		}
		first := e.Sum.First.Time()
		n := int(math.Ceil(float64(e.Sum.Last.Time().Sub(now)) / float64(clean.Cycle)))
		was := first.Add(-time.Duration(n) * clean.Cycle)
		v.Notes = append(v.Notes, Note{Text: fmt.Sprintf("the dates of track %s lie in the future, from %s on; %s earlier "+
			"they would begin on %s, if the receiver lost count", strings.Join(strings.Fields(e.Item.Name), " "),
			first.Format(time.DateOnly), weeks(n), was.Format(time.DateOnly)),
			Advice: advice.Advice{Code: advice.MoveDates, Arg: was.Format(time.DateOnly)}})
	}
}

func weeks(cycles int) string { return measure.Count(1024*cycles) + " weeks" }

// Where says in which items a fault was found: track Walk, first at point 12 and 3 more.
func Where(f *clean.Sum) string {
	where := f.First.Kind.One()
	if f.First.Item != "" {
		where += " " + strings.Join(strings.Fields(f.First.Item), " ")
	}
	if f.First.Number > 0 {
		where += fmt.Sprintf(", first at point %s", measure.Count(f.First.Number))
	}
	if f.First.Fault == clean.Epoch { // what was found, and what it becomes
		where += ": " + f.First.Text
	}
	if f.Items > 1 {
		where += fmt.Sprintf(" and %s more", measure.Count(f.Items-1))
	}
	return where
}

// heights tells lines that have heights at some of their points only.
func (v *View) heights() {
	missing, line := 0, ""
	for _, e := range v.Entries {
		if e.Kind != nav.Waypoints && e.Sum.Heights > 0 && e.Sum.Heights < e.Sum.Points {
			missing += e.Sum.Points - e.Sum.Heights
			if line == "" {
				line = e.Kind.One() + " " + e.Item.Name
			}
		}
	}
	if missing > 0 {
		v.Problems = append(v.Problems, Problem{Code: NoHeights, Count: missing,
			Text: "points without a height in a line with heights: " + line})
	}
}

// readers tells what the reader met.
func (v *View) readers(in *format.Loaded) {
	for _, p := range v.Data.Problems {
		if p.Info {
			v.Notes = append(v.Notes, Note{p.Text, p.Advice})
			continue
		}
		text := p.Text
		if p.Line > 0 {
			text += fmt.Sprintf(" (line %d)", p.Line)
		}
		v.Problems = append(v.Problems, Problem{Code: p.Code, Count: p.Count, Text: text, Advice: p.Advice})
	}
	if in.Cut != nil {
		text := "the file is cut off"
		if in.Cut.Line > 0 {
			text += fmt.Sprintf(", at line %d", in.Cut.Line)
		}
		v.Problems = append(v.Problems, Problem{Code: CutOff, Count: 1, Text: text})
	}
}

// Nature says whether a track was recorded or drawn, by what one can tell.
type Nature struct {
	Points, Timed int
	Segments      int
	Every         time.Duration // the median between two recorded points; 0 where that can't be said
}

// NatureOf finds out the nature of a track by its motion, nil for one that is not known to be recorded.
func NatureOf(t *nav.Track, m *motion.Motion) *Nature {
	n := &Nature{Points: t.Len(), Segments: len(t.Segments)}
	for i := range t.Segments {
		for j := range t.Segments[i].Points {
			if t.Segments[i].Points[j].HasTime() {
				n.Timed++
			}
		}
	}
	if m != nil && n.Timed == n.Points {
		n.Every = m.Interval
	}
	return n
}

func (n *Nature) String() (nature string) {
	switch {
	case n.Points == 0:
		nature = "empty"
	case n.Timed == 0:
		nature = "drawn: no times"
	case n.Timed < n.Points:
		nature = fmt.Sprintf("recorded: times at %s of %s points", measure.Count(n.Timed), measure.Count(n.Points))
	case n.Every > 0:
		nature = "recorded: a time every " + measure.Exactly(n.Every)
	default:
		nature = "recorded: with times"
	}
	if n.Segments > 1 {
		nature += fmt.Sprintf(", %d segments", n.Segments)
	}
	return nature
}

// Above says above what the heights of the data are, where they say so: "above mean sea level".
func Above(d *nav.Dataset) string {
	var counts [nav.Datums]int
	for p := range d.AllPoints() {
		if p.HasHeight() {
			counts[p.VerticalDatum()]++
		}
	}
	var parts []string
	for over, n := range counts {
		if n > 0 && nav.VerticalDatum(over) != nav.DatumUnstated {
			parts = append(parts, nav.VerticalDatum(over).String())
		}
	}
	if len(parts) == 0 {
		return ""
	}
	return " above " + strings.Join(parts, ", and above ")
}

// Limits says between which heights and when an area holds, in words.
func Limits(item *nav.Item) string {
	var parts []string
	for _, key := range []string{nav.FieldFloor, nav.FieldCeiling, nav.FieldFrom, nav.FieldUntil} {
		if v, ok := nav.Get(item.Fields, key); ok {
			parts = append(parts, strings.TrimPrefix(key, "valid ")+" "+v)
		}
	}
	return strings.Join(parts, ", ")
}

// Group is a folder of the tree of items.
type Group struct {
	Name    string
	Groups  []*Group
	Entries []Entry
}

// Size counts the items of a group and of all below it.
func (g *Group) Size() int {
	size := len(g.Entries)
	for _, c := range g.Groups {
		size += c.Size()
	}
	return size
}

// AreaSize counts the areas of a group and of all below it, and gives their sizes together, in square metres.
func (g *Group) AreaSize() (n int, size float64) {
	for i := range g.Entries {
		if v := g.Entries[i].Sum.Size; g.Entries[i].Kind == nav.Areas && !math.IsNaN(v) {
			n, size = n+1, size+v
		}
	}
	for _, c := range g.Groups {
		more, sum := c.AreaSize()
		n, size = n+more, size+sum
	}
	return n, size
}

// Tree sorts the items into their groups, in the order of the file.
func (v *View) Tree() *Group {
	root := &Group{}
	known := map[string]*Group{"": root}
	var find func(path string) *Group
	find = func(path string) *Group {
		if g := known[path]; g != nil {
			return g
		}
		above, name := "", path
		if i := strings.LastIndexByte(path, '/'); i >= 0 {
			above, name = path[:i], path[i+1:]
		}
		parent := find(above)
		g := &Group{Name: name}
		parent.Groups = append(parent.Groups, g)
		known[path] = g
		return g
	}
	for _, e := range v.Entries {
		at := find(e.Item.Group)
		at.Entries = append(at.Entries, e)
	}
	return root
}

// OneDay gives the day that all times of the view are of in a zone; "" where they are of several, or where there are
// none.
func (v *View) OneDay(zone *time.Location) string {
	if v.Total.Times == 0 {
		return ""
	}
	days := []string{v.Total.First.Time().In(zone).Format(time.DateOnly),
		v.Total.Last.Time().In(zone).Format(time.DateOnly)}
	if len(slices.Compact(days)) > 1 {
		return ""
	}
	return days[0]
}
