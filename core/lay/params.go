package lay

import (
	"fmt"
	"strings"

	"gyrolith/core/measure"
	"gyrolith/core/param"
)

// Params lists the parameters of the step, but for what is laid.
func (s *Step) Params() param.Table {
	return append(param.Table{
		param.Length("spacing", &s.Spacing, "DISTANCE", "the `DISTANCE` between lines, tracks or points, such as 200m"),
		param.Span("every", &s.Every, "SPAN", "points along recordings every `SPAN`, such as 10min, instead of a spacing"),
		param.Bearing("heading", &s.Heading, "the direction of the lines, or of the first course, in `DEGREES` true "+
			"(default: 0; of lines over areas the one that needs the fewest)"),
		param.Length("overshoot", &s.Overshoot, "DISTANCE", "extend lines beyond the edge of the area by this `DISTANCE`"),
		param.Length("turn", &s.Turn, "RADIUS", "join lines by turns that can be flown with this `RADIUS`"),
		s.positionParam("datum", "the `POSITION` to lay a pattern around (default: each waypoint of the files)"),
		param.Count("legs", &s.Legs, 1, 1000, "N", "the number of legs of an expanding square, `N` (default: 12)"),
		param.Func("size", "LENGTHxWIDTH", "the rectangle to search, `LENGTHxWIDTH`, such as 6nmx4nm; the length is "+
			"along the heading", func(text string) (err error) {
			length, width, ok := strings.Cut(strings.ToLower(text), "x")
			if !ok {
				return fmt.Errorf("%q is not a size: write 6nmx4nm", text)
			}
			if s.Length, err = measure.ParseLength(length); err == nil {
				s.Width, err = measure.ParseLength(width)
			}
			return err
		}),
		param.Length("width", &s.Width, "DISTANCE", "the `DISTANCE` that cross lines are long, or corridors wide"),
		param.Func("radius", "DISTANCES", "the radius of a sector search, or of rings, comma-separated `DISTANCES` such as "+
			"1nm,2nm", func(text string) error {
			for part := range strings.SplitSeq(text, ",") {
				v, err := measure.ParseLength(strings.TrimSpace(part))
				if err != nil {
					return err
				}
				s.Radii = append(s.Radii, v)
			}
			return nil
		}),
		param.Bearing("from", &s.From, "the bearing at which a sector begins, `DEGREES` true"),
		param.Bearing("to", &s.To, "the bearing at which a sector ends, `DEGREES` true"),
		param.Switch("left", &s.Left, "turn to the left"),
		param.Speed("speed", &s.Speed, "SPEED", "the search `SPEED`, for the drift and the time"),
		param.Func("drift", "TO/SPEED", "the drift of what is searched for, `TO/SPEED` in degrees true, such as 090/1.5kn",
			func(text string) error {
				d, err := measure.ParseDrift(text, false)
				s.Drift = &d
				return err
			}),
		param.Word("pattern", &s.Pattern, []Pattern{Square, Triangular, Random}, "PATTERN",
			"the `PATTERN` of sampling points: square, triangular or random (default: square)"),
		param.Count("count", &s.Count, 1, mostLaid, "N", "`N` random points per area"),
		param.Length("apart", &s.Apart, "DISTANCE", "the least `DISTANCE` between random points"),
		param.Count("seed", &s.Seed, 0, 1<<31-1, "N", "the seed of random points, `N`; the same seed gives the same points"),
		param.Text("name", &s.Name, "NAME",
			"the `NAME` of the result; of points a template such as 'km {along}', with {name} and "+
				"{number}"),
		param.Measures(func(system measure.System) { s.Measure = system }),
	}, s.driftParams()...)
}
