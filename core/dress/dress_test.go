package dress

import (
	"context"
	"slices"
	"strings"
	"testing"

	"gyrolith/core/decimal"
	"gyrolith/core/nav"
)

func data() *nav.Dataset {
	d := &nav.Dataset{}
	add := func(name, group, icon string, lat, lon, height float64, fields ...nav.Field) {
		w := nav.Waypoint{Item: nav.Item{Name: name, Group: group, Fields: fields,
			Style: nav.Style{Icon: icon, Colour: nav.RGB(208, 28, 28)}}, Point: nav.At(lat, lon)}
		w.SetHeight(height, decimal.PrecisionOf(0), nav.MeanSeaLevel)
		d.Waypoints = append(d.Waypoints, w)
	}
	add("Rock 1", "North", "files/rock.png", -47.55, 11.35, 0, nav.Field{Key: "depth", Value: "1.5"})
	add("Rock 2", "South", "files/rock.png", -47.65, 11.35, 0, nav.Field{Key: "depth", Value: "12"})
	add("Grey Mare", "South", "", -47.64, 11.34, 0)
	add("Cairn Hill", "", "", -47.5905, 11.312, 260)
	d.Areas = []nav.Area{{Item: nav.Item{Name: "Nesting, west",
		Style: nav.Style{Fill: nav.Colour{R: 1, G: 2, B: 3, A: 85, Set: true}}},
		Outline: []nav.Point{nav.At(-47.6, 11.3), nav.At(-47.6, 11.32), nav.At(-47.58, 11.32), nav.At(-47.58, 11.3)}}}
	return d
}

func dressed(t *testing.T, rules string) (*nav.Dataset, *Result) {
	t.Helper()
	list, err := Parse("rules.toml", []byte(rules))
	if err != nil {
		t.Fatal(err)
	}
	d := data()
	r, err := (&Step{Rules: list}).Dress(context.Background(), d)
	if err != nil {
		t.Fatal(err)
	}
	return d, r
}

func TestConditions(t *testing.T) {
	for condition, want := range map[string]string{
		`match = "waypoints:*rock*"`:                        "Rock 1, Rock 2",
		`match = "waypoints:south"`:                         "Rock 2, Grey Mare",
		`match = "all"`:                                     "Rock 1, Rock 2, Grey Mare, Cairn Hill, Nesting, west",
		`field = { depth = "<3" }`:                          "Rock 1",
		`field = { depth = ">=12" }`:                        "Rock 2",
		`field = { depth = "1*" }`:                          "Rock 1, Rock 2",
		`inside = "nesting*"`:                               "Cairn Hill",
		`above = "800ft"`:                                   "Cairn Hill",
		"below = \"100m\"\nmatch = \"waypoints\"":           "Rock 1, Rock 2, Grey Mare",
		`icon = "*/rock.png"`:                               "Rock 1, Rock 2",
		`icon = "rock"`:                                     "Rock 1, Rock 2",
		`coloured = "#d01c1c"`:                              "Rock 1, Rock 2, Grey Mare, Cairn Hill",
		`coloured = "#010203"`:                              "Nesting, west",
		"match = \"waypoints:Rock*\"\nfield.depth = \"<3\"": "Rock 1",
	} {
		d, _ := dressed(t, "[[rule]]\n"+condition+"\nset.fields = { hit = \"yes\" }\n")
		var got []string
		d.Each(func(_ nav.Kind, item *nav.Item) {
			if v, _ := nav.Get(item.Fields, "hit"); v == "yes" {
				got = append(got, item.Name)
			}
		})
		if strings.Join(got, ", ") != want {
			t.Errorf("%s: %v, want %s", condition, got, want)
		}
	}
}

