package passage

import (
	"fmt"
	"strings"
	"time"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
)

// Params lists the parameters by which a passage is planned.
func (s *Step) Params() param.Table {
	drift := func(name, value, help string, from bool) param.Param {
		return param.Func(name, value, help, func(text string) error {
			d, err := parseDrift(text, from)
			s.Drifts = append(s.Drifts, d)
			return err
		})
	}
	fuel := func(name string, to *Fuel, help string, hourly bool) param.Param {
		return param.Func(name, "AMOUNT", help, func(text string) (err error) { *to, err = parseFuel(text, hourly); return })
	}
	deviation := param.Func("deviation", "FILE",
		"the card of the compass, a `FILE` of magnetic headings and deviations in two columns",
		func(path string) (err error) { s.Deviation, err = ReadDeviation(path); return })
	deviation.Path = param.Read
	return append(param.Table{
		param.Speed("speed", &s.Speed, "SPEED", "the `SPEED` through the water or the air, such as 12kn"),
		param.FuncIn("depart", "TIME", "the `TIME` of departure, such as 2026-03-14T05:30Z, or 05:30 of today",
			func(env *param.Env, text string) (err error) { s.Depart, err = s.departure(text, env.Zone); return }),
		param.Switch("rhumb", &s.Rhumb, "lines of constant course instead of the shortest ones"),
		drift("wind", "FROM/SPEED", "the wind, `FROM/SPEED` in degrees true, such as 240/15kn", true),
		drift("current", "TO/SPEED", "the current, `TO/SPEED` in degrees true, such as 090/2kn", false),
		param.Func("declination", "DEGREES", "the magnetic declination in `DEGREES`, east above zero, such as -23.5",
			func(text string) error {
				v, _, ok := nav.ParseDecimal([]byte(strings.TrimSuffix(text, "°")))
				if !ok || v < -180 || v > 180 {
					return fmt.Errorf("%q is not a number of degrees from -180 to 180; west is below zero", text)
				}
				s.Declination = &v
				return nil
			}),
		deviation,
		fuel("burn", &s.Burn, "the consumption an hour, an `AMOUNT` such as 32l/h", true),
		fuel("fuel", &s.Aboard, "the fuel at the start, an `AMOUNT` such as 100l", false),
		fuel("reserve", &s.Reserve, "the fuel that is to be left, an `AMOUNT` such as 20l", false),
	}.In("Planning"), append(s.HazardParams(), param.Choices("keep-out", &s.KeepOut,
		"the closures that no leg may cross, `KIND:GLOB` such as areas:'Nesting*'; may be repeated")).In("Hazards")...)
}

// departure reads a time, or a time of day of the day on which it is planned.
func (s *Step) departure(text string, zone *time.Location) (int64, error) {
	if at, err := time.Parse("15:04", text); err == nil {
		if zone == nil {
			zone = time.UTC
		}
		year, month, day := s.On.In(zone).Date()
		return time.Date(year, month, day, at.Hour(), at.Minute(), 0, 0, zone).UnixNano(), nil
	}
	return nav.ParseMoment(text, zone, false)
}

// HazardParams lists the parameters of hazards alone.
func (s *Step) HazardParams() param.Table {
	return param.Table{
		param.File("hazards", &s.HazardsPath, "FILE", "the `FILE` of hazards: waypoints, lines and areas"),
		param.Choices("hazards-take", &s.HazardsTake, "only these `KIND[:GLOB]` of the hazards; may be repeated"),
		param.Length("clear", &s.Clear, "DISTANCE", "the `DISTANCE` that every leg has to keep from hazards, such as 60m"),
	}
}

// Check finds parameters that make no sense.
func (s *Step) Check() error {
	switch {
	case len(s.Drifts) > 0 && s.Speed == 0:
		return param.Errorf("speed", "a wind or a current adds to the speed, and none is given")
	case s.Burn.Amount > 0 && s.Speed == 0:
		return param.Errorf("speed", "the consumption counts by time, and no speed is given")
	case (s.Aboard.Amount > 0 || s.Reserve.Amount > 0) && s.Burn.Amount == 0:
		return param.Errorf("burn", "what is burnt an hour?")
	case s.Reserve.Amount > 0 && s.Aboard.Amount == 0:
		return param.Errorf("fuel", "a reserve of what? Say the fuel at the start")
	case s.Aboard.Of != "" && s.Aboard.Of != s.Burn.Of, s.Reserve.Of != "" && s.Reserve.Of != s.Burn.Of:
		return param.Errorf("fuel", "give consumption, fuel and reserve in the same measure")
	case s.Clear > 0 && s.HazardsPath == "" && len(s.KeepOut) == 0:
		return param.Errorf("clear", "of what? Name the hazards, or the closures to keep out of")
	case len(s.HazardsTake) > 0 && s.HazardsPath == "":
		return param.Errorf("hazards-take", "chooses among hazards, and no file of hazards is given")
	}
	return nil
}

// parseDrift reads a direction and a speed; a wind is named by where it comes from.
func parseDrift(text string, from bool) (Drift, error) {
	direction, speed, ok := strings.Cut(text, "/")
	degrees, _, isNumber := nav.ParseDecimal([]byte(strings.TrimSuffix(strings.TrimSpace(direction), "°")))
	if !ok || !isNumber {
		return Drift{}, fmt.Errorf("%q is not a direction and a speed: write 240/15kn", text)
	}
	if degrees < 0 || degrees > 360 {
		return Drift{}, fmt.Errorf("%q: the direction %s is not from 0 to 360", text, direction)
	}
	v, err := measure.ParseSpeed(speed)
	if err != nil {
		return Drift{}, err
	}
	if from {
		degrees += 180
	}
	return Drift{To: degrees, Speed: v}, nil
}
