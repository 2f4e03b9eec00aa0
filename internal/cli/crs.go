package cli

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/measure"
)

// manySystems are listed; of more, one is asked for a further word.
const manySystems = 40

func (a *app) crs() *cli.Command {
	return &cli.Command{
		Name:      "crs",
		Usage:     "list and explain coordinate systems, by number or by words of their name, area or datum",
		ArgsUsage: "[WORD…]",
		Description: "Finds the systems that have all of the words; one alone is explained whole. The numbers, names, parameters and\n" +
			"datum shifts are those of the public EPSG registry.",
		Flags: []cli.Flag{
			&cli.BoolFlag{Name: "prj", Usage: "print the one system as the text of a .prj file"},
			&cli.BoolFlag{Name: "json", Usage: "as JSON"},
		},
		Action: func(_ context.Context, c *cli.Command) error {
			words := c.Args().Slice()
			if len(words) == 0 && !c.Bool("json") {
				return a.crsOverview()
			}
			var found []*crs.System
			if len(words) == 1 {
				if s, err := crs.Find(words[0]); err == nil {
					found = []*crs.System{s}
				}
			}
			if found == nil {
				found = crs.Search(words)
			}
			switch {
			case len(found) == 0:
				return &failure{statusInput, fmt.Errorf("crs: no coordinate system has %q in its number, name, area or datum; 'gyrolith crs' says what there is", strings.Join(words, " "))}
			case c.Bool("prj") && len(found) > 1:
				return usageError("crs: --prj wants one system, and %d have these words; give a number", len(found))
			case c.Bool("prj"):
				a.out.printf("%s\n", found[0].WKT())
				return nil
			case c.Bool("json"):
				return a.crsJSON(found)
			case len(found) == 1:
				a.explainSystem(found[0])
				return nil
			}
			var rows [][]string
			for _, s := range found[:min(len(found), manySystems)] {
				rows = append(rows, []string{a.out.paint(bold, fmt.Sprint(s.Code)), s.Name, s.Method.String(), oneLine(s.Area.Name, 44), shiftWord(s)})
			}
			a.out.table("", []column{{title: "EPSG", right: true}, {title: "name"}, {title: "projection"}, {title: "area"}, {title: "shift"}}, rows)
			if n := len(found) - manySystems; n > 0 {
				a.out.printf("… and %d more: add a word, such as a country or utm\n", n)
			}
			return nil
		},
	}
}

// shiftWord is how good the way to WGS 84 is, in short.
func shiftWord(s *crs.System) string {
	switch x := s.Shift; {
	case x == nil:
		return "not known"
	case x.Name == "":
		return "none needed"
	case x.Accuracy < 0:
		return "unstated"
	default:
		return fmt.Sprintf("%v m", x.Accuracy)
	}
}

func (a *app) crsOverview() error {
	projected, geographic, unknown := 0, 0, 0
	crs.All(func(s *crs.System) bool {
		if s.Projected() {
			projected++
		} else {
			geographic++
		}
		if s.Shift == nil {
			unknown++
		}
		return true
	})
	a.out.printf("%s projected systems and %s of latitude and longitude, from the %s\n", measure.Count(projected), measure.Count(geographic), crs.Source())
	a.out.printf("%d of them have no known shift to WGS 84 and want --shift or --shift-grid\n\n", unknown)
	rows := [][]string{
		{"4326", "WGS 84, as in all GPX and KML"},
		{"32601 … 32660", "UTM zones 1 to 60 north on WGS 84; 'utm' alone takes the zone of the data"},
		{"32701 … 32760", "UTM zones 1 to 60 south"},
		{"258zz", "UTM zones 28 to 38 on ETRS89, for Europe"},
		{"3857", "the Mercator projection of web maps"},
		{"5041, 5042", "the polar grids north and south"},
	}
	a.out.table("", []column{{title: "EPSG", right: true}, {title: "system"}}, rows)
	a.out.printf("\nA country, a datum or a name finds the others: gyrolith crs etrs89 utm; a number explains one: gyrolith crs 32732.\n")
	a.out.printf("A .prj file may stand in place of a number: --crs survey.prj.\n")
	return nil
}

