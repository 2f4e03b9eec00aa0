package cli

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"gyrolith/demo"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// scene is one step of the demonstration: what it shows, and the command line that a user would type. Some are there to
// be refused.
type scene struct {
	says, line string
	refused    bool
}

var scenes = []scene{
	{"The office has drawn up the season's plan. What is in the file?", "look planning.kmz", false},
	{"A walking party has come back with a recording. What is in it, and what is wrong with it?", "look walk.gpx", false},
	{"Remove the receiver's faults, and keep a record of what was removed.",
		"clean walk.gpx --also heights,stops -o clean.gpx --rejects removed.kml", false},
	{"Is everything else unchanged?", "compare walk.gpx clean.gpx", false},
	{"The barometer dropped out for a while: fill in the missing heights from terrain.",
		"elevate clean.gpx --terrain terrain -o walk-with-heights.gpx", false},
	{"The plan's paths have no heights at all; a void in the terrain is filled from its edges.",
		"elevate planning.kmz --take tracks --terrain terrain --fill-voids -o paths.gpx", false},
	{"Take only what is needed: the landing places, as GPX.",
		"convert planning.kmz --take waypoints:Landings -o landings.gpx", false},
	{"Combine the plan and the recording, but only what lies around Cairn Hill.",
		"convert planning.kmz walk.gpx --inside 11.30,-47.60,11.35,-47.58 -o hill.kml", false},
	{"Areas become closed tracks, for programs and units that don't support areas.",
		"recast planning.kmz --take areas --areas-to tracks -o outlines.gpx", false},
	{"Put the landings in an order that makes a short round trip.",
		"recast planning.kmz --take waypoints:Landings --waypoints-to routes --order near --name Round -o round.gpx", false},
	{"Set symbols, colours and groups by rules, not one by one.",
		"dress planning.kmz --rules rules.toml -o dressed.kmz", false},
	{"The launch's route was pasted from an e-mail. Does it keep clear of the rock heads?",
		"legs briefing.txt --hazards planning.kmz --hazards-take waypoints --clear 150m --speed 8kn --depart " +
			"2026-03-14T05:40Z --current 090/1.5kn --measure nautical", false},
	{"A route that does.", "legs briefing.txt --hazards planning.kmz --hazards-take waypoints --clear 150m --measure " +
		"nautical --detour run.gpx", false},
	{"The aircraft's counting legs must stay out of the nesting closures, or above them.",
		"legs counting.txt --hazards planning.kmz --hazards-take areas --keep-out areas:Nesting* --clear 200m --speed 95kn " +
			"--wind 240/15kn --depart 2026-03-14T09:00Z --measure flight --detour counting.gpx", false},
	{"The navigation log for the aircraft: winds aloft, fuel for the climb, and safe heights.",
		"legs counting.gpx --speed 95kn --winds winds.csv --depart 2026-03-14T09:00Z --climb 500ft/min,75kn --burn 32l/h " +
			"--burn-climb 45l/h --terrain terrain --corridor 1km --margin 300ft --measure flight --columns " +
			"leg,to,leg-distance,course-magnetic,to-height,safe-height,wind,heading-magnetic,ground-speed,leg-time,arrive," +
			"fuel-used",
		false},
	{"Survey lines over the closures, for when the birds have left, with turns that the aircraft can fly.",
		"lay lines --over planning.kmz --take areas:Nesting* --spacing 100m --overshoot 50m --turn 80m --speed 95kn " +
			"-o survey.gpx", false},
	{"How large are the closures, each and together?", "look planning.kmz --take areas", false},
	{"What of the walk lay inside of them? It is cut at the very edges.",
		"overlay intersection clean.gpx --with planning.kmz:Nesting* -o in-closures.gpx", false},
	{"The water within a quarter of a mile of a rock head, and where those circles run together.",
		"overlay buffer planning.kmz --take waypoints:Rock* --distance 0.25nm --measure nautical -o around-rocks.kml", false},
	{"", "overlay union around-rocks.kml --measure nautical -o rocky.kml", false},
	{"And a search pattern for the sound, in case somebody is missing.",
		"lay expanding-square --datum 47.57S011.30E --spacing 0.3nm --legs 10 --speed 8kn --measure nautical " +
			"-o search.gpx", false},
	{"What that covers, in four parts of one size, for four boats.",
		"overlay buffer search.gpx --distance 0.22nm --measure nautical -o searched.kml", false},
	{"", "overlay divide searched.kml --parts 4 --measure nautical -o quarters.kml", false},
	{"An existing file is never overwritten without being asked.", "convert planning.kmz -o landings.gpx", true},
	{"The office sends its list of stations. How would it be read?", "look stations.csv", false},
	{"Every row near the isles becomes a waypoint; rows with faults are reported by number.",
		"convert stations.csv --inside 11,-48,12,-47 -o stations.gpx", false},
	{"The cleaned walk becomes a GIS layer in UTM, with every point and its speed.",
		"convert walk-with-heights.gpx --crs utm --track-points -o walk-layer.gpkg", false},
	{"And what is that position in other notations?", "where 47.6012 S 11.3021 E --crs 32732", false},
	{"Which units can cards be written for?", "units", false},
	{"The walking party's handheld: names are shortened, closures become outlines, and everything is read back.",
		"stow dressed.kmz --unit ridge --card card", false},
	{"And what will the party see on the hill? The stand-in unit shows it.", "boot --unit ridge --card card", false},
	{"The launch's plotter: hazards and landings, the route that keeps clear, and the closures as zones.",
		"stow dressed.kmz run.gpx --take waypoints --take routes --take areas --unit keel --card keel-card", false},
	{"What does the plotter show?", "boot --unit keel --card keel-card", false},
	{"The aircraft: five-letter identifiers, the counting legs, and the closures with their ceilings.",
		"stow dressed.kmz counting.gpx --take waypoints:Landings --take routes --take areas --unit vane " +
			"--card vane-card", false},
	{"What does the pilot see?", "boot --unit vane --card vane-card", false},
	{"In the morning, before setting out: is the plotter's card still as it was written?",
		"stow --verify --card keel-card", false},
	{"Out in the sound, the launch's crew marks an uncharted rock and a good anchorage.",
		"boot --card keel-card --make Uncharted 47.5712 S 11.3305 E", false},
	{"", "boot --card keel-card --make Quiet 47.5685 S 11.3300 E", false},
	{"And the Sexton is not where the plan shows it.", "boot --card keel-card --move Sexton 47.5832 S 11.2575 E", false},
	{"The card comes back. What was changed aboard?", "stow --verify --card keel-card", true},
	{"All of it goes into the office's plan.", "merge dressed.kmz --card keel-card -o returned.kmz", false},
	{"Next week's moorings are added to the card, under names short enough to shout over an engine.",
		"stow returned.kmz next-week.csv --take waypoints --card keel-card --add", false},
	{"And the whole card is archived, with its contents as GPX as well.",
		"unstow --card keel-card -o keel-card.zip --write-as gpx", false},
	{"Clean the season's recordings into one folder: one output per input.",
		"clean walk.gpx --also heights,stops -o recordings/{date}-{name}.gpx", false},
	{"The next day the party crossed the saddle.",
		"recast paths.gpx --take tracks:Tarn* --speed 4km/h --depart 2026-03-15T07:10Z -o recordings/2026-03-15-saddle.gpx",
		false},
	{"What is in the folder?", "look recordings", false},
	{"What did we do this season, where and for how long? Did we enter the closures?",
		"tally recordings --areas planning.kmz --areas-take areas:Nesting* --plot season.png", false},
	{"Where was the party when the gulls were heard?", "when 2026-03-14T06:20Z 2026-03-15T07:30Z --along recordings",
		false},
	{"The season as the office wants it: in local time, in knots, with a column to write in.",
		"tally recordings --clock +01:00 --columns date=Day,name,start,end,length[nm],mean-speed[kn],sunset,blank:Remarks " +
			"-o season.xlsx", false},
	{"And the logbook of the walk, a row each half hour.",
		"when --every 30min --along recordings/2026-03-14-walk.gpx --clock +01:00 --measure nautical", false},
	{"A second party hands its recordings in, in a folder of its own. One of them is the first party's.",
		"recast paths.gpx --take tracks:Landing* --speed 3km/h --depart 2026-03-14T08:00Z -o parties/south/{name}.gpx",
		false},
	{"", "convert recordings/2026-03-14-walk.gpx -o parties/south/{name}.kml", false},
	{"", "convert recordings/2026-03-14-walk.gpx -o parties/north/{name}.gpx", false},
	{"Which recordings are there twice, whatever they are called?", "look parties --duplicates", false},
	{"Each party's days, by the local clock, with nothing counted twice.",
		"tally parties --distinct --by folder,day --clock +01:00", false},
	{"Which landings did the walk pass, how far along, on which side, and when?",
		"near clean.gpx --take tracks --to landings.gpx --within 200m --sort along", false},
	{"What else is near Rock 9?", "near 47.6006 S 11.2557 E planning.kmz --within 3km --take waypoints", false},
	{"All points, for an SQL engine.", "convert recordings --track-points -o season-points.parquet", false},
	{"Nobody wants to type all that for forty files. Which recipes are there?", "recipes", false},
	{"Prepare the planning program's export in one step.", "run make-ready planning.kmz --into ready", false},
	{"Archive the day's recording.", "run archive-day walk.gpx --into archive", false},
	{"A second run does only what is new or changed: nothing.", "run archive-day walk.gpx --into archive", false},
	{"Write the season's cards, each read back as its unit would.", "run season-cards dressed.kmz --into season", false},
	{"The office's list for the handheld.", "run office-to-unit stations.csv --into stations", false},
	{"Which recipe step does the same as this command?",
		"clean walk.gpx --also heights,stops -o clean.gpx --as-recipe", false},
	{"A quick look in the terminal shows whether the recording is right.", "look walk-with-heights.gpx --map", false},
	{"A map of the day, with terrain and the heights along the way.",
		"draw dressed.kmz walk-with-heights.gpx run.gpx --terrain terrain --section distance -o day.png", false},
	{"The briefing on paper: a map to scale, the legs, and the list of points.",
		"draw dressed.kmz run.gpx --size A4 --scale 1:50000 --sheets map,legs,points --notation min -o briefing.pdf", false},
	{"And the day as an interactive page.",
		"draw dressed.kmz walk-with-heights.gpx run.gpx --terrain terrain --section distance -o day.html", false},
}

