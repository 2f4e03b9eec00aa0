package table

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
)

// found is what a table's columns hold.
type found struct {
	header    int // the row of the titles among the first ones; -1 if there is none
	titles    []string
	at        map[string][]int // columns by what they hold; several where parts are joined
	fields    map[int]string   // columns that become fields, by number, with their key
	values    bool             // the coordinates were known by their values, not by a title
	recording bool             // the rows of a table without titles are the fixes of one
	sure      bool             // some title is a word for a coordinate
	parts     []int            // the columns of a time that stands in parts, from the year on
	clock     bool             // the time of day, if any, is not in parts, but in the column of times
	ends      map[string][]int // columns of the ends of lines whose starts are those of positions; nil is none
	names     int              // the column that names datums; -1 is none
}

func (f *found) has(words ...string) bool {
	for _, w := range words {
		if len(f.at[w]) == 0 {
			return false
		}
	}
	return true
}

// title is how a column is called in messages.
func (f *found) title(column int) string {
	if column < len(f.titles) && strings.TrimSpace(f.titles[column]) != "" {
		return strconv.Quote(strings.TrimSpace(f.titles[column]))
	}
	return fmt.Sprintf("column %d", column+1)
}

// mostHead is how many rows may stand above the header.
const mostHead = 40

// numeric says whether a cell is a number, with a decimal comma too.
func numeric(cell string) bool {
	cell = strings.TrimSpace(cell)
	if cell == "" {
		return false
	}
	_, _, ok := decimal.Parse([]byte(strings.Replace(cell, ",", ".", 1)))
	return ok
}

func blank(cells []string) bool {
	return !slices.ContainsFunc(cells, func(c string) bool { return strings.TrimSpace(c) != "" })
}

// find looks for the header in the first rows of a table and says what its columns hold.
func find(rows [][]string, opt *format.ReadOptions) (*found, error) {
	if len(opt.Columns) > 0 {
		return findGiven(rows, opt.Columns)
	}
	best := bestHeading(rows)
	f := &found{header: best, at: map[string][]int{}}
	if best >= 0 {
		f.titles, f.header = headingOf(rows, best)
	}
	f.names = f.findDatums(rows)
	f.findEnds(map[int]bool{f.names: true})
	f.assign(map[int]bool{f.names: true})
	f.sure = f.has("lat", "lon") || f.has("position") || f.has("easting", "northing") || f.has("x", "y")
	if !f.sure {
		f.guess(rows)
	}
	f.rest(rows)
	return f, nil
}

// bestHeading finds the row among the first ones with the most words for columns; -1 is none.
func bestHeading(rows [][]string) int {
	best, most := -1, 0
	for i, cells := range rows[:min(len(rows), mostHead)] {
		heads, numbers := map[string]bool{}, 0
		for _, c := range cells {
			if numeric(c) {
				numbers++
			} else if h, ok := headings.Of(c); ok {
				heads[h.Holds] = true
			} else if holds, end := headings.EndOf(c); holds != "" && !end {
				heads[holds] = true
			}
		}
		score := len(heads)
		for _, w := range []string{"lat", "lon", "position", "easting", "northing", "x", "y"} {
			if heads[w] {
				score += 3
			}
		}
		if numbers == 0 && score > most {
			best, most = i, score
		}
	}
	return best
}

// assign gives each column to the word that its title is surest for. Those that are given stay.
func (f *found) assign(given map[int]bool) {
	type claim struct {
		column, rank int
		part         bool
	}
	claims := map[string][]claim{}
	for _, at := range f.ends {
		given[at[0]] = true
	}
	for i, t := range f.titles {
		if given[i] {
			continue
		}
		if h, ok := headings.Of(t); ok {
			claims[h.Holds] = append(claims[h.Holds], claim{i, h.Rank, h.Part()})
		}
	}
	for holds, cs := range claims {
		if f.has(holds) {
			continue
		}
		slices.SortStableFunc(cs, func(a, b claim) int { return a.rank - b.rank })
		f.at[holds] = []int{cs[0].column}
		// degrees, minutes and seconds apart
		if cs[0].part || (holds == "lat" || holds == "lon") &&
			headings.DegreePart.MatchString(headings.Folded(f.titles[cs[0].column])) && len(cs) > 1 {
			f.at[holds] = nil
			slices.SortStableFunc(cs, func(a, b claim) int { return a.column - b.column })
			for _, c := range cs {
				f.at[holds] = append(f.at[holds], c.column)
			}
		}
	}
	if f.has("year", "month", "date") && headings.IsDay(f.titles[f.at["date"][0]]) {
		f.parts = slices.Concat(f.at["year"], f.at["month"], f.at["date"], f.at["hour"], f.at["minute"], f.at["second"])
		f.clock = !f.has("hour")
		delete(f.at, "date") // its parts stay fields, beside the time that they make
	}
	for _, word := range []string{"year", "month", "hour", "minute", "second"} {
		delete(f.at, word)
	}
	if f.has("date", "time") {
		f.at["time"] = append(f.at["date"], f.at["time"][0])
	} else if f.has("date") {
		f.at["time"] = f.at["date"]
	}
	delete(f.at, "date")
}

