package recast

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
)

// Params lists the parameters of the step.
func (s *Step) Params() param.Table {
	var turned param.Table
	for _, from := range []nav.Kind{nav.Tracks, nav.Routes, nav.Waypoints, nav.Areas} {
		p := param.Func(from.String()+"-to", "KIND", "turn "+from.String()+" into this `KIND`", func(text string) error {
			to, ok := nav.ParseKind(text)
			if !ok {
				return fmt.Errorf("%q is not a kind of item: use waypoints, routes, tracks or areas", text)
			}
			if to == from {
				return fmt.Errorf("%s are %s already", from, to)
			}
			s.To[from] = &to
			return nil
		})
		for _, to := range nav.Kinds {
			if to != from {
				p.Words = append(p.Words, to.String())
			}
		}
		turned = append(turned, p)
	}
	turned = append(turned,
		param.Switch("keep-source", &s.KeepSource, "keep the originals as well"),
		param.Count("thin-to", &s.MaxPoints, 2, 1<<31-1, "N", "limit routes made from tracks to `N` points"),
		param.Length("thin-within", &s.Within, "DISTANCE", "keep routes made from tracks within this `DISTANCE` of them"),
		param.Length("lend-within", &s.LendWithin, "DISTANCE",
			"waypoints within this `DISTANCE` of a line name its points (default: 25m)"),
		param.Length("closing-within", &s.ClosingWithin, "DISTANCE",
			"lines with ends within this `DISTANCE` can become areas (default: 10m)"),
		param.Word("order", &s.Order, Orders, "ORDER",
			"the `ORDER` in which waypoints are connected: file, name, time or near, a short way through all (default: file); "+
				"file also joins lines in the order of the files"),
		param.Text("first", &s.First, "NAME",
			"the waypoint `NAME` at which the order near starts; a waypoint or a position at "+
				"which closed lines are to begin"),
		param.Text("last", &s.Last, "NAME", "the waypoint `NAME` at which it ends; the same as the first for a round trip"),
		param.Text("name", &s.Name, "NAME",
			"make one line of all waypoints, or of joined lines, with this `NAME` (default: one per group)"),
		param.Length("step", &s.Every, "DISTANCE",
			"add points to tracks made from routes, every `DISTANCE` along the great circle"))
	lines := param.Table{
		param.Switch("reverse", &s.Reverse, "reverse routes and tracks; their times are removed"),
		param.Switch("join", &s.Join, "join segments and tracks, and routes, end to end, nearest ends first"),
		param.Switch("reversing", &s.Reversing, "join, and turn lines with times around, too, where that joins them better; "+
			"their times are removed"),
		param.Length("join-within", &s.JoinWithin, "DISTANCE", "join only ends within this `DISTANCE`"),
		param.Moment("depart", &s.Start, "TIME", "the start `TIME` of lines without times"),
		param.Speed("speed", &s.Speed, "SPEED", "the `SPEED` on level ground, such as 4km/h, from which lines without times "+
			"get them"),
	}
	lines = append(append(lines, s.Pace.Params()...),
		param.SignedSpan("shift-time", &s.Shift, "SPAN", "shift all times by this `SPAN`, such as 2h or -90s"),
		s.splitParam())
	return append(turned.In("Recasting"), lines.In("Lines")...)
}

// splitParam is where lines are split: at any number of waypoints, or by one rule.
func (s *Step) splitParam() param.Param {
	p := param.FuncIn("split-at", "PLACE", "split lines at this `PLACE`, see above; waypoints are repeatable",
		func(env *param.Env, text string) error {
			c, err := s.parseCut(text, env.Zone)
			switch {
			case err != nil:
				return err
			case s.SplitAt == nil:
				s.SplitAt = c
			case len(c.Waypoints) > 0 && len(s.SplitAt.Waypoints) > 0:
				s.SplitAt.Waypoints = append(s.SplitAt.Waypoints, c.Waypoints...)
			default:
				return errors.New("only waypoint:NAME can be given more than once")
			}
			return nil
		})
	p.List = true
	return p
}

// parseCut reads where lines are split.
func (s *Step) parseCut(text string, zone *time.Location) (*Cut, error) {
	if name, ok := strings.CutPrefix(text, "waypoint:"); ok && name != "" {
		return &Cut{Waypoints: []string{name}}, nil
	}
	if name, ok := strings.CutPrefix(text, "unit:"); ok && s.PointsOf != nil {
		points, err := s.PointsOf(name)
		return &Cut{Points: points, Unit: name}, err
	}
	if n, ok := strings.CutSuffix(strings.TrimSpace(text), "points"); ok {
		most, err := strconv.Atoi(strings.TrimSpace(n))
		if err != nil || most < 2 {
			return nil, fmt.Errorf("%q is not a number of points from 2 on", text)
		}
		return &Cut{Points: [4]int{most, most, most, most}}, nil
	}
	if v, err := measure.ParseLength(text); err == nil && v > 0 {
		return &Cut{Every: v}, nil
	}
	span, err := measure.ParseDuration(text)
	if err == nil && span > 0 {
		return &Cut{Span: span}, nil
	}
	if _, ok := errors.AsType[*measure.Ambiguous](err); ok {
		return nil, err
	}
	if at, err := instant.ParseMoment(text, zone, false); err == nil {
		return &Cut{At: at}, nil
	}
	if zone == nil {
		zone = time.UTC
	}
	if text == "day" {
		return &Cut{Daily: true, Zone: zone}, nil
	}
	if t, err := time.Parse("15:04", text); err == nil {
		return &Cut{
			Daily: true,
			OfDay: time.Duration(t.Hour())*time.Hour + time.Duration(t.Minute())*time.Minute,
			Zone:  zone,
		}, nil
	}
	return nil, fmt.Errorf("%q is not a place to split at: use 5km, 30min, 06:30, day, 2026-03-14T06:30Z, waypoint:NAME, "+
		"200points or unit:NAME",
		text)
}

// Apply recasts the data and reports it.
func (s *Step) Apply(ctx context.Context, d *nav.Dataset) (*nav.Report, error) {
	ledger, err := s.Recast(ctx, d)
	if err != nil {
		return nil, err
	}
	return &nav.Report{Ledger: ledger}, nil
}
