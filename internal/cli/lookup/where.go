package lookup

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/param"
	"gyrolith/core/reference"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// whereTask is the work of where.
type whereTask struct {
	*frame.App
	systems  []string
	in       reference.Choice
	notation string
	json     bool
}

// WhereVerb is where.
var WhereVerb = frame.Verb{Name: "where", Stage: frame.LookAtIt,
	Brief: "a position in other notations and systems",
	Usage: "print a position in every notation and in coordinate systems",
	Args:  "POSITION…",
	Help: "A position is written in any notation: 47.6012 S 11.3021 E, 47°36.075'S 011°18.126'E, 4736S01118E,\n" +
		"32 south 672887 4725593, 32G PN 72887 25593. Several are separated by putting each in quotes. With --crs-in " +
		"it is an\n" +
		"easting and a northing.",
	Examples:  []string{"where 47.6012 S 11.3021 E", "where 47.6012 S 11.3021 E --crs 32732"},
	Tried:     []string{"position"},
	Own:       []string{"notation", "crs", "crs-in"},
	Positions: true,
	Completes: frame.NoWords,
	Make:      makeWhere}

func makeWhere(a *frame.App, v *frame.Verb) frame.Made {
	w := &whereTask{App: a}
	notation := param.Text("notation", &w.notation, "NOTATION",
		"only in this `NOTATION`: deg, min, sec, utm, mgrs or plan")
	for _, n := range geodesy.Notations {
		notation.Words = append(notation.Words, n.String())
	}
	systems := param.Texts("crs", &w.systems, "SYSTEM",
		"also in this coordinate `SYSTEM`: an EPSG number, utm, or a .prj file; repeatable")
	in := param.Text("crs-in", &w.in.Word, "SYSTEM", "the position is given as easting and northing in this `SYSTEM`")
	return frame.Made{
		Tables: []param.Table{append(param.Table{systems, in, notation, param.Switch("json", &w.json, "print the result "+
			"as JSON")},
			w.in.ShiftParams("the coordinate systems")...)},
		Run: w.run,
	}
}

// spot is a position that is asked for.
type spot struct {
	text     string
	lat, lon float64
	systems  []*crs.System // that it is wanted in
}

func (w *whereTask) run(_ context.Context, l *frame.Line) error {
	if err := w.in.Open("crs-in"); err != nil {
		return whereFault("crs-in", err)
	}
	in := w.in.System
	var systems []*crs.System
	utm := false // each position in its own zone
	for _, word := range w.systems {
		if strings.EqualFold(word, "utm") {
			utm = true
			continue
		}
		s, err := reference.Find(word, w.in.Shift)
		if err != nil {
			return whereFault("crs", err)
		}
		systems = append(systems, s)
	}
	only, err := geodesy.ParseNotation(w.notation)
	if err != nil {
		return frame.UsageError("where: --notation: %v", err)
	}
	spots, err := parseSpots(l.Args, in)
	if err != nil {
		return err
	}
	said := []*crs.System{in}
	for i := range spots {
		s := &spots[i]
		if s.systems = systems; utm {
			s.systems = append(slices.Clone(systems), crs.OfUTM(geodesy.ZoneOf(s.lat, s.lon)))
		}
		for _, system := range s.systems {
			if !slices.ContainsFunc(said, func(o *crs.System) bool { return o != nil && o.String() == system.String() }) {
				said = append(said, system)
			}
		}
	}
	if w.json {
		return whereJSON(w.App, spots)
	}
	for i, s := range spots {
		if i > 0 {
			w.App.Out.Printf("\n")
		}
		if len(spots) > 1 {
			w.App.Out.Printf("%s\n", w.App.Out.Paint(console.Bold, console.Show(s.text)))
		}
		var rows [][]string
		for _, n := range geodesy.Notations {
			if w.notation == "" || n == only {
				rows = append(
					rows,
					[]string{w.App.Out.Paint(console.Bold, n.String()), n.Format(s.lat, s.lon), notationNote(n)},
				)
			}
		}
		for _, system := range s.systems {
			text, note := systemText(system, s)
			name := fmt.Sprint("EPSG:", system.Code)
			if system.Code == 0 {
				name = console.Show(system.Name)
			}
			rows = append(rows, []string{w.App.Out.Paint(console.Bold, name), text, note})
		}
		w.App.Out.Table("", []console.Column{{}, {}, {}}, rows)
	}
	for _, s := range said {
		if s != nil {
			w.App.Out.Printf("%s: %s; %s\n", console.Show(s.String()), s.Axes(), console.Show(s.Accuracy()))
		}
	}
	return nil
}

