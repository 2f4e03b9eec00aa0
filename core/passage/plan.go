package passage

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// Plans are the tables of all routes of data, and what these were held against.
type Plans struct {
	Tables  []*Table
	Hazards [4]int   // that were considered, by kind
	KeptOut int      // areas to keep out of
	Own     int      // hazards that are points of the routes themselves, and left out
	Faults  []string // of areas whose limits can't be read and bound nothing

	against bool // anything
	ground  bool
	clear   float64
}

// ErrNoClosure says that the choice of areas to keep out of matches none.
var ErrNoClosure = errors.New("names no area of the data or the hazards")

// PlanAll plans every route of data against hazards, nil for none.
func (s *Step) PlanAll(ctx context.Context, d, hazards *nav.Dataset) (*Plans, error) {
	out := &Plans{ground: s.Terrain != nil, clear: s.Clear}
	if out.against = hazards != nil || len(s.KeepOut) > 0; out.against {
		s.Dangers = NewDangers(hazards, d, s.KeepOut)
		out.Own = s.Dangers.LeaveOut(d.Routes)
		out.Hazards, out.KeptOut = s.Dangers.Counts()
		out.Faults = s.Dangers.Faults
		if len(s.KeepOut) > 0 && out.KeptOut == 0 {
			return nil, ErrNoClosure
		}
	}
	for i := range d.Routes {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		out.Tables = append(out.Tables, s.Plan(&d.Routes[i]))
	}
	if s.Terrain != nil {
		return out, s.Terrain.Err()
	}
	return out, nil
}

// Considered says in words what the legs were held against, and what not.
func (p *Plans) Considered(m measure.System) string {
	land := "land, depths"
	if p.ground {
		land = "land but for the safe heights, depths"
	}
	if !p.against {
		return "no hazards were given: " + land + ", tides and dangers were not considered"
	}
	count := func(n int, one, many string) string {
		if n == 1 {
			return "1 " + one
		}
		return measure.Count(n) + " " + many
	}
	var parts []string
	for i, n := range p.Hazards {
		if n > 0 {
			parts = append(parts, count(n, nav.Kind(i).One(), nav.Kind(i).String()))
		}
	}
	say := "considered: " + strings.Join(parts, ", ")
	if p.KeptOut > 0 {
		say += fmt.Sprintf(" (%s to keep out of)", measure.Count(p.KeptOut))
	}
	if p.clear > 0 {
		say += "; clearance " + m.Length(p.clear)
	}
	if p.Own > 0 {
		say += fmt.Sprintf("; %s ignored because the route goes to them", count(p.Own, "waypoint", "waypoints"))
	}
	return say + "; not considered: " + land + ", tides and anything that is not in these files"
}
