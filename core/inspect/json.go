package inspect

import (
	"math"
	"time"

	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// File is a view as JSON has it. Lengths are metres, bounds west, south, east and north in degrees.
type File struct {
	Path      string        `json:"path"`
	Title     string        `json:"title,omitempty"`
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
	Size   *float64 `json:"area_m2,omitempty"`
	Around *float64 `json:"perimeter_m,omitempty"`
	Astray int      `json:"astray,omitempty"` // points that the length is given without

	Lat     *float64 `json:"lat,omitempty"` // of a waypoint
	Lon     *float64 `json:"lon,omitempty"`
	Height  *float64 `json:"height_m,omitempty"`
	Low     *float64 `json:"low_m,omitempty"`
	High    *float64 `json:"high_m,omitempty"`
	Ascent  *float64 `json:"ascent_m,omitempty"`
	Descent *float64 `json:"descent_m,omitempty"`
	Time    []string `json:"time,omitempty"` // the first and the last
	Symbol  string   `json:"symbol,omitempty"`
	Nature  string   `json:"nature,omitempty"` // of a track
	Holes   int      `json:"holes,omitempty"`
	Desc    string   `json:"description,omitempty"`
}

// span gives the first and the last time.
func span(s *nav.Summary, zone *time.Location) []string {
	at := func(p *nav.Point) string { return string(instant.AppendIn(nil, p.UnixNano(), p.TimeMark(), zone)) }
	return []string{at(&s.First), at(&s.Last)}
}

// json gives an entry as JSON has it.
func (e *Entry) json(zone *time.Location) FileItem {
	at := func(v float64) *float64 { return &v }
	item := FileItem{Kind: e.Kind.One(), Name: e.Item.Name, Group: e.Item.Group, Points: e.Sum.Points, Astray: e.Astray,
		Symbol: e.Item.Style.Symbol, Holes: e.Holes, Desc: e.Item.Desc}
	if e.Nature != nil {
		item.Nature = e.Nature.String()
	}
	if e.Sum.Times > 0 {
		item.Time = span(&e.Sum, zone)
	}
	if e.Kind == nav.Waypoints {
		item.Lat, item.Lon = at(e.At.Lat), at(e.At.Lon)
		if e.At.HasHeight() {
			item.Height = at(e.At.Height())
		}
		return item
	}
	item.Length = at(millimetres(e.Sum.Length))
	if e.Kind == nav.Areas {
		if item.Around = item.Length; !math.IsNaN(e.Sum.Size) {
			item.Size = at(millimetres(e.Sum.Size))
		}
	}
	if e.Sum.Heights > 0 {
		item.Low, item.High = at(e.Sum.Low), at(e.Sum.High)
		item.Ascent, item.Descent = at(millimetres(e.Sum.Ascent)), at(millimetres(e.Sum.Descent))
	}
	return item
}

func millimetres(v float64) float64 { return math.Round(v*1000) / 1000 }

// FileProblem is a problem as JSON has it.
type FileProblem struct {
	Code  nav.ProblemCode `json:"code"`
	Count int             `json:"count"`
	Text  string          `json:"text"`
}

// JSON gives the view as JSON has it, with times in a zone.
func (v *View) JSON(zone *time.Location) *File {
	c := v.Data.Counts()
	f := &File{
		Path:      v.Path,
		Title:     v.Data.Meta.Name,
		Format:    v.Format.Name,
		Waypoints: c[0],
		Routes:    c[1],
		Tracks:    c[2],
		Areas:     c[3],
		Points:    v.Total.Points,
		Length:    millimetres(v.Total.Length),
		Heights:   v.Total.Heights,
		Items:     []FileItem{},
		Problems:  []FileProblem{},
	}
	for _, t := range v.Notes {
		f.ReadAs = append(f.ReadAs, t.Text)
	}
	if b, ok := v.Data.Extent(); ok {
		f.Bounds = []float64{b.West, b.South, b.East, b.North}
	}
	if v.Total.Times > 0 {
		f.Time = span(&v.Total, zone)
	}
	for _, e := range v.Entries {
		f.Items = append(f.Items, e.json(zone))
	}
	for _, p := range v.Problems {
		f.Problems = append(f.Problems, FileProblem{p.Code, p.Count, p.Text})
	}
	return f
}
