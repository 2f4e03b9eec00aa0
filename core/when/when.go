// Package when finds where recordings were at given times: times by themselves, lists of names and times, and pictures
// with the time of their camera.
package when

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"gyrolith/core/clean"
	"gyrolith/core/geodesy"
	"gyrolith/core/input"
	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

// Asked is a time whose position is asked for, with the name of what was then: a picture, a row of a list.
type Asked struct {
	Name string
	Path string // of a picture; "" for others
	At   time.Time

	Fields []nav.Field // the other columns of the list, in their order
	Titles *nav.Titles // what the list calls the column of its names
}

// Place is where a recording was at a time.
type Place struct {
	Asked
	Track, File string
	Point       nav.Point     // with the time
	Gap         time.Duration // between the fixes on both sides; 0 at a fix itself
	Off         time.Duration // to the nearer one
	Away        float64       // metres to it

	Along              float64 // metres gone since the recording began
	Run, Course, Speed float64 // since the row before of a log, else between the fixes around; not a number is unknown

	Values []nav.Field // what the recording has of the nearer one: depth, speed, course
	folder string      // of the recording
}

// Refused is a time for which there is no place that one can believe.
type Refused struct {
	Asked
	Why string
}

// Recordings holds tracks with times.
type Recordings struct {
	ByFolder bool          // a picture belongs to recordings of its own folder, where these have its time
	Motion   motion.Limits // of gaps, over which no place is believed
	tracks   []*recording
}

// recording is a track by its times.
type recording struct {
	name, file string
	folder     string // in which the file lies
	*motion.Course

	segments []nav.Segment
	limits   motion.Limits
	once     sync.Once
	way      *motion.Way // once it is asked for
}

// Add takes the tracks of a file in, without the points that are plainly wrong, which wrong counts. What has no time
// stays out; others counts those tracks.
func (r *Recordings) Add(ctx context.Context, d *nav.Dataset, file string) (others, wrong int, err error) {
	tracks, err := clean.Sound(ctx, d)
	if err != nil {
		return 0, 0, err
	}
	for i := range tracks {
		wrong += d.Tracks[i].Len() - tracks[i].Len()
		t := &recording{name: tracks[i].Name, file: file, folder: folderOf(d.Origin),
			Course:   motion.CourseOf(tracks[i].Segments, r.Motion),
			segments: tracks[i].Segments, limits: r.Motion}
		if len(t.Fixes) == 0 {
			others++
			continue
		}
		r.tracks = append(r.tracks, t)
	}
	return
}

// Distinct leaves out recordings that are wholly in another one, and tells of them, and of those that only overlap.
func (r *Recordings) Distinct() (said []string) {
	var all []input.Recorded
	for _, t := range r.tracks {
		all = append(all, input.RecordedIn(&nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: t.name},
			Segments: t.segments}}}, t.file)...)
	}
	gone := map[int]bool{}
	for _, c := range input.CopiesOf(all) {
		gone[c.Of] = c.Whole
		said = append(said, input.TellCopy(all, c, true))
	}
	i := -1
	r.tracks = slices.DeleteFunc(r.tracks, func(*recording) bool { i++; return gone[i] })
	return said
}

// Len is the number of tracks with times.
func (r *Recordings) Len() int { return len(r.tracks) }

// Sort brings the tracks into the order of their files and names.
func (r *Recordings) Sort() {
	slices.SortStableFunc(r.tracks, func(a, b *recording) int {
		return cmp.Or(cmp.Compare(a.file, b.file), cmp.Compare(a.Fixes[0].UnixNano(), b.Fixes[0].UnixNano()))
	})
}

// Span is the time that the recordings are of.
func (r *Recordings) Span() (first, last time.Time) {
	for i := range r.tracks {
		p := r.tracks[i].Fixes
		if a := p[0].Time(); first.IsZero() || a.Before(first) {
			first = a
		}
		if b := p[len(p)-1].Time(); b.After(last) {
			last = b
		}
	}
	return
}

// At finds where each recording was at a time, but in a gap; where none has a place the reason is given.
func (r *Recordings) At(a Asked) (out []Place, why string) {
	nearest := time.Duration(math.MaxInt64)
	defer func() {
		if !r.ByFolder || a.Path == "" {
			return
		}
		own := slices.DeleteFunc(slices.Clone(out), func(p Place) bool { return p.folder != folderOf(a.Path) })
		if len(own) > 0 {
			out = own
		}
	}()
	for i := range r.tracks {
		p, reason, off := r.tracks[i].at(a)
		if reason == "" {
			out = append(out, p)
			continue
		}
		if off < nearest {
			nearest, why = off, reason
		}
	}
	if len(out) > 0 {
		why = ""
	}
	return
}

