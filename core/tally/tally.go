// Package tally adds recordings up: how long, how far, how high and how fast, by track, day, file, group or leg; and
// when each was inside of areas.
package tally

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"path"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"gyrolith/core/choose"
	"gyrolith/core/clean"
	"gyrolith/core/figure"
	"gyrolith/core/input"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/region"
)

// By says what a row is of.
type By string

// A row is of a track, or of all tracks of a day, a week, a file or a group; or of a part of a track: from one halt to
// the next, or inside an area.
const (
	Track  By = "track"
	Day    By = "day"
	Week   By = "week"
	File   By = "file"
	Folder By = "folder" // the folder that a file lies in, which is often that of a party
	Group  By = "group"
	Leg    By = "leg"
	Area   By = "area"
)

// Step says how recordings are added up.
type Step struct {
	By     []By           // one, or several of day, week, file, folder and group; none is by track
	Zone   *time.Location // in which a day begins
	Motion motion.Limits  // of halts and gaps
	Keep   bool           // the sound tracks are given with their rows

	AreasPath string
	AreasTake []choose.Choice
	Areas     []nav.Area // visits of which are listed

	ready sync.Once // the areas
	areas *region.Index
}

// regions are the areas, made ready when they are first asked for.
func (s *Step) regions() *region.Index {
	s.ready.Do(func() { s.areas = region.New(s.Areas, func(*nav.Area) bool { return true }) })
	return s.areas
}

// Params lists the parameters of the step.
func (s *Step) Params() param.Table {
	words := []string{string(Track), string(Day), string(Week), string(File), string(Folder), string(Group), string(Leg),
		string(Area)}
	by := param.Func("by", "WHAT[,WHAT]",
		"one row per `WHAT[,WHAT]`: track, day, week (ISO 8601), file, folder, group, leg "+
			"(from one halt to the next) or area; several, such as folder,day, are one row for each of both",
		func(text string) error {
			s.By = nil
			for w := range strings.SplitSeq(text, ",") {
				if w = strings.TrimSpace(w); !slices.Contains(words, w) {
					return fmt.Errorf("%q is not one of %s%s", w, strings.Join(words, ", "), param.DidYouMean(w, words))
				}
				s.By = append(s.By, By(w))
			}
			return nil
		})
	by.Words, by.Default = words, string(Track)
	return append(param.Table{by,
		param.File("areas", &s.AreasPath, "FILE", "list visits to the areas in this `FILE`"),
		param.Choices("areas-take", &s.AreasTake, "only these areas, `KIND[:GLOB]`; repeatable"),
	}, s.Motion.Params()...).In("Tally")
}

// Check finds parameters that make no sense.
func (s *Step) Check() error {
	if len(s.By) == 0 {
		s.By = []By{Track}
	}
	alone := slices.IndexFunc(s.By, func(by By) bool { return by == Track || by == Leg || by == Area })
	switch {
	case alone >= 0 && len(s.By) > 1:
		return param.Errorf("by", "by %s stands alone; day, week, file, folder and group can be combined", s.By[alone])
	case s.Is(Day) && s.Is(Week):
		return param.Errorf("by", "a row is of a day or of a week")
	case s.Is(Area) && s.AreasPath == "" && len(s.Areas) == 0:
		return param.Errorf("by", "by area needs a file of areas")
	case len(s.AreasTake) > 0 && s.AreasPath == "":
		return param.Errorf("areas-take", "chooses among areas, but no file of areas is given")
	}
	return nil
}

// Is says whether rows are by something, alone or among others.
func (s *Step) Is(by By) bool { return slices.Contains(s.By, by) || by == Track && len(s.By) == 0 }

// Sum is what there is to add up. Heights and speeds are not a number where nothing is known.
type Sum struct {
	Tracks, Points, Faults     int
	Untimed                    int       // points without a time among those that have one
	Start, End                 time.Time // unset where there are no times
	From                       nav.Point // where it starts
	Elapsed, Moving, Standing  time.Duration
	Length                     float64 // metres, without what is plainly wrong
	Ascent, Descent, Low, High float64
	Top                        float64 // m/s, over ten seconds
	moved                      float64 // metres, of the time that counts as moving
}

func newSum() Sum { return Sum{Low: math.NaN(), High: math.NaN(), Top: math.NaN()} }

// Mean is the mean speed while moving.
func (s *Sum) Mean() float64 {
	if s.Moving <= 0 {
		return math.NaN()
	}
	return s.moved / s.Moving.Seconds()
}

