// Package choose takes items, and parts of lines, by kind, name, place and time.
package choose

import (
	"errors"
	"fmt"
	"path"
	"strings"

	"gyrolith/core/nav"
	"gyrolith/core/region"
)

// Choice names items: a kind, or all of them, and a pattern for the name or the group path.
type Choice struct {
	Text    string // as the user wrote it
	Kinds   [4]bool
	Pattern string // "" takes every name
}

// Parse reads KIND[:GLOB]. The pattern is matched without regard to case: * stands for anything, ?
// for one character, [a-z] for one of a range.
func Parse(text string) (Choice, error) {
	word, pattern, has := strings.Cut(text, ":")
	c := Choice{Text: text}
	if k, ok := nav.ParseKind(word); ok {
		c.Kinds[k] = true
	} else if word == "all" {
		c.Kinds = [4]bool{true, true, true, true}
	} else {
		return c, fmt.Errorf("%q is not a kind of item: use waypoints, routes, tracks, areas or all, optionally with a "+
			"colon and "+
			"a pattern for the name, such as waypoints:'Rock*'", word)
	}
	if has {
		c.Pattern = strings.ToLower(pattern)
		if _, err := path.Match(c.Pattern, ""); err != nil {
			return c, fmt.Errorf("the pattern %q is incomplete: a [ needs a ]", pattern)
		}
	}
	return c, nil
}

// Matches says whether the choice names an item.
func (c Choice) Matches(kind nav.Kind, item *nav.Item) bool {
	return c.Kinds[kind] && (c.Pattern == "" || Glob(c.Pattern, item.Name) || Glob(c.Pattern, item.Group) ||
		item.Group != "" && Glob(c.Pattern, item.Group+"/"+item.Name))
}

// Glob matches a lower-case pattern without regard to case. Here * crosses slashes, since a name may hold one.
func Glob(pattern, name string) bool {
	flat := func(s string) string { return strings.ReplaceAll(s, "/", "\x00") }
	ok, _ := path.Match(flat(pattern), flat(strings.ToLower(name)))
	return ok
}

// Selection chooses items and parts of lines. The zero value takes everything.
type Selection struct {
	Take, Leave  []Choice
	Inside       *nav.Box
	Within       *Zone  // nil is anywhere
	Since, Until *int64 // nanoseconds since 1970 UTC

	outside bool // of the zone, and not in it
}

// Empty says whether the selection takes everything.
func (s *Selection) Empty() bool {
	return len(s.Take) == 0 && len(s.Leave) == 0 && s.Inside == nil && s.Within == nil && s.Since == nil &&
		s.Until == nil
}

func anyMatch(choices []Choice, kind nav.Kind, item *nav.Item) bool {
	for _, c := range choices {
		if c.Matches(kind, item) {
			return true
		}
	}
	return false
}

func (s *Selection) wants(kind nav.Kind, item *nav.Item) bool {
	return (len(s.Take) == 0 || anyMatch(s.Take, kind, item)) && !anyMatch(s.Leave, kind, item)
}

// Sure says whether an item with this name and group would have been taken, wherever and whenever it is.
func (s *Selection) Sure(kind nav.Kind, item *nav.Item) bool {
	return s.partless() && s.wants(kind, item)
}

// within says whether a point is in the box and the time that are asked for. A point without a time is not
// since or until anything.
func (s *Selection) within(p *nav.Point) bool {
	return s.place(p) && s.timely(p)
}

// place says whether a point is in the box and the areas.
func (s *Selection) place(p *nav.Point) bool {
	return (s.Inside == nil || s.Inside.Contains(p.Lat, p.Lon)) &&
		(s.Within == nil || s.Within.Holds(p.Lat, p.Lon) != s.outside)
}

func (s *Selection) timely(p *nav.Point) bool {
	if s.Since == nil && s.Until == nil {
		return true
	}
	return p.HasTime() && (s.Since == nil || p.UnixNano() >= *s.Since) && (s.Until == nil || p.UnixNano() <= *s.Until)
}

