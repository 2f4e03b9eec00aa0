package format

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// flawWords are what is said of an area with a flaw, and under which code.
var flawWords = map[shape.Flaw]struct {
	code  nav.ProblemCode
	words string
}{
	shape.CrossesItself: {nav.ProblemCrossings, "crosses itself at %s"},
	shape.HoleAcross:    {nav.ProblemBadHoles, "has a hole that crosses its outline or another hole at %s"},
	shape.HoleOutside:   {nav.ProblemBadHoles, "has a hole outside of its outline at %s"},
	shape.NoSize:        {nav.ProblemNoSize, "has no size at %s"},
	shape.Entangled:     {nav.ProblemCrossings, "has too many edges over one another to look for crossings, as at %s"},
}

// FlawWords says what is wrong with an area, and where: crosses itself at 47.1° S 11.2° E.
func FlawWords(f *shape.Flawed) (nav.ProblemCode, string) {
	w := flawWords[f.Flaw]
	return w.code, fmt.Sprintf(w.words, geodesy.Degrees.Format(f.At.Lat, f.At.Lon))
}

// Ring gives the corners of a ring of a format that repeats the first one at the end, and whether this one doesn't.
func Ring(points []nav.Point, east []int) (ring []nav.Point, open bool) {
	n := len(points)
	return shape.Corners(points, east), n > 2 && !points[0].SamePlace(&points[n-1])
}

// TellFlaws notes what is wrong with the areas of data, and marks those that are flawed: for each sort how many there
// are, and the first of them.
func TellFlaws(d *nav.Dataset) {
	type found struct {
		count int
		text  string
	}
	all := map[nav.ProblemCode]*found{}
	var order []nav.ProblemCode
	note := func(code nav.ProblemCode, text string) {
		if all[code] == nil {
			all[code], order = &found{text: text}, append(order, code)
		}
		all[code].count++
	}
	for i := range d.Areas {
		a := &d.Areas[i]
		if a.Open {
			last, first := &a.Outline[len(a.Outline)-1], &a.Outline[0]
			note(nav.ProblemOpenRings, fmt.Sprintf("%s doesn't end where it begins, and was closed from %s to %s", called(a),
				geodesy.Degrees.Format(last.Lat, last.Lon), geodesy.Degrees.Format(first.Lat, first.Lon)))
		}
		told := map[nav.ProblemCode]bool{}
		for _, f := range shape.Flaws(a) {
			a.Flawed = a.Flawed || f.Flaw != shape.NoSize
			if code, text := FlawWords(&f); !told[code] {
				told[code] = true
				note(code, called(a)+" "+text)
			}
		}
	}
	for _, pair := range sameAreas(d.Areas) {
		note(nav.ProblemSameAreas, called(&d.Areas[pair[1]])+" has the outline and the limits of "+called(&d.Areas[pair[0]]))
	}
	for _, code := range order {
		d.Note(code, all[code].text, 0, 0).Count = all[code].count
	}
}

func called(a *nav.Area) string {
	if a.Name == "" {
		return "an area without a name"
	}
	return fmt.Sprintf("area %q", a.Name)
}

// sameAreas lists pairs of areas of the same rings, wherever these begin and however they turn, and the same limits.
func sameAreas(areas []nav.Area) (pairs [][2]int) {
	type key struct {
		corners            int
		west, south, north float64
	}
	first := map[key][]int{}
	for i := range areas {
		a := &areas[i]
		k := key{corners: a.Len(), west: math.Inf(1)}
		k.south, k.north = nav.Latitudes(a.Outline)
		for j := range a.Outline {
			k.west = min(k.west, a.Outline[j].Lon)
		}
		j := slices.IndexFunc(first[k], func(j int) bool { return sameArea(&areas[j], a) })
		if j >= 0 {
			pairs = append(pairs, [2]int{first[k][j], i})
			continue
		}
		const most = 100 // of one box, beyond which nobody looks at all of them
		if len(first[k]) < most {
			first[k] = append(first[k], i)
		}
	}
	return
}

func sameArea(a, b *nav.Area) bool {
	for _, key := range []string{nav.FieldFloor, nav.FieldCeiling, nav.FieldFrom, nav.FieldUntil} {
		v, _ := nav.Get(a.Fields, key)
		if w, _ := nav.Get(b.Fields, key); v != w {
			return false
		}
	}
	return slices.EqualFunc(a.Rings(), b.Rings(), func(r, s []nav.Point) bool {
		return slices.EqualFunc(inOrder(r), inOrder(s), func(p, q nav.Point) bool { return p.SamePlace(&q) })
	})
}

// inOrder gives a ring from its westernmost corner on, towards the one of its neighbours that is farther south.
func inOrder(ring []nav.Point) []nav.Point {
	n := len(ring)
	if n == 0 {
		return nil
	}
	order := func(p, q nav.Point) int { return cmp.Or(cmp.Compare(p.Lon, q.Lon), cmp.Compare(p.Lat, q.Lat)) }
	at := 0
	for i := range ring {
		if order(ring[i], ring[at]) < 0 {
			at = i
		}
	}
	out := append(slices.Clone(ring[at:]), ring[:at]...)
	if n > 2 && order(out[n-1], out[1]) < 0 {
		slices.Reverse(out[1:])
	}
	return out
}
