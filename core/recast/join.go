package recast

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"gyrolith/core/advice"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// reverse turns routes and tracks around. Their times go, since they would run backwards.
func (w *work) reverse() {
	timed := 0
	for i := range w.data.Routes {
		r := &w.data.Routes[i]
		r.Points = slices.Clone(r.Points)
		slices.Reverse(r.Points)
		for j := range r.Points {
			timed += clearTime(&r.Points[j].Point)
		}
		w.changed(nav.Routes, r.Name, "direction", "", "reversed", "requested")
	}
	for i := range w.data.Tracks {
		t := &w.data.Tracks[i]
		t.Segments = slices.Clone(t.Segments)
		slices.Reverse(t.Segments)
		for j := range t.Segments {
			s := &t.Segments[j]
			s.Points = slices.Clone(s.Points)
			slices.Reverse(s.Points)
			for k := range s.Points {
				timed += clearTime(&s.Points[k])
			}
		}
		w.changed(nav.Tracks, t.Name, "direction", "", "reversed", "requested")
	}
	w.lostTimes(timed, true)
}

// lostTimes tells of times that went since their line was turned around.
func (w *work) lostTimes(n int, asked bool) {
	if n > 0 {
		w.ledger = append(w.ledger, nav.Entry{KindWord: "point", What: "times",
			Why: "they would run backwards in a reversed line", Count: n, Loss: true, Asked: asked,
			Advice: advice.Advice{Code: advice.GiveStart}})
	}
}

func clearTime(p *nav.Point) int {
	if !p.HasTime() {
		return 0
	}
	p.ClearTime()
	return 1
}

// strand is a line that is to be joined with others.
type strand struct {
	segment nav.Segment
	names   []string // of the tracks or routes that it was
	own     bool     // its points are no one else's
}

func (s *strand) ends() (a, b *nav.Point) {
	return &s.segment.Points[0], &s.segment.Points[len(s.segment.Points)-1]
}

func (s *strand) timed() bool {
	a, b := s.ends()
	return a.HasTime() && b.HasTime()
}

// join makes one track of all tracks and one route of all routes.
func (w *work) join() {
	if d := w.data; len(d.Tracks) > 0 {
		var strands []*strand
		for i := range d.Tracks {
			for _, s := range d.Tracks[i].Segments {
				if len(s.Points) > 0 {
					strands = append(strands, &strand{segment: s, names: []string{d.Tracks[i].Name}})
				}
			}
		}
		if len(strands) > 1 {
			joined := w.joinStrands(nav.Tracks, strands)
			item := d.Tracks[0].Item
			d.Tracks = nil
			for i, s := range joined {
				t := nav.Track{Item: item, Segments: []nav.Segment{s.segment}}
				t.Name = w.joinedName(item.Name, i, len(joined))
				d.Tracks = append(d.Tracks, t)
			}
		}
	}
	if d := w.data; len(d.Routes) > 1 {
		var strands []*strand
		for i := range d.Routes {
			r := &d.Routes[i]
			if len(r.Points) > 0 {
				strands = append(strands, &strand{segment: plain(r.Points), names: []string{r.Name}})
			}
		}
		if len(strands) == 0 {
			return
		}
		joined := w.joinStrands(nav.Routes, strands)
		item := d.Routes[0].Item
		d.Routes = nil
		for i, s := range joined {
			r := nav.Route{Item: item}
			r.Name = w.joinedName(item.Name, i, len(joined))
			for j := range s.segment.Points {
				p := s.segment.Waypoint(&s.segment.Points[j])
				if n := len(r.Points); n > 0 && r.Points[n-1].SamePlace(&p.Point) &&
					(p.Name == "" || p.Name == r.Points[n-1].Name) {
					continue // where one route ends and the next begins
				}
				r.Points = append(r.Points, p)
			}
			d.Routes = append(d.Routes, r)
		}
	}
}

// plain makes a segment of route points without anything between them.
func plain(points []nav.Waypoint) nav.Segment { return (&work{Step: &Step{}}).segment(points) }

func (w *work) joinedName(first string, i, of int) string {
	if w.Name != "" {
		first = w.Name
	}
	if of == 1 {
		return first
	}
	return numbered(first, i, of)
}

