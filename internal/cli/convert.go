package cli

// convertVerb is convert.
var convertVerb = verb{name: "convert", stage: makeReady,
	brief: "write another format, all of it or part",
	usage: "write the same data in another format; several inputs are merged",
	args:  "FILES… -o FILE",
	examples: []string{"convert planning.kmz --take waypoints:Landings -o landing-places.gpx",
		"convert stations.csv --inside 11,-48,12,-47 -o list.gpx",
		"convert walk.gpx clean.gpx -o kml/ --write-as kml", "convert clean.gpx --track-points --crs utm -o points.gpkg",
		"convert planning.kmz -o items/ --one-per item --write-as gpx"},
	tried: []string{"export", "import", "transform", "save", "write"},
	make:  (*app).convert}

func (a *app) convert(v *verb) made {
	_, c := a.step(v, nil)
	return c
}
