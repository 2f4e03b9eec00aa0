package compare

import (
	"context"
	"math"
	"slices"
	"time"

	"gyrolith/core/clean"
	"gyrolith/core/geodesy"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

// InTime says how two recordings are compared in time.
type InTime struct {
	Within float64       // metres: how long they were that near; 0 is not asked for
	Motion motion.Limits // of gaps, over which no place is believed
}

// Apart is what is found of two recordings. Lengths are metres.
type Apart struct {
	First, Last time.Time     // of the time that both are of
	Together    time.Duration // of it in which both have a place
	Nearest     Approach
	Farthest    Approach
	Mean        float64       // distance over that time
	Inside      time.Duration // within the distance that is asked for
	Times       int           // that they came within it
	Samples     []Moment      // at the fixes of both

	// Of two receivers on one way: how far the second one lies from the first on the average, and how much that
	// changes.
	Offset, Direction float64 // metres, degrees true
	Spread            float64 // root of the mean square about the offset
	Most              float64 // 95 of 100 are nearer to it than that
}

// Approach is when and where the recordings were so far apart.
type Approach struct {
	At       time.Time
	Distance float64
	A, B     nav.Point
}

// Moment is the distance at a time.
type Moment struct {
	At       time.Time
	Distance float64
	A, B     nav.Point
	Joined   bool // there was no gap since the moment before
}

// course gives the sound tracks of a file as one course.
func (o *InTime) course(ctx context.Context, d *nav.Dataset) (*motion.Course, error) {
	tracks, err := clean.Sound(ctx, d)
	if err != nil {
		return nil, err
	}
	var segments []nav.Segment
	for i := range tracks {
		segments = append(segments, tracks[i].Segments...)
	}
	return motion.CourseOf(segments, o.Motion), nil
}

// Compare compares the tracks of two files in time; nil where they have no time in common.
func (o *InTime) Compare(ctx context.Context, a, b *nav.Dataset) (*Apart, error) {
	first, err := o.course(ctx, a)
	if err != nil {
		return nil, err
	}
	second, err := o.course(ctx, b)
	if err != nil || len(first.Fixes) == 0 || len(second.Fixes) == 0 {
		return nil, err
	}
	out := sample(first, second)
	if out == nil {
		return nil, nil
	}
	out.approaches(o.Within)
	out.offset()
	return out, nil
}

// sample takes both at the fixes of both.
func sample(x, y *motion.Course) *Apart {
	a, b := x.Fixes, y.Fixes
	var times []int64
	low := max(a[0].UnixNano(), b[0].UnixNano())
	high := min(a[len(a)-1].UnixNano(), b[len(b)-1].UnixNano())
	for _, list := range [][]nav.Point{a, b} {
		for i := range list {
			if t := list[i].UnixNano(); t >= low && t <= high {
				times = append(times, t)
			}
		}
	}
	if len(times) == 0 {
		return nil
	}
	slices.Sort(times)
	times = slices.Compact(times)
	out := &Apart{First: time.Unix(0, low).UTC(), Last: time.Unix(0, high).UTC()}
	broken := true
	for _, t := range times {
		p, _, _, ok1 := x.At(t)
		q, _, _, ok2 := y.At(t)
		if !ok1 || !ok2 {
			broken = true
			continue
		}
		m := Moment{At: time.Unix(0, t).UTC(), A: p, B: q, Distance: geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon),
			Joined: !broken}
		if n := len(out.Samples); m.Joined && n > 0 {
			out.Together += m.At.Sub(out.Samples[n-1].At)
		}
		out.Samples = append(out.Samples, m)
		broken = false
	}
	if len(out.Samples) == 0 {
		return nil
	}
	return out
}

// approaches finds how near they came, between two moments as well, when both move straight on.
func (x *Apart) approaches(within float64) {
	x.Nearest = Approach{Distance: math.Inf(1)}
	x.Farthest = Approach{Distance: -1}
	note := func(at time.Time, p, q nav.Point) float64 {
		d := geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon)
		if d < x.Nearest.Distance {
			x.Nearest = Approach{at, d, p, q}
		}
		if d > x.Farthest.Distance {
			x.Farthest = Approach{at, d, p, q}
		}
		return d
	}
	area := 0.0
	near := false
	for i := range x.Samples {
		m := &x.Samples[i]
		note(m.At, m.A, m.B)
		if i == 0 || !m.Joined {
			if near = within > 0 && m.Distance <= within; near {
				x.Times++
			}
			continue
		}
		before := &x.Samples[i-1]
		span := m.At.Sub(before.At)
		area += span.Seconds() * (before.Distance + m.Distance) / 2
		// The way between them, as from the place of the first one: straight, from one moment to the next.
		plane, next := geodesy.NewPlane(before.A.Lat, before.A.Lon), geodesy.NewPlane(m.A.Lat, m.A.Lon)
		ax, ay := plane.XY(before.B.Lat, before.B.Lon)
		bx, by := next.XY(m.B.Lat, m.B.Lon)
		dx, dy := bx-ax, by-ay
		along := func(t float64) (nav.Point, nav.Point) {
			return nav.Between(&before.A, &m.A, t), nav.Between(&before.B, &m.B, t)
		}
		if l := dx*dx + dy*dy; l > 0 {
			if t := -(ax*dx + ay*dy) / l; t > 0 && t < 1 {
				p, q := along(t)
				note(before.At.Add(time.Duration(t*float64(span))), p, q)
			}
		}
		if within <= 0 {
			continue
		}
		from, to, ok := inCircle(ax, ay, dx, dy, within)
		if ok {
			x.Inside += time.Duration((to - from) * float64(span))
			if !near {
				x.Times++
			}
		}
		near = ok && to == 1
	}
	if x.Together > 0 {
		x.Mean = area / x.Together.Seconds()
	} else {
		x.Mean = x.Samples[0].Distance
	}
}

// inCircle gives the part of a straight way from a place by a vector that lies within a radius of the origin.
func inCircle(ax, ay, dx, dy, radius float64) (from, to float64, ok bool) {
	a, b, c := dx*dx+dy*dy, ax*dx+ay*dy, ax*ax+ay*ay-radius*radius
	if a == 0 {
		return 0, 1, c <= 0
	}
	root := b*b - a*c
	if root < 0 {
		return 0, 0, false
	}
	root = math.Sqrt(root)
	from, to = max((-b-root)/a, 0), min((-b+root)/a, 1)
	return from, to, from < to
}

// offset finds how the second one lies to the first.
func (x *Apart) offset() {
	n := float64(len(x.Samples))
	east, north := make([]float64, len(x.Samples)), make([]float64, len(x.Samples))
	var sumE, sumN float64
	for i := range x.Samples {
		m := &x.Samples[i]
		east[i], north[i] = geodesy.NewPlane(m.A.Lat, m.A.Lon).XY(m.B.Lat, m.B.Lon)
		sumE, sumN = sumE+east[i], sumN+north[i]
	}
	sumE, sumN = sumE/n, sumN/n
	x.Offset = math.Hypot(sumE, sumN)
	x.Direction = math.Mod(math.Atan2(sumE, sumN)*180/math.Pi+360, 360)
	off := make([]float64, len(x.Samples))
	sum := 0.0
	for i := range off {
		off[i] = math.Hypot(east[i]-sumE, north[i]-sumN)
		sum += off[i] * off[i]
	}
	x.Spread = math.Sqrt(sum / n)
	slices.Sort(off)
	x.Most = off[min(int(0.95*n), len(off)-1)]
}
