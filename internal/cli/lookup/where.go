package lookup

import (
	"context"
	"errors"
	"fmt"
	"math"
	"os"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/column"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/reference"
	"gyrolith/core/sun"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

// whereTask is the work of where.
type whereTask struct {
	*frame.Task
	systems  []string
	in       reference.Choice
	notation string
	sun      string // the day that is asked for
	choice   column.Choice[spot]
}

// WhereVerb is where.
var WhereVerb = frame.Verb{Name: "where", Stage: frame.LookAtIt,
	Brief: "a position in other notations and systems",
	Usage: "print positions in every notation and in coordinate systems, and when the sun rises and sets there",
	Args:  "POSITION-or-FILE…",
	Help: "A position is written in any notation: 47.6012 S 11.3021 E, 47°36.075'S 011°18.126'E, 4736S01118E,\n" +
		"32 south 672887 4725593, 32G PN 72887 25593. Several are separated by putting each in quotes. With --crs-in " +
		"it is an\n" +
		"easting and a northing. A file gives its waypoints, as a table.\n\n" +
		"--sun DAY tells when the sun rises and sets there on that day of --clock (its upper limb on a sea horizon),\n" +
		"and when the twilights begin and end (civil 6, nautical 12, astronomical 18 degrees below the horizon).",
	Examples: []string{"where 47.6012 S 11.3021 E", "where 47.6012 S 11.3021 E --crs 32732",
		"where 47.6012 S 11.3021 E --sun 2026-03-14 --clock +01:00",
		"where landings.gpx --sun 2026-03-14 --columns name,position,sunrise,sunset -o light.csv"},
	Tried:     []string{"position", "sunrise", "sunset"},
	Own:       []string{"notation", "crs", "crs-in"},
	Positions: true,
	Answers:   []any{WhereAnswer{}},
	Make:      makeWhere}

func makeWhere(a *frame.App, v *frame.Verb) frame.Made {
	w := &whereTask{Task: a.NewTask(v.Name), choice: column.Choice[spot]{List: spotColumns}}
	notation := param.Text("notation", &w.notation, "NOTATION",
		"only in this `NOTATION`: deg, min, sec, utm, mgrs or plan")
	for _, n := range geodesy.Notations {
		notation.Words = append(notation.Words, n.String())
	}
	systems := param.Texts("crs", &w.systems, "SYSTEM",
		"also in this coordinate `SYSTEM`: an EPSG number, utm, or a .prj file; repeatable")
	in := param.Text("crs-in", &w.in.Word, "SYSTEM", "the position is given as easting and northing in this `SYSTEM`")
	return frame.Made{
		Tables: []param.Table{append(param.Table{systems, in, notation,
			param.Text("sun", &w.sun, "DAY", "tell what the sun does there on this `DAY`, such as 2026-03-14, or today"),
			param.Clock(func(_ *param.Env, zone *time.Location) { w.Reading.Options.Zone = zone })},
			w.in.ShiftParams("the coordinate systems")...), w.choice.Params().In("Table"),
			w.Writing("write a table to this `FILE`, .csv, .xlsx or .json; - is standard output"),
			param.Table{param.Switch("json", &w.JSON, "print the result as JSON"),
				frame.Short("q", param.Switch("quiet", &w.Quiet, "print only errors"))}.In("Reporting").ForOneRun()},
		Run: w.run,
	}
}

// spot is a position that is asked for.
type spot struct {
	text     string // as it was written, or the name of its waypoint
	lat, lon float64
	systems  []*crs.System // that it is wanted in
	midnight time.Time     // with which the day begins; unset where none is asked for
	fields   []nav.Field
}

// spotColumns lists the columns of the table of positions.
var spotColumns = slices.Concat(column.List[spot]{
	column.Words("name", "name", func(s *spot, _ *column.Layout) string { return s.text }).Shortened(),
	column.Words("position", "position", func(s *spot, o *column.Layout) string {
		return o.Notation.Format(s.lat, s.lon)
	}),
	{Name: "lat", Title: "lat", Right: true, Data: true, Of: column.Degrees,
		Value: func(s *spot, _ *column.Layout) any { return s.lat }},
	{Name: "lon", Title: "lon", Right: true, Data: true, Of: column.Degrees,
		Value: func(s *spot, _ *column.Layout) any { return s.lon }},
	noted(geodesy.Minutes, true), noted(geodesy.SecondsOfArc, false), noted(geodesy.Grid, true),
	noted(geodesy.MilitaryGrid, false), noted(geodesy.FlightPlan, false),
	projected("easting", func(e, _ float64) float64 { return e }),
	projected("northing", func(_, n float64) float64 { return n }),
	{Name: "field:", Field: func(s *spot, key string) string { v, _ := nav.Get(s.fields, key); return v }},
}, column.Sun(func(s *spot) (lat, lon float64, at time.Time) { return s.lat, s.lon, s.midnight }))

// noted makes the column of a notation.
func noted(n geodesy.Notation, usual bool) column.Column[spot] {
	return column.Words(n.String(), n.String(), func(s *spot, _ *column.Layout) string { return n.Format(s.lat, s.lon) }).
		Only(usual, false)
}

// projected makes a column of a coordinate in the first of the systems.
func projected(name string, of func(e, n float64) float64) column.Column[spot] {
	return column.Column[spot]{Name: name, Title: name, Right: true, Data: true,
		Of: func(*column.Layout) column.Quantity { return column.Quantity{One: 1, Decimals: 3} },
		Value: func(s *spot, _ *column.Layout) any {
			if len(s.systems) > 0 {
				if e, n, ok := systemPlace(s.systems[0], *s); ok {
					return of(e, n)
				}
			}
			return math.NaN()
		}}
}

func (w *whereTask) run(ctx context.Context, l *frame.Line) error {
	if err := w.in.Open("crs-in"); err != nil {
		return whereFault("crs-in", err)
	}
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
	w.Notation = only
	midnight, err := w.midnight()
	if err != nil {
		return err
	}
	if err := w.TableOutput(l.Args); err != nil {
		return err
	}
	spots, ofFile, err := w.spots(ctx, l.Args)
	if err != nil {
		return err
	}
	said := []*crs.System{w.in.System}
	for i := range spots {
		s := &spots[i]
		s.midnight = midnight
		if s.systems = systems; utm {
			s.systems = append(slices.Clone(systems), crs.OfUTM(geodesy.ZoneOf(s.lat, s.lon)))
		}
		for _, system := range s.systems {
			if !slices.ContainsFunc(said, func(o *crs.System) bool { return o != nil && o.String() == system.String() }) {
				said = append(said, system)
			}
		}
	}
	layout := w.Layout()
	w.choice.Sort(spots, &layout)
	w.NoteAll(w.choice.Said(spots, &layout))
	answer := whereJSON(spots)
	switch {
	case w.JSON:
	case w.Output == "-" || w.Quiet && w.Output != "":
	case ofFile || w.choice.Given() || w.Output != "":
		frame.PrintColumns(w.Task, w.columns(false), w.choice.Given(), spots, nil)
	default:
		w.print(spots, only)
	}
	if err := frame.WriteTable(w.Task, "Positions", w.columns(true), spots, answer); err != nil {
		return err
	}
	if w.JSON {
		answer.Written = w.Written
		return w.PrintJSON(answer)
	}
	for _, s := range said {
		if s != nil && w.Output == "" && !w.Quiet {
			w.Out.Printf("%s: %s; %s\n", console.Show(s.String()), s.Axes(), console.Show(s.Accuracy()))
		}
	}
	return nil
}

// columns are those that were chosen, or the usual ones with what the sun does where that is asked.
func (w *whereTask) columns(data bool) []*column.Column[spot] {
	out := w.choice.Columns(data)
	if len(w.systems) > 0 && !data && !w.choice.Given() {
		out = append(slices.Clone(out), spotColumns.Named("easting", "northing")...)
	}
	if w.sun != "" && !w.choice.Given() {
		out = append(slices.Clone(out), spotColumns.Named("dawn", "sunrise", "sunset", "dusk", "day-length", "sun")...)
	}
	return out
}

// midnight reads the day that is asked for.
func (w *whereTask) midnight() (time.Time, error) {
	switch w.sun {
	case "":
		return time.Time{}, nil
	case "today":
		now := w.Now().In(w.Zone())
		return time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, w.Zone()), nil
	}
	at, err := time.ParseInLocation(time.DateOnly, w.sun, w.Zone())
	if err != nil {
		return at, frame.UsageError("where: --sun: %q is not a day: write 2026-03-14, or today", w.sun)
	}
	return at, nil
}

