package pace

import (
	"errors"
	"testing"
	"time"
)

// Naismith: an hour for three miles and an hour for two thousand feet, in its metric form; Langmuir: ten minutes off or
// on for each 300 m down.
func TestOnHills(t *testing.T) {
	const level = 5 / 3.6
	for _, c := range []struct {
		distance, climb float64
		want            time.Duration
	}{
		{5000, 0, time.Hour}, {5000, 600, 2 * time.Hour}, {5000, -300, time.Hour}, // 3.4 degrees: on the level
		{3000, -300, 26 * time.Minute}, // 5.7 degrees
		{1000, -300, 22 * time.Minute}, // 16.7 degrees
	} {
		if got := OnHills(c.distance, c.climb, level); (got - c.want).Abs() > time.Second {
			t.Errorf("%+v: %v", c, got)
		}
	}
}

// The rates that are given come first, then the walking rule for those on foot alone, and else a leg is as on the
// level.
func TestRule(t *testing.T) {
	still := func(speed float64) (float64, error) { return speed, nil }
	for _, c := range []struct {
		what                   string
		rule                   Rule
		distance, climb, speed float64
		want                   time.Duration
	}{
		{"on foot", Rule{}, 5000, 600, 5 / 3.6, 2 * time.Hour},
		{"on foot, level", Rule{Level: true}, 5000, 600, 5 / 3.6, time.Hour},
		{"a boat as slow as that", Rule{Carrier: Boat}, 5000, 600, 5 / 3.6, time.Hour},
		{"an aircraft", Rule{}, 50000, 600, 50, 1000 * time.Second},
		{"a runner who says so", Rule{Carrier: Walk}, 10000, 600, 10 / 3.6, 2 * time.Hour},
		{"by rates", Rule{Climb: Phase{Rate: 2, Speed: 30}}, 50000, 600, 50, 300*time.Second + 820*time.Second},
		{"by rates, whoever it is", Rule{Climb: Phase{Rate: 0.5}, Carrier: Walk, Level: true}, 5000, 600, 5 / 3.6, time.Hour},
		{"a descent without a rate", Rule{Climb: Phase{Rate: 2}}, 50000, -600, 50, 1000 * time.Second},
	} {
		if got, _, err := c.rule.Leg(c.distance, c.climb, c.speed, still); (got-c.want).Abs() > time.Millisecond ||
			err != nil {
			t.Errorf("%s: %v, want %v; %v", c.what, got, c.want, err)
		}
	}
	steep := Rule{Climb: Phase{Rate: 1}}
	got, _, err := steep.Leg(1000, 600, 50, still)
	if _, ok := errors.AsType[*TooSteep](err); !ok || got != 10*time.Minute {
		t.Errorf("600 m at 1 m/s in a leg of 20 s: %v %v", got, err)
	}
}
