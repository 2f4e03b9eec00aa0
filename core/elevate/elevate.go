// Package elevate gives the points of data heights from terrain, and turns heights above the ellipsoid into those above
// mean sea level.
package elevate

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
	"gyrolith/core/terrain"
)

// Step gives the points of data their heights. The grids are opened by Open, or given by who makes the step.
type Step struct {
	Terrain   *terrain.Terrain // of heights above mean sea level; nil for none
	Geoid     *terrain.Terrain // of the geoid above the ellipsoid; nil for none
	Always    bool             // also to points that have a height
	Between   terrain.Between
	FillVoids bool
	Every     float64 // metres between the points that lines get, so that the ground between theirs is seen; 0 adds none

	TerrainPaths, GeoidPaths []string // that Open opens
}

// Result counts what a step did.
type Result struct {
	Given   int `json:"given"`  // of which Filled were in a void
	Filled  int `json:"filled"` // from the rim of a void
	Had     int `json:"had"`    // a height already, which stays
	InVoid  int `json:"in_void"`
	Outside int `json:"outside"`
	// the degree tiles that are not there, with the points in them
	Missing   map[string]int `json:"missing_tiles,omitempty"`
	Converted int            `json:"converted"` // from the ellipsoid to the sea
	NoGeoid   int            `json:"no_geoid"`  // ellipsoidal heights where the geoid is not known
	Unstated  int            `json:"unstated"`  // heights of which nothing says what they are above, left as they are
	Added     int            `json:"added"`     // points of lines, so that the ground between others is seen
	Long      int            `json:"long_legs"` // legs longer than the samples of the terrain are apart
	// the longest of them in metres
	Longest float64    `json:"longest_leg_m,omitempty"`
	Spacing float64    `json:"terrain_spacing_m,omitempty"` // there
	Ledger  nav.Ledger `json:"-"`
}

// Failed counts the points that could not be given a height, or whose height could not be brought to the sea.
func (r *Result) Failed() int { return r.InVoid + r.Outside + r.NoGeoid + r.Unstated }

// MissingTiles lists the degree tiles that are not there, those with the most points first.
func (r *Result) MissingTiles() []string {
	return slices.SortedFunc(maps.Keys(r.Missing), func(a, b string) int {
		return cmp.Or(r.Missing[b]-r.Missing[a], strings.Compare(a, b))
	})
}

// tenth is how finely heights from a grid are written: a tenth of a metre.
var tenth = decimal.PrecisionOf(1)

// Elevate gives heights to waypoints, routes and tracks. An error of reading a grid, or the end of the context, ends
// it, and the data are then not to be used.
func (s *Step) Elevate(ctx context.Context, d *nav.Dataset) (*Result, error) {
	r := &Result{Missing: map[string]int{}}
	for i := range d.Waypoints {
		before := r.Given
		s.point(&d.Waypoints[i].Point, r)
		r.note(nav.Waypoints, d.Waypoints[i].Name, r.Given-before)
	}
	for i := range d.Routes {
		before, route := r.Given, &d.Routes[i]
		route.Points = stepped(s, r, route.Points, func(w *nav.Waypoint) *nav.Point { return &w.Point },
			func(p nav.Point) nav.Waypoint { return nav.Waypoint{Point: p} })
		lately := r.Given
		for j := range route.Points {
			since := r.Given
			s.point(&route.Points[j].Point, r)
			if j > 0 && r.Given > lately {
				s.leg(&route.Points[j-1].Point, &route.Points[j].Point, r)
			}
			lately = since
		}
		r.note(nav.Routes, route.Name, r.Given-before)
	}
	for i := range d.Tracks {
		before := r.Given
		for j := range d.Tracks[i].Segments {
			seg := &d.Tracks[i].Segments[j]
			seg.Points = stepped(s, r, seg.Points, func(p *nav.Point) *nav.Point { return p },
				func(p nav.Point) nav.Point { return p })
			lately := r.Given
			for k := range seg.Points {
				since := r.Given
				if k%4096 == 0 && ctx.Err() != nil {
					return nil, ctx.Err()
				}
				s.point(&seg.Points[k], r)
				if k > 0 && r.Given > lately {
					s.leg(&seg.Points[k-1], &seg.Points[k], r)
				}
				lately = since
			}
		}
		r.note(nav.Tracks, d.Tracks[i].Name, r.Given-before)
	}
	for _, t := range []*terrain.Terrain{s.Terrain, s.Geoid} {
		if t != nil && t.Err() != nil {
			return r, t.Err()
		}
	}
	return r, nil
}

// stepped gives the points of a line with those between them; of says where one is, and made makes one. A leg of which
// both ends have a height that stays gets none.
func stepped[P any](s *Step, r *Result, points []P, of func(*P) *nav.Point, made func(nav.Point) P) []P {
	if s.Every == 0 || s.Terrain == nil {
		return points
	}
	var all []P
	for i := range points {
		if i > 0 {
			if a, b := of(&points[i-1]), of(&points[i]); s.Always || !a.HasHeight() || !b.HasHeight() {
				for _, p := range shape.Stations(a, b, s.Every) {
					all = append(all, made(p))
					r.Added++
				}
			}
		}
		all = append(all, points[i])
	}
	return all
}

// leg counts a leg of which an end was given a height, over ground that was not looked at between.
func (s *Step) leg(a, b *nav.Point, r *Result) {
	if s.Every > 0 {
		return
	}
	length, spacing := geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon), s.Terrain.Spacing(a.Lat, a.Lon)
	if spacing == 0 || length <= spacing {
		return
	}
	r.Long++
	if length > r.Longest {
		r.Longest, r.Spacing = length, spacing
	}
}

func (r *Result) note(kind nav.Kind, name string, n int) {
	if n > 0 {
		r.Ledger = append(r.Ledger, nav.Entry{Kind: kind, KindWord: kind.One(), Name: name, What: "heights given", Count: n})
	}
}

func (s *Step) point(p *nav.Point, r *Result) {
	if s.Geoid != nil && p.HasHeight() && p.VerticalDatum() == nav.AboveEllipsoid && !s.Always {
		if n, outcome := s.Geoid.Height(p.Lat, p.Lon); outcome <= terrain.Filled {
			digits := p.HeightPrecision()
			if digits < tenth {
				digits = tenth
			}
			p.SetHeight(p.Height()-n, digits, nav.MeanSeaLevel)
			r.Converted++
		} else {
			r.NoGeoid++
		}
	}
	if s.Geoid != nil && p.HasHeight() && p.VerticalDatum() == nav.DatumUnstated && !s.Always {
		r.Unstated++
	}
	if s.Terrain == nil {
		return
	}
	if p.HasHeight() && !s.Always {
		r.Had++
		return
	}
	h, outcome := s.Terrain.Height(p.Lat, p.Lon)
	switch outcome {
	case terrain.Given, terrain.Filled:
		p.SetHeight(h, tenth, nav.MeanSeaLevel)
		r.Given++
		if outcome == terrain.Filled {
			r.Filled++
		}
	case terrain.InVoid:
		r.InVoid++
	case terrain.Outside:
		r.Outside++
		if tile := s.Terrain.Missing(p.Lat, p.Lon); tile != "" {
			r.Missing[tile]++
		}
	}
}