// findGiven takes the columns that the user names, by title or number, and finds the others.
func findGiven(rows [][]string, given []format.Column) (*found, error) {
	f := &found{header: -1, at: map[string][]int{}, sure: true}
	column := func(titles []string, name string) int {
		i := slices.IndexFunc(titles, func(t string) bool { return strings.TrimSpace(t) == name })
		if i < 0 {
			i = slices.IndexFunc(titles, func(t string) bool {
				return headings.Folded(t) == headings.Folded(name) &&
					headings.Folded(name) != ""
			})
		}
		return i
	}
	best, most := -1, 0
	for i, cells := range rows[:min(len(rows), mostHead)] {
		hits := 0
		for _, g := range given {
			if column(cells, g.Title) >= 0 {
				hits++
			}
		}
		if hits > most {
			best, most = i, hits
		}
	}
	byNumber := slices.ContainsFunc(given, func(g format.Column) bool {
		_, err := strconv.Atoi(g.Title)
		return err == nil
	})
	if best < 0 && !byNumber {
		best = bestHeading(rows)
	}
	if best >= 0 {
		f.header, f.titles = best, rows[best]
	} else if len(rows) > 0 && !slices.ContainsFunc(rows[0], numeric) && len(rows[0]) > 1 && !numbered(rows[0], given) {
		f.header, f.titles = 0, rows[0]
	}
	f.names = f.findDatums(rows)
	taken := map[int]bool{f.names: true}
	f.fields = map[int]string{}
	for _, g := range given {
		i := -1
		if f.titles != nil {
			i = column(f.titles, g.Title)
		}
		if n, err := strconv.Atoi(g.Title); i < 0 && err == nil && n > 0 {
			i = n - 1
		}
		if i < 0 {
			var names []string
			for j, t := range f.titles {
				if strings.TrimSpace(t) != "" {
					names = append(names, f.title(j))
				}
			}
			if len(names) == 0 {
				return nil, advice.Errorf(advice.NumberColumns, "no row has a column %q", g.Title)
			}
			return nil, fmt.Errorf("there is no column %q; there are %s", g.Title, strings.Join(names, ", "))
		}
		taken[i] = true
		if key, ok := strings.CutPrefix(g.Holds, "field:"); ok {
			f.fields[i] = key
		} else {
			holds := g.Holds
			if holds == "wkt" || holds == "wkb" { // which are told apart by the cells
				holds = "position"
			}
			f.at[holds] = append(f.at[holds], i)
		}
	}
	f.assign(taken)
	f.rest(rows)
	return f, nil
}

// numbered says whether columns are given by number, and the first row holds positions there.
func numbered(cells []string, given []format.Column) bool {
	for _, g := range given {
		n, err := strconv.Atoi(g.Title)
		if err == nil && n > 0 && n <= len(cells) && slices.Contains([]string{"lat", "lon", "position", "easting",
			"northing"}, g.Holds) && strings.ContainsAny(cells[n-1], "0123456789") {
			return true
		}
	}
	return false
}

