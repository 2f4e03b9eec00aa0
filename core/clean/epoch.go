package clean

import (
	"math"
	"slices"

	"gyrolith/core/nav"
)

// Epoch is the word of this fault.
const Epoch Fault = "epoch"

var epoch = fault{
	word:  Epoch,
	help:  "dates off by whole cycles of 1,024 weeks",
	found: "dates that are off by whole cycles of 1,024 weeks",
	done:  "dates shifted by whole cycles of 1,024 weeks",
	count: "dates shifted",
	usual: true,
	data:  (*Step).epochs,
}

// cycle is how long the week number of the satellites' time counts before it begins anew: 1,024 weeks
// (IS-GPS-200, 20.3.3.3.1.1), in nanoseconds.
const cycle = 1024 * 7 * 86400 * int64(1e9)

// epochs shifts dates that are off by whole cycles: towards a given date, or back from the future, or to where the
// other dates of the same data are.
func (s *Step) epochs(d *nav.Dataset) *Result {
	out := &Result{}
	const day = 86400 * int64(1e9)
	var all []int64
	for p := range d.AllPoints() {
		if p.HasTime() {
			all = append(all, p.UnixNano())
		}
	}
	if len(all) == 0 {
		return out
	}
	slices.Sort(all)
	target := s.usualDate(d)
	shift := func(at int64) int64 {
		k := int64(0)
		switch {
		case s.Around != 0:
			k = int64(math.Round(float64(s.Around-at) / float64(cycle)))
		case s.Now != 0 && at > s.Now+day:
			k = -(at - s.Now - day + cycle - 1) / cycle
		case target != 0:
			// Only what is within a year of whole cycles away contradicts the rest.
			n := math.Round(float64(target-at) / float64(cycle))
			if n != 0 && math.Abs(float64(target-at)-n*float64(cycle)) < 366*float64(day) {
				k = int64(n)
			}
		}
		return k
	}
	move := func(p *nav.Point) bool {
		if !p.HasTime() {
			return false
		}
		k := shift(p.UnixNano())
		if k != 0 {
			p.SetTime(p.UnixNano()+k*cycle, p.TimeMark())
		}
		return k != 0
	}
	for i := range d.Waypoints {
		if w := &d.Waypoints[i]; move(&w.Point) {
			out.add(Row{Fault: Epoch, Kind: nav.Waypoints, Item: w.Name, Count: 1})
		}
	}
	for i := range d.Routes {
		r, n := &d.Routes[i], 0
		for j := range r.Points {
			if move(&r.Points[j].Point) {
				n++
			}
		}
		out.add(Row{Fault: Epoch, Kind: nav.Routes, Item: r.Name, Count: n})
	}
	for i := range d.Tracks {
		t, n, number, first := &d.Tracks[i], 0, 0, 0
		for j := range t.Segments {
			for k := range t.Segments[j].Points {
				number++
				if move(&t.Segments[j].Points[k]) {
					if n == 0 {
						first = number
					}
					n++
				}
			}
		}
		out.add(Row{Fault: Epoch, Kind: nav.Tracks, Item: t.Name, Count: n, Number: first})
	}
	return out
}

// usualDate gives a date about which most of the data is sure: the file's own time, or else the middle of the cycle
// that most points are in; 0 where there is none. Of two that are as frequent the later one counts, since a
// counter that began anew gives dates that are too early.
func (s *Step) usualDate(d *nav.Dataset) int64 {
	if d.Meta.Time.HasTime() && (s.Now == 0 || d.Meta.Time.UnixNano() <= s.Now+86400*int64(1e9)) {
		return d.Meta.Time.UnixNano()
	}
	type bin struct {
		sum   float64
		count int
	}
	const month = 30 * 86400 * int64(1e9)
	bins := map[int64]*bin{}
	for p := range d.AllPoints() {
		if !p.HasTime() || s.Now != 0 && p.UnixNano() > s.Now+86400*int64(1e9) {
			continue
		}
		k := p.UnixNano() / month
		if bins[k] == nil {
			bins[k] = &bin{}
		}
		bins[k].count++
		bins[k].sum += float64(p.UnixNano()-k*month) / 1e9
	}
	best, most := int64(0), 0
	for k, b := range bins {
		at := k*month + int64(b.sum/float64(b.count)*1e9)
		if b.count > most || b.count == most && at > best {
			best, most = at, b.count
		}
	}
	return best
}
