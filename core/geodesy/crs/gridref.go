package crs

import (
	"fmt"
	"strconv"
	"strings"

	"gyrolith/core/pattern"
)

// gridLetters gives the south-western corner of the square of 100 km that letters name, in squares.
type gridLetters struct {
	letters int
	corner  func(letters string) (east, north int)
}

// The national grids whose squares of 100 km have letters: a square of 500 km and one of 100 km in it, or the latter
// alone, by rows of five from the north-west, without the letter I (Ordnance Survey, A guide to coordinate systems in
// Great Britain, section 7; Ordnance Survey Ireland and Land and Property Services, The Irish Grid).
var grids = map[int]gridLetters{
	27700: {2, func(l string) (int, int) {
		a, b := letterAt(l[0]), letterAt(l[1])
		return (a-2+25)%5*5 + b%5, 19 - a/5*5 - b/5 // S, the origin's, is 500 km east and north of A's corner twice
	}},
	29901: {1, irish},
	29902: {1, irish},
	29903: {1, irish},
}

func irish(l string) (int, int) { return letterAt(l[0]) % 5, 4 - letterAt(l[0])/5 }

// letterAt numbers the letters from A, without I.
func letterAt(c byte) int {
	if c > 'I' {
		c--
	}
	return int(c - 'A')
}

var gridForm = pattern.New(`(?i)^([A-HJ-Z]{1,2})\s*(\d{1,5})\s+(\d{1,5})$|^([A-HJ-Z]{1,2})\s*(\d{2,10})$`)

// HasGrid says whether the squares of the system have letters.
func (s *System) HasGrid() bool {
	if s == nil {
		return false
	}
	_, ok := grids[s.Code]
	return ok
}

// GridReference gives the position of a reference such as TQ 30 80, the middle of its square, in degrees of WGS 84. It
// is not ok where the text is none of this system; an error is of one that can't be.
func (s *System) GridReference(text string) (lat, lon float64, ok bool, err error) {
	if !s.HasGrid() {
		return 0, 0, false, nil
	}
	grid := grids[s.Code]
	m := gridForm.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil || len(m[1]+m[4]) != grid.letters {
		return 0, 0, false, nil
	}
	east, north := m[2], m[3]
	if m[4] != "" {
		half := len(m[5]) / 2
		east, north = m[5][:half], m[5][half:]
	}
	if len(east) != len(north) {
		return 0, 0, true, fmt.Errorf("easting and northing must have the same number of digits in %s", text)
	}
	size := 1e5
	for range east {
		size /= 10
	}
	x, y := grid.corner(strings.ToUpper(m[1] + m[4]))
	e, _ := strconv.Atoi(east)
	n, _ := strconv.Atoi(north)
	lat, lon, reached := s.Inverse(float64(x)*1e5+(float64(e)+0.5)*size, float64(y)*1e5+(float64(n)+0.5)*size)
	if !reached || !s.Area.Contains(lat, lon) {
		return 0, 0, true, fmt.Errorf("%s lies outside of %v", text, s)
	}
	return lat, lon, true, nil
}
