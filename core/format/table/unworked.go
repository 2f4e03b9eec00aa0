package table

import (
	"math"
	"slices"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/figure"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
)

// workedKey says which word a field is named after as a table of ours names what is worked out, and how many of our own
// its measure is.
func workedKey(key string) (word string, one float64, ok bool) {
	for _, w := range figure.PointWords {
		rest, found := strings.CutPrefix(key, format.TitleOf(w))
		rest = strings.TrimSpace(rest)
		switch q, measured := format.Measured(w); {
		case !found:
		case slices.Contains(stated, w): // whose measure was taken off on reading
			if rest == "" || rest == "°" {
				return w, 1, true
			}
		case w == "slope" && rest == "%":
			return w, 1, true
		case measured:
			if m, is := headings.Named(rest, q); is {
				return w, m.Factor, true
			}
		}
	}
	return "", 0, false
}

// restored is what was read, without what tables of ours work out.
func restored(d *nav.Dataset, err error) (*nav.Dataset, error) {
	if d != nil {
		unworked(d)
	}
	return d, err
}

// unworked leaves out of lines what a table of ours worked out, where all of a line is what positions, heights and
// times give anyway, so that a table comes back as the data that it was made of.
func unworked(d *nav.Dataset) {
	var left []string
	drop := func(t identity.Thing, fields func(i int) []nav.Field, points int) (keys []string) {
		var all []string
		for i := range points {
			for _, f := range fields(i) {
				if _, _, ok := workedKey(f.Key); ok && !slices.Contains(all, f.Key) {
					all = append(all, f.Key)
				}
			}
		}
		var line *figure.Line
		for _, key := range all {
			if line == nil {
				line = figure.LineOf(t)
			}
			if given(line, key, fields, points) {
				if keys = append(keys, key); !slices.Contains(left, key) {
					left = append(left, key)
				}
			}
		}
		return keys
	}
	without := func(fields []nav.Field, keys []string) []nav.Field {
		return slices.DeleteFunc(slices.Clone(fields), func(f nav.Field) bool { return slices.Contains(keys, f.Key) })
	}
	for _, t := range identity.Things(d, nav.Routes) {
		points := t.Route.Points
		keys := drop(t, func(i int) []nav.Field { return points[i].Fields }, len(points))
		for i := range points {
			if len(keys) > 0 {
				points[i].Fields = without(points[i].Fields, keys)
			}
		}
	}
	for _, t := range identity.Things(d, nav.Tracks) {
		if !slices.ContainsFunc(t.Track.Segments, hasWorked) {
			continue
		}
		var all []nav.Waypoint
		for i := range t.Track.Segments {
			all = append(all, t.Track.Segments[i].Waypoints()...)
		}
		keys := drop(t, func(i int) []nav.Field { return all[i].Fields }, len(all))
		if len(keys) == 0 {
			continue
		}
		for i, n := 0, 0; i < len(t.Track.Segments); i++ {
			s := &t.Track.Segments[i]
			fresh := nav.Segment{Kept: s.Kept}
			for range s.Points {
				w := all[n]
				w.Fields = without(w.Fields, keys)
				fresh.Add(&w)
				n++
			}
			*s = fresh
		}
	}
	if len(left) > 0 {
		d.Tell(nav.ProblemColumns, "columns that only say what positions, heights and times give were left out: "+
			strings.Join(left, ", "))
	}
}

// hasWorked says whether points of a segment have a field as a table of ours names what is worked out.
func hasWorked(s nav.Segment) bool {
	for d := range s.Samples(s.Points) {
		if slices.ContainsFunc(d.Values, func(f nav.Field) bool { _, _, ok := workedKey(f.Key); return ok }) {
			return true
		}
	}
	return false
}

// given says whether a field is throughout what is worked out of its line, as finely as it is written.
func given(line *figure.Line, key string, fields func(i int) []nav.Field, points int) bool {
	word, one, _ := workedKey(key)
	some := false
	for i := range points {
		text, has := nav.Get(fields(i), key)
		v := line.Value(word, i)
		if span, ok := v.(time.Duration); ok {
			v = span.Seconds()
		}
		want, known := v.(float64)
		got, digits, isNumber := decimal.Parse([]byte(text))
		switch {
		case has != known || has && !isNumber:
			return false
		case !has:
			continue
		}
		decimals, _ := digits.Decimals()
		off := math.Abs(got*one - want)
		if word == "course" {
			off = math.Abs(math.Remainder(got-want, 360))
		}
		if off > 0.6*math.Pow10(-int(decimals))*one+line.Unsure(word, i) {
			return false
		}
		some = true
	}
	return some
}
