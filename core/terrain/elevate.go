package terrain

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"strings"

	"gyrolith/core/nav"
)

// Step gives the points of data their heights. The grids are opened by Open, or given by who makes the step.
type Step struct {
	Terrain   *Terrain // of heights above mean sea level; nil for none
	Geoid     *Terrain // of the geoid above the ellipsoid; nil for none
	Always    bool     // also to points that have a height
	Between   Between
	FillVoids bool

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
	Unstated  int            `json:"unstated"`  // heights that don't say above what they are, which a geoid leaves alone
	Ledger    nav.Ledger     `json:"-"`
}

// Failed counts the points that could not be given a height, or whose height could not be brought to the sea.
func (r *Result) Failed() int { return r.InVoid + r.Outside + r.NoGeoid }

// MissingTiles lists the degree tiles that are not there, those with the most points first.
func (r *Result) MissingTiles() []string {
	return slices.SortedFunc(maps.Keys(r.Missing), func(a, b string) int {
		return cmp.Or(r.Missing[b]-r.Missing[a], strings.Compare(a, b))
	})
}

// tenth is how finely heights from a grid are written: a tenth of a metre.
var tenth = nav.PrecisionOf(1)

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
		before := r.Given
		for j := range d.Routes[i].Points {
			s.point(&d.Routes[i].Points[j].Point, r)
		}
		r.note(nav.Routes, d.Routes[i].Name, r.Given-before)
	}
	for i := range d.Tracks {
		before := r.Given
		for j := range d.Tracks[i].Segments {
			points := d.Tracks[i].Segments[j].Points
			for k := range points {
				if k%4096 == 0 && ctx.Err() != nil {
					return nil, ctx.Err()
				}
				s.point(&points[k], r)
			}
		}
		r.note(nav.Tracks, d.Tracks[i].Name, r.Given-before)
	}
	for _, t := range []*Terrain{s.Terrain, s.Geoid} {
		if t != nil && t.Err() != nil {
			return r, t.Err()
		}
	}
	return r, nil
}

func (r *Result) note(kind nav.Kind, name string, n int) {
	if n > 0 {
		r.Ledger = append(r.Ledger, nav.Entry{Kind: kind, KindWord: kind.One(), Name: name, What: "heights given", Count: n})
	}
}

func (s *Step) point(p *nav.Point, r *Result) {
	if s.Geoid != nil && p.HasHeight() && p.VerticalDatum() == nav.AboveEllipsoid && !s.Always {
		if n, outcome := s.Geoid.Height(p.Lat, p.Lon); outcome <= Filled {
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
	case Given, Filled:
		p.SetHeight(h, tenth, nav.MeanSeaLevel)
		r.Given++
		if outcome == Filled {
			r.Filled++
		}
	case InVoid:
		r.InVoid++
	case Outside:
		r.Outside++
		if tile := s.Terrain.Missing(p.Lat, p.Lon); tile != "" {
			r.Missing[tile]++
		}
	}
}
