package inspect

import (
	"fmt"
	"strings"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// Row is what an overview of many files says of one.
type Row struct {
	Path   string
	Format string
	Counts [4]int
	Total  nav.Summary
	Box    nav.Box
	Placed bool // there is a box
	Faults []FileProblem
	Err    error // of a file that can't be used; the rest is empty then
}

// Row is the view in short; it keeps nothing of the data.
func (v *View) Row() Row {
	r := Row{Path: v.Path, Format: v.Format.Name, Counts: v.Data.Counts(), Total: v.Total}
	r.Box, r.Placed = v.Data.Extent()
	for _, p := range v.Problems {
		r.Faults = append(r.Faults, FileProblem{p.Code, p.Count, strings.Clone(p.Text)})
	}
	return r
}

// Overview adds rows up: all files, and those that can't be used.
type Overview struct {
	Files, Failed int
	Counts        [4]int
	Total         nav.Summary
	Faults        int // files with problems
	extent        nav.Extent
}

// Add takes a row in.
func (o *Overview) Add(r *Row) {
	o.Files++
	if r.Err != nil {
		o.Failed++
		return
	}
	for k, n := range r.Counts {
		o.Counts[k] += n
	}
	o.Total.Join(r.Total)
	if len(r.Faults) > 0 {
		o.Faults++
	}
	if r.Placed {
		o.extent.AddBox(r.Box)
	}
}

// Box is where all of it lies; false where nothing has a place.
func (o *Overview) Box() (nav.Box, bool) { return o.extent.Box() }

// Problems are those of a file in short: 3 spikes, 12 stops.
func (r *Row) Problems() string {
	var parts []string
	counts, order := map[nav.ProblemCode]int{}, []nav.ProblemCode{}
	for _, p := range r.Faults {
		if counts[p.Code] == 0 {
			order = append(order, p.Code)
		}
		counts[p.Code] += p.Count
	}
	for _, code := range order {
		parts = append(parts, fmt.Sprintf("%s %s", measure.Count(counts[code]), code))
	}
	return strings.Join(parts, ", ")
}