// inOrder puts lines end to end as they come, as far as they are within a limit, each turned around where that is asked
// for and its end is nearer.
func inOrder(strands []*strand, limit float64, reversing bool) (out []*strand, widest float64, timed int,
	around []string) {
	apart := func(a, b *nav.Point) float64 { return geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon) }
	out = strands[:1:1]
	for i, s := range strands[1:] {
		last := out[len(out)-1]
		first, end := last.ends()
		a, b := s.ends()
		if reversing && i == 0 && min(apart(first, a), apart(first, b)) < min(apart(end, a), apart(end, b)) {
			timed += last.reverse()
			around = append(around, last.names[0])
			_, end = last.ends()
		}
		if reversing && apart(end, b) < apart(end, a) {
			timed += s.reverse()
			around = append(around, s.names[0])
			a, _ = s.ends()
		}
		gap := apart(end, a)
		if gap > limit {
			out = append(out, s)
			continue
		}
		widest = max(widest, gap)
		last.append(s)
	}
	return out, widest, timed, around
}

// joinStrands puts lines end to end, the nearest ends first or in the order of the files. Lines with times follow one
// another in time and are turned around only where that is asked for.
func (w *work) joinStrands(kind nav.Kind, strands []*strand) []*strand {
	count := len(strands)
	var widest float64
	var timed int
	var around []string
	limit := w.JoinWithin
	if limit == 0 {
		limit = math.Inf(1)
	}
	switch {
	case w.Order == ByFile:
		strands, widest, timed, around = inOrder(strands, limit, w.Reversing)
	case !w.Reversing && !slices.ContainsFunc(strands, func(s *strand) bool { return !s.timed() }):
		slices.SortStableFunc(strands, func(a, b *strand) int {
			p, _ := a.ends()
			q, _ := b.ends()
			return cmp.Compare(p.UnixNano(), q.UnixNano())
		})
		strands, widest, _, _ = inOrder(strands, limit, false)
	default:
		strands, widest, timed, around = chained(strands, limit)
	}
	for _, name := range around {
		w.changed(kind, name, "direction", "", "reversed", "so that its end meets the next")
	}
	w.lostTimes(timed, w.Reversing)
	names := map[string]bool{}
	for _, s := range strands {
		for _, n := range s.names {
			names[n] = true
		}
	}
	w.changed(kind, "", "lines", fmt.Sprint(count), fmt.Sprint(len(strands)),
		fmt.Sprintf("joined end to end; the widest gap is %s", metres(widest)))
	if len(strands) > 1 {
		_, _, gap := newMeetings(strands).next()
		w.ledger = append(w.ledger, nav.Entry{Kind: kind, KindWord: kind.One(), What: "lines not joined",
			Why: fmt.Sprintf("the nearest ends are %s apart, more than is allowed", metres(gap)), Count: len(strands),
			Loss: true, Asked: true,
			Advice: advice.Advice{Code: advice.JoinWider}})
	}
	if delete(names, ""); len(names) > 1 {
		w.ledger = append(w.ledger, nav.Entry{Kind: kind, KindWord: kind.One(), What: "names of joined lines",
			Why: "one line has one name", Count: len(names) - 1, Loss: true, Asked: true,
			Advice: advice.Advice{Code: advice.NameIt}})
	}
	return strands
}

// reverse turns a strand around, and says how many times went with it.
func (s *strand) reverse() (timed int) {
	s.segment.Points = slices.Clone(s.segment.Points)
	slices.Reverse(s.segment.Points)
	for i := range s.segment.Points {
		timed += clearTime(&s.segment.Points[i])
	}
	return
}

// append adds another line behind this one. A point that both have is there once.
func (s *strand) append(o *strand) {
	to := &s.segment
	if !s.own {
		to.Own()
		s.own = true
	}
	carry := nav.Carry{From: &o.segment, To: to}
	for i := range o.segment.Points {
		p := o.segment.Points[i]
		detail := o.segment.Detail(&p)
		if last := &to.Points[len(to.Points)-1]; i == 0 && p.SamePlace(last) {
			have := to.Detail(last)
			if detail != nil && have == nil {
				to.Attach(last, *detail)
			}
			if detail == nil || have == nil || detail.Item != nil && have.Item != nil && detail.Item.Name == have.Item.Name {
				continue
			}
		}
		to.Points = append(to.Points, carry.Point(p))
	}
	to.Kept = append(to.Kept[:len(to.Kept):len(to.Kept)], o.segment.Kept...)
	s.names = append(s.names, o.names...)
}