// Gaps is the time in which nothing was recorded: the receiver was off.
func (s *Sum) Gaps() time.Duration { return max(s.Elapsed-s.Moving-s.Standing, 0) }

// Add adds another sum.
func (s *Sum) Add(o *Sum) {
	s.Tracks += o.Tracks
	s.Points += o.Points
	s.Faults += o.Faults
	s.Untimed += o.Untimed
	if s.Start.IsZero() || !o.Start.IsZero() && o.Start.Before(s.Start) {
		s.Start, s.From = o.Start, o.From
	}
	if o.End.After(s.End) {
		s.End = o.End
	}
	s.Elapsed = together(s.Elapsed, o.Elapsed)
	s.Moving = together(s.Moving, o.Moving)
	s.Standing = together(s.Standing, o.Standing)
	s.Length += o.Length
	s.Ascent += o.Ascent
	s.Descent += o.Descent
	s.moved += o.moved
	s.Low, s.High, s.Top = lower(s.Low, o.Low), higher(s.High, o.High), higher(s.Top, o.Top)
}

func lower(a, b float64) float64 {
	if math.IsNaN(a) || b < a {
		return b
	}
	return a
}

func higher(a, b float64) float64 {
	if math.IsNaN(a) || b > a {
		return b
	}
	return a
}

// Row is a line of the table. What is one for all that it is of stands beside the sum.
type Row struct {
	File, Folder, Name, Group, Area string
	Size                            float64     // of the area, in square metres; not a number where the row is of none
	Day                             string      // in the zone; "" where it is not one day or not known
	Fields                          []nav.Field // of the track
	Track                           int         // its number in the file, from 0
	Sum
}

// Visit is one time that a recording was inside of an area.
type Visit struct {
	File, Name, Area string
	Size             float64   // of the area, in square metres; not a number of a flawed one
	In, Out          time.Time // unset where there are no times
	Inside           time.Duration
	Length           float64
	From, To         nav.Point // where it came in and went out
	First, Last      int       // points of the track, from 1; 0 where it passed between two
	Begun, Ended     bool      // the recording began, or ended, inside
	Track            int       // the number of the track in the file, from 0
}

// Found is what there is to say of one file.
type Found struct {
	Rows     []Row
	Visits   []Visit
	Tracks   []nav.Track      // one for each row by track, where they are kept
	Recorded []input.Recorded // the tracks, by the numbers that rows and visits have
	Other    int              // routes, which no one recorded
	Contacts int              // tracks of other vessels, which are no recordings of one's own
}

// Of adds up the tracks of a file. The data are not changed.
func (s *Step) Of(ctx context.Context, d *nav.Dataset, file, folder string) (*Found, error) {
	out := &Found{Other: len(d.Routes)}
	if n := len(d.Tracks); slices.ContainsFunc(d.Tracks, func(t nav.Track) bool { return motion.IsContact(&t) }) {
		own := *d
		own.Tracks = slices.DeleteFunc(slices.Clone(d.Tracks), func(t nav.Track) bool { return motion.IsContact(&t) })
		d, out.Contacts = &own, n-len(own.Tracks)
	}
	astray := map[string]int{}
	for i := range d.Rejects {
		if d.Rejects[i].Kind == nav.Tracks {
			astray[d.Rejects[i].Name]++
		}
	}
	tracks, err := clean.Sound(ctx, d)
	if err != nil {
		return nil, err
	}
	by := Track
	switch {
	case s.Is(Day) || s.Is(Week):
		by = Day
	case s.Is(Leg):
		by = Leg
	}
	rows, visits := make([][]Row, len(d.Tracks)), make([][]Visit, len(d.Tracks))
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(runtime.GOMAXPROCS(0))
	for i := range d.Tracks {
		group.Go(func() error {
			t := &d.Tracks[i]
			for k, p := range parts(&tracks[i], by, s.zone(), s.Motion) {
				r := Row{File: file, Folder: folder, Name: t.Name, Group: t.Group, Day: p.day, Size: math.NaN(),
					Fields: t.Fields, Track: i, Sum: p.Sum}
				if r.Tracks = 1; k == 0 {
					r.Faults = t.Len() - tracks[i].Len() + astray[t.Name]
				}
				rows[i] = append(rows[i], r)
			}
			if len(s.Areas) > 0 {
				visits[i] = s.visits(&tracks[i], file)
				for k := range visits[i] {
					visits[i][k].Track = i
				}
			}
			return ctx.Err()
		})
	}
	if err := group.Wait(); err != nil {
		return nil, err
	}
	out.Recorded = input.RecordedIn(d, path.Join(folder, file))
	out.Rows, out.Visits = slices.Concat(rows...), slices.Concat(visits...)
	if s.Keep {
		out.Tracks = slices.Clone(tracks)
	}
	return out, nil
}

