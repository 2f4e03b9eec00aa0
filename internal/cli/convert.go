package cli

import "gyrolith/internal/cli/frame"

// convertVerb is convert.
var convertVerb = frame.Verb{Name: "convert", Stage: frame.MakeReady,
	Brief: "write another format, all of it or part",
	Usage: "write the same data in another format; several inputs are merged",
	Args:  "FILES… -o FILE",
	Examples: []string{"convert planning.kmz --take waypoints:Landings -o landing-places.gpx",
		"convert stations.csv --inside 11,-48,12,-47 -o list.gpx",
		"convert walk.gpx clean.gpx -o kml/ --write-as kml", "convert clean.gpx --track-points --crs utm -o points.gpkg",
		"convert planning.kmz -o items/ --one-per item --write-as gpx"},
	Tried:   []string{"export", "import", "transform", "save", "write"},
	Answers: []any{frame.WroteAnswer{}, frame.RunAnswer{}},
	Make:    makeConvert}

func makeConvert(a *frame.App, v *frame.Verb) frame.Made {
	_, c := a.Step(v, nil)
	return c
}
