package clean

import (
	"fmt"
	"math"
	"time"

	"gyrolith/core/nav"
)

// Epoch is the word of this fault.
const Epoch Fault = "epoch"

var epoch = fault{
	word:  Epoch,
	help:  "recordings whose dates are whole cycles of 1,024 weeks off the file's own date",
	found: "recordings whose dates are whole cycles of 1,024 weeks off",
	done:  "dates shifted by whole cycles of 1,024 weeks",
	count: "dates shifted",
	usual: true,
	data:  (*Step).epochs,
}

// Cycle is how long the week number of the satellites' time counts before it begins anew: 1,024 weeks
// (IS-GPS-200, 20.3.3.3.1.1).
const Cycle = 1024 * 7 * 24 * time.Hour

// Cycles says by how many whole cycles a date is off another one; 0 where it is within half a cycle of it.
func Cycles(at, target time.Time) int {
	return int(math.Round(target.Sub(at).Hours() / Cycle.Hours()))
}

// epochs shifts the dates of recordings that are off by whole cycles, on evidence alone: to near the date that is asked
// for, or where the date that the file itself gives is within a year of whole cycles away. Plans keep their dates.
func (s *Step) epochs(d *nav.Dataset) *Result {
	out := &Result{}
	target, from := s.Around, "as requested"
	if target.IsZero() {
		target, from = d.Meta.Time.Time(), "by the file's own date, "+d.Meta.Time.Time().Format(time.DateOnly)
	}
	if target.IsZero() {
		return out
	}
	for i := range d.Tracks {
		out.add(s.cycles(&d.Tracks[i], target, from))
	}
	return out
}

// cycles shifts the dates of one track.
func (s *Step) cycles(t *nav.Track, target time.Time, from string) Row {
	row := Row{Fault: Epoch, Kind: nav.Tracks, Item: t.Name}
	number := 0
	for j := range t.Segments {
		for k := range t.Segments[j].Points {
			p := &t.Segments[j].Points[k]
			number++
			n := 0
			if p.HasTime() {
				n = Cycles(p.Time(), target)
			}
			const year = 366 * 24 * time.Hour
			if shifted := p.Time().Add(time.Duration(n) * Cycle); n == 0 ||
				s.Around.IsZero() && target.Sub(shifted).Abs() > year {
				continue
			}
			was := p.Time()
			p.SetTime(p.UnixNano()+int64(n)*int64(Cycle), p.TimeMark())
			if row.Count++; row.Count == 1 {
				row.Number = number
				row.Text = fmt.Sprintf("%s becomes %s, %s", was.Format(time.DateOnly), p.Time().Format(time.DateOnly), from)
			}
		}
	}
	return row
}
