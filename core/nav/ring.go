package nav

import "math"

// Around says how often a ring goes around the earth to the east: 1 or -1 where it goes around a pole. Its inside is
// to the left then: to the north, with that pole, or to the south. What a hole takes out is said by the same rule.
func Around(ring []Point) int {
	if len(ring) < 3 {
		return 0
	}
	east := 0.0
	for i := range ring {
		east += WrapLon(ring[(i+1)%len(ring)].Lon - ring[i].Lon)
	}
	return int(math.Round(east / 360))
}

// latitudes gives the southernmost and the northernmost of a ring, and of what is in it.
func Latitudes(ring []Point) (south, north float64) {
	if len(ring) == 0 {
		return 0, 0
	}
	south, north = math.Inf(1), math.Inf(-1)
	for i := range ring {
		south, north = min(south, ring[i].Lat), max(north, ring[i].Lat)
	}
	switch Around(ring) {
	case 1:
		north = 90
	case -1:
		south = -90
	}
	return
}
