package unit

import (
	"fmt"
	"slices"

	"gyrolith/core/nav"
)

// Fitted is data adapted to a profile, with everything that was changed or left out for it.
type Fitted struct {
	Data   *nav.Dataset
	Ledger nav.Ledger
}

// Fit adapts data to what a unit takes. It is the one place that decides what changes; the data stay as they
// are, the result is a copy.
func Fit(d *nav.Dataset, p *Profile) *Fitted {
	f := &Fitted{Data: &nav.Dataset{}}
	out := f.Data
	out.Waypoints = slices.Clone(d.Waypoints)
	for _, r := range d.Routes {
		r.Points = slices.Clone(r.Points)
		out.Routes = append(out.Routes, r)
	}
	out.Tracks = slices.Clone(d.Tracks)
	out.Areas = slices.Clone(d.Areas)
	f.drop(p)
	f.recast(p)
	f.split(p)
	f.limit(p)
	f.strip(p)
	f.name(p)
	return f
}

// drop leaves out what has no point, of which a unit can show nothing.
func (f *Fitted) drop(p *Profile) {
	gone := func(kind nav.Kind, name string, points int) bool {
		if points == 0 {
			f.Ledger.Lost(kind, name, "empty "+kind.One(), p.Name+" can show nothing of it", 1)
		}
		return points == 0
	}
	d := f.Data
	d.Routes = slices.DeleteFunc(d.Routes, func(r nav.Route) bool { return gone(nav.Routes, r.Name, len(r.Points)) })
	d.Tracks = slices.DeleteFunc(d.Tracks, func(t nav.Track) bool { return gone(nav.Tracks, t.Name, t.Len()) })
	d.Areas = slices.DeleteFunc(d.Areas, func(a nav.Area) bool { return gone(nav.Areas, a.Name, len(a.Outline)) })
	for i := range d.Tracks {
		d.Tracks[i].Segments = slices.DeleteFunc(slices.Clone(d.Tracks[i].Segments), func(s nav.Segment) bool { return len(s.Points) == 0 })
	}
}

// recast turns kinds that the unit does not take into those that it wants them as.
func (f *Fitted) recast(p *Profile) {
	d := f.Data
	if as, _ := nav.ParseKind(p.Areas.As); p.Areas.As != "" && as == nav.Tracks {
		for i := range d.Areas {
			a := &d.Areas[i]
			f.Ledger.Changed(nav.Areas, a.Name, "kind", "area", "closed track", p.Name+" shows no areas")
			t := nav.Track{Item: a.Item}
			for _, ring := range a.Rings() {
				if len(ring) > 0 {
					t.Segments = append(t.Segments, nav.Segment{Points: append(slices.Clone(ring), ring[0])})
				}
			}
			d.Tracks = append(d.Tracks, t)
		}
		d.Areas = nil
	}
	if p.Waypoints.As == "" {
		f.leaveOut(p, nav.Waypoints, len(d.Waypoints), func(i int) string { return d.Waypoints[i].Name })
		d.Waypoints = nil
	}
	if p.Routes.As == "" {
		f.leaveOut(p, nav.Routes, len(d.Routes), func(i int) string { return d.Routes[i].Name })
		d.Routes = nil
	}
	if p.Tracks.As == "" {
		f.leaveOut(p, nav.Tracks, len(d.Tracks), func(i int) string { return d.Tracks[i].Name })
		d.Tracks = nil
	}
	if p.Areas.As == "" {
		f.leaveOut(p, nav.Areas, len(d.Areas), func(i int) string { return d.Areas[i].Name })
		d.Areas = nil
	}
}

func (f *Fitted) leaveOut(p *Profile, kind nav.Kind, n int, name func(int) string) {
	for i := range n {
		f.Ledger.Lost(kind, name(i), kind.One(), p.Name+" takes no "+kind.String(), 1)
	}
}

// split parts lines that have more points than the unit takes, so that no point is lost. A part of a route
// begins with the point that the one before ends with, and so does one of a track's segment.
func (f *Fitted) split(p *Profile) {
	d := f.Data
	if most := p.Routes.Points; most > 1 {
		var out []nav.Route
		for _, r := range d.Routes {
			if len(r.Points) <= most {
				out = append(out, r)
				continue
			}
			part := 0
			for from := 0; from < len(r.Points)-1; from += most - 1 {
				part++
				piece := nav.Route{Item: r.Item, Points: r.Points[from:min(from+most, len(r.Points))]}
				piece.Name = fmt.Sprintf("%s %d", r.Name, part)
				out = append(out, piece)
			}
			f.Ledger.Changed(nav.Routes, r.Name, "split", fmt.Sprintf("%d points", len(r.Points)), fmt.Sprintf("%d routes", part),
				fmt.Sprintf("%s takes %d points in a route", p.Name, most))
		}
		d.Routes = out
	}
	if most := p.Tracks.Points; most > 1 {
		var out []nav.Track
		for _, t := range d.Tracks {
			if t.Len() <= most {
				out = append(out, t)
				continue
			}
			parts := splitTrack(t, most)
			out = append(out, parts...)
			f.Ledger.Changed(nav.Tracks, t.Name, "split", fmt.Sprintf("%d points", t.Len()), fmt.Sprintf("%d tracks", len(parts)),
				fmt.Sprintf("%s takes %d points in a track", p.Name, most))
		}
		d.Tracks = out
	}
}

