package nav

// RingContains says whether a position is inside a ring, by the number of edges that a line from it to the east
// crosses. The ring's edges are straight between latitude and longitude, the short way around the earth; it may cross
// the antimeridian, but not go around a pole.
func RingContains(ring []Point, lat, lon float64) bool {
	if len(ring) == 0 {
		return false
	}
	// Longitudes go on along the ring without a jump, so that the position may be a turn of the earth away.
	var inside [3]bool
	x := WrapLon(ring[0].Lon - lon)
	for i := range ring {
		p, q := &ring[i], &ring[(i+1)%len(ring)]
		next := x + WrapLon(q.Lon-p.Lon)
		crossEdge(&inside, p, q, lat, x, next)
		x = next
	}
	return inside[0] || inside[1] || inside[2]
}

// crossEdge counts the edge from p to q, which are at x and next degrees east of a position, where the line to the east
// along a latitude crosses it: a turn of the earth to the west of the position, from where it stands, and to the east.
func crossEdge(inside *[3]bool, p, q *Point, lat, x, next float64) {
	if (p.Lat > lat) == (q.Lat > lat) {
		return
	}
	at := x + (lat-p.Lat)/(q.Lat-p.Lat)*(next-x)
	for turn := range inside {
		if at > float64(turn-1)*360 {
			inside[turn] = !inside[turn]
		}
	}
}