// explainSystem says all that is known of a system.
func (a *app) explainSystem(s *crs.System) {
	g := s.Geographic
	a.out.printf("%s\n", a.out.paint(bold, show(s.String())))
	rows := [][]string{
		{"projection", s.Explain()},
		{"coordinates", s.Axes()},
		{"datum", fmt.Sprintf("%s (%s), ellipsoid %s: %s m, 1/%v", g.Datum, g.Name, g.Ellipsoid, strconv.FormatFloat(g.SemiMajor, 'f', -1, 64), g.InverseFlattening)},
		{"to WGS 84", s.Accuracy()},
	}
	if x := s.Shift; x != nil && x.Values != [7]float64{} {
		v := x.Values
		rows = append(rows, []string{"", fmt.Sprintf("%v %v %v m, %v %v %v ″, %v·10⁻⁶ (position vector)", v[0], v[1], v[2], v[3], v[4], v[5], v[6])})
	}
	if s.Area.Name != "" {
		rows = append(rows, []string{"made for", s.Area.Name})
	}
	rows = append(rows, []string{"between", geodesy.Degrees.Format(s.Area.South, s.Area.West) + " and " + geodesy.Degrees.Format(s.Area.North, s.Area.East)})
	if s.Southing() {
		rows = append(rows, []string{"note", "it counts westings and southings: tables have them so, layers have eastings and northings"})
	}
	a.out.table("", []column{{}, {}}, rows)
}

// systemJSON is a system in answers.
type systemJSON struct {
	Code     int        `json:"epsg"`
	Name     string     `json:"name"`
	Method   string     `json:"projection"`
	Datum    string     `json:"datum"`
	Measure  float64    `json:"measure"`
	Area     string     `json:"area,omitempty"`
	Bounds   [4]float64 `json:"bounds"`
	Shift    string     `json:"shift"`
	Accuracy *float64   `json:"accuracy_m,omitempty"`
}

func (a *app) crsJSON(found []*crs.System) error {
	out := []systemJSON{}
	for _, s := range found {
		j := systemJSON{s.Code, s.Name, s.Method.String(), s.Geographic.Datum, s.Measure, s.Area.Name, [4]float64{s.Area.West, s.Area.South, s.Area.East, s.Area.North}, s.Accuracy(), nil}
		if s.Shift != nil && s.Shift.Accuracy >= 0 {
			j.Accuracy = &s.Shift.Accuracy
		}
		out = append(out, j)
	}
	return a.printJSON(map[string]any{"systems": out})
}

func (a *app) where() *cli.Command {
	return &cli.Command{
		Name:      "where",
		Usage:     "write a position in every notation, and in coordinate systems",
		ArgsUsage: "POSITION…",
		Description: "A position is written in any notation: 47.6012 S 11.3021 E, 47°36.075'S 011°18.126'E, 4736S01118E,\n" +
			"32 south 672887 4725593, 32G PN 72887 25593. Several are parted by putting each in quotes. With --crs-in it is an easting\n" +
			"and a northing.",
		Flags: []cli.Flag{
			&cli.StringSliceFlag{Name: "crs", Usage: "also in this coordinate `SYSTEM`: an EPSG number, utm, or the path of a .prj file; may be repeated"},
			&cli.StringFlag{Name: "crs-in", Usage: "the position is an easting and a northing of this `SYSTEM`"},
			&cli.StringFlag{Name: "notation", Usage: "only in this `NOTATION`: deg, min, sec, utm, mgrs or plan"},
			&cli.StringFlag{Name: "shift", Usage: "the datum shift to WGS 84 of --crs-in or --crs: `X,Y,Z` in metres, or seven numbers, or none"},
			&cli.StringFlag{Name: "shift-grid", Usage: "the NTv2 `FILE` with the datum shifts of --crs-in or --crs"},
			&cli.BoolFlag{Name: "json", Usage: "as JSON"},
		},
		Action: a.runWhere,
	}
}

// spot is a position that is asked for.
type spot struct {
	text     string
	lat, lon float64
	systems  []*crs.System // that it is wanted in
}

