package elevate

import (
	"context"
	"errors"

	"gyrolith/core/advice"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/terrain"
)

// Params lists the parameters of the step.
func (s *Step) Params() param.Table {
	when := param.Func("when", "WORD", "which points get a height, `WORD`: missing (those without one) or always, "+
		"all of them",
		func(text string) error {
			switch text {
			case "missing", "always":
				s.Always = text == "always"
				return nil
			}
			return errors.New("use missing or always")
		})
	when.Words, when.Default = []string{"missing", "always"}, "missing"
	between := param.Func("between", "WORD",
		"how to interpolate heights, `WORD`: nearest, bilinear or cubic",
		func(text string) (err error) { s.Between, err = terrain.ParseBetween(text); return })
	between.Words, between.Default = []string{"nearest", "bilinear", "cubic"}, "bilinear"
	return param.Table{
		param.Files("terrain", &s.TerrainPaths, "PATH", "a file or folder of terrain, `PATH`; repeatable"),
		when,
		between,
		param.Length("step", &s.Every, "DISTANCE",
			"add points to routes and tracks, every `DISTANCE`, so that the ground between theirs is seen"),
		param.Switch("fill-voids", &s.FillVoids, "fill voids of the terrain from their edges"),
		param.Files("geoid", &s.GeoidPaths, "GRID",
			"a `GRID` of geoid heights, to convert heights above the ellipsoid to heights above mean sea level"),
	}.In("Heights")
}

// ErrNoSource says that nothing gives the heights.
var ErrNoSource = errors.New("no source of heights given: use terrain, or a geoid grid for heights above the " +
	"ellipsoid")

// Check finds parameters that make no sense.
func (s *Step) Check() error {
	hasTerrain := s.Terrain != nil || len(s.TerrainPaths) > 0
	if !hasTerrain && s.Geoid == nil && len(s.GeoidPaths) == 0 {
		return &param.Error{Name: "terrain", Err: ErrNoSource}
	}
	if s.Always && !hasTerrain {
		return param.Errorf("when", "always needs terrain")
	}
	if s.Every > 0 && !hasTerrain {
		return param.Errorf("step", "adds points for their heights, which needs terrain")
	}
	return nil
}

// Open opens the grids that the paths name.
func (s *Step) Open() (err error) {
	if len(s.TerrainPaths) > 0 {
		if s.Terrain, err = terrain.Open(s.TerrainPaths); err != nil {
			return err
		}
		s.Terrain.Between, s.Terrain.FillVoids = s.Between, s.FillVoids
	}
	if len(s.GeoidPaths) > 0 {
		if s.Geoid, err = terrain.Open(s.GeoidPaths); err != nil {
			return err
		}
		s.Geoid.Between = s.Between
	}
	return nil
}

// Close closes the grids that Open opened.
func (s *Step) Close() {
	if len(s.TerrainPaths) > 0 && s.Terrain != nil {
		s.Terrain.Close()
	}
	if len(s.GeoidPaths) > 0 && s.Geoid != nil {
		s.Geoid.Close()
	}
}

// Apply gives heights and reports it. The detail of the report is a *Result.
func (s *Step) Apply(ctx context.Context, d *nav.Dataset) (*nav.Report, error) {
	result, err := s.Elevate(ctx, d)
	if err != nil {
		return nil, err
	}
	r := &nav.Report{Ledger: result.Ledger, Detail: result}
	r.Count("heights given", result.Given)
	r.Count("heights already there", result.Had)
	r.Count("converted to mean sea level", result.Converted)
	r.Count("points added", result.Added)
	if failed := result.Failed(); failed > 0 {
		r.Count("heights missing", failed)
		e := nav.Entry{KindWord: "file", What: "no heights", Why: result.Why(), Count: failed}
		if result.Unstated == failed {
			e.Advice = advice.Advice{Code: advice.StateHeights}
		}
		r.Ledger = append(r.Ledger, e)
		r.Findings = append(r.Findings, result.without())
	}
	r.Count("legs longer than the terrain's spacing", result.Long)
	return r, nil
}
