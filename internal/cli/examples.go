package cli

// examples are command lines that run on the files of the example scenario; a test runs them all.
var examples = map[string][]string{
	"look": {
		"look planning.kmz",
		"look walk.gpx --map",
		"look recordings",
		"look planning.kmz --take waypoints:'Rock*' --all",
	},
	"convert": {"convert planning.kmz --take waypoints:Landings -o landing-places.gpx",
		"convert stations.csv --inside 11,-48,12,-47 -o list.gpx",
		"convert walk.gpx clean.gpx -o kml/ --write-as kml", "convert clean.gpx --track-points --crs utm -o points.gpkg",
		"convert planning.kmz -o items/ --one-per item --write-as gpx"},
	"clean": {"clean walk.gpx -o tidy.gpx", "clean walk.gpx --also heights,stops -o tidier.gpx --rejects out.kml",
		"clean walk.gpx --carrier walk --thin-within 5m -o thin.gpx", "clean recordings -o tidied/"},
	"elevate": {"elevate clean.gpx --terrain terrain -o high.gpx",
		"elevate planning.kmz --take tracks --terrain terrain --fill-voids -o high-paths.gpx"},
	"recast": {"recast planning.kmz --take tracks:'Tarn*' --tracks-to routes --thin-within 20m -o saddle-route.gpx",
		"recast planning.kmz --take waypoints:Landings --waypoints-to routes --order near --name Tour -o tour.gpx",
		"recast clean.gpx --split-at 30min -o half-hours.gpx",
		"recast run.gpx --routes-to tracks --speed 8kn --depart 2026-03-14T05:40Z -o timed.gpx"},
	"dress": {"dress planning.kmz --match 'waypoints:*rock*' --symbol hazard -o marked.gpx",
		"dress planning.kmz --match waypoints:Landings --rename 'L{number:2} {name}' -o numbered.gpx",
		"dress planning.kmz --rules rules.toml -o by-rule.kmz"},
	"legs": {"legs run.gpx --speed 8kn --measure nautical",
		"legs briefing.txt --hazards planning.kmz --hazards-take waypoints --clear 150m --detour around.gpx",
		"legs counting.gpx --speed 95kn --winds winds.csv --depart 2026-03-14T09:00Z --burn 32l/h -o log.xlsx"},
	"compare": {"compare walk.gpx clean.gpx", "compare planning.kmz dressed.kmz --only symbol,colour",
		"compare walk.gpx clean.gpx --in-time --within 10m"},
	"merge": {"merge dressed.kmz returned.kmz -o both.kmz", "merge dressed.kmz --card keel-card -o home.kmz"},
	"lay": {"lay lines --over planning.kmz --take areas:'Nesting*' --spacing 100m --turn 80m -o lines.gpx",
		"lay expanding-square --datum '47.57 S 11.30 E' --spacing 0.3nm --legs 10 -o square.gpx",
		"lay rings --datum '47.57 S 11.30 E' --radius 1nm,2nm -o rings.kml"},
	"tally": {"tally recordings", "tally recordings --by day -o days.xlsx --plot days.png",
		"tally recordings --areas planning.kmz --areas-take areas:'Nesting*'"},
	"when": {"when 2026-03-14T06:20Z --along recordings", "when 06:20 07:00 --along walk.gpx -o marks.gpx"},
	"near": {"near 47.6012 S 11.3021 E planning.kmz", "near 'Rock 9' planning.kmz --take waypoints --within 3km",
		"near --to landings.gpx planning.kmz --take waypoints:'Rock*' -o nearest.csv"},
	"units": {"units", "units ridge"},
	"stow": {
		"stow next-week.csv --card card --add",
		"stow dressed.kmz run.gpx --take waypoints --card keel-card --add --dry-run",
		"stow --verify --card card",
	},
	"boot":   {"boot --unit ridge --card card"},
	"unstow": {"unstow --card vane-card -o aircraft.zip", "unstow --card keel-card -o plotter.zip --write-as gpx"},
	"send":   {"send run.gpx --dry-run"},
	"draw": {"draw dressed.kmz clean.gpx --terrain terrain --section distance -o isles.png",
		"draw dressed.kmz run.gpx --size A4 --scale 1:50000 --sheets map,legs,points -o isles.pdf",
		"draw dressed.kmz clean.gpx --terrain terrain -o isles.html", "draw recordings -o maps/"},
	"run":     {"run archive-day walk.gpx --into my-archive", "run season-cards dressed.kmz --into my-cards --dry-run"},
	"schema":  {"schema recipe", "schema rules"},
	"recipes": {"recipes", "recipes archive-day"},
	"formats": {"formats", "formats gpx"},
	"symbols": {"symbols", "symbols rock"},
	"crs":     {"crs 32732", "crs krovak"},
	"where":   {"where 47.6012 S 11.3021 E", "where 47.6012 S 11.3021 E --crs 32732"},
}

// Examples lists the examples of all verbs, in the order of the work.
func Examples() (out []string) {
	for _, s := range stages {
		for _, v := range s.verbs {
			out = append(out, examples[v[0]]...)
		}
	}
	return
}