// ErrNothing is what Apply gives when the selection takes no item at all.
var ErrNothing error = Nothing("nothing in the data matches the options")

// Nothing is an error of what is not there: of nothing that was chosen, is left, or is to be worked on.
type Nothing string

func (n Nothing) Error() string { return string(n) }

// Check finds what makes no sense.
func (s *Selection) Check() error {
	if s.Since != nil && s.Until != nil && *s.Since > *s.Until {
		return errors.New("since is later than until, so nothing can match")
	}
	return nil
}

// Apply keeps what the selection takes, and notes what of it matches nothing. Tracks are cut into segments: at the
// points with which they leave the time, and at the very edge of the box or the areas, which gets a point. Routes and
// areas that touch it stay whole.
func (s *Selection) Apply(d *nav.Dataset) error {
	if s.Empty() {
		return nil
	}
	if err := s.Check(); err != nil {
		return err
	}
	had := d.Points()
	s.tellUnmatched(d)
	d.Waypoints = keep(d.Waypoints,
		func(w *nav.Waypoint) bool { return s.wants(nav.Waypoints, &w.Item) && s.within(&w.Point) })
	d.Routes = keep(d.Routes, func(r *nav.Route) bool {
		return s.wants(nav.Routes, &r.Item) && (s.partless() || s.passes(r))
	})
	d.Areas = keep(d.Areas,
		func(a *nav.Area) bool { return s.wants(nav.Areas, &a.Item) && (s.partless() || s.touches(a)) })
	d.Tracks = keep(d.Tracks, func(t *nav.Track) bool {
		if !s.wants(nav.Tracks, &t.Item) {
			return false
		}
		if s.partless() {
			return true
		}
		t.Segments = s.cut(t.Segments)
		return len(t.Segments) > 0
	})
	if had > 0 && d.Points() == 0 {
		return ErrNothing
	}
	return nil
}

func (s *Selection) partless() bool {
	return s.Inside == nil && s.Within == nil && s.Since == nil && s.Until == nil
}

func keep[T any](items []T, wanted func(*T) bool) []T {
	out := items[:0:0]
	for i := range items {
		if wanted(&items[i]) {
			out = append(out, items[i])
		}
	}
	return out
}

func anyPoint[T any](points []T, is func(*T) bool) bool {
	for i := range points {
		if is(&points[i]) {
			return true
		}
	}
	return false
}

// passes says whether a route has a point in the box and the time, or a leg across the box.
func (s *Selection) passes(r *nav.Route) bool {
	if anyPoint(r.Points, func(w *nav.Waypoint) bool { return s.within(&w.Point) }) {
		return true
	}
	if s.Since != nil || s.Until != nil {
		return false
	}
	for i := 1; i < len(r.Points); i++ {
		from, to := &r.Points[i-1].Point, &r.Points[i].Point
		across := false
		nav.AlongLeg(from, to, func(p, q *nav.Point, _, _ float64) {
			across = across || s.Inside != nil && s.Inside.CrossedBy(p, q) ||
				s.Within != nil && len(s.Within.regions.Straight(p, q, nil)) > 0
		})
		if across {
			return true
		}
	}
	return false
}

// touches says whether an area has a corner in the box, an edge across it, or the whole box inside it.
func (s *Selection) touches(a *nav.Area) bool {
	if anyPoint(a.Outline, s.within) {
		return true
	}
	b := s.Inside
	if s.Since != nil || s.Until != nil || len(a.Outline) < 3 {
		return false
	}
	if s.Within != nil {
		for i := range a.Outline {
			if len(s.Within.regions.Straight(&a.Outline[i], &a.Outline[(i+1)%len(a.Outline)], nil)) > 0 {
				return true
			}
		}
		return s.Within.regions.AnyBegins(a.Outline)
	}
	if b == nil {
		return false
	}
	for i := range a.Outline {
		if b.CrossedBy(&a.Outline[i], &a.Outline[(i+1)%len(a.Outline)]) {
			return true
		}
	}
	return region.Contains(a.Outline, b.South, b.West)
}
