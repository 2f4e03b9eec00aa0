package passage

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/param"
	"gyrolith/core/terrain"
)

// Params lists the parameters by which a passage is planned.
func (s *Step) Params() param.Table {
	drift := func(name, value, help string, from bool) param.Param {
		return param.Func(name, value, help, func(text string) error {
			d, err := measure.ParseDrift(text, from)
			s.Drifts = append(s.Drifts, d)
			return err
		})
	}
	fuel := func(name string, to *Fuel, help string, hourly bool) param.Param {
		return param.Func(name, "AMOUNT", help, func(text string) (err error) { *to, err = parseFuel(text, hourly); return })
	}
	wait := param.Func("stay", "POINT:SPAN", "wait at a point, `POINT:SPAN` such as 'Skarn Roads:20min' or "+
		"3:20min; repeatable", func(text string) error {
		i := strings.LastIndexByte(text, ':')
		if i < 1 {
			return fmt.Errorf("%q is not a point and a time span: write 'Skarn Roads:20min'", text)
		}
		span, err := measure.ParseDuration(text[i+1:])
		s.Waits = append(s.Waits, Wait{text[:i], span})
		return err
	})
	wait.List = true
	deviation := param.Func("deviation", "FILE",
		"the deviation card of the compass, a `FILE` with two columns, magnetic heading and deviation",
		func(path string) (err error) { s.Deviation, err = ReadDeviation(path); return })
	deviation.Path = param.Read
	planning := param.Table{
		s.speedParam(),
		param.FuncIn("depart", "TIME", "the `TIME` of departure, such as 2026-03-14T05:30Z, or 05:30 of today",
			func(env *param.Env, text string) (err error) { s.Depart, err = s.departure(text, env.Zone); return }),
		param.Switch("rhumb", &s.Rhumb, "follow lines of constant course instead of the shortest ones"),
		drift("wind", "FROM/SPEED", "the wind, `FROM/SPEED` in degrees true, such as 240/15kn", true),
		drift("current", "TO/SPEED", "the current, `TO/SPEED` in degrees true, such as 090/2kn", false),
		param.Files("winds", &s.WindPaths, "FILE", "a table of winds, a `FILE` with the columns leg, height, time, "+
			"direction and speed"),
		param.Files("currents", &s.CurrentPaths, "FILE", "a table of currents or tidal streams, a `FILE` like that of "+
			"winds"),
	}
	planning = append(append(planning, s.Pace.Params()...),
		wait,
		param.Func("declination", "DEGREES", "the magnetic declination in `DEGREES`, positive east, such as -23.5",
			func(text string) error {
				v, _, ok := decimal.Parse([]byte(strings.TrimSuffix(text, "°")))
				if !ok || v < -180 || v > 180 {
					return fmt.Errorf("%q is not a number of degrees from -180 to 180; west is negative", text)
				}
				s.Declination = &v
				return nil
			}),
		deviation,
		fuel("burn", &s.Burn, "fuel consumption per hour, an `AMOUNT` such as 32l/h", true),
		fuel("burn-stay", &s.BurnStay, "fuel consumption in stays, an `AMOUNT` such as 0l/h at anchor (default: as "+
			"cruising)", true),
		fuel("burn-climb", &s.BurnClimb, "fuel consumption in a climb, an `AMOUNT` such as 45l/h", true),
		fuel("burn-descent", &s.BurnDescent, "fuel consumption in a descent, an `AMOUNT`", true),
		fuel("fuel", &s.Aboard, "fuel at the start, an `AMOUNT` such as 100l", false),
		fuel("reserve", &s.Reserve, "fuel to keep in reserve, an `AMOUNT` such as 20l", false),
	)
	return append(planning.In("Planning"), append(append(s.GroundParams(), s.HazardParams()...),
		param.Choices("keep-out", &s.KeepOut,
			"closures that no leg may cross, `KIND:GLOB` such as areas:'Nesting*'; repeatable")).In("Hazards")...)
}

// speedParam is the speed, of all legs or of one.
func (s *Step) speedParam() param.Param {
	p := param.Func("speed", "[LEG:]SPEED", "the speed through the water or the air, `[LEG:]SPEED` such as 12kn, or "+
		"3:9kn for the third leg; repeatable", func(text string) error {
		leg, speed, one := strings.Cut(text, ":")
		if !one {
			speed = text
		}
		v, err := measure.ParseSpeed(speed)
		switch {
		case err != nil:
			return err
		case v <= 0:
			return fmt.Errorf("%s is not greater than zero", speed)
		case !one:
			s.Speed = v
			return nil
		}
		n, err := strconv.Atoi(leg)
		if err != nil || n < 1 {
			return fmt.Errorf("%q is not the number of a leg", leg)
		}
		if s.LegSpeeds == nil {
			s.LegSpeeds = map[int]float64{}
		}
		s.LegSpeeds[n] = v
		return nil
	})
	p.List = true
	return p
}

// GroundParams lists the parameters of safe heights.
func (s *Step) GroundParams() param.Table {
	return param.Table{
		param.Files("terrain", &s.TerrainPaths, "PATH", "give each leg a safe height over this terrain, a file or "+
			"folder `PATH`"),
		param.Length("corridor", &s.Corridor, "WIDTH", "the whole `WIDTH` of the corridor of each leg, such as 5nm"),
		param.Length("margin", &s.Margin, "HEIGHT", "the `HEIGHT` to keep above its highest ground, such as 1000ft"),
	}
}

