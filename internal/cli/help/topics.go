package help

import (
	"slices"
	"strings"

	"gyrolith/core/choose"
	"gyrolith/core/dress"
	"gyrolith/core/input"
	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// topic is something that several verbs have in common, explained by itself.
type topic struct {
	name, title, text string
	show              func(*frame.App) // behind the text; nil for nothing
}

func topicNames() (out []string) {
	for _, t := range topics {
		out = append(out, t.name)
	}
	return
}

func topicHelp(a *frame.App, t *topic) {
	a.Out.Printf("%s\n\n%s\n", a.Out.Paint(console.Bold, t.title), folded(strings.Trim(t.text, "\n"), helpWidth(a.Out)))
	if t.show != nil {
		t.show(a)
	}
}

var topics []topic

func init() {
	topics = []topic{
		{"options", "Options that mean the same on every verb", `
An option and its value are separated by a blank or an equals sign. Values can contain commas and
can be negative numbers. Defaults can be kept in gyrolith.toml ('gyrolith settings').`, sharedHelp},
		{"quantities", "Quantities", `
Every quantity has a unit, without a blank in between:

  lengths   5m 2.5km 0.3nm 800ft 12mi
  heights   250m 800ft
  speeds    12kn 4km/h 2m/s 8mph
  times     90s 5min 2h 1h30min
  courses   090 or 090/15kn for a wind or a current

A plain m means metres, so 5m is refused where a time is expected: write 5min. --measure metric,
nautical or flight chooses the units of the output.`, nil},
		{"positions", "Positions", `
Positions can be given in any of these notations:

  47.6012 S 11.3021 E        degrees
  -47.6012 11.3021           latitude first
  47°36.072'S 011°18.126'E   degrees and minutes, also 47-36.072S
  47°36'04"S 011°18'08"E     degrees, minutes and seconds
  473604S0111808E            as in flight plans
  32 south 672887 4725593    UTM: zone, half, easting, northing
  32G PN 72887 25593         the military grid
  geo:-47.6012,11.3021       a URI (RFC 5870)

--notation deg, min, sec, utm, mgrs or plan chooses the notation of the output.`, nil},
		{"columns", "Columns of tables", columnsText, showColumns},
		{"templates", "Templates", `
Names, groups, descriptions and fields set by dress can contain values of the item in braces:

  ` + templateWords() + `

{number} counts the items of the rule, {number:3} with three digits. {area} names the area that holds the item, of
the data or of --areas.

An output name with {name}, {folder} or {number} makes one output per input; it can also use values of the
data: {date}, {time}, {item}, {group}, {length} and {author}, as in -o 'kml/{date}-{name}.kml'.

Behind a bar stands what is done to a value, as in {name|trim|upper}:
`, showFunctions},
		{"recipes", "Recipes", `
A recipe is a TOML file of steps and outputs, each a verb with its options as keys. 'gyrolith
recipes NAME' prints a built-in one, and --as-recipe prints the step that does the same as a command.

  [[step]]
  do = "clean"
  also = ["heights", "stops"]

  [[output]]
  file = "{folder}/{name}.gpx"

Steps are convert, clean, elevate, recast, dress, lay and overlay; outputs are convert (the default, which need not
be named), stow, legs and draw. 'gyrolith run RECIPE FILES --into DIR' runs it on each input, in
parallel; a second run does only what is new or changed.`, nil},
		{"rules", "Rules of dress", `
A rules file is TOML; the first rule that matches an item applies to it:

  [[rule]]
  match = "waypoints:*rock*"       # kind, and a pattern for name or group
  inside = "Nesting*"              # in an area of the data
  [rule.field]
  depth = "<2"
  [rule.set]
  symbol = "hazard"
  colour = "#c8102e"
  name = "R{number:2} {name}"

With goes-on = true, later rules apply to the same item as well.`, nil},
		{"profiles", "Profiles of units", `
A profile is a TOML file that describes what a unit can show: its limits for each kind, the characters of its names,
	its symbols and
its folders. 'gyrolith units NAME' shows one, 'gyrolith units --new NAME' starts one of your own, and
every option that takes a unit also takes the path of a profile.`, nil},
		{"exit", "Exit status", `
  0    done
  1    an input could not be used, or an output could not be written
  2    wrong usage
  3    --strict refused a loss, a finding or a difference; nothing was written
  4    done, but the unit shows, or the card holds, something else than was meant
  5    nothing is there: nothing taken, an empty folder or result; nothing was written
  130  stopped by a signal; no partial files were left behind

Data go to standard output, all messages to standard error. Lines starting with note:
report what was left out or assumed, read: how a table was read, finding: problems of a leg.`, nil},
	}
}

// templateWords lists the values that templates have, a few a line.
func templateWords() string {
	var b strings.Builder
	width := 0
	for _, w := range append(slices.Clone(dress.TemplateWords), "field:KEY") {
		if width += len(w) + 3; width > 74 {
			b.WriteString("\n  ")
			width = len(w) + 3
		}
		b.WriteString("{" + w + "} ")
	}
	return strings.TrimRight(b.String(), " ")
}

// sharedHelp explains the options that many verbs share.
func sharedHelp(a *frame.App) {
	for _, t := range sharedTables(a) {
		last := ""
		for i := range t {
			if t[i].Group != last {
				a.Out.Printf("\n%s\n", a.Out.Paint(console.Faint, orOptions(t[i].Group)))
				last = t[i].Group
			}
			printOption(a.Out, &t[i])
		}
	}
}

func sharedTables(a *frame.App) []param.Table {
	j := a.NewTask("convert")
	end, _ := a.Kit.NewEnd("convert")
	return []param.Table{input.Choosing(&choose.Selection{}), j.Reading.Params(), end.Output.Params(), end.Parting(),
		j.Answering(), j.RecipeTable()}
}
