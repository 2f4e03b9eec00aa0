package inspect

import (
	"math"

	"gyrolith/core/nav"
)

// File is a view as JSON has it. Lengths are metres, bounds west, south, east and north in degrees.
type File struct {
	Path      string        `json:"path"`
	Format    string        `json:"format"`
	Waypoints int           `json:"waypoints"`
	Routes    int           `json:"routes"`
	Tracks    int           `json:"tracks"`
	Areas     int           `json:"areas"`
	Points    int           `json:"points"`
	Length    float64       `json:"length_m"`
	Bounds    []float64     `json:"bounds,omitempty"`
	Time      []string      `json:"time,omitempty"`
	Heights   int           `json:"heights,omitempty"`
	Items     []FileItem    `json:"items"`
	ReadAs    []string      `json:"read_as,omitempty"`
	Problems  []FileProblem `json:"problems"`
}

// FileItem is an item as JSON has it.
type FileItem struct {
	Kind   string   `json:"kind"`
	Name   string   `json:"name,omitempty"`
	Group  string   `json:"group,omitempty"`
	Points int      `json:"points"`
	Length *float64 `json:"length_m,omitempty"`
}

// FileProblem is a problem as JSON has it.
type FileProblem struct {
	Code  nav.ProblemCode `json:"code"`
	Count int             `json:"count"`
	Text  string          `json:"text"`
}

// JSON gives the view as JSON has it.
func (v *View) JSON() *File {
	millimetres := func(v float64) float64 { return math.Round(v*1000) / 1000 }
	c := v.Data.Counts()
	f := &File{Path: v.Path, Format: v.Format.Name, Waypoints: c[0], Routes: c[1], Tracks: c[2], Areas: c[3],
		Points: v.Total.Points,
		Length: millimetres(v.Total.Length), Heights: v.Total.Heights, Items: []FileItem{}, Problems: []FileProblem{}}
	for _, t := range v.Told {
		f.ReadAs = append(f.ReadAs, t.Text)
	}
	if b, ok := v.Data.Extent(); ok {
		f.Bounds = []float64{b.West, b.South, b.East, b.North}
	}
	if v.Total.Times > 0 {
		f.Time = []string{string(v.Total.First.AppendTime(nil)), string(v.Total.Last.AppendTime(nil))}
	}
	for _, e := range v.Entries {
		item := FileItem{Kind: e.Kind.One(), Name: e.Item.Name, Group: e.Item.Group, Points: e.Sum.Points}
		if e.Kind != nav.Waypoints {
			length := millimetres(e.Sum.Length)
			item.Length = &length
		}
		f.Items = append(f.Items, item)
	}
	for _, p := range v.Problems {
		f.Problems = append(f.Problems, FileProblem{p.Code, p.Count, p.Text})
	}
	return f
}
