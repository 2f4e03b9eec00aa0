package lay

import "math"

// pose is a place and the direction in which it is passed, in radians from the x axis towards y.
type pose struct {
	place
	along float64
}

// arc is a part of a turn: a circle to the right (1) or the left (-1), or straight on (0), over an angle in radians or
// a length in units of the radius.
type arc struct{ turn, length float64 }

// turnBetween gives the shortest way of bounded curvature from one pose to another (L. E. Dubins, American Journal of
// Mathematics 79, 1957; the formulas of A. M. Shkel and V. Lumelsky, Robotics and Autonomous Systems 34, 2001), as
// places between the two, every fifteen degrees of a turn.
func turnBetween(from, to pose, radius float64) (out []place) {
	dx, dy := (to.x-from.x)/radius, (to.y-from.y)/radius
	d, theta := math.Hypot(dx, dy), math.Atan2(dy, dx)
	a, b := turned(from.along-theta), turned(to.along-theta)
	best := shortest(a, b, d)
	at := from
	for _, part := range best {
		const step = math.Pi / 12
		n := 1
		if part.turn != 0 {
			n = max(int(math.Ceil(part.length/step-1e-9)), 1)
		}
		for range n {
			at = at.advance(part.turn, part.length/float64(n), radius)
			out = append(out, at.place)
		}
	}
	if len(out) > 0 {
		out = out[:len(out)-1] // the end itself
	}
	return
}

// advance goes on along an arc.
func (p pose) advance(turn, length, radius float64) pose {
	if turn == 0 {
		sin, cos := math.Sincos(p.along)
		return pose{place{p.x + length*radius*cos, p.y + length*radius*sin}, p.along}
	}
	end := p.along + turn*length
	s0, c0 := math.Sincos(p.along)
	s1, c1 := math.Sincos(end)
	return pose{place{p.x + turn*radius*(s1-s0), p.y - turn*radius*(c1-c0)}, end}
}

func turned(angle float64) float64 {
	angle = math.Mod(angle, 2*math.Pi)
	if angle < 0 {
		angle += 2 * math.Pi
	}
	return angle
}

// shortest gives the parts of the shortest way between two directions at a distance, in units of the radius. A turn of
// 1 is that in which angles grow.
func shortest(a, b, d float64) (best []arc) {
	sa, ca := math.Sincos(a)
	sb, cb := math.Sincos(b)
	cab := math.Cos(a - b)
	length := math.Inf(1)
	try := func(turns [3]float64, t, p, q float64) {
		if sum := t + p + q; !math.IsNaN(sum) && sum < length-1e-12 {
			length = sum
			best = best[:0]
			for i, v := range [3]float64{t, p, q} {
				if v > 1e-9 {
					best = append(best, arc{turns[i], v})
				}
			}
		}
	}
	if v := 2 + d*d - 2*cab + 2*d*(sa-sb); v >= 0 {
		m := math.Atan2(cb-ca, d+sa-sb)
		try([3]float64{1, 0, 1}, turned(m-a), math.Sqrt(v), turned(b-m))
	}
	if v := 2 + d*d - 2*cab + 2*d*(sb-sa); v >= 0 {
		m := math.Atan2(ca-cb, d-sa+sb)
		try([3]float64{-1, 0, -1}, turned(a-m), math.Sqrt(v), turned(m-b))
	}
	if v := d*d - 2 + 2*cab + 2*d*(sa+sb); v >= 0 {
		p := math.Sqrt(v)
		m := math.Atan2(-ca-cb, d+sa+sb) - math.Atan2(-2, p)
		try([3]float64{1, 0, -1}, turned(m-a), p, turned(m-b))
	}
	if v := d*d - 2 + 2*cab - 2*d*(sa+sb); v >= 0 {
		p := math.Sqrt(v)
		m := math.Atan2(ca+cb, d-sa-sb) - math.Atan2(2, p)
		try([3]float64{-1, 0, 1}, turned(a-m), p, turned(b-m))
	}
	if v := (6 - d*d + 2*cab + 2*d*(sa-sb)) / 8; math.Abs(v) <= 1 {
		p := turned(2*math.Pi - math.Acos(v))
		t := turned(a - math.Atan2(ca-cb, d-sa+sb) + p/2)
		try([3]float64{-1, 1, -1}, t, p, turned(a-b-t+p))
	}
	if v := (6 - d*d + 2*cab + 2*d*(sb-sa)) / 8; math.Abs(v) <= 1 {
		p := turned(2*math.Pi - math.Acos(v))
		t := turned(-a - math.Atan2(ca-cb, d+sa-sb) + p/2)
		try([3]float64{1, -1, 1}, t, p, turned(b-a-t+p))
	}
	return
}
