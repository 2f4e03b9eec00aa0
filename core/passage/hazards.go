package passage

import (
	"context"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/nav"
)

// LoadHazards reads the file of hazards as the data are read, and takes what is chosen of it; nil where none is named.
// A pasted list of hazards is no line.
func (s *Step) LoadHazards(ctx context.Context, like *input.Reading) (*nav.Dataset, *format.Loaded, error) {
	if s.HazardsPath == "" {
		return nil, nil, nil
	}
	reading := like.Beside()
	reading.Options.List = true
	reading.Take.Take = s.HazardsTake
	in, err := reading.Load(ctx, s.HazardsPath)
	if err != nil {
		return nil, nil, err
	}
	if in.Data.Points() == 0 {
		return nil, nil, &format.Error{Path: s.HazardsPath, Msg: "has no matching hazards",
			Advice: advice.Advice{Code: advice.LookAtIt}}
	}
	return in.Data, in, nil
}

// Encroached is a clearance that a leg does not keep: where the hazard is, or where the leg is nearest to it.
type Encroached struct {
	Name, Route string
	Leg         int // from 1
	Lat, Lon    float64
	Distance    float64 // metres
}

// Clearances finds where routes come nearer to hazards than the step keeps.
func (s Step) Clearances(hazards *nav.Dataset, routes []nav.Route) (out []Encroached) {
	if hazards == nil {
		return nil
	}
	s.Dangers = NewDangers(hazards, nil, nil)
	s.Dangers.LeaveOut(routes)
	for i := range routes {
		for _, f := range s.Plan(&routes[i]).Findings {
			if f.Near == nil {
				continue
			}
			c := Encroached{Name: f.Name, Route: f.Route, Leg: f.Leg, Lat: f.Near.Lat, Lon: f.Near.Lon,
				Distance: f.Near.Distance}
			if at := f.Near.Hazard; at != nil {
				c.Lat, c.Lon = at.Lat, at.Lon
			}
			out = append(out, c)
		}
	}
	return
}
