package cli

import (
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/input"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
)

// topic is something that several verbs have in common, explained by itself.
type topic struct {
	name, title, text string
	show              func(*app) // behind the text; nil for nothing
}

func topicNames() (out []string) {
	for _, t := range topics {
		out = append(out, t.name)
	}
	return
}

func (a *app) topicHelp(t *topic) {
	a.out.Printf("%s\n\n%s\n", a.out.Paint(console.Bold, t.title), folded(strings.Trim(t.text, "\n"), helpWidth(a.out)))
	if t.show != nil {
		t.show(a)
	}
}

var topics []topic

func init() {
	topics = []topic{
		{"options", "Options that mean the same on every verb", `
An option and its value are separated by a blank or an equals sign. A value may hold commas, and a
negative number is a value. What stands in gyrolith.toml need not be typed ('gyrolith settings').`, (*app).sharedHelp},
		{"quantities", "Quantities", `
Every quantity carries its measure, without a blank:

  lengths   5m 2.5km 0.3nm 800ft 12mi
  heights   250m 800ft
  speeds    12kn 4km/h 2m/s 8mph
  times     90s 5min 2h 1h30min
  courses   090 or 090/15kn for a wind or a current

A bare m is a metre, so that 5m is refused where a time is due: write 5min. --measure metric,
nautical or flight chooses those of answers.`, nil},
		{"positions", "Positions", `
Wherever a position is asked for, any notation will do:

  47.6012 S 11.3021 E        degrees
  -47.6012 11.3021           latitude first
  47°36.072'S 011°18.126'E   degrees and minutes, also 47-36.072S
  47°36'04"S 011°18'08"E     degrees, minutes and seconds
  473604S0111808E            as in flight plans
  32 south 672887 4725593    UTM: zone, half, easting, northing
  32G PN 72887 25593         the military grid
  geo:-47.6012,11.3021       a URI (RFC 5870)

--notation deg, min, sec, utm, mgrs or plan chooses that of answers.`, nil},
		{"templates", "Templates", `
A name, group or description of dress may have values of the item in braces:

  {name} {group} {description} {comment} {symbol} {kind} {height} {date} {time} {length}
  {file} {folder} {author} {field:KEY} {number}, and {number:3} with three digits

The name of an output is one for each input with {name}, {folder} or {number}, and may tell of the
data with {date}, {time}, {item}, {group}, {length} and {author}: -o 'kml/{date}-{name}.kml'.`, nil},
		{"recipes", "Recipes", `
A recipe is a TOML file of steps and outputs, each a verb with its options as keys. 'gyrolith
recipes NAME' prints one that ships, and --as-recipe prints the step that does what was typed.

  [[step]]
  do = "clean"
  also = ["heights", "stops"]

  [[output]]
  file = "{folder}/{name}.gpx"

Steps are convert, clean, elevate, recast, dress and lay; outputs are convert (of which it need not
be said), stow, legs and draw. 'gyrolith run RECIPE FILES --into DIR' does it for each input, in
parallel, and again only for what is new or changed.`, nil},
		{"rules", "Rules of dress", `
A file of rules is TOML; the first rule that matches an item dresses it:

  [[rule]]
  match = "waypoints:*rock*"       # kind, and a pattern for name or group
  inside = "Nesting*"              # in an area of the data
  [rule.field]
  depth = "<2"
  [rule.set]
  symbol = "hazard"
  colour = "#c8102e"
  name = "R{number:2} {name}"

goes-on = true lets further rules dress the same item.`, nil},
		{"profiles", "Profiles of units", `
What a unit takes is a TOML file: its limits for each kind, the letters of its names, its symbols and
its folders. 'gyrolith units NAME' shows one, 'gyrolith units --new FILE' begins one of your own, and
every option that wants a unit takes the path of a profile.`, nil},
		{"exit", "Exit status", `
  0    done
  1    an input could not be used, or the output not be written
  2    wrong usage
  3    --strict refused a loss, a finding or a difference; nothing was written
  130  stopped by a signal; no partial files were left behind

Data go to standard output, everything that is said to standard error. Lines that begin with note:
tell what was left out or guessed, read: how something was taken, finding: what speaks against a leg.`, nil},
	}
}

// sharedHelp explains the options that many verbs share.
func (a *app) sharedHelp() {
	j := a.newJob("convert")
	end, _ := a.kit.NewEnd("convert")
	for _, t := range []param.Table{input.Choosing(&nav.Selection{}), j.reading.Params(),
		(&chain.End{Output: end.Output}).Output.Params(), end.Parting(), j.answering(), j.recipeTable()} {
		last := ""
		for i := range t {
			if t[i].Group != last {
				a.out.Printf("\n%s\n", a.out.Paint(console.Faint, orOptions(t[i].Group)))
				last = t[i].Group
			}
			printOption(a.out, &t[i])
		}
	}
}
