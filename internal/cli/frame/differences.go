package frame

import (
	"fmt"
	"strings"

	"gyrolith/core/compare"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/internal/cli/console"
)

// Shift writes a small distance to the centimetre.
func (j *Task) Shift(metres float64) string {
	switch {
	case metres == 0:
		return "0 m"
	case metres < 0.005:
		return "less than 1 cm"
	case metres < 1:
		return fmt.Sprintf("%.2f m", metres)
	}
	return j.Measure.Length(metres)
}

// SayDifferences prints what tells one dataset from another, a row each, side by side.
func (j *Task) SayDifferences(s *console.Stream, first, second string, differences []compare.Difference) {
	var rows [][]string
	doubtful := 0
	for _, d := range differences {
		what, old, is := string(d.What), console.OneLine(d.Old, 32), console.OneLine(d.New, 32)
		points := ""
		if d.Kind != nav.Waypoints && d.Count > 0 {
			points = measure.Counted(d.Count, "point", "points")
		}
		switch d.What {
		case compare.Added:
			is = strings.TrimSpace("there  " + points)
		case compare.Lost:
			old = strings.TrimSpace("there  " + points)
		default:
			if d.Metres > 0 {
				points = strings.TrimSpace(points + "  by " + j.Shift(d.Metres) + " at most")
				if d.Kind == nav.Waypoints {
					points = "by " + j.Shift(d.Metres)
				}
				is = strings.TrimSpace(is + "  " + j.Notation.Format(d.Lat, d.Lon))
			}
			what = strings.TrimSpace(what + "  " + points)
		}
		if d.Doubtful {
			doubtful++
			what += "  (ambiguous)"
		}
		rows = append(rows, []string{d.Word, console.OneLine(d.Name, 32), what, old, is})
	}
	s.Table("  ", []console.Column{{Title: "item"}, {}, {Title: "difference"}, {Title: console.OneLine(first, 32)},
		{Title: console.OneLine(second, 32)}}, rows)
	if doubtful > 0 {
		s.Printf("%s %s with the same name or place are ambiguous; ids or --key FIELD tell them apart\n",
			s.Paint(console.Yellow, "note:"), measure.Counted(doubtful, "item", "items"))
	}
}