func splitTrack(t nav.Track, most int) []nav.Track {
	var parts []nav.Track
	room := 0
	for _, s := range t.Segments {
		for from := 0; from < len(s.Points); {
			if room < 2 {
				parts = append(parts, nav.Track{Item: t.Item})
				parts[len(parts)-1].Name = fmt.Sprintf("%s %d", t.Name, len(parts))
				room = most
			}
			to := min(from+room, len(s.Points))
			last := &parts[len(parts)-1]
			last.Segments = append(last.Segments, nav.Segment{Points: s.Points[from:to], Details: s.Details})
			room -= to - from
			if to == len(s.Points) {
				break
			}
			from = to - 1
		}
	}
	return parts
}

// limit leaves out the items that are more than the unit holds: the last ones, in the order of the data.
func (f *Fitted) limit(p *Profile) {
	d := f.Data
	over := func(kind nav.Kind, n int, name func(int) string) int {
		most := p.Of(kind).Most
		if most == 0 || n <= most {
			return n
		}
		for i := most; i < n; i++ {
			f.Ledger.Lost(kind, name(i), "left out", fmt.Sprintf("%s holds %d %s; the last ones are left out", p.Name, most, kind), 1)
		}
		return most
	}
	d.Waypoints = d.Waypoints[:over(nav.Waypoints, len(d.Waypoints), func(i int) string { return d.Waypoints[i].Name })]
	d.Routes = d.Routes[:over(nav.Routes, len(d.Routes), func(i int) string { return d.Routes[i].Name })]
	d.Tracks = d.Tracks[:over(nav.Tracks, len(d.Tracks), func(i int) string { return d.Tracks[i].Name })]
	d.Areas = d.Areas[:over(nav.Areas, len(d.Areas), func(i int) string { return d.Areas[i].Name })]
}

// strip takes away what the unit does not show, so that what is meant can be compared with what it shows.
func (f *Fitted) strip(p *Profile) {
	lost := map[string]int{}
	strip := func(item *nav.Item) {
		note := func(word string, has bool, clear func()) {
			if has && !p.ShowsA(word) {
				lost[word]++
				clear()
			}
		}
		note("symbol", item.Style.Symbol != "", func() { item.Style.Symbol = "" })
		note("description", item.Desc != "", func() { item.Desc = "" })
		note("group", item.Group != "", func() { item.Group = "" })
		st := nav.Style{Symbol: item.Style.Symbol}
		note("colour", item.Style != st, func() { item.Style = st })
		if len(item.Fields)+len(item.Kept)+len(item.Links) > 0 || item.Comment != "" || item.Source != "" || item.Type != "" {
			lost["further details"]++
		}
		item.Fields, item.Kept, item.Links = nil, nil, nil
		item.Comment, item.Source, item.Type, item.Number = "", "", "", ""
	}
	f.Data.Each(func(_ nav.Kind, item *nav.Item) { strip(item) })
	for i := range f.Data.Routes {
		for j := range f.Data.Routes[i].Points {
			strip(&f.Data.Routes[i].Points[j].Item)
		}
	}
	for i := range f.Data.Tracks {
		t := &f.Data.Tracks[i]
		t.Segments = slices.Clone(t.Segments)
		for j := range t.Segments {
			s := &t.Segments[j]
			if len(s.Details) > 0 {
				lost["values of single points"] += len(s.Details)
			}
			*s = nav.Segment{Points: s.Points}
		}
	}
	for _, word := range append([]string{"further details", "values of single points"}, properties...) {
		if lost[word] > 0 {
			f.Ledger = append(f.Ledger, nav.Entry{KindWord: "item", What: word, Why: p.Name + " does not show it", Count: lost[word], Loss: true})
		}
	}
}

// name brings the names to the unit's characters and length, different from one another within a kind. A
// route's point gets the name of the waypoint that it is, so that the unit finds the two to be one.
func (f *Fitted) name(p *Profile) {
	namers := map[nav.Kind]*namer{}
	given := map[string]string{}
	f.Data.Each(func(kind nav.Kind, item *nav.Item) {
		n := namers[kind]
		if n == nil {
			n = newNamer(p.Text)
			namers[kind] = n
		}
		old := item.Name
		item.Name = n.fit(old, kind.One())
		if item.Name != old {
			f.Ledger.Changed(kind, old, "name", old, item.Name, "")
		}
		if kind == nav.Waypoints && given[old] == "" {
			given[old] = item.Name
		}
	})
	for i := range f.Data.Routes {
		r := &f.Data.Routes[i]
		n := newNamer(p.Text)
		for j := range r.Points {
			w := &r.Points[j]
			old := w.Name
			switch {
			case old == "":
				w.Name = fmt.Sprintf("%d", j+1)
			case given[old] != "":
				w.Name = given[old]
			default:
				w.Name = n.fit(old, "point")
			}
			if w.Name != old && old != "" && given[old] == "" {
				f.Ledger.Changed(nav.Routes, r.Name, "point name", old, w.Name, "")
			}
		}
	}
}