// whereFault words an error of a coordinate system.
func whereFault(option string, err error) error {
	if e, ok := errors.AsType[*reference.NotAFile](err); ok {
		return frame.UsageError("where: --%s: %w", option, e.Err)
	}
	return err
}

func notationNote(n geodesy.Notation) string {
	switch n {
	case geodesy.MilitaryGrid:
		return "the 1 m square that contains it"
	case geodesy.FlightPlan:
		return "to whole arc seconds"
	}
	return ""
}

// systemText writes a position in a system: metres to the millimetre, degrees to nine places.
func systemText(s *crs.System, p spot) (text, note string) {
	e, n, ok := s.Forward(p.lat, p.lon)
	if !ok {
		return "out of range", ""
	}
	if s.Southing() {
		e, n = -e, -n
	}
	if !s.Area.Contains(p.lat, p.lon) {
		note = "outside of " + s.Area.Name
	}
	if !s.Projected() {
		return fmt.Sprintf("%.9f %.9f", e, n), note
	}
	return fmt.Sprintf("%.3f %.3f", e, n), note
}

// parseSpots reads positions: all words together one, or each word one.
func parseSpots(args []string, in *crs.System) ([]spot, error) {
	if len(args) == 0 {
		return nil, frame.UsageError(
			"where: give a position, such as 47.6012 S 11.3021 E; 'gyrolith where --help' shows the " +
				"notations",
		)
	}
	parse := func(text string) (spot, error) {
		if in == nil || !in.Projected() {
			lat, lon, err := geodesy.ParsePosition(text)
			if err == nil && in != nil {
				var ok bool
				if lat, lon, ok = in.Inverse(lon/in.Measure, lat/in.Measure); !ok {
					err = fmt.Errorf("is out of range for %v", in)
				}
			}
			return spot{text: text, lat: lat, lon: lon}, err
		}
		if lat, lon, ok, err := in.GridReference(text); ok {
			return spot{text: text, lat: lat, lon: lon}, err
		}
		f := strings.FieldsFunc(strings.ReplaceAll(text, "−", "-"), func(r rune) bool {
			return r == ' ' || r == ',' ||
				r == ';' || r == '/'
		})
		if len(f) != 2 {
			return spot{}, errors.New("is not an easting and a northing: write 672887 4725593")
		}
		e, noEast := strconv.ParseFloat(f[0], 64)
		n, noNorth := strconv.ParseFloat(f[1], 64)
		if noEast != nil || noNorth != nil || math.IsNaN(e+n) || math.IsInf(e+n, 0) {
			return spot{}, errors.New("is not an easting and a northing: write 672887 4725593")
		}
		if in.Southing() {
			e, n = -e, -n
		}
		lat, lon, ok := in.Inverse(e, n)
		if !ok {
			return spot{}, fmt.Errorf("is out of range for %v", in)
		}
		return spot{text: text, lat: lat, lon: lon}, nil
	}
	whole := strings.Join(args, " ")
	s, err := parse(whole)
	if err == nil {
		return []spot{s}, nil
	}
	if len(args) == 1 {
		return nil, fmt.Errorf("where: %q %w", whole, err)
	}
	var out []spot
	for _, arg := range args {
		s, each := parse(arg)
		if each != nil {
			if errors.Is(each, geodesy.ErrNoPosition) && !errors.Is(err, geodesy.ErrNoPosition) {
				return nil, fmt.Errorf("where: %q: %w", whole, err)
			}
			return nil, fmt.Errorf("where: %q %w", arg, each)
		}
		out = append(out, s)
	}
	return out, nil
}

func whereJSON(a *frame.App, spots []spot) error {
	type inSystem struct {
		Code     int     `json:"epsg"`
		Name     string  `json:"name"`
		East     float64 `json:"east"`
		North    float64 `json:"north"`
		Accuracy string  `json:"shift"`
	}
	type answer struct {
		Position  string            `json:"position"`
		Lat       float64           `json:"lat"`
		Lon       float64           `json:"lon"`
		Notations map[string]string `json:"notations"`
		Systems   []inSystem        `json:"systems,omitempty"`
	}
	var out []answer
	for _, s := range spots {
		x := answer{Position: s.text, Lat: s.lat, Lon: s.lon, Notations: map[string]string{}}
		for _, n := range geodesy.Notations {
			x.Notations[n.String()] = n.Format(s.lat, s.lon)
		}
		for _, system := range s.systems {
			if e, n, ok := system.Forward(s.lat, s.lon); ok {
				x.Systems = append(x.Systems, inSystem{system.Code, system.Name, e, n, system.Accuracy()})
			}
		}
		out = append(out, x)
	}
	return a.PrintJSON(map[string]any{"positions": out})
}
