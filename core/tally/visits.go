package tally

import (
	"cmp"
	"slices"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/region"
)

// visits lists when a track was inside of each area. Where a leg crosses an outline is worked out on the leg itself.
func (s *Step) visits(t *nav.Track, file string) (out []Visit) {
	regions := s.regions()
	var found []areaVisit
	number := 0
	for j := range t.Segments {
		points := t.Segments[j].Points
		followed := map[int]*visitor{} // by area
		follow := func(i int) *visitor {
			v := followed[i]
			if v == nil {
				v = &visitor{regions: regions, area: i, visit: Visit{File: file, Name: t.Name, Area: s.Areas[i].Name,
					Size: s.Areas[i].Size()}}
				v.limits, _ = s.Areas[i].Limits()
				followed[i] = v
			}
			return v
		}
		for i := range points {
			if p := &points[i]; i == 0 {
				regions.Holding(p.Lat, p.Lon, func(k int) bool {
					if v := follow(k); !v.limits.Hold(p) {
						return true
					}
					follow(k).enter(*p, number+1, true)
					return true
				})
			} else {
				regions.Beside(&points[i-1], p, func(k int) { follow(k).leg(&points[i-1], p, number+i) })
			}
		}
		for _, v := range followed {
			if v.open {
				v.leave(points[len(points)-1], number+len(points), true)
			}
			for _, visit := range v.out {
				found = append(found, areaVisit{v.area, visit})
			}
		}
		number += len(points)
	}
	slices.SortStableFunc(found, func(a, b areaVisit) int { // one leg may go in several times
		return cmp.Or(a.visit.In.Compare(b.visit.In), a.area-b.area, a.visit.First-b.visit.First)
	})
	for _, f := range found {
		out = append(out, f.visit)
	}
	return out
}

type areaVisit struct {
	area  int
	visit Visit
}

// visitor follows a segment in and out of an area.
type visitor struct {
	regions *region.Index
	area    int
	limits  nav.Limits
	visit   Visit
	open    bool
	at      Visit // that has begun
	out     []Visit
}

func (v *visitor) enter(p nav.Point, n int, begun bool) {
	v.open, v.at = true, v.visit
	v.at.From, v.at.To, v.at.Begun, v.at.First = p, p, begun, n
	if p.HasTime() {
		v.at.In = p.Time()
	}
}

func (v *visitor) on(p *nav.Point) {
	v.at.Length += geodesy.Distance(v.at.To.Lat, v.at.To.Lon, p.Lat, p.Lon)
	v.at.To = *p
}

func (v *visitor) leave(p nav.Point, n int, ended bool) {
	v.on(&p)
	v.at.Ended, v.at.Last = ended, n
	if p.HasTime() {
		v.at.Out = p.Time()
	}
	if !v.at.In.IsZero() && !v.at.Out.IsZero() {
		v.at.Inside = max(v.at.Out.Sub(v.at.In), time.Duration(0))
	}
	v.open = false
	v.out = append(v.out, v.at)
}

// leg follows the leg from a point to the next, of which the first has a number.
func (v *visitor) leg(q, p *nav.Point, number int) {
	from := 0.0
	cuts := append(append(v.regions.Crossings(v.area, q, p), v.limits.Cuts(q, p)...), 1)
	slices.Sort(cuts)
	for _, t := range cuts {
		if t <= from && t < 1 {
			continue
		}
		middle := nav.Between(q, p, (from+t)/2)
		inside := v.regions.Holds(v.area, middle.Lat, middle.Lon) && v.limits.Hold(&middle)
		at := nav.Between(q, p, from)
		switch {
		case inside && !v.open:
			v.enter(at, number+1, false)
		case !inside && v.open:
			v.leave(at, number, false)
		}
		from = t
	}
	if v.open {
		v.on(p)
	}
}