// at finds where the recording was. Where that can't be said, off is how far the time is from what is known.
func (t *recording) at(a Asked) (p Place, why string, off time.Duration) {
	at := a.At.UnixNano()
	name := fmt.Sprintf("%q", t.name)
	if t.name == "" {
		name = "the track of " + t.file
	}
	p = Place{Asked: a, Track: t.name, File: t.file, folder: t.folder}
	place, before, after, ok := t.At(at)
	switch {
	case before == nil:
		off = time.Duration(after.UnixNano() - at)
		return p, fmt.Sprintf("%s before %s begins", measure.Duration(off), name), off
	case after == nil:
		off = time.Duration(at - before.UnixNano())
		return p, fmt.Sprintf("%s after %s ends", measure.Duration(off), name), off
	}
	p.Gap = after.Since(before)
	if !ok {
		return p, fmt.Sprintf("in a gap of %s of %s", measure.Duration(p.Gap), name), 0
	}
	p.Point = place
	if before != after {
		p.Point.SetTime(at, instant.Seconds)
	}
	p.Off = min(time.Duration(at-before.UnixNano()), time.Duration(after.UnixNano()-at))
	fix := before
	if time.Duration(after.UnixNano()-at) == p.Off {
		fix = after
	}
	p.Away = geodesy.Distance(p.Point.Lat, p.Point.Lon, fix.Lat, fix.Lon)
	p.Values = t.Values(fix)
	p.Along = t.wayAt(at)
	p.moved(before, after)
	return p, "", 0
}

// Passage finds when a recording came nearest to a position within some time of another one: the clock of a camera is
// off by the difference. It is false where no recording came within a distance in metres.
func (r *Recordings) Passage(lat, lon float64, about time.Time, span time.Duration, within float64) (time.Time, bool) {
	best, at := within, time.Time{}
	for i := range r.tracks {
		points := r.tracks[i].Fixes
		for k := range points {
			p := &points[k]
			if d := p.Time().Sub(about); d < -span || d > span {
				continue
			}
			if d := geodesy.Distance(lat, lon, p.Lat, p.Lon); d < best {
				best, at = d, p.Time()
			}
		}
	}
	return at, !at.IsZero()
}

// samePlace is how far apart copies of one recording may have a place, in metres.
const samePlace = 1

// Find finds a place for each time. A time by itself has one for each recording that has it. What has a name, such as a
// picture, has one alone: where several recordings have it at several places, nobody can tell which, and it has none.
func (r *Recordings) Find(asked []Asked) (out []Place, refused []Refused) {
	for _, a := range asked {
		places, why := r.At(a)
		if why != "" || len(places) == 0 {
			refused = append(refused, Refused{a, why})
			continue
		}
		if a.Name != "" {
			slices.SortStableFunc(places, func(x, y Place) int { return cmp.Compare(x.Gap, y.Gap) })
			if why := several(places); why != "" {
				refused = append(refused, Refused{a, why})
				continue
			}
			places = places[:1]
		}
		out = append(out, places...)
	}
	return
}

// folderOf is the folder in which a file lies, whole; "" where no file is named.
func folderOf(path string) string {
	if path == "" {
		return ""
	}
	if whole, err := filepath.Abs(path); err == nil {
		path = whole
	}
	return filepath.Dir(path)
}

// several names the recordings that have a time at different places; "" where all of them agree.
func several(places []Place) string {
	const most = 3
	apart := 0.0
	for i := range places {
		p, q := &places[0].Point, &places[i].Point
		apart = max(apart, geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon))
	}
	if apart <= samePlace {
		return ""
	}
	var names []string
	for i := range places[:min(len(places), most)] {
		names = append(names, fmt.Sprintf("%q of %s", places[i].Track, places[i].File))
	}
	if more := len(places) - len(names); more > 0 {
		names = append(names, fmt.Sprintf("%d more", more))
	}
	return fmt.Sprintf("ambiguous: %d recordings, %s apart: %s", len(places), measure.Metric.Length(apart),
		strings.Join(names, ", "))
}

// Waypoints makes a waypoint of each place, with its picture as a link.
func Waypoints(places []Place) *nav.Dataset {
	d := &nav.Dataset{}
	for i := range places {
		p := &places[i]
		w := nav.Waypoint{Point: p.Point}
		w.Name = cmp.Or(p.Name, p.Track)
		w.Fields, w.Titles = slices.Clone(p.Fields), p.Titles
		for _, v := range p.Values {
			if _, asked := nav.Get(p.Fields, v.Key); !asked {
				w.Fields = append(w.Fields, v)
			}
		}
		if p.Path != "" {
			w.Links = []nav.Link{{Href: p.Path, Text: p.Name}}
			w.Style.Symbol = "camera"
		}
		d.Waypoints = append(d.Waypoints, w)
	}
	return d
}
