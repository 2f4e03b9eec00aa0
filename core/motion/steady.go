package motion

import (
	"math"
	"time"

	"gyrolith/core/nav"
)

// Steady says whether the times of points are those of one speed along them, as where they were worked out.
func Steady(points []nav.Point) bool {
	m := &Motion{}
	m.gather([]nav.Segment{{Points: points}})
	return m.steady()
}

// steady says whether the times of all fixes are those of one speed along the line, but for their rounding to a second,
// and for stays at a place. No receiver records so; what works out times does, and such a line has neither gaps nor
// halts but its stays.
func (m *Motion) steady() bool {
	const few = 3
	if len(m.fixes) < few || m.Untimed > 0 {
		return false
	}
	along, stayed := make([]float64, len(m.fixes)), make([]float64, len(m.fixes))
	for i := 1; i < len(m.fixes); i++ {
		if !m.fixes[i].joined {
			return false
		}
		along[i], stayed[i] = along[i-1]+m.apart(i-1, i), stayed[i-1]
		if m.fixes[i].SamePlace(m.fixes[i-1].Point) {
			stayed[i] += m.seconds(i-1, i)
		}
	}
	last := len(m.fixes) - 1
	moving := m.seconds(0, last) - stayed[last]
	if moving <= 0 || along[last] == 0 {
		return false
	}
	rounding := (time.Second + 10*time.Millisecond).Seconds()
	for i := range m.fixes {
		if math.Abs(m.seconds(0, i)-stayed[i]-along[i]/along[last]*moving) > rounding {
			return false
		}
	}
	// Fixes at equal intervals are those of a receiver: a thing that moves evenly is steady too.
	return !m.regular()
}

// regular says whether most fixes come at one interval, as those of a receiver do, which is not at two places within
// one second again and again.
func (m *Motion) regular() bool {
	const most = 100 // fixes for each that may be at the time of the one before
	counts := map[time.Duration]int{}
	often := 0
	for i := 1; i < len(m.fixes); i++ {
		span := m.fixes[i].Since(m.fixes[i-1].Point)
		counts[span]++
		often = max(often, counts[span])
	}
	return 2*often > len(m.fixes) && most*counts[0] <= len(m.fixes)
}
