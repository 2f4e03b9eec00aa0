package clean

import (
	"gyrolith/core/format"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// The words of what is wrong with the outlines of areas.
const (
	Crossings Fault = "crossings"
	OpenRings Fault = "open-rings"
	BadHoles  Fault = "bad-holes"
)

var crossings = fault{
	word:  Crossings,
	help:  "outlines of areas that cross themselves",
	found: "outlines that cross themselves",
	done:  "parted where it crosses itself",
	count: "crossing outlines",
	data:  func(s *Step, d *nav.Dataset) *Result { return s.mend(d, Crossings) },
}

var openRings = fault{
	word:  OpenRings,
	help:  "outlines of areas that don't end where they begin",
	found: "outlines that don't end where they begin",
	done:  "closed",
	count: "open outlines",
	data:  (*Step).closeRings,
}

var badHoles = fault{
	word:  BadHoles,
	help:  "holes of areas outside of their outline, or across it",
	found: "holes outside of their outline, or across it",
	done:  "taken out of the area as far as the holes reach",
	count: "areas with such holes",
	data:  func(s *Step, d *nav.Dataset) *Result { return s.mend(d, BadHoles) },
}

// Left is a fault that has no one answer, or none, and stays as it is.
type Left struct {
	Fault Fault
	Item  string
	Why   string
}

// closeRings takes the closing edges of open outlines for what was meant, as long as no edge meets another by them.
func (s *Step) closeRings(d *nav.Dataset) *Result {
	out := &Result{}
	for i := range d.Areas {
		a := &d.Areas[i]
		if !a.Open {
			continue
		}
		if !shape.Simple(a) {
			out.Left = append(out.Left, Left{OpenRings, a.Name, "is closed by an edge that meets others"})
			continue
		}
		a.Open = false
		out.add(Row{Fault: OpenRings, Kind: nav.Areas, Item: a.Name, Count: 1})
	}
	return out
}

// mend makes sound areas of those with a flaw where there is one answer. Several of one are parts of one feature.
func (s *Step) mend(d *nav.Dataset, what Fault) *Result {
	out := &Result{}
	var areas []nav.Area
	for i := range d.Areas {
		a := &d.Areas[i]
		is := false
		if a.Flawed {
			for _, f := range shape.Flaws(a) {
				code, _ := format.FlawWords(&f)
				is = is || Fault(code) == what
			}
		}
		if !is {
			areas = append(areas, *a)
			continue
		}
		if a.Open { // the edge that closes it is a guess
			if areas = append(areas, *a); !s.wants(OpenRings) {
				out.Left = append(out.Left, Left{what, a.Name, "doesn't end where it begins"})
			}
			continue
		}
		polygons, flaw, err := shape.Mended(a)
		switch {
		case err != nil:
			out.Left = append(out.Left, Left{what, a.Name, err.Error()})
		case flaw != nil:
			_, why := format.FlawWords(flaw)
			out.Left = append(out.Left, Left{what, a.Name, why})
		}
		if err != nil || flaw != nil || len(polygons) == 0 {
			areas = append(areas, *a)
			continue
		}
		areas = append(areas, nav.AreasOf(a, polygons)...)
		out.add(Row{Fault: what, Kind: nav.Areas, Item: a.Name, Count: 1})
	}
	d.Areas = areas
	return out
}
