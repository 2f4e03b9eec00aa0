// Package pace is the one rule by which a speed and heights give the time of a leg.
package pace

import (
	"fmt"
	"math"
	"strings"
	"time"

	"gyrolith/core/measure"
	"gyrolith/core/param"
)

// Carrier is the word for what carries a receiver.
type Carrier string

// The carriers.
const (
	Walk  Carrier = "walk"
	Cycle Carrier = "cycle"
	Drive Carrier = "drive"
	Boat  Carrier = "boat"
	Fly   Carrier = "fly"
)

// Carriers lists the words.
func Carriers() []Carrier { return []Carrier{Walk, Cycle, Drive, Boat, Fly} }

// OnFoot is the fastest speed in m/s that is a walker's where no carrier is named: 7 km/h, below any that a wheel, a
// propeller or a wing is planned with over hills.
const OnFoot = 7 / 3.6

// Walking is the rule by which walkers take account of heights, in words.
const Walking = "W. W. Naismith's rule, Scottish Mountaineering Club Journal 2, 1892, with E. Langmuir's corrections " +
	"for descents, Mountaincraft and Leadership, 1984"

// Phase is how one climbs or descends. The zero phase is none of its own.
type Phase struct {
	Rate  float64 // metres of height in a second
	Speed float64 // through the air, m/s; 0 is that on the level
}

// Rule takes account of heights: by the given rates of climb and descent first; else, for those on foot alone, by
// Walking; else not at all.
type Rule struct {
	Climb, Descent Phase
	Carrier        Carrier // "" goes by the speed
	Level          bool    // takes no account of heights, but for the rates
}

// Phase gives the rate and speed of a change of height in metres; the zero phase where none is given.
func (r *Rule) Phase(climb float64) Phase {
	switch {
	case climb > 0:
		return r.Climb
	case climb < 0:
		return r.Descent
	}
	return Phase{}
}

// Walks says whether one who goes at a speed in m/s takes account of heights by Walking.
func (r *Rule) Walks(speed float64) bool {
	return !r.Level && r.Climb.Rate+r.Descent.Rate == 0 && (r.Carrier == Walk || r.Carrier == "" && speed <= OnFoot)
}

// TooSteep is the fault of a leg that is too short for its change of height.
type TooSteep struct{ Change, Leg time.Duration }

func (e *TooSteep) Error() string {
	return fmt.Sprintf("the change of height takes %s, but the leg only %s", measure.Duration(e.Change),
		measure.Duration(e.Leg))
}

// Leg gives the time of a leg of a distance and a change of height in metres, and how much of it is a climb or descent
// at a rate of its own. A change that is not a number is none. Over gives the speed made good over the ground at one
// through the air or the water, and its error is given on. A leg that is TooSteep takes as long as its change.
func (r *Rule) Leg(distance, climb, speed float64, over func(float64) (float64, error)) (all, change time.Duration,
	err error) {
	ground, err := over(speed)
	if err != nil {
		return 0, 0, err
	}
	phase := r.Phase(climb)
	switch {
	case phase.Rate > 0:
		change = seconds(math.Abs(climb) / phase.Rate)
		in := ground
		if phase.Speed > 0 {
			if in, err = over(phase.Speed); err != nil {
				return 0, 0, err
			}
		}
		way := in * change.Seconds()
		if way > distance {
			return change, change, &TooSteep{change, seconds(distance / in)}
		}
		return change + seconds((distance-way)/ground), change, nil
	case r.Walks(speed):
		return OnHills(distance, climb, ground), 0, nil
	}
	return seconds(distance / ground), 0, nil
}

func seconds(v float64) time.Duration { return time.Duration(v * float64(time.Second)) }

// OnHills is the time of a leg on foot at a pace (m/s) on the level, over a distance and a change of height in
// metres, by Walking: ten minutes more for each 100 m of climb; on the way down ten minutes less for each 300 m where
// the slope is between 5 and 12 degrees, and ten minutes more where it is steeper. No descent is faster than half the
// time on the level.
func OnHills(distance, climb, pace float64) time.Duration {
	level := distance / pace
	t := level
	if climb > 0 {
		t += climb / 100 * 600
	} else if drop := -climb; drop > 0 {
		switch slope := math.Atan2(drop, distance) * 180 / math.Pi; {
		case slope > 12:
			t += drop / 300 * 600
		case slope >= 5:
			t = math.Max(level-drop/300*600, level/2)
		}
	}
	return seconds(t)
}

// Words says how a line that changes its height, at a speed in m/s, takes account of that.
func (r *Rule) Words(speed float64) string {
	switch {
	case r.Climb.Rate+r.Descent.Rate > 0:
		return "with the given rates of climb and descent"
	case r.Walks(speed):
		return "allowing for climb and descent on foot"
	case r.Level:
		return "as on the level"
	}
	return "as on the level: heights count on foot, or by given rates of climb and descent"
}

// Params lists the parameters of the rule.
func (r *Rule) Params() param.Table {
	phase := func(name string, to *Phase, help string) param.Param {
		return param.Func(name, "RATE[,SPEED]", help, func(text string) (err error) {
			rate, speed, both := strings.Cut(text, ",")
			if to.Rate, err = measure.ParseRate(rate); err == nil && both {
				to.Speed, err = measure.ParseSpeed(speed)
			}
			return
		})
	}
	return param.Table{
		phase("climb", &r.Climb, "rate and speed of climb, `RATE[,SPEED]` such as 500ft/min,75kn"),
		phase("descent", &r.Descent, "rate and speed of descent, `RATE[,SPEED]` such as 400ft/min,95kn"),
		param.Word("carrier", &r.Carrier, Carriers(), "WORD",
			"what one goes with, `WORD`: walk, cycle, drive, boat or fly; those on foot take longer uphill (default: walk up "+
				"to 7km/h)"),
		param.Switch("level", &r.Level, "ignore heights when calculating times"),
	}
}
