package nav

import (
	"math"
	"math/rand/v2"
	"testing"

	"gyrolith/core/decimal"
)

// walk is a line of a point a second, with heights by their second, that scatter.
func walk(seconds int, scatter float64, seed uint64, height func(second float64) float64) []Point {
	r := rand.New(rand.NewPCG(seed, 1))
	var out []Point
	for i := range seconds + 1 {
		p := At(-47.6+float64(i)*1.2e-5, 11.3)
		p.SetHeight(height(float64(i))+scatter*r.NormFloat64(), decimal.PrecisionOf(2), MeanSeaLevel)
		out = append(out, p)
	}
	return out
}

// The noise of a receiver climbs nothing, and takes nothing away from what was climbed.
func TestClimbUnderNoise(t *testing.T) {
	flat := func(float64) float64 { return 100 }
	wave := func(period float64) func(float64) float64 {
		return func(s float64) float64 { return 105 - 5*math.Cos(2*math.Pi*s/period) }
	}
	ramps := func(period float64) func(float64) float64 {
		return func(s float64) float64 { return 100 + 10*math.Abs(math.Mod(s/period*2+1, 2)-1) }
	}
	steps := func(period float64) func(float64) float64 { // as long level as climbing
		return func(s float64) float64 {
			return 100 + 10*min(max(2*math.Abs(math.Mod(s/period*2+1, 2)-1)-0.5, 0), 1)
		}
	}
	for _, x := range []struct {
		name        string
		seconds     int
		scatter     float64
		height      func(float64) float64
		least, most float64
	}{
		{"flat", 1000, 2, flat, 0, 30},
		{"flat, longer", 20000, 2, flat, 0, 30},
		{"flat, much noise", 1000, 8, flat, 0, 30},
		{"waves of 50 s", 1000, 2, wave(50), 180, 220},
		{"waves of 100 s", 2000, 2, wave(100), 180, 220},
		{"waves of 400 s", 8000, 2, wave(400), 180, 220},
		{"waves of 1000 s", 20000, 2, wave(1000), 180, 220},
		{"ramps of 60 s", 1200, 2, ramps(60), 180, 220},
		{"ramps of 50 s", 1000, 2, ramps(50), 180, 220},
		{"ramps of 100 s", 2000, 2, ramps(100), 180, 220},
		{"ramps of 200 s", 4000, 2, ramps(200), 180, 220},
		{"steps of 200 s", 4000, 2, steps(200), 180, 220},
		{"steps of 600 s", 12000, 2, steps(600), 180, 220},
		{"waves without noise", 1000, 0, wave(50), 199.9, 200.1},
		{"waves with little noise", 1000, 0.3, wave(50), 190, 225},
		{"one climb", 1000, 2, func(s float64) float64 { return 0.3 * s }, 290, 310},
	} {
		mean, tries := 0.0, 20
		for seed := range uint64(tries) {
			var s Summary
			s.Add(walk(x.seconds, x.scatter, seed, x.height))
			mean += s.Ascent / float64(tries)
			if slack := (x.least + x.most) / 20; s.Ascent < x.least-slack || s.Ascent > x.most+slack {
				t.Errorf("%s, seed %d: %.1f m up, want about %v to %v", x.name, seed, s.Ascent, x.least, x.most)
			}
		}
		if mean < x.least || mean > x.most {
			t.Errorf("%s: %.1f m up on the mean, want %v to %v", x.name, mean, x.least, x.most)
		}
	}
}