// spots gives the positions that are named, and those of the waypoints of files.
func (w *whereTask) spots(ctx context.Context, args []string) (out []spot, ofFile bool, err error) {
	var files, given []string
	for _, arg := range args {
		if info, err := os.Stat(arg); err == nil && !info.IsDir() {
			files = append(files, arg)
		} else {
			given = append(given, arg)
		}
	}
	if len(given) > 0 || len(files) == 0 {
		if out, err = parseSpots(given, w.in.System); err != nil {
			if len(given) == 1 && w.Kit.Formats.ByPath(given[0]) != nil {
				err = fmt.Errorf("%s: %w", given[0], os.ErrNotExist)
			}
			return nil, false, err
		}
	}
	if len(files) == 0 {
		return out, false, nil
	}
	data, path, err := w.Gather(ctx, files)
	if err != nil {
		return nil, true, err
	}
	found := false
	for _, p := range data.Data.AllWaypoints() {
		out = append(out, spot{text: p.Name, lat: p.Lat, lon: p.Lon, fields: p.Fields})
		found = true
	}
	if !found {
		return nil, true, frame.FaultIn(path, "has no waypoint and no route (it has %s)", words.Contents(data.Data))
	}
	return out, true, nil
}

// print shows positions to be read, one below the other.
func (w *whereTask) print(spots []spot, only geodesy.Notation) {
	layout := w.Layout()
	for i, s := range spots {
		if i > 0 {
			w.Out.Printf("\n")
		}
		if len(spots) > 1 {
			w.Out.Printf("%s\n", w.Out.Paint(console.Bold, console.Show(s.text)))
		}
		var rows [][]string
		add := func(name, text, note string) {
			rows = append(rows, []string{w.Out.Paint(console.Bold, name), text, note})
		}
		for _, n := range geodesy.Notations {
			if w.notation == "" || n == only {
				add(n.String(), n.Format(s.lat, s.lon), notationNote(n))
			}
		}
		for _, system := range s.systems {
			text, note := systemText(system, s)
			name := fmt.Sprint("EPSG:", system.Code)
			if system.Code == 0 {
				name = console.Show(system.Name)
			}
			add(name, text, note)
		}
		if !s.midnight.IsZero() {
			for _, c := range spotColumns.Named("astronomical-dawn", "nautical-dawn", "dawn", "sunrise", "sunset", "dusk",
				"nautical-dusk", "astronomical-dusk", "day-length", "sun") {
				if text := c.Text(&s, &layout); text != "" {
					add(c.Chosen(), text, sunNote(c.Name, s.midnight))
				}
			}
		}
		w.Out.Table("", []console.Column{{}, {}, {}}, rows)
	}
}

