package tally

import (
	"math"
	"time"

	"gyrolith/core/column"
)

// JSON is the answer as JSON has it.
type JSON struct {
	Rows   []RowJSON   `json:"rows"`
	Total  *RowJSON    `json:"total,omitempty"`
	Visits []visitJSON `json:"visits,omitempty"`

	Written []string `json:"written,omitempty"`
}

// RowJSON is a row as JSON has it.
type RowJSON struct {
	Folder   string   `json:"folder,omitempty"`
	File     string   `json:"file,omitempty"`
	Name     string   `json:"name,omitempty"`
	Group    string   `json:"group,omitempty"`
	Area     string   `json:"area,omitempty"`
	Size     *float64 `json:"area_m2,omitempty"`
	Tracks   int      `json:"tracks,omitempty"`
	Date     string   `json:"date,omitempty"`
	Start    string   `json:"start,omitempty"`
	End      string   `json:"end,omitempty"`
	Elapsed  float64  `json:"elapsed_s,omitempty"`
	Moving   float64  `json:"moving_s,omitempty"`
	Standing float64  `json:"standing_s,omitempty"`
	Gaps     float64  `json:"gaps_s,omitempty"`
	Length   float64  `json:"length_m"`
	Ascent   *float64 `json:"ascent_m,omitempty"`
	Descent  *float64 `json:"descent_m,omitempty"`
	Lowest   *float64 `json:"lowest_m,omitempty"`
	Highest  *float64 `json:"highest_m,omitempty"`
	Mean     *float64 `json:"mean_speed_mps,omitempty"`
	Top      *float64 `json:"top_speed_mps,omitempty"`
	Points   int      `json:"points"`
	Faults   int      `json:"faults,omitempty"`
}

type visitJSON struct {
	File   string   `json:"file"`
	Name   string   `json:"name,omitempty"`
	Area   string   `json:"area"`
	Size   *float64 `json:"area_m2,omitempty"`
	In     string   `json:"in,omitempty"`
	Out    string   `json:"out,omitempty"`
	Inside float64  `json:"inside_s,omitempty"`
	Length float64  `json:"inside_m"`
	Begun  bool     `json:"recording_began_inside,omitempty"`
	Ended  bool     `json:"recording_ended_inside,omitempty"`
	FromAt place    `json:"in_at"`
	ToAt   place    `json:"out_at"`
	First  int      `json:"first_point,omitempty"`
	Last   int      `json:"last_point,omitempty"`
}

type place struct {
	Lat float64 `json:"lat"`
	Lon float64 `json:"lon"`
}

// NewJSON makes the answer of rows, their total and visits.
func NewJSON(rows []Row, total *Sum, visits []Visit, zone *time.Location) *JSON {
	out := &JSON{Rows: []RowJSON{}}
	for i := range rows {
		out.Rows = append(out.Rows, rows[i].json(zone))
	}
	if total != nil {
		sum := (&Row{Sum: *total}).json(zone)
		out.Total = &sum
	}
	for i := range visits {
		v := &visits[i]
		out.Visits = append(out.Visits, visitJSON{v.File, v.Name, v.Area, column.Known(v.Size), instantText(v.In, zone),
			instantText(v.Out, zone),
			v.Inside.Seconds(), rounded(v.Length), v.Begun, v.Ended, place{v.From.Lat, v.From.Lon}, place{v.To.Lat, v.To.Lon},
			v.First, v.Last})
	}
	return out
}

func (r *Row) json(zone *time.Location) RowJSON {
	return RowJSON{
		r.Folder,
		r.File,
		r.Name,
		r.Group,
		r.Area,
		column.Known(r.Size),
		r.Tracks,
		r.Day,
		instantText(r.Start, zone),
		instantText(r.End, zone),
		r.Elapsed.Seconds(),
		r.Moving.Seconds(),
		r.Standing.Seconds(),
		r.Gaps().Seconds(),
		rounded(r.Length),
		column.Known(r.climb(r.Ascent)),
		column.Known(r.climb(r.Descent)),
		column.Known(r.Low),
		column.Known(r.High),
		column.Known(r.Mean()),
		column.Known(r.Top),
		r.Points,
		r.Faults,
	}
}

func instantText(at time.Time, zone *time.Location) string {
	if at.IsZero() {
		return ""
	}
	return at.In(zone).Round(time.Millisecond).Format(time.RFC3339Nano)
}

func rounded(v float64) float64 { return math.Round(v*1000) / 1000 }
