package table

import (
	"fmt"

	"gyrolith/core/advice"
	"gyrolith/core/geodesy/crs"
)

// gridDoubt counts eastings and northings by the area that their system is meant for.
type gridDoubt struct {
	rows      int
	outside   int // of the area, or of the system's reach
	exchanged int // of those: within the area if easting and northing are exchanged
}

// look counts a row: its coordinates, and where they lie.
func (g *gridDoubt) look(s *crs.System, east, north, lat, lon float64, ok bool) {
	g.rows++
	if ok && s.Area.Contains(lat, lon) {
		return
	}
	g.outside++
	if lat, lon, ok := s.Inverse(north, east); ok && s.Area.Contains(lat, lon) {
		g.exchanged++
	}
}

func (g *gridDoubt) join(o gridDoubt) {
	g.rows, g.outside, g.exchanged = g.rows+o.rows, g.outside+o.outside, g.exchanged+o.exchanged
}

// outOfArea notes coordinates that lie outside of what their system is meant for, and whether the other order of the
// axes is meant. They stay as they are.
func (r *reader) outOfArea() {
	g, s := &r.beyond, r.opt.System
	if g.outside == 0 {
		return
	}
	area := fmt.Sprintf("%d of %d rows lie outside of the area of %v", g.outside, g.rows, s)
	if s.Area.Name != "" {
		area += " (" + s.Area.Name + ")"
	}
	switch {
	case 2*g.exchanged > g.outside:
		r.doubt(r.header+2, "%s; with easting and northing exchanged %d of them would lie within", area, g.exchanged).
			AdviseAbout(advice.SwapColumns, fmt.Sprintf("easting=%s,northing=%s", quoted(r.bare(r.north)),
				quoted(r.bare(r.east))))
	case 2*g.outside > g.rows:
		r.doubt(r.header+2, "%s", area).Advise(advice.NameSystemIn)
	default:
		r.doubt(r.header+2, "%s", area)
	}
}
