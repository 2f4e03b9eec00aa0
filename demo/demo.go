// Package demo holds the files of the example scenario, which are part of the program. They are made in its
// tests.
package demo

import (
	"embed"
	"strings"
)

// Files holds planning.kmz, drawn in the office, walk.gpx, recorded on the hill, briefing.txt and counting.txt, pasted
// out of a mail, next-week.csv, a list of moorings, winds.csv, the winds aloft of the day, rules.toml, by which the
// plan is dressed, and the terrain of the isles, in the folder files.
//
//go:embed files
var Files embed.FS

//go:embed scenes.txt
var scenes string

// Scene is one step of the demonstration: what it shows, or "" where it goes on with the step before, and the command
// line that a user would type. Some are there to be refused.
type Scene struct {
	Says, Line string
	Refused    bool
}

// Scenes reads the steps in their order: # before what a step shows, $ before its command line, or ! where it is
// refused.
func Scenes() (out []Scene) {
	says := ""
	for line := range strings.Lines(scenes) {
		switch sign, text, _ := strings.Cut(strings.TrimSpace(line), " "); sign {
		case "#":
			says = text
		case "$", "!":
			out, says = append(out, Scene{says, text, sign == "!"}), ""
		}
	}
	return out
}
