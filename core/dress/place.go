package dress

import (
	"slices"
	"strings"

	"gyrolith/core/figure"
	"gyrolith/core/nav"
	"gyrolith/core/region"
)

// subject is an item under the rules of a step.
type subject struct {
	*figure.Item
	step *Step
}

// heights gives the range of an item's heights.
func (s *subject) heights() (low, high float64, ok bool) {
	sum := s.Summary()
	return sum.Low, sum.High, sum.Heights > 0
}

// inside gives the areas, by their place in the list that the regions are of, that hold every point of an item between
// their floor and their ceiling, but not itself.
func (s *subject) inside(regions *region.Index, areas []nav.Area) (holding []int) {
	limits := map[int]*nav.Limits{}
	in := func(i int, p *nav.Point) bool {
		l := limits[i]
		if l == nil {
			of, _ := areas[i].Limits()
			l = &of
			limits[i] = l
		}
		return l.Hold(p)
	}
	first := true
	for _, line := range s.Lines() {
		for k := range line {
			p := &line[k]
			if !first {
				holding = slices.DeleteFunc(holding, func(i int) bool { return !regions.Holds(i, p.Lat, p.Lon) || !in(i, p) })
				continue
			}
			regions.Holding(p.Lat, p.Lon, func(i int) bool {
				if in(i, p) {
					holding = append(holding, i)
				}
				return true
			})
			first = false
		}
	}
	return slices.DeleteFunc(holding, func(i int) bool { return s.Area == &areas[i] })
}

// areas names the areas that hold the item: those of the file of areas, or of the data; all of them where there are
// several, since none comes first.
func (s *subject) areas() string {
	of, index := s.step.Areas, s.step.index
	if of == nil {
		of = s.Data.Areas
	}
	if index == nil {
		index = region.New(of, func(*nav.Area) bool { return true })
		s.step.index = index
	}
	holding := s.inside(index, of)
	slices.Sort(holding)
	var names []string
	for _, i := range holding {
		if name := of[i].Name; name != "" && !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	if len(names) > 1 {
		s.step.several++
	}
	return strings.Join(names, "; ")
}