// Open reads the tables of winds and currents, and opens the terrain. Times without a day are of that of departure.
func (s *Step) Open(zone *time.Location) (err error) {
	if zone == nil {
		zone = time.UTC
	}
	moment := func(text string) (int64, error) {
		at, err := instant.ParseMoment(text, zone, false)
		return at.UnixNano(), err
	}
	read := func(paths []string, to *Winds, comesFrom bool) error {
		for _, path := range paths {
			w, err := ReadWinds(path, comesFrom, clockOf(s.day(), zone, moment))
			if err != nil {
				return err
			}
			if s.Depart.IsZero() && w.by(func(r *WindRow) bool { return r.From != 0 }) {
				return param.Errorf("depart", "%s depends on the time, but no departure is given", path)
			}
			*to = append(*to, w...)
		}
		return nil
	}
	if err = read(s.WindPaths, &s.Winds, true); err == nil {
		err = read(s.CurrentPaths, &s.Currents, false)
	}
	if err != nil || len(s.TerrainPaths) == 0 {
		return err
	}
	if s.Terrain, err = terrain.Open(s.TerrainPaths); err == nil {
		s.Terrain.Between = terrain.Nearest // no sample is left out
	}
	return err
}

// Close closes what Open opened.
func (s *Step) Close() {
	if s.Terrain != nil {
		s.Terrain.Close()
	}
}

// departure reads a time, or a time of day of the day on which it is planned.
func (s *Step) departure(text string, zone *time.Location) (time.Time, error) {
	if at, err := time.Parse("15:04", text); err == nil {
		if zone == nil {
			zone = time.UTC
		}
		year, month, day := s.On.In(zone).Date()
		out, _ := instant.LocalDate(time.Date(year, month, day, at.Hour(), at.Minute(), 0, 0, time.UTC), zone)
		return out, nil
	}
	return instant.ParseMoment(text, zone, false)
}

// HazardParams lists the parameters of hazards alone.
func (s *Step) HazardParams() param.Table {
	return param.Table{
		param.File("hazards", &s.HazardsPath, "FILE", "the `FILE` of hazards: waypoints, lines and areas"),
		param.HazardsTake(&s.HazardsTake),
		param.Length("clear", &s.Clear, "DISTANCE", "the `DISTANCE` to keep from hazards, such as 60m"),
	}
}

// Check finds parameters that make no sense.
func (s *Step) Check() error {
	switch {
	case s.Speed == 0 && len(s.LegSpeeds) > 0:
		return param.Errorf("speed", "give the speed of the other legs as well")
	case s.Speed == 0 && (len(s.WindPaths)+len(s.CurrentPaths)+len(s.Waits) > 0 ||
		s.Pace.Climb.Rate+s.Pace.Descent.Rate > 0):
		return param.Errorf("speed", "winds, waiting and climbs need a speed")
	case s.BurnClimb.Amount > 0 && (s.Pace.Climb.Rate == 0 || s.Burn.Of != s.BurnClimb.Of):
		return param.Errorf("burn-climb", "give the rate of climb and the consumption in level flight as well, in the "+
			"same unit")
	case s.BurnDescent.Amount > 0 && (s.Pace.Descent.Rate == 0 || s.Burn.Of != s.BurnDescent.Of):
		return param.Errorf("burn-descent", "give the rate of descent and the consumption in level flight as well, in the "+
			"same unit")
	case (len(s.TerrainPaths) > 0 || s.Terrain != nil) && (s.Corridor == 0 || s.Margin == 0):
		return param.Errorf("terrain", "a safe height needs the width of the corridor and the margin above its ground")
	case len(s.TerrainPaths) == 0 && s.Terrain == nil && s.Corridor+s.Margin > 0:
		return param.Errorf("terrain", "of which terrain?")
	case len(s.Drifts) > 0 && s.Speed == 0:
		return param.Errorf("speed", "a wind or a current needs a speed")
	case s.Burn.Amount > 0 && s.Speed == 0:
		return param.Errorf("speed", "fuel consumption needs a speed")
	case (s.Aboard.Amount > 0 || s.Reserve.Amount > 0) && s.Burn.Amount == 0:
		return param.Errorf("burn", "the fuel consumption per hour is missing")
	case s.Reserve.Amount > 0 && s.Aboard.Amount == 0:
		return param.Errorf("fuel", "a reserve needs the fuel at the start")
	case s.BurnStay.Of != "" && s.BurnStay.Of != s.Burn.Of:
		return param.Errorf("burn-stay", "give the consumption when moving as well, in the same unit")
	case s.Aboard.Of != "" && s.Aboard.Of != s.Burn.Of, s.Reserve.Of != "" && s.Reserve.Of != s.Burn.Of:
		return param.Errorf("fuel", "give consumption, fuel and reserve in the same unit")
	case s.Clear > 0 && s.HazardsPath == "" && len(s.KeepOut) == 0:
		return param.Errorf("clear", "needs hazards, or closures to keep out of")
	case len(s.HazardsTake) > 0 && s.HazardsPath == "":
		return param.Errorf("hazards-take", "chooses among hazards, but no file of hazards is given")
	}
	return nil
}