func (s *Step) zone() *time.Location {
	if s.Zone == nil {
		return time.UTC
	}
	return s.Zone
}

// Gather makes the rows that are asked for of those of all files, and their total.
func (s *Step) Gather(rows []Row, visits []Visit) (out []Row, total Sum) {
	total = newSum()
	for i := range rows {
		total.Add(&rows[i].Sum)
	}
	switch {
	case s.Is(Area):
		return byArea(visits), total
	case s.Is(Track) || s.Is(Leg):
		return rows, total
	case s.Is(Week):
		rows = slices.Clone(rows)
		for i := range rows {
			rows[i].Day = weekOf(rows[i].Day)
		}
	}
	key := func(r *Row) string {
		var parts []string
		for _, by := range s.By {
			switch by {
			case Day, Week:
				parts = append(parts, r.Day)
			case File:
				parts = append(parts, r.Folder, r.File)
			case Folder:
				parts = append(parts, r.Folder)
			case Group:
				parts = append(parts, r.Group)
			}
		}
		return strings.Join(parts, "\x00")
	}
	known := map[string]int{}
	for i := range rows {
		r := &rows[i]
		k, ok := known[key(r)]
		if !ok {
			k = len(out)
			known[key(r)] = k
			out = append(out, Row{Day: r.Day, Size: math.NaN(), Sum: newSum()})
			if s.Is(File) {
				out[k].File, out[k].Folder = r.File, r.Folder
			}
			if s.Is(Folder) {
				out[k].Folder = r.Folder
			}
			if s.Is(Group) {
				out[k].Group = r.Group
			}
		}
		if out[k].Day != r.Day {
			out[k].Day = ""
		}
		out[k].Add(&r.Sum)
	}
	if s.Is(Day) || s.Is(Week) {
		slices.SortStableFunc(out, func(a, b Row) int {
			if c := cmp.Compare(a.Day, b.Day); s.By[0] == Day || s.By[0] == Week {
				return c
			}
			return cmp.Or(figure.Natural(a.Folder, b.Folder), figure.Natural(a.File, b.File), cmp.Compare(a.Group, b.Group),
				cmp.Compare(a.Day, b.Day))
		})
	}
	return out, total
}

// weekOf is the week of a day, 2026-W11 (ISO 8601).
func weekOf(day string) string {
	at, err := time.Parse(time.DateOnly, day)
	if err != nil {
		return day
	}
	year, week := at.ISOWeek()
	return fmt.Sprintf("%d-W%02d", year, week)
}

// byArea adds visits up by area.
func byArea(visits []Visit) (out []Row) {
	known := map[string]int{}
	for i := range visits {
		v := &visits[i]
		k, ok := known[v.Area]
		if !ok {
			k = len(out)
			known[v.Area] = k
			out = append(out, Row{Area: v.Area, Size: v.Size, Sum: newSum()})
		}
		s := newSum()
		s.Tracks, s.Length, s.Elapsed, s.Start, s.End = 1, v.Length, v.Inside, v.In, v.Out
		out[k].Add(&s)
	}
	return
}

// Mean is the mean of rows: of times over those that have times, and of heights over those that have heights.
func Mean(rows []Row) *Sum {
	total := newSum()
	timed, high := 0, 0
	for i := range rows {
		total.Add(&rows[i].Sum)
		if rows[i].Elapsed > 0 {
			timed++
		}
		if !math.IsNaN(rows[i].High) {
			high++
		}
	}
	n, out := max(len(rows), 1), total
	span := func(d time.Duration) time.Duration { return d / time.Duration(max(timed, 1)) }
	out.Points, out.Faults, out.Tracks = total.Points/n, 0, 0
	out.Elapsed, out.Moving, out.Standing = span(total.Elapsed), span(total.Moving), span(total.Standing)
	out.Length, out.moved = total.Length/float64(n), total.moved/float64(max(timed, 1))
	out.Ascent, out.Descent = total.Ascent/float64(max(high, 1)), total.Descent/float64(max(high, 1))
	return &out
}