func TestWhatIsSet(t *testing.T) {
	d, r := dressed(t, `
[[rule]]
name = "rocks"
match = "waypoints:Rock*"
[rule.set]
symbol = "rock-awash"
colour = "#0000ff"
width = 2.5
group = "Hazards/{group}"
description = "{kind} {name}, {field:depth} m, {height} m high"
name = "R{number:2}"

[[rule]]
match = "areas"
set.colour = "#c8102e"
`)
	w := d.Waypoints[1]
	if w.Name != "R02" || w.Group != "Hazards/South" || w.Desc != "waypoint Rock 2, 12 m, 0 m high" ||
		w.Style.Symbol != "rock-awash" || w.Style.Colour != nav.RGB(0, 0, 255) || w.Style.Width != 2.5 {
		t.Errorf("%+v", w.Item)
	}
	if w.Style.Icon != "" {
		t.Error("the icon goes on showing a plain rock")
	}
	if x := d.Waypoints[2]; x.Name != "Grey Mare" || x.Group != "South" {
		t.Errorf("what does not match is changed: %+v", x)
	}
	if f := d.Areas[0].Style.Fill; f != (nav.Colour{R: 0xc8, G: 0x10, B: 0x2e, A: 85, Set: true}) {
		t.Errorf("the fill is %v", f)
	}
	if !slices.ContainsFunc(r.Ledger, func(e nav.Entry) bool {
		return e.What == "name" && e.Old == "Rock 2" &&
			e.New == "R02"
	}) || r.Ledger.Losses() != 0 {
		t.Errorf("%v", r.Ledger)
	}
	same, _ := dressed(t, "[[rule]]\nmatch = \"waypoints:Rock*\"\nset.symbol = \"Rock\"")
	if w := same.Waypoints[0]; w.Style.Symbol != "rock" || w.Style.Icon == "" {
		t.Errorf("an icon that shows the symbol is gone: %+v", w.Style)
	}
}

func TestOrderOfRules(t *testing.T) {
	rules := `
[[rule]]
name = "first"
match = "waypoints:Rock 1"
%s
set.symbol = "rock"
[[rule]]
name = "second"
match = "waypoints:Rock*"
set = { symbol = "hazard", name = "{group} {number}", count-by = "{group}" }
`
	d, r := dressed(t, strings.Replace(rules, "%s", "", 1))
	if d.Waypoints[0].Style.Symbol != "rock" || d.Waypoints[0].Name != "Rock 1" || d.Waypoints[1].Name != "South 1" ||
		r.Outcomes[1].Taken != 1 {
		t.Errorf("%+v %+v", d.Waypoints[:2], r.Outcomes)
	}
	d, _ = dressed(t, strings.Replace(rules, "%s", "goes-on = true", 1))
	if d.Waypoints[0].Style.Symbol != "hazard" || d.Waypoints[0].Name != "North 1" || d.Waypoints[1].Name != "South 1" {
		t.Errorf("%+v", d.Waypoints[:2])
	}
}

func TestRulesThatMatchNothing(t *testing.T) {
	_, r := dressed(t, `
[[rule]]
match = "waypoints:*rok*"
set.symbol = "rock"
[[rule]]
match = "waypoints:Rock*"
above = "50m"
set.symbol = "rock"
[[rule]]
match = "areas:Zzzzz"
set.colour = "#ffffff"
`)
	if o := r.Outcomes[0]; o.Dressed != 0 || o.Nearest != `waypoint "Rock 1"` {
		t.Errorf("%+v", o)
	}
	if o := r.Outcomes[1]; o.Named != 2 || o.Nearest != "" {
		t.Errorf("%+v", o)
	}
	if o := r.Outcomes[2]; o.Nearest != "" {
		t.Errorf("%+v", o)
	}
}

// Each fault is told with its place.
func TestFaults(t *testing.T) {
	for rules, want := range map[string]string{
		"[[rule]]\nmatch = \"waypoints\"\nset.symbol = " +
			"\"hazrd\"": `rules.toml:3:14: there is no symbol "hazrd"; did you mean "hazard"?`,
		"[[rule]]\nmatch = \"waypionts:a\"\nset.symbol = \"rock\"": `rules.toml:2:9: "waypionts" is not a kind`,
		"[[rule]]\nmatch = \"all:[a\"\nset.symbol = \"rock\"":      `rules.toml:2:9: the pattern "[a"`,
		"[[rule]]\nmatch = \"all\"\nset.colour = \"reddish\"":      `rules.toml:3:14: "reddish" is not a colour`,
		"[[rule]]\nmatch = \"all\"\nset.width = 0":                 `rules.toml:1: rule 1: 0 is not a valid line width`,
		"[[rule]]\nmatch = \"all\"\nset.name = \"{nmae}\"":         `rules.toml:3:12: templates have no {nmae}`,
		"[[rule]]\nmatch = \"all\"\nset.name = " +
			"\"{name\"": `rules.toml:3:12: the template "{name" has a { without a }`,
		"[[rule]]\nabove = \"5\"\nset.name = \"x\"":                  `rules.toml:2:9: "5" has no unit`,
		"[[rule]]\nfield = { depth = \"< deep\" }\nset.name = \"x\"": `rules.toml:2:19: < must be followed by a number`,
		"[[rule]]\nmatch = \"all\"\nset.colr = \"#ffffff\"":          `rules.toml:3:1: a rule has no key "colr"`,
		"[[rule]]\nmatch = \"all\"":                                  `rules.toml:1: rule 1: it sets nothing`,
		"# a comment\n\n[[rule]]\nname = \"all\"\nset.symbol = " +
			"\"rock\"": `rules.toml:3: rule all: it has no condition`,
		"[[rule]\n": "rules.toml:1:7",
		"":          "contains no rule",
	} {
		_, err := Parse("rules.toml", []byte(rules))
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %q", rules, err, want)
		}
	}
}

