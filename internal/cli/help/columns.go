package help

import (
	"slices"
	"strings"

	"gyrolith/core/template"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

const columnsText = `
--columns chooses the columns of a table, with commas between them: WORD, WORD[MEASURE], and either of them
with =TITLE:

  --columns time,name,height[ft]=Elevation,speed[kn],field:depth,blank:Remarks

MEASURE is m, km, ft, nm, mi (lengths and heights); m/s, km/h, kn (speeds); s, min, h (spans);
m2, ha, km2, nm2, ac (sizes). Titles of ours name the measure; a TITLE that is given stays as it is, and a note tells
the measure. field:KEY is a field of the data, blank:TITLE an empty column to write in. Times have the offset of
--clock. --sort WORD and --sort-down WORD put the rows in order, numbers within names by their value; both can be
given several times, the first counts most, and --sort goes before --sort-down.

What is worked out is named as computed; where points state their speed or course, that is taken. A table that is
read again loses the columns that only say what positions, heights and times give anyway.`

// meanings of the words for columns, in the order in which they are listed; verbs that have none of a line leave it
// out.
var meanings = []struct{ words, about string }{
	{"kind name group description comment type symbol colour", "what an item is, and what is said of it"},
	{"item id", "the source's own identity of an item"},
	{"file folder", "where an item came from"},
	{"lat lon", "degrees"},
	{"position", "in the notation of --notation"},
	{"min sec utm mgrs plan", "the position in that notation"},
	{"easting northing zone", "in the system of --crs, or UTM"},
	{"height", "of a point; of an item the lowest"},
	{"depth", "positive down"},
	{"wkt wkb", "the geometry of an item, as text or binary"},
	{"time", "an instant"},
	{"date start end first last arrive", "the day and instants of a recording, an item, the end of a leg"},
	{"line item segment number",
		"the line of a point, its number among those of one name, its segment, the point's number"},
	{"along", "the distance from the start of the line"},
	{"leg-distance", "of a leg; from the point, or the row, before"},
	{"leg-time wait", "spans of a leg, and of waiting before it"},
	{"elapsed", "the span from the start; of a recording from start to end"},
	{"distance", "how far from what was asked"},
	{"speed course", "over ground; stated by the data, else from the point before"},
	{"course-true course-magnetic declination", "degrees at the start of a leg, or from the position that was asked for"},
	{"heading-true heading-magnetic heading-compass correction ground-speed", "to steer, with wind and current"},
	{"climb-rate slope", "from the point before; slope in per cent"},
	{"points", "how many"},
	{"length", "of a line or recording, without the scatter of halts"},
	{"duration", "from the first time to the last"},
	{"moving standing gaps", "spans of a recording, which add up to elapsed"},
	{"mean-speed top-speed", "while moving; over ten seconds"},
	{"ascent descent", "climbed and come down, of changes above the noise of the heights"},
	{"lowest highest", "heights of a recording"},
	{"size perimeter", "of an area"},
	{"area", "the name of one"},
	{"faults tracks", "how many"},
	{"route leg from to from-position to-position", "of a leg: its route, number and ends; of a line its nearest leg"},
	{"from-height to-height height-change ground-highest safe-height", "heights of a leg, and of the ground below it"},
	{"wind current", "of a leg"},
	{"fuel-used fuel-left", "of a leg, and behind it"},
	{"nearest-hazard hazard-distance hazard-side hazard-at findings", "what a leg passes, and what speaks against it"},
	{"track gap fix", "the recording; the span between its fixes around the time; the distance to the nearer one"},
	{"of outside", "what was asked for; why a place within an outline is not in the area"},
	{"sunrise sunset dawn dusk day-length", "on that day and place; dawn and dusk are those of civil twilight"},
	{"nautical-dawn nautical-dusk astronomical-dawn astronomical-dusk", "the darker twilights"},
	{"sun", "up or down, where it neither rises nor sets on that day"},
}

// showColumns lists the words and the verbs that have them.
func showColumns(a *frame.App) {
	type of struct {
		verb  string
		words []string
	}
	var tables []of
	for _, v := range a.All {
		if p := a.Made(v).Param("columns"); p != nil && !slices.ContainsFunc(tables, func(t of) bool {
			return slices.Equal(t.words, p.Words)
		}) {
			tables = append(tables, of{v.Name, p.Words})
		}
	}
	a.Out.Printf("\n%s\n\n", folded("The words, what they are, and the verbs in whose tables they can stand (every verb "+
		"that writes data has those of convert):", helpWidth(a.Out)))
	for _, m := range meanings {
		words := strings.Fields(m.words)
		if m.words == "item id" {
			words = []string{m.words}
		}
		var verbs []string
		for _, t := range tables {
			if slices.ContainsFunc(words, func(w string) bool { return slices.Contains(t.words, w) }) {
				verbs = append(verbs, t.verb)
			}
		}
		a.Out.Printf("%s\n%s\n", folded("  "+m.words, helpWidth(a.Out)),
			a.Out.Paint(console.Faint, folded("      "+m.about+" ("+strings.Join(verbs, ", ")+")", helpWidth(a.Out))))
	}
}

// showFunctions lists what can be done to the values of templates.
func showFunctions(a *frame.App) {
	var rows [][]string
	for _, f := range template.Functions {
		rows = append(rows, []string{"  " + a.Out.Paint(console.Bold, "|"+f[0]), f[1]})
	}
	a.Out.Table("", []console.Column{{}, {}}, rows)
}