// demoVerb is demo.
var demoVerb = frame.Verb{Name: "demo", Stage: frame.Know,
	Brief: "the complete example, in a folder",
	Usage: "run the complete example, a survey of the Veldrin Isles, in a folder",
	Args:  "[DIR]",
	Help: "Puts the example files into DIR, which must be new or empty, and runs the steps of the example on them,\n" +
		"printing each command line as you would type it. Without DIR it makes a temporary folder.",
	Bare:      true,
	Completes: frame.FolderNames,
	Make:      makeDemo}

func makeDemo(a *frame.App, v *frame.Verb) frame.Made {
	return frame.Made{Run: func(ctx context.Context, l *frame.Line) error {
		if len(l.Args) > 1 {
			return frame.UsageError("demo: name one folder, or none for a temporary one")
		}
		dir, err := demoFolder(frame.First(l.Args))
		if err != nil {
			return err
		}
		return playDemo(ctx, a, dir)
	}}
}

func demoFolder(dir string) (string, error) {
	if dir == "" {
		return os.MkdirTemp("", "gyrolith-demo-")
	}
	entries, err := os.ReadDir(dir)
	switch {
	case err == nil && len(entries) > 0:
		return "", fmt.Errorf("%s: is not empty; name a new folder for the demo", dir)
	case err != nil && !errors.Is(err, fs.ErrNotExist):
		return "", fmt.Errorf("%s: can't be used for the demo: %w", dir, err)
	}
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return "", fmt.Errorf("%s: can't be made: %w", dir, err)
	}
	return filepath.Abs(dir)
}

