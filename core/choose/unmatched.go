package choose

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"gyrolith/core/nav"
)

// Named is an item by its kind and name, or a group.
type Named struct{ Kind, Name string }

func (n Named) String() string { return fmt.Sprintf("%s %q", n.Kind, n.Name) }

// mostNearest is how many names are told.
const mostNearest = 3

// Nearest finds the names and groups that come nearest to the letters of a pattern, among the items of its kinds, the
// nearest first.
func (c Choice) Nearest(d *nav.Dataset) []Named {
	letters := []rune(strings.Trim(strings.NewReplacer("*", " ", "?", " ").Replace(c.Pattern), " "))
	if len(letters) == 0 {
		return nil
	}
	type near struct {
		Named
		off int
	}
	var list []near
	seen := map[Named]bool{}
	d.Each(func(kind nav.Kind, item *nav.Item) {
		if !c.Kinds[kind] {
			return
		}
		for _, n := range []Named{{kind.One(), item.Name}, {"group", item.Group}} {
			if n.Name == "" || seen[n] {
				continue
			}
			seen[n] = true
			if off := within(letters, []rune(strings.ToLower(n.Name))); off <= len(letters)/2 {
				list = append(list, near{n, off})
			}
		}
	})
	slices.SortStableFunc(list, func(a, b near) int { return cmp.Compare(a.off, b.off) })
	var out []Named
	for _, n := range list[:min(len(list), mostNearest)] {
		if n.off == list[0].off {
			out = append(out, n.Named)
		}
	}
	return out
}

// within counts the edits that make a text part of another (P. H. Sellers, Journal of Algorithms 1, 1980).
func within(part, text []rune) int {
	row := make([]int, len(text)+1)
	for i := range part {
		before := row[0]
		row[0] = i + 1
		for j := range text {
			cost := before
			if part[i] != text[j] {
				cost = 1 + min(before, row[j], row[j+1])
			}
			before, row[j+1] = row[j+1], cost
		}
	}
	return slices.Min(row)
}

// tellUnmatched notes the choices that name no item, and a box that would hold some the other way around.
func (s *Selection) tellUnmatched(d *nav.Dataset) {
	for _, c := range slices.Concat(s.Take, s.Leave) {
		matched := false
		d.Each(func(kind nav.Kind, item *nav.Item) { matched = matched || c.Matches(kind, item) })
		switch {
		case matched:
		case c.Pattern == "":
			d.Tell(nav.ProblemChoice, fmt.Sprintf("there are no %s to choose", c.Text))
		default:
			text := fmt.Sprintf("the choice %q matches nothing", c.Text)
			var names []string
			for _, n := range c.Nearest(d) {
				names = append(names, n.String())
			}
			if len(names) > 0 {
				text += "; the nearest: " + strings.Join(names, ", ")
			}
			d.Note(nav.ProblemChoice, text, 0, 0)
		}
	}
	if s.Inside == nil {
		return
	}
	swapped := nav.Box{West: s.Inside.South, South: s.Inside.West, East: s.Inside.North, North: s.Inside.East}
	inside, turned := 0, 0
	for p := range d.AllPoints() {
		if s.Inside.Contains(p.Lat, p.Lon) {
			inside++
			break
		}
		if swapped.Contains(p.Lat, p.Lon) {
			turned++
		}
	}
	if inside == 0 && turned > 0 {
		d.Note(
			nav.ProblemChoice,
			"no point lies in the box, but some would with latitudes and longitudes swapped; the order "+
				"is west,south,east,north",
			0,
			0,
		)
	}
}

// Plain says whether no choice asks for names, so that what lies outside the box can't matter.
func (s *Selection) Plain() bool {
	named := func(c Choice) bool { return c.Pattern != "" }
	return !slices.ContainsFunc(s.Take, named) && !slices.ContainsFunc(s.Leave, named)
}
