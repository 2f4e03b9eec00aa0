package cli

import (
	"context"
	"fmt"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/dress"
	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

const dressing = "Dressing"

const dressHelp = `A rule says what it matches and what that is given. In a file of rules:

  [[rule]]
  name = "rocks"                       # what it is called in answers
  match = "waypoints:*rock*"           # KIND[:GLOB], of the name or the group
  field = { depth = "<3" }             # the value of a field: a pattern, or < > <= >=
  inside = "Nesting*"                  # inside an area of the data
  above = "100m"                       # and below: the height
  icon = "rock"                        # what the source's icon shows, or its address
  coloured = "#d01c1c"                 # the colour that the source gave
  goes-on = true                       # later rules are asked as well
  [rule.set]
  symbol = "rock"                      # a word of 'gyrolith symbols'
  colour = "#c8102e"
  width = 3                            # of a line, in pixels
  name = "R{number:2}"                 # a template
  count-by = "{group}"                 # {number} begins anew for each
  group = "Hazards/{group}"
  description = "{name}, {field:depth} m"
  fields = { danger = "high" }

All that a rule names must be so. The first rule that matches an item dresses it. A
template has {name}, {group}, {description}, {comment}, {symbol}, {kind}, {height},
{number} and {field:KEY}; {number:3} has three digits. --match with --symbol, --colour,
--width, --rename and --regroup is one rule on the command line, asked before the file's.`

func (a *app) dress() *cli.Command {
	text := func(name, usage string) cli.Flag {
		return &cli.StringFlag{Name: name, Category: dressing, Usage: usage}
	}
	return &cli.Command{
		Name:        "dress",
		Usage:       "give items symbols, colours, names and groups by rule",
		ArgsUsage:   "FILES… --rules RULES.toml -o FILE",
		Description: dressHelp,
		Flags: flags([]cli.Flag{
			text("rules", "the `FILE` of rules"),
			text("match", "the items of one rule on the line, `KIND[:GLOB]` such as waypoints:'*rock*'"),
			text("symbol", "the symbol `WORD` that they are given; 'gyrolith symbols' lists them"),
			text("colour", "the `COLOUR` that they are given, such as '#c8102e'"),
			text("width", "the width of their lines, in `PIXELS`"),
			text("rename", "their new name, a `TEMPLATE` such as 'R{number:2}'"),
			text("regroup", "their new group, a `TEMPLATE` such as 'Hazards/{group}'"),
		}, writeFlags(), readFlags(), answerFlags()),
		Action: a.runDress,
	}
}

// dressStep understands the options of dress.
func (a *app) dressStep(c *cli.Command) (*dress.Step, error) {
	s := &dress.Step{}
	fail := func(name string, err error) error { return usageError("dress: --%s: %v", name, err) }
	var line dress.Rule
	template := func(name string, to **dress.Template) error {
		if !c.IsSet(name) {
			return nil
		}
		t, err := dress.ParseTemplate(c.String(name))
		*to = &t
		if err != nil {
			return fail(name, err)
		}
		return nil
	}
	if c.IsSet("symbol") {
		line.Set.Symbol = &dress.Word{}
		if err := line.Set.Symbol.UnmarshalText([]byte(c.String("symbol"))); err != nil {
			return nil, fail("symbol", err)
		}
	}
	if c.IsSet("colour") {
		line.Set.Colour = &dress.Colour{}
		if err := line.Set.Colour.UnmarshalText([]byte(c.String("colour"))); err != nil {
			return nil, fail("colour", err)
		}
	}
	if c.IsSet("width") {
		v, _, ok := nav.ParseDecimal([]byte(c.String("width")))
		if !ok {
			return nil, fail("width", fmt.Errorf("%q is not a number of pixels", c.String("width")))
		}
		w := dress.Width(v)
		line.Set.Width = &w
	}
	if err := template("rename", &line.Set.Name); err != nil {
		return nil, err
	}
	if err := template("regroup", &line.Set.Group); err != nil {
		return nil, err
	}
	if text := c.String("match"); text != "" {
		if err := line.Match.UnmarshalText([]byte(text)); err != nil {
			return nil, fail("match", err)
		}
		line.Name = "of --match"
		if err := line.Check(); err != nil {
			return nil, usageError("dress: the rule of --match: %v; --symbol, --colour, --width, --rename and --regroup say what", err)
		}
		s.Rules = append(s.Rules, line)
	} else {
		for _, name := range []string{"symbol", "colour", "width", "rename", "regroup"} {
			if c.IsSet(name) {
				return nil, usageError("dress: --%s says what is set, and --match must say on which items, such as --match waypoints:'*rock*'", name)
			}
		}
	}
	if path := c.String("rules"); path != "" {
		text, err := a.readText(path)
		if err != nil {
			return nil, err
		}
		rules, err := dress.Parse(path, text)
		if err != nil {
			return nil, usageError("%v", err)
		}
		s.Rules = append(s.Rules, rules...)
	}
	if len(s.Rules) == 0 {
		return nil, usageError("dress: say by which rules: --rules FILE, or --match KIND:GLOB with what to set; 'gyrolith dress --help' shows both")
	}
	return s, nil
}

func (a *app) runDress(_ context.Context, c *cli.Command) error {
	o, err := a.options(c)
	if err != nil {
		return err
	}
	step, err := a.dressStep(c)
	if err != nil {
		return err
	}
	data, path, err := a.gathered(c, o)
	if err != nil {
		return err
	}
	result := step.Apply(data)
	idle := 0
	for _, r := range result.Outcomes {
		if r.Dressed == 0 {
			idle++
		}
	}
	a.printOutcomes(result, o)
	if o.strict && idle > 0 {
		return strictError("%s: %s matched nothing, refused by --strict; nothing was written", path, plural(idle, "rule", "rules"))
	}
	return a.write(data, result.Ledger, o)
}

// printOutcomes says of each rule how many items it dressed, and of those that dressed none why.
func (a *app) printOutcomes(r *dress.Result, o *options) {
	if o.quiet || o.json {
		return
	}
	var rows [][]string
	for _, x := range r.Outcomes {
		count, note := fmt.Sprint(x.Dressed), ""
		if x.Dressed == 0 {
			count = a.err.paint(yellow, "none")
			switch {
			case x.Nearest != "":
				note = "nothing matches; the nearest is " + oneLine(x.Nearest, 60)
			case x.Taken > 0:
				note = fmt.Sprintf("%s matching, dressed by rules before it", plural(x.Taken, "item", "items"))
			case x.Named > 0:
				note = fmt.Sprintf("%s matching by name, but not by its other conditions", plural(x.Named, "item", "items"))
			default:
				note = "nothing matches"
			}
		}
		rows = append(rows, []string{oneLine(x.Rule, 30), count, note})
	}
	a.err.table("", []column{{title: "rule"}, {title: "dressed", right: true}, {title: ""}}, rows)
}

func (a *app) symbols() *cli.Command {
	return &cli.Command{
		Name:      "symbols",
		Usage:     "list the symbol words, what they show and how they are spelled",
		ArgsUsage: "[WORD]",
		Description: "The words are neutral: each format and unit has its own way to show them. GPX has them as <sym>, KML in\n" +
			"Gyrolith's extension, GeoJSON in the member gyrolith. Icons of planning files are recognised by the words in\n" +
			"their names. WORD lists those that have it in their word, their meaning or their icons.",
		Flags: []cli.Flag{&cli.BoolFlag{Name: "json", Usage: "the list as JSON on standard output"}},
		Action: func(_ context.Context, c *cli.Command) error {
			word := strings.ToLower(c.Args().First())
			list := []symbol.Symbol{}
			for _, s := range symbol.All {
				if strings.Contains(s.Word+" "+s.Shows+" "+strings.Join(s.Icons, " ")+" "+string(s.Realm), word) {
					list = append(list, s)
				}
			}
			if len(list) == 0 {
				return usageError("symbols: no symbol has to do with %q; 'gyrolith symbols' lists all %d", word, len(symbol.All))
			}
			if c.Bool("json") {
				type row struct {
					Word  string       `json:"word"`
					Realm symbol.Realm `json:"realm"`
					Shows string       `json:"shows"`
					GPX   string       `json:"gpx"`
					Icons []string     `json:"icons"`
				}
				var rows []row
				for _, s := range list {
					rows = append(rows, row{s.Word, s.Realm, s.Shows, s.Word, append([]string{}, s.Icons...)})
				}
				return a.printJSON(rows)
			}
			var rows [][]string
			for i, s := range list {
				realm := string(s.Realm)
				if i > 0 && list[i-1].Realm == s.Realm {
					realm = ""
				}
				rows = append(rows, []string{a.out.paint(faint, realm), a.out.paint(cyan, s.Word), s.Shows, strings.Join(s.Icons, ", ")})
			}
			a.out.table("", []column{{title: "realm"}, {title: "word, and <sym> in GPX"}, {title: "shows"}, {title: "icons of KML with these words, and its own"}}, rows)
			return nil
		},
	}
}