func playDemo(ctx context.Context, a *frame.App, dir string) error {
	files, err := fs.Sub(demo.Files, "files")
	if err != nil {
		return err
	}
	if err := os.CopyFS(dir, files); err != nil {
		return err
	}
	for _, card := range []string{"card", "keel-card", "vane-card"} {
		if err := os.Mkdir(filepath.Join(dir, card), 0o777); err != nil {
			return err
		}
	}
	back, err := os.Getwd()
	if err != nil {
		return err
	}
	if err := os.Chdir(dir); err != nil {
		return err
	}
	defer os.Chdir(back)
	for _, s := range scenes {
		if s.says != "" {
			a.Out.Printf("%s\n", a.Out.Paint(console.Faint, "# "+s.says))
		}
		a.Out.Printf("%s gyrolith %s\n", a.Out.Paint(console.Green, "$"), s.line)
		inner := frame.NewApp(verbs, strings.NewReader(""), a.Out, a.Out)
		inner.Out, inner.Err = a.Out, a.Out
		inner.KeepIn, inner.Alone = "kept", true // nothing of an example goes into the user's own folder, or comes of it
		err := runLine(ctx, inner, strings.Fields(s.line))
		if err != nil {
			inner.Complain(err)
		}
		if (err != nil) != s.refused {
			return fmt.Errorf("the demo failed at 'gyrolith %s' in %s", s.line, dir)
		}
		a.Out.Printf("\n")
	}
	a.Out.Printf("All files are in %s\nthe map of the day is %s, and the page to open in a browser is %s\n",
		console.Show(dir), console.Show(filepath.Join(dir, "day.png")), console.Show(filepath.Join(dir, "day.html")))
	return nil
}