// guess finds the coordinates by their values, where no title tells them: a column of positions, or two of decimal
// numbers.
func (f *found) guess(rows [][]string) {
	taken := map[int]bool{}
	for _, at := range f.at {
		for _, i := range at {
			taken[i] = true
		}
	}
	data := rows[f.header+1:]
	width := 0
	for _, cells := range data {
		width = max(width, len(cells))
	}
	least := 3 // decimals of coordinates; beside times they are known by less
	if f.header < 0 && slices.ContainsFunc(f.timeColumns(data, width), func(times bool) bool { return times }) {
		least = 1
	}
	var decimals []int // columns of numbers with so many decimals at least
	for i := range width {
		if taken[i] {
			continue
		}
		filled, numbers, positions := 0, 0, 0
		for _, cells := range data {
			if i >= len(cells) || strings.TrimSpace(cells[i]) == "" {
				continue
			}
			filled++
			cell := strings.Replace(strings.TrimSpace(cells[i]), ",", ".", 1)
			if v, d, ok := decimal.Parse([]byte(cell)); ok {
				if n, _ := d.Decimals(); n >= least && math.Abs(v) <= 180 {
					numbers++
				}
			} else if _, _, err := geodesy.ParsePosition(cells[i]); err == nil || looksGeometric(cells[i]) {
				positions++
			}
		}
		switch {
		case filled < 2:
		case positions*10 >= filled*7 && !f.has("position"):
			f.at["position"] = []int{i}
		case numbers*10 >= filled*9:
			decimals = append(decimals, i)
		}
	}
	if f.has("position") {
		f.values = true
		return
	}
	if len(decimals) != 2 {
		return
	}
	a, b := decimals[0], decimals[1]
	beyond := func(column int) bool {
		for _, cells := range data {
			if column < len(cells) {
				if v, _, ok := decimal.Parse([]byte(strings.Replace(strings.TrimSpace(cells[column]), ",", ".", 1))); ok &&
					math.Abs(v) > 90 {
					return true
				}
			}
		}
		return false
	}
	if beyond(a) {
		a, b = b, a
	}
	if beyond(a) {
		return
	}
	f.at["lat"], f.at["lon"], f.values = []int{a}, []int{b}, true
	if f.header < 0 {
		f.guessRest(data, width)
	}
}

// timeColumns says which columns of a table without titles hold times that never go back, but over midnight where they
// are times of day.
func (f *found) timeColumns(data [][]string, width int) []bool {
	out := make([]bool, width)
	for i := range out {
		out[i] = len(data) > 0
		last := int64(0)
		for _, cells := range data {
			if i >= len(cells) {
				out[i] = false
				break
			}
			cell := strings.TrimSpace(cells[i])
			m := moments{}
			ns, mark, _, ok, _ := m.parse(cell)
			switch {
			case clockTime.MatchString(cell):
			case !ok || mark < instant.Seconds || ns < last:
				out[i] = false
			default:
				last = ns
			}
		}
	}
	return out
}

// guessRest finds the times and names of a table without titles: a column of times, whose rows are a recording where
// they never go back and none has a name, and the first column of other texts.
func (f *found) guessRest(data [][]string, width int) {
	times := f.timeColumns(data, width)
	for i := range width {
		if i == f.at["lat"][0] || i == f.at["lon"][0] {
			continue
		}
		filled, words := 0, 0
		for _, cells := range data {
			if i < len(cells) && strings.TrimSpace(cells[i]) != "" {
				if filled++; !numeric(cells[i]) {
					words++
				}
			}
		}
		switch {
		case filled == 0:
		case times[i] && !f.has("time"):
			f.at["time"] = []int{i}
			f.recording = filled > 1
		case words == filled && !f.has("name"):
			f.at["name"] = []int{i}
		}
	}
	f.recording = f.recording && !f.has("name")
}

// rest makes fields of the columns that hold nothing else.
func (f *found) rest(rows [][]string) {
	if f.fields == nil {
		f.fields = map[int]string{}
	}
	taken, keys := map[int]bool{}, map[string]bool{}
	for _, at := range []map[string][]int{f.at, f.ends} {
		for _, columns := range at {
			for _, i := range columns {
				taken[i] = true
			}
		}
	}
	for i := range f.fields {
		keys[f.fields[i]] = true
	}
	for i := range taken { // a field is told from the column of a property
		if i < len(f.titles) {
			keys[strings.TrimSpace(f.titles[i])] = true
		}
	}
	width := len(f.titles)
	for _, cells := range rows[f.header+1:] {
		width = max(width, len(cells))
	}
	for i := range width {
		if _, ok := f.fields[i]; ok || taken[i] {
			continue
		}
		key := ""
		if i < len(f.titles) {
			key = strings.TrimSpace(f.titles[i])
		}
		if key == "" {
			key = fmt.Sprintf("column %d", i+1)
		}
		for n, base := 2, key; keys[key]; n++ {
			key = fmt.Sprintf("%s %d", base, n)
		}
		keys[key] = true
		f.fields[i] = key
	}
}