// dayOf writes a day and its clock.
func dayOf(midnight time.Time) string {
	return strings.TrimSuffix(midnight.Format("2006-01-02, UTC-07:00"), "+00:00")
}

// sunNote says of which day and clock what the sun does is.
func sunNote(name string, midnight time.Time) string {
	switch name {
	case "sunrise":
		return dayOf(midnight)
	case "sun":
		return "all day on " + dayOf(midnight)
	}
	return ""
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
	e, n, ok := systemPlace(s, p)
	if !ok {
		return "out of range", ""
	}
	if !s.Area.Contains(p.lat, p.lon) {
		note = "outside of " + s.Area.Name
	}
	if !s.Projected() {
		return fmt.Sprintf("%.9f %.9f", e, n), note
	}
	return fmt.Sprintf("%.3f %.3f", e, n), note
}

// systemPlace gives the coordinates of a position in a system.
func systemPlace(s *crs.System, p spot) (e, n float64, ok bool) {
	if e, n, ok = s.Forward(p.lat, p.lon); s.Southing() {
		e, n = -e, -n
	}
	return
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

// WhereAnswer is the answer as JSON has it.
type WhereAnswer struct {
	Positions []whereSpot `json:"positions"`
	Written   []string    `json:"written,omitempty"`
}

type whereSpot struct {
	Position  string            `json:"position"`
	Lat       float64           `json:"lat"`
	Lon       float64           `json:"lon"`
	Notations map[string]string `json:"notations"`
	Systems   []inSystem        `json:"systems,omitempty"`
	*whereSun
}

type inSystem struct {
	Code     int     `json:"epsg,omitempty"`
	Name     string  `json:"name"`
	East     float64 `json:"east"`
	North    float64 `json:"north"`
	Accuracy string  `json:"shift"`
}

type whereSun struct {
	Date             string  `json:"date"`
	AstronomicalDawn string  `json:"astronomical_dawn,omitempty"`
	NauticalDawn     string  `json:"nautical_dawn,omitempty"`
	Dawn             string  `json:"dawn,omitempty"`
	Sunrise          string  `json:"sunrise,omitempty"`
	Sunset           string  `json:"sunset,omitempty"`
	Dusk             string  `json:"dusk,omitempty"`
	NauticalDusk     string  `json:"nautical_dusk,omitempty"`
	AstronomicalDusk string  `json:"astronomical_dusk,omitempty"`
	DayLength        float64 `json:"day_length_s"`
	Sun              string  `json:"sun,omitempty"`
}

func sunOf(s *spot) *whereSun {
	d := sun.Of(s.lat, s.lon, s.midnight)
	at := func(t time.Time) string {
		if t.IsZero() {
			return ""
		}
		return t.Format(time.RFC3339)
	}
	return &whereSun{s.midnight.Format(time.DateOnly), at(d.StarsEnd), at(d.NauticalDawn), at(d.Dawn), at(d.Rise),
		at(d.Set), at(d.Dusk), at(d.NauticalDusk), at(d.StarsBegin), d.Length.Seconds(), d.Word()}
}

func whereJSON(spots []spot) *WhereAnswer {
	out := &WhereAnswer{Positions: []whereSpot{}}
	for i := range spots {
		s := &spots[i]
		x := whereSpot{Position: s.text, Lat: s.lat, Lon: s.lon, Notations: map[string]string{}}
		for _, n := range geodesy.Notations {
			x.Notations[n.String()] = n.Format(s.lat, s.lon)
		}
		for _, system := range s.systems {
			if e, n, ok := system.Forward(s.lat, s.lon); ok {
				x.Systems = append(x.Systems, inSystem{system.Code, system.Name, e, n, system.Accuracy()})
			}
		}
		if !s.midnight.IsZero() {
			x.whereSun = sunOf(s)
		}
		out.Positions = append(out.Positions, x)
	}
	return out
}
