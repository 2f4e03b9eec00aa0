package cli

import (
	"math"
	"strconv"

	"gyrolith/core/column"
	"gyrolith/core/passage"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

// printLegs prints the table of a route and what speaks against it.
func printLegs(j *frame.Task, choice *column.Choice[passage.Row], t *passage.Table) {
	name := t.Route.Name
	if name == "" {
		name = "(route without a name)"
	}
	j.Out.Printf("%s\n", j.Out.Paint(console.Bold, console.OneLine(name, 60)))
	columns := choice.Columns(false)
	layout := j.Layout()
	var shown []console.Column
	var picked []*passage.Column
	for _, c := range columns {
		if !choice.Given() && j.Notated && c.Name == "leg-distance" { // positions were asked for by their notation
			at := passage.Columns.Named("to-position")
			picked, shown = append(picked, at...), append(shown, console.Column{Title: at[0].Title})
		}
		title := c.Title
		if choice.Given() {
			title = c.Chosen()
		}
		picked, shown = append(picked, c), append(shown, console.Column{Title: title, Right: c.Right})
	}
	if len(t.Legs) == 0 {
		j.Out.Printf("a single point: no legs\n")
	}
	steady := !choice.Given() && t.Steady() // the heading is then the course
	var rows [][]string
	legs := t.Rows()
	choice.Sort(legs, &layout)
	for _, r := range legs {
		row := make([]string, len(picked))
		for i, c := range picked {
			if !steady || !passage.OfDrift(c) {
				row[i] = console.OneLine(c.Text(&r, &layout), 40)
			}
		}
		rows = append(rows, row)
	}
	j.Out.Table("", shown, rows)
	printNearest(j, t)
	for _, f := range t.Findings {
		j.Out.Say("%s %s\n", j.Out.Paint(console.Red, "finding:"), findingWords(j, &f, t))
	}
	for _, f := range t.Notes {
		j.Out.Say("%s %s\n", j.Out.Paint(console.Faint, "note:"), findingWords(j, &f, t))
	}
	if s := declinationWords(t); s != "" {
		j.Out.Say("%s\n", j.Out.Paint(console.Faint, s))
	}
}

// printNearest prints how each leg passes the hazard that is nearest to it.
func printNearest(j *frame.Task, t *passage.Table) {
	var rows [][]string
	type found struct {
		leg  int
		name string
	}
	near := map[found]bool{}
	for i := range t.Findings {
		near[found{t.Findings[i].Leg, t.Findings[i].Name}] = true
	}
	for i := range t.Legs {
		n := t.Legs[i].Nearest
		if n == nil {
			continue
		}
		name, off, side := n.Name, j.Measure.Length(n.Distance), n.Side
		if name == "" {
			name = n.Kind
		}
		if n.Distance == 0 {
			off = "crossed"
		}
		if near[found{i + 1, n.Name}] {
			off = j.Out.Paint(console.Red, off)
		}
		rows = append(rows, []string{strconv.Itoa(i + 1), console.OneLine(name, 40), off, side, j.Measure.Length(n.Along),
			j.Notation.Format(n.Lat, n.Lon)})
	}
	j.Out.Table("", []console.Column{{Title: "leg", Right: true}, {Title: "nearest hazard"}, {Title: "off", Right: true},
		{Title: "to the"}, {Title: "after", Right: true}, {Title: "passed at"}}, rows)
}

func findingWords(j *frame.Task, f *passage.Finding, t *passage.Table) string {
	layout := j.Layout()
	return words.Advised(console.Show(f.Words(t, &layout)), f.Advice)
}

func declinationWords(t *passage.Table) string {
	if len(t.Legs) == 0 || math.IsNaN(t.Legs[0].Declination) {
		return ""
	}
	low, high := math.Inf(1), math.Inf(-1)
	for i := range t.Legs {
		low, high = min(low, t.Legs[i].Declination), max(high, t.Legs[i].Declination)
	}
	words := "declination " + passage.EastWest(low)
	if passage.EastWest(low) != passage.EastWest(high) {
		words += " to " + passage.EastWest(high)
	}
	return words
}