// geometric says whether the column of positions holds geometries, which are in any system.
func (f *found) geometric(rows [][]string) bool {
	i := f.at["position"][0]
	return slices.ContainsFunc(rows[f.header+1:],
		func(cells []string) bool { return i < len(cells) && looksGeometric(cells[i]) })
}

// settle decides where the coordinates are, and in which system.
func (f *found) settle(rows [][]string, opt *format.ReadOptions) error {
	drop := func(words ...string) { // what is not used becomes a field
		for _, w := range words {
			delete(f.at, w)
		}
		f.rest(rows)
	}
	projected := opt.System != nil && opt.System.Projected()
	if projected && f.has("x", "y") && !f.has("easting", "northing") {
		f.at["easting"], f.at["northing"] = f.at["x"], f.at["y"]
		drop("x", "y")
	}
	grid := f.has("easting", "northing")
	switch {
	case grid && projected:
		drop("lat", "lon", "position", "zone", "x", "y")
		return nil
	case f.has("position") && !f.has("lat", "lon") && (f.geometric(rows) || opt.System.HasGrid()):
		drop("easting", "northing", "zone", "x", "y")
		return nil
	case projected && (f.has("lat", "lon") || f.has("position")):
		return advice.Errorf(advice.DropSystemIn,
			"%v has eastings and northings, but the table has columns for latitude and longitude", opt.System)
	case f.has("lat", "lon"):
		drop("easting", "northing", "zone", "position", "x", "y")
		return nil
	case f.has("position"):
		drop("lat", "lon", "easting", "northing", "zone", "x", "y")
		return nil
	case grid && f.has("zone"):
		return nil
	case grid:
		return advice.Errorf(advice.NameSystemIn, "has projected coordinates in the columns %s and %s",
			f.title(f.at["easting"][0]), f.title(f.at["northing"][0]))
	case f.has("x", "y"):
		if opt.System == nil && !within(rows[f.header+1:], f.at["x"][0], 180) ||
			!within(rows[f.header+1:], f.at["y"][0], 90) {
			return advice.Errorf(advice.NameSystemIn, "has projected coordinates in the columns %s and %s",
				f.title(f.at["x"][0]), f.title(f.at["y"][0]))
		}
		f.at["lat"], f.at["lon"] = f.at["y"], f.at["x"]
		drop("x", "y")
		return nil
	case f.has("lat") || f.has("lon"):
		have, lack := "latitude", "longitude"
		at := f.at["lat"]
		if f.has("lon") {
			have, lack, at = lack, have, f.at["lon"]
		}
		return advice.Errorf(advice.NameColumns, "has a column for the %s (%s) but none for the %s", have, f.title(at[0]),
			lack)
	}
	return errNoColumns
}

var errNoColumns = advice.Errorf(advice.NameColumns, "no columns with coordinates were found")

// within says whether all numbers of a column are degrees of a sort.
func within(rows [][]string, column int, limit float64) bool {
	for _, cells := range rows {
		if column < len(cells) {
			if v, _, ok := decimal.Parse([]byte(strings.Replace(strings.TrimSpace(cells[column]), ",", ".", 1))); ok &&
				math.Abs(v) > limit {
				return false
			}
		}
	}
	return true
}

// say words what was taken for what.
func (f *found) say(sheet string) string {
	var parts []string
	for _, w := range []string{"lat", "lon", "position", "easting", "northing", "zone", "north south", "east west",
		"name", "height", "depth", "time", "time zone", "symbol", "colour", "description", "comment", "type", "item id",
		"group", "kind",
		"line", "segment", "speed", "course"} {
		at := f.at[w]
		if len(at) == 0 {
			continue
		}
		var names []string
		for _, i := range at {
			names = append(names, f.title(i))
		}
		parts = append(parts, w+" from "+strings.Join(names, " and "))
	}
	text := strings.Join(parts, ", ")
	if sheet != "" {
		text = fmt.Sprintf("sheet %q: %s", sheet, text)
	}
	if f.values {
		text += " (coordinates recognised by their values)"
	}
	var keys []string
	for _, i := range slices.Sorted(mapKeys(f.fields)) {
		keys = append(keys, f.fields[i])
	}
	if len(keys) > 0 {
		more := ""
		if len(keys) > 6 {
			more = fmt.Sprintf(" and %d more", len(keys)-5)
			keys = keys[:5]
		}
		text += "; fields: " + strings.Join(keys, ", ") + more
	}
	return text
}
