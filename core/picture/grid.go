package picture

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"gyrolith/core/geodesy"
)

// grid draws the lines of the grid: of UTM where that is the notation of positions, else of latitude and longitude.
func (d *drawing) grid() {
	if (d.Grid == geodesy.Grid || d.Grid == geodesy.MilitaryGrid) && !d.view.world && d.utmGrid() {
		return
	}
	d.graticule()
}

// utmGrid draws lines of whole eastings and northings, each zone as far as it goes. It is false near the poles, where
// there is no UTM, and where the map is of so many zones that they would say nothing.
func (d *drawing) utmGrid() bool {
	e := d.extentOfFrame()
	const mostZones, south, north = 3, -80, 84
	if e.south < south || e.north > north {
		return false
	}
	var zones []geodesy.UTM
	for i := range 49 { // where the frame is, so that the exceptions of the zones count
		lat, lon := e.south+(e.north-e.south)*float64(i/7)/6, e.middle+e.west+(e.east-e.west)*float64(i%7)/6
		if z := geodesy.ZoneOf(lat, lon); !slices.Contains(zones, z) {
			zones = append(zones, z)
		}
	}
	if len(zones) > mostZones {
		return false
	}
	f := d.view.frame
	var names []string
	step := roundLength(max(f.W, f.H) * d.view.perPx / 4)
	for _, z := range zones {
		inf := math.Inf(1)
		west, east, low, high := inf, -inf, inf, -inf
		for i := range 49 {
			lat, lon := e.south+(e.north-e.south)*float64(i/7)/6, e.middle+e.west+(e.east-e.west)*float64(i%7)/6
			x, y := z.Forward(lat, lon)
			west, east, low, high = min(west, x), max(east, x), min(low, y), max(high, y)
		}
		at := func(x, y float64) (float64, float64) {
			lat, lon := z.Inverse(x, y)
			if geodesy.ZoneOf(lat, lon) != z {
				return math.NaN(), math.NaN()
			}
			return lat, lon
		}
		for x := math.Ceil(west/step) * step; x <= east; x += step {
			d.graticuleLine(func(t float64) (float64, float64) { return at(x, low+t*(high-low)) },
				fmt.Sprintf("%.0f mE", x), true)
		}
		for y := math.Ceil(low/step) * step; y <= high; y += step {
			d.graticuleLine(func(t float64) (float64, float64) { return at(west+t*(east-west), y) },
				fmt.Sprintf("%.0f mN", y), false)
		}
		half := "north"
		if z.South {
			half = "south"
		}
		names = append(names, fmt.Sprintf("%d %s", z.Zone, half))
	}
	d.gridName = "grid: UTM " + strings.Join(names, ", ")
	return true
}
