package geojson

import (
	"cmp"
	"fmt"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// lateSystem says that the coordinate system stands behind coordinates, which have to be read again.
type lateSystem struct{ system *crs.System }

func (e *lateSystem) Error() string { return "the coordinate system stands behind coordinates" }

// oldCRS reads the coordinate system that the format had before the RFC.
func (r *reader) oldCRS() error {
	at := r.InputOffset()
	v, err := r.value()
	if err != nil {
		return err
	}
	s := string(v)
	if r.crsKnown || s == "null" || strings.Contains(s, "CRS84") {
		return nil
	}
	var number string
	for part := range strings.SplitSeq(s, `"`) { // the name is one of its texts
		number = cmp.Or(number, crs.NumberIn(part))
	}
	if number == "" {
		return r.fault(at, "the coordinates are in another system (%.80s), not in degrees of WGS 84: have them written as "+
			"RFC 7946 asks", s)
	}
	system, err := crs.Find(number)
	if err != nil {
		return r.fault(at, "the coordinates are in an unknown system: %v", err)
	}
	if number == "4326" {
		system = nil
	}
	if system != r.system && r.placed {
		return &lateSystem{system}
	}
	if r.system = system; system != nil {
		r.data.Tell(nav.ProblemZones, fmt.Sprintf("coordinates are in %v, as the member crs says", system))
	}
	return nil
}

// inSystem sets a position from coordinates of the system, and says why it can't.
func (r *reader) inSystem(p *nav.Point, x, y []byte) string {
	east, _, ok1 := decimal.Parse(x)
	north, _, ok2 := decimal.Parse(y)
	if !ok1 || !ok2 {
		return "has coordinates that are not numbers"
	}
	lat, lon, ok := r.system.Inverse(east, north)
	if !ok || !nav.Usable(lat, lon) {
		return fmt.Sprintf("is out of range for %v", r.system)
	}
	*p = nav.At(lat, lon)
	return ""
}
