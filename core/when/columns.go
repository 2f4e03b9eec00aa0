package when

import (
	"slices"
	"time"

	"gyrolith/core/column"
	"gyrolith/core/nav"
)

// Columns lists the columns of the table of places.
var Columns = column.List[Place]{
	column.Words("name", "name", func(p *Place, _ *column.Layout) string { return p.Name }).Shortened(),
	{Name: "time", Title: "time", Usual: true, Data: true,
		Value: func(p *Place, o *column.Layout) any { return p.At.In(o.Zone) },
		Show:  func(p *Place, o *column.Layout) string { return p.At.In(o.Zone).Format("2006-01-02 15:04:05") }},
	column.Words("position", "position", func(p *Place, o *column.Layout) string {
		return o.Notation.Format(p.Point.Lat, p.Point.Lon)
	}),
	{Name: "lat", Title: "lat", Right: true, Data: true, Of: column.Degrees,
		Value: func(p *Place, _ *column.Layout) any { return p.Point.Lat }},
	{Name: "lon", Title: "lon", Right: true, Data: true, Of: column.Degrees,
		Value: func(p *Place, _ *column.Layout) any { return p.Point.Lon }},
	{Name: "height", Title: "height", Right: true, Usual: true, Data: true, Of: column.High,
		Value: func(p *Place, _ *column.Layout) any {
			if !p.Point.HasHeight() {
				return ""
			}
			return p.Point.Height()
		},
		Show: func(p *Place, o *column.Layout) string {
			if !p.Point.HasHeight() {
				return ""
			}
			return o.Measure.Height(p.Point.Height())
		}},
	column.Number("course", "course", column.Angle, column.Bearing, func(p *Place) float64 { return p.Course }).
		Only(false, false),
	column.Number("speed", "speed", column.Fast, column.Speed, func(p *Place) float64 { return p.Speed }).
		Only(false, false),
	column.Number("leg-distance", "run", column.Long, column.Length, func(p *Place) float64 { return p.Run }).
		Only(false, false),
	column.Number("along", "in all", column.Long, column.Length, func(p *Place) float64 { return p.Along }).
		Only(false, false),
	column.Words("track", "track", func(p *Place, _ *column.Layout) string { return p.Track }).Shortened(),
	column.Span("gap", "gap", func(p *Place) time.Duration { return p.Gap }),
	{Name: "fix", Title: "nearest fix", Right: true, Usual: true, Data: true, Of: column.Metres,
		Value: func(p *Place, _ *column.Layout) any { return p.Away },
		Show:  func(p *Place, o *column.Layout) string { return o.Measure.Length(p.Away) }},
	column.Words("file", "file", func(p *Place, _ *column.Layout) string { return p.File }).Shortened(),
	{Name: "field:", Field: func(p *Place, key string) string {
		if v, ok := nav.Get(p.Fields, key); ok {
			return v
		}
		v, _ := nav.Get(p.Values, key)
		return v
	}},
}

// JSON is the answer as JSON has it.
type JSON struct {
	Positions []positionJSON `json:"positions"`
	Refused   []refusedJSON  `json:"refused"`
	Written   []string       `json:"written,omitempty"`
}

type positionJSON struct {
	Name   string   `json:"name,omitempty"`
	Time   string   `json:"time"`
	Lat    float64  `json:"lat"`
	Lon    float64  `json:"lon"`
	Height *float64 `json:"height_m,omitempty"`
	Track  string   `json:"track,omitempty"`
	File   string   `json:"file,omitempty"`
	Gap    float64  `json:"gap_s"`
	Away   float64  `json:"fix_m"`

	Course *float64          `json:"course_true,omitempty"`
	Speed  *float64          `json:"speed_mps,omitempty"`
	Run    *float64          `json:"leg_distance_m,omitempty"`
	Along  *float64          `json:"along_m,omitempty"`
	Fields map[string]string `json:"fields,omitempty"`
}

type refusedJSON struct {
	Name string `json:"name,omitempty"`
	Time string `json:"time"`
	Why  string `json:"why"`
}

// NewJSON makes the answer, with times in a zone.
func NewJSON(places []Place, refused []Refused, zone *time.Location) *JSON {
	out := &JSON{Positions: []positionJSON{}, Refused: []refusedJSON{}}
	for i := range places {
		p := &places[i]
		j := positionJSON{Name: p.Name, Time: p.At.In(zone).Format(time.RFC3339Nano), Lat: p.Point.Lat, Lon: p.Point.Lon,
			Track: p.Track, File: p.File, Gap: p.Gap.Seconds(), Away: p.Away}
		if p.Point.HasHeight() {
			h := p.Point.Height()
			j.Height = &h
		}
		j.Course, j.Speed = column.Known(p.Course), column.Known(p.Speed)
		j.Run, j.Along = column.Known(p.Run), column.Known(p.Along)
		for _, f := range append(slices.Clone(p.Fields), p.Values...) {
			if j.Fields == nil {
				j.Fields = map[string]string{}
			}
			j.Fields[f.Key] = f.Value
		}
		out.Positions = append(out.Positions, j)
	}
	for _, r := range refused {
		out.Refused = append(out.Refused, refusedJSON{r.Name, r.At.In(zone).Format(time.RFC3339Nano), r.Why})
	}
	return out
}
