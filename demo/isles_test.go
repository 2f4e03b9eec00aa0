// The land of the example scenario is the Veldrin Isles, an invented group in empty ocean. All of it follows from a few
// hills, so that positions, paths, heights and terrain agree with one another.

package demo

import "math"

// middleLat and middleLon are the middle of the group in degrees.
const (
	middleLat = -47.600
	middleLon = 11.300
)

// hill is a bump of land: where, how high above the sea floor, how wide in metres, and how long as wide.
type hill struct{ lat, lon, height, width, stretch, turn float64 }

const seaFloor = -45

var hills = []hill{
	{-47.602, 11.296, 190, 1700, 1.35, 0.6}, // Great Veldrin
	{-47.588, 11.322, 215, 1150, 1.15, 1.1}, // Cairn Hill
	{-47.613, 11.277, 130, 850, 1.0, 0},     // the Saddle
	{-47.558, 11.374, 150, 760, 1.35, -0.6}, // Little Veldrin
	{-47.640, 11.347, 120, 560, 1.2, 0.3},   // Skarn
	{-47.571, 11.250, 105, 520, 1.15, 0.9},  // Wether Holm
	{-47.546, 11.333, 62, 260, 1.0, 0},      // the Teeth
	{-47.552, 11.343, 58, 200, 1.0, 0},
}

// Metres per degree near the isles, good enough for what is made up.
const (
	perLat = 111170.0
	perLon = 75190.0
)

// groundAt is the height of the ground above the sea in metres, below zero where there is water.
func groundAt(lat, lon float64) float64 {
	h := float64(seaFloor)
	for _, b := range hills {
		x, y := (lon-b.lon)*perLon, (lat-b.lat)*perLat
		sin, cos := math.Sincos(b.turn)
		x, y = (x*cos+y*sin)/b.stretch, y*cos-x*sin
		h += b.height * math.Exp(-(x*x+y*y)/(b.width*b.width))
	}
	// Gullies and knolls: small, smooth, and the same every time.
	x, y := (lon-middleLon)*perLon, (lat-middleLat)*perLat
	return h + 5*math.Sin(x/310+math.Sin(y/430))*math.Cos(y/270) + 2*math.Sin(x/97)*math.Sin(y/113)
}

// moved gives the position that lies metres east and north of another.
func moved(lat, lon, east, north float64) (float64, float64) {
	return lat + north/perLat, lon + east/perLon
}

// metresApart is the distance between two positions in metres.
func metresApart(lat1, lon1, lat2, lon2 float64) float64 {
	return math.Hypot((lat2-lat1)*perLat, (lon2-lon1)*perLon)
}

// shoreFrom goes from a position on land in a direction (radians from east) until the ground falls to the given
// height, and gives that place.
func shoreFrom(lat, lon, direction, height float64) (float64, float64) {
	sin, cos := math.Sincos(direction)
	for range 2000 {
		if groundAt(lat, lon) <= height {
			break
		}
		lat, lon = moved(lat, lon, 8*cos, 8*sin)
	}
	return lat, lon
}
