// Package demo holds the files of the example scenario, which are part of the program. They are made by
// go run ./demo/make.
package demo

import "embed"

// Files holds planning.kmz, drawn in the office, walk.gpx, recorded on the hill, briefing.txt and counting.txt, pasted
// out of a mail, next-week.csv, a list of moorings, winds.csv, the winds aloft of the day, rules.toml, by which the
// plan is dressed, and the terrain of the isles, in the folder files.
//
//go:embed files
var Files embed.FS
