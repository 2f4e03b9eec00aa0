package shape

import (
	"math"

	"gyrolith/core/geodesy"
)

// Grid finds what is near a position without a look at everything: it sorts positions into cubes of the space around
// the earth, so that neither a pole nor the antimeridian is a border.
type Grid struct {
	size  float64 // metres, of a cube
	cubes map[cube][]int
}

// cube is where positions of one label are sorted.
type cube struct {
	label   string
	x, y, z int32
}

// NewGrid makes a grid in which everything within a distance in metres can be found.
func NewGrid(within float64) *Grid {
	return &Grid{size: max(within, 0.01), cubes: map[cube][]int{}}
}

func (g *Grid) cube(label string, lat, lon float64) cube {
	at := geodesy.Cartesian(lat, lon)
	whole := func(v float64) int32 { return int32(math.Floor(v / g.size)) }
	return cube{label, whole(at[0]), whole(at[1]), whole(at[2])}
}

// Add puts a number at a position in degrees. It is found only under its label.
func (g *Grid) Add(n int, label string, lat, lon float64) {
	c := g.cube(label, lat, lon)
	g.cubes[c] = append(g.cubes[c], n)
}

// Near visits the numbers of a label that may be within the distance of a position, and some that are a little farther,
// as long as more are wanted.
func (g *Grid) Near(label string, lat, lon float64, visit func(n int) (more bool)) {
	c := g.cube(label, lat, lon)
	for dx := int32(-1); dx <= 1; dx++ {
		for dy := int32(-1); dy <= 1; dy++ {
			for dz := int32(-1); dz <= 1; dz++ {
				for _, n := range g.cubes[cube{label, c.x + dx, c.y + dy, c.z + dz}] {
					if !visit(n) {
						return
					}
				}
			}
		}
	}
}