func FuzzParse(f *testing.F) {
	f.Add([]byte("[[rule]]\nmatch = \"waypoints:*rock*\"\nfield = { depth = \"<3\" }\nset = { symbol = \"rock\", name = " +
		"\"R{number:2} {field:depth}\", width = 2 }"))
	f.Fuzz(func(t *testing.T, text []byte) {
		if rules, err := Parse("r", text); err == nil {
			(&Step{Rules: rules}).Dress(context.Background(), data())
		}
	})
}

// What an item is inside of goes by the names that areas came in with, whatever rules before have made of them, and
// nothing is inside itself.
func TestInsideGoesByTheNamesBefore(t *testing.T) {
	list, err := Parse("rules.toml", []byte(`
[[rule]]
name = "all"
match = "areas:Nesting*"
goes-on = true
[rule.set]
name = "Closed"

[[rule]]
name = "within"
inside = "nesting*"
[rule.set]
width = 5
`))
	if err != nil {
		t.Fatal(err)
	}
	d := data()
	ring := func(half float64) (out []nav.Point) {
		for _, at := range [][2]float64{{-1, -1}, {-1, 1}, {1, 1}, {1, -1}} {
			out = append(out, nav.At(-47.59+half*at[0], 11.31+half*at[1]))
		}
		return
	}
	d.Areas = append(d.Areas, nav.Area{Item: nav.Item{Name: "Pond"}, Outline: ring(0.002)},
		nav.Area{Item: nav.Item{Name: "Bay"}, Outline: ring(0.02)})
	d.Tracks = []nav.Track{{Item: nav.Item{Name: "In"}, Segments: []nav.Segment{{Points: ring(0.004)}}},
		{Item: nav.Item{Name: "Out and in"}, Segments: []nav.Segment{{Points: append(ring(0.004), ring(0.03)...)}}}}
	if _, err := (&Step{Rules: list}).Dress(context.Background(), d); err != nil {
		t.Fatal(err)
	}
	var got []string
	d.Each(func(_ nav.Kind, item *nav.Item) {
		if item.Style.Width == 5 {
			got = append(got, item.Name)
		}
	})
	if want := []string{"Cairn Hill", "In", "Pond"}; !slices.Equal(got, want) {
		t.Errorf("inside are %q, not %q", got, want)
	}
}

// What lies above the ceiling of an area is not inside of it.
func TestInsideBetweenFloorAndCeiling(t *testing.T) {
	d := &nav.Dataset{Areas: []nav.Area{{Item: nav.Item{Name: "Closure",
		Fields: []nav.Field{{Key: nav.FieldCeiling, Value: "1000ft"}}},
		Outline: []nav.Point{nav.At(-48, 11), nav.At(-48, 12), nav.At(-47, 12), nav.At(-47, 11)}}}}
	for _, h := range []float64{100, 900, 0} {
		w := nav.Waypoint{Point: nav.At(-47.5, 11.5)}
		if h > 0 {
			w.SetHeight(h, 0, nav.MeanSeaLevel)
		}
		d.Waypoints = append(d.Waypoints, w)
	}
	rules, err := Parse("r.toml", []byte("[[rule]]\nmatch = \"waypoints\"\ninside = \"Closure\"\nset.name = \"in\"\n"))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := (&Step{Rules: rules}).Dress(context.Background(), d); err != nil {
		t.Fatal(err)
	}
	for i, want := range []string{"in", "", "in"} {
		if d.Waypoints[i].Name != want {
			t.Errorf("waypoint %d is %q, want %q", i, d.Waypoints[i].Name, want)
		}
	}
}
