package lookup

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/measure"
	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// manySystems are listed; of more, one is asked for a further word.
const manySystems = 40

// CrsVerb is crs.
var CrsVerb = frame.Verb{Name: "crs", Stage: frame.Know,
	Brief: "coordinate systems",
	Usage: "find and explain coordinate systems, by number or by words of their name, area or datum",
	Args:  "[WORD…]",
	Help: "Finds the systems that match all of the words; a single match is explained in full. Numbers, names, " +
		"parameters and\n" +
		"datum shifts are those of the public EPSG registry.",
	Examples:  []string{"crs 32732", "crs krovak"},
	Tried:     []string{"projection", "epsg"},
	Completes: frame.NoWords,
	Answers:   []any{systemsAnswer{}},
	Make:      makeCrs}

func makeCrs(a *frame.App, v *frame.Verb) frame.Made {
	prj, asJSON := false, false
	return frame.Made{Tables: []param.Table{{
		param.Switch("prj", &prj, "print the one system as the text of a .prj file"),
		param.Switch("json", &asJSON, "print the result as JSON"),
	}}, Run: func(_ context.Context, l *frame.Line) error {
		words := l.Args
		if len(words) == 0 && !asJSON {
			return crsOverview(a)
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
			return fmt.Errorf("crs: no coordinate system matches %q by number, name, area or datum; 'gyrolith crs' gives "+
				"an overview", strings.Join(words, " "))
		case prj && len(found) > 1:
			return frame.UsageError("crs: --prj needs one system, and %d match these words; give a number", len(found))
		case prj:
			a.Out.Printf("%s\n", found[0].WKT())
			return nil
		case asJSON:
			return crsJSON(a, found)
		case len(found) == 1:
			explainSystem(a, found[0])
			return nil
		}
		var rows [][]string
		for _, s := range found {
			rows = append(rows, []string{a.Out.Paint(console.Bold, fmt.Sprint(s.Code)), s.Name, s.Method.String(),
				console.OneLine(s.Area.Name, 44), shiftWord(s)})
		}
		a.Out.List("", []console.Column{{Title: "EPSG", Right: true}, {Title: "name"}, {Title: "projection"},
			{Title: "area"}, {Title: "shift"}}, rows, manySystems, ": add a word, such as a country or utm")
		return nil
	}}
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

func crsOverview(a *frame.App) error {
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
	a.Out.Printf("%s projected systems and %s of latitude and longitude, from the %s\n", measure.Count(projected),
		measure.Count(geographic), crs.Source())
	a.Out.Printf("%d of them have no known shift to WGS 84 and need --shift or --shift-grid\n\n", unknown)
	rows := [][]string{
		{"4326", "WGS 84, as in all GPX and KML"},
		{"32601 … 32660", "UTM zones 1 to 60 north on WGS 84; 'utm' alone chooses the zone of the data"},
		{"32701 … 32760", "UTM zones 1 to 60 south"},
		{"258zz", "UTM zones 28 to 38 on ETRS89, for Europe"},
		{"3857", "the Mercator projection of web maps"},
		{"5041, 5042", "the polar grids north and south"},
	}
	a.Out.Table("", []console.Column{{Title: "EPSG", Right: true}, {Title: "system"}}, rows)
	a.Out.Printf("\nSearch the others by country, datum or name: gyrolith crs etrs89 utm; a number explains one: " +
		"gyrolith crs 32732.\n")
	a.Out.Printf("A .prj file can be given in place of a number: --crs survey.prj.\n")
	return nil
}

// explainSystem says all that is known of a system.
func explainSystem(a *frame.App, s *crs.System) {
	g := s.Geographic
	a.Out.Printf("%s\n", a.Out.Paint(console.Bold, console.Show(s.String())))
	rows := [][]string{
		{"projection", s.Explain()},
		{"coordinates", s.Axes()},
		{"datum", fmt.Sprintf("%s (%s), ellipsoid %s: %s m, 1/%v", g.Datum, g.Name, g.Ellipsoid,
			strconv.FormatFloat(g.SemiMajor, 'f', -1, 64), g.InverseFlattening)},
		{"to WGS 84", s.Accuracy()},
	}
	if x := s.Shift; x != nil && x.Values != [7]float64{} {
		v := x.Values
		rows = append(rows, []string{"", fmt.Sprintf("%v %v %v m, %v %v %v ″, %v·10⁻⁶ (position vector)", v[0], v[1], v[2],
			v[3], v[4], v[5], v[6])})
	}
	if s.Area.Name != "" {
		rows = append(rows, []string{"made for", s.Area.Name})
	}
	rows = append(rows, []string{"between", geodesy.Degrees.Format(s.Area.South, s.Area.West) + " and " +
		geodesy.Degrees.Format(s.Area.North, s.Area.East)})
	if s.Southing() {
		rows = append(rows, []string{"note", "it counts westings and southings: tables have them so; layers have eastings " +
			"and northings"})
	}
	a.Out.Table("", []console.Column{{}, {}}, rows)
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

// systemsAnswer is what crs answers as JSON.
type systemsAnswer struct {
	Systems []systemJSON `json:"systems"`
}

func crsJSON(a *frame.App, found []*crs.System) error {
	out := []systemJSON{}
	for _, s := range found {
		j := systemJSON{s.Code, s.Name, s.Method.String(), s.Geographic.Datum, s.Measure, s.Area.Name,
			[4]float64{s.Area.West, s.Area.South, s.Area.East, s.Area.North}, s.Accuracy(), nil}
		if s.Shift != nil && s.Shift.Accuracy >= 0 {
			j.Accuracy = &s.Shift.Accuracy
		}
		out = append(out, j)
	}
	return a.PrintJSON(systemsAnswer{out})
}