func (a *app) runWhere(_ context.Context, c *cli.Command) error {
	shift, err := a.shiftOf(c)
	if err != nil {
		return err
	}
	var in *crs.System
	if word := c.String("crs-in"); word != "" {
		if in, err = a.system("where", "crs-in", word, shift); err != nil {
			return err
		}
	}
	var systems []*crs.System
	utm := false // each position in its own zone
	for _, word := range c.StringSlice("crs") {
		if utm = utm || strings.EqualFold(word, "utm"); strings.EqualFold(word, "utm") {
			continue
		}
		s, err := a.system("where", "crs", word, shift)
		if err != nil {
			return err
		}
		systems = append(systems, s)
	}
	only, err := geodesy.ParseNotation(c.String("notation"))
	if err != nil {
		return usageError("where: --notation: %v", err)
	}
	spots, err := parseSpots(c.Args().Slice(), in)
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
	if c.Bool("json") {
		return a.whereJSON(spots)
	}
	for i, s := range spots {
		if i > 0 {
			a.out.printf("\n")
		}
		if len(spots) > 1 {
			a.out.printf("%s\n", a.out.paint(bold, show(s.text)))
		}
		var rows [][]string
		for _, n := range geodesy.Notations {
			if c.String("notation") == "" || n == only {
				rows = append(rows, []string{a.out.paint(bold, n.String()), n.Format(s.lat, s.lon), notationNote(n)})
			}
		}
		for _, system := range s.systems {
			text, note := systemText(system, s)
			name := fmt.Sprint("EPSG:", system.Code)
			if system.Code == 0 {
				name = show(system.Name)
			}
			rows = append(rows, []string{a.out.paint(bold, name), text, note})
		}
		a.out.table("", []column{{}, {}, {}}, rows)
	}
	for _, s := range said {
		if s != nil {
			a.out.printf("%s: %s; %s\n", show(s.String()), s.Axes(), show(s.Accuracy()))
		}
	}
	return nil
}

func notationNote(n geodesy.Notation) string {
	switch n {
	case geodesy.MilitaryGrid:
		return "the square of a metre that it lies in"
	case geodesy.FlightPlan:
		return "to whole seconds of arc"
	}
	return ""
}

// systemText writes a position in a system: metres to the millimetre, degrees to nine places.
func systemText(s *crs.System, p spot) (text, note string) {
	e, n, ok := s.Forward(p.lat, p.lon)
	if !ok {
		return "out of its reach", ""
	}
	if s.Southing() {
		e, n = -e, -n
	}
	if !s.Area.Holds(p.lat, p.lon) {
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
		return nil, usageError("where: name a position, such as 47.6012 S 11.3021 E; 'gyrolith where --help' shows the notations")
	}
	parse := func(text string) (spot, error) {
		if in == nil || !in.Projected() {
			lat, lon, err := geodesy.ParsePosition(text)
			if err == nil && in != nil {
				var ok bool
				if lat, lon, ok = in.Inverse(lon/in.Measure, lat/in.Measure); !ok {
					err = fmt.Errorf("is beyond the reach of %v", in)
				}
			}
			return spot{text: text, lat: lat, lon: lon}, err
		}
		f := strings.FieldsFunc(strings.ReplaceAll(text, "−", "-"), func(r rune) bool { return r == ' ' || r == ',' || r == ';' || r == '/' })
		if len(f) != 2 {
			return spot{}, errors.New("is no easting and northing: write 672887 4725593")
		}
		e, noEast := strconv.ParseFloat(f[0], 64)
		n, noNorth := strconv.ParseFloat(f[1], 64)
		if noEast != nil || noNorth != nil || math.IsNaN(e+n) || math.IsInf(e+n, 0) {
			return spot{}, errors.New("is no easting and northing: write 672887 4725593")
		}
		if in.Southing() {
			e, n = -e, -n
		}
		lat, lon, ok := in.Inverse(e, n)
		if !ok {
			return spot{}, fmt.Errorf("is beyond the reach of %v", in)
		}
		return spot{text: text, lat: lat, lon: lon}, nil
	}
	whole := strings.Join(args, " ")
	s, err := parse(whole)
	if err == nil {
		return []spot{s}, nil
	}
	if len(args) == 1 {
		return nil, &failure{statusInput, fmt.Errorf("where: %q %w", whole, err)}
	}
	var out []spot
	for _, arg := range args {
		s, each := parse(arg)
		if each != nil {
			if errors.Is(each, geodesy.ErrNoPosition) && !errors.Is(err, geodesy.ErrNoPosition) {
				return nil, &failure{statusInput, fmt.Errorf("where: %q: %w", whole, err)}
			}
			return nil, &failure{statusInput, fmt.Errorf("where: %q %w", arg, each)}
		}
		out = append(out, s)
	}
	return out, nil
}

func (a *app) whereJSON(spots []spot) error {
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
	return a.printJSON(map[string]any{"positions": out})
}
