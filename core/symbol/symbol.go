// Package symbol knows the neutral words for what a waypoint's symbol shows, and recognises them in the icons of
// planning files.
package symbol

import (
	"cmp"
	"path"
	"slices"
	"strings"
	"unicode"
)

// Realm is where a symbol is at home.
type Realm string

// The realms. What is of use in all of them is Everywhere.
const (
	Everywhere Realm = "everywhere"
	Land       Realm = "land"
	Sea        Realm = "sea"
	Air        Realm = "air"
)

// Symbol is one neutral symbol.
type Symbol struct {
	Word  string
	Realm Realm
	Shows string
	Icons []string // words that say it in the names of icons alone
}

// All lists the symbols by realm.
var All = []Symbol{
	{"mark", Everywhere, "a general mark", nil},
	{"flag", Everywhere, "a flag", nil},
	{"start", Everywhere, "where it begins", []string{"go"}},
	{"finish", Everywhere, "where it ends", []string{"stop", "chequered"}},
	{"hazard", Everywhere, "a hazard of any kind", nil},
	{"closed", Everywhere, "no entry", nil},
	{"question", Everywhere, "to be checked", nil},
	{"meeting-point", Everywhere, "where parties meet", []string{"assembly"}},
	{"first-aid", Everywhere, "first aid", nil},
	{"fuel", Everywhere, "fuel", nil},
	{"water", Everywhere, "drinking water", nil},
	{"depot", Everywhere, "stores left for later", []string{"store"}},
	{"camera", Everywhere, "a place where a picture was taken or is to be taken", nil},

	{"summit", Land, "a summit", nil},
	{"saddle", Land, "a saddle or pass", nil},
	{"cairn", Land, "a cairn", nil},
	{"survey-mark", Land, "a survey mark or triangulation point", []string{"triangulation"}},
	{"plot", Land, "a survey plot", nil},
	{"sample", Land, "where a sample was taken", nil},
	{"nest", Land, "a nest or colony", nil},
	{"hut", Land, "a hut or house", nil},
	{"shelter", Land, "a shelter", nil},
	{"camp", Land, "a place to camp", nil},
	{"spring", Land, "a spring or well", nil},
	{"lake", Land, "a lake or tarn", nil},
	{"waterfall", Land, "a waterfall", nil},
	{"ford", Land, "a ford", nil},
	{"bridge", Land, "a bridge", nil},
	{"gate", Land, "a gate or stile", nil},
	{"junction", Land, "where ways meet", nil},
	{"trailhead", Land, "where a path begins", nil},
	{"parking", Land, "a car park", []string{"park"}},
	{"viewpoint", Land, "a view", nil},
	{"cave", Land, "a cave", nil},

	{"rock", Sea, "a rock near the surface", []string{"head"}},
	{"rock-awash", Sea, "a rock awash", nil},
	{"wreck", Sea, "a wreck", []string{"sunken"}},
	{"shoal", Sea, "shallow water", []string{"bank"}},
	{"overfalls", Sea, "overfalls or a tide race", []string{"race"}},
	{"kelp", Sea, "kelp or weed", nil},
	{"sounding", Sea, "a sounding", nil},
	{"anchorage", Sea, "an anchorage", nil},
	{"mooring", Sea, "a mooring", nil},
	{"landing", Sea, "a landing place", nil},
	{"jetty", Sea, "a jetty or quay", nil},
	{"slipway", Sea, "a slipway", []string{"launch"}},
	{"harbour", Sea, "a harbour or marina", []string{"sailing"}},
	{"buoy", Sea, "a buoy", nil},
	{"beacon", Sea, "a beacon or leading mark", []string{"leading"}},
	{"light", Sea, "a light", nil},
	{"fishing", Sea, "fishing gear or grounds", nil},
	{"diving", Sea, "a place to dive", nil},

	{"airfield", Air, "an airfield", nil},
	{"airstrip", Air, "a strip without services", nil},
	{"helipad", Air, "a place for helicopters", nil},
	{"water-landing", Air, "where floatplanes come down", nil},
	{"reporting-point", Air, "a reporting point", []string{"triangle"}},
	{"radio-beacon", Air, "a radio beacon", []string{"navaid", "radio"}},
	{"obstacle", Air, "an obstacle to flying", nil},
	{"mast", Air, "a mast", nil},
	{"cable", Air, "a cable or line across", nil},
	{"wind-turbine", Air, "a wind turbine", nil},
	{"drop-zone", Air, "where things or people are dropped", nil},
}

// like says which broader symbol stands for one that a unit does not know.
var like = map[string]string{
	"rock-awash": "rock", "rock": "hazard", "wreck": "hazard", "shoal": "hazard", "overfalls": "hazard",
	"kelp": "hazard", "closed": "hazard",
	"obstacle": "hazard", "mast": "obstacle", "cable": "obstacle", "wind-turbine": "obstacle", "nest": "closed",
	"start": "flag", "finish": "flag", "meeting-point": "flag", "plot": "flag", "sample": "plot", "camera": "viewpoint",
	"cairn": "summit", "survey-mark": "summit", "shelter": "hut", "camp": "shelter", "spring": "water", "ford": "water",
	"lake": "water", "waterfall": "water",
	"jetty": "landing", "slipway": "landing", "landing": "anchorage", "mooring": "anchorage", "harbour": "anchorage",
	"light": "beacon", "buoy": "beacon",
	"airstrip": "airfield", "helipad": "airfield", "water-landing": "airfield", "radio-beacon": "reporting-point",
}

// Like gives the broader symbol that stands for one; "mark" in the end, and "" for that.
func Like(word string) string {
	switch wider := like[word]; {
	case word == "mark":
		return ""
	case wider != "":
		return wider
	}
	return "mark"
}

// Words are the others that are understood for it: everyday ones, and those in the names of icons.
func (s *Symbol) Words() (out []string) {
	if list := said[s.Word]; list != "" {
		out = strings.Split(list, ",")
	}
	return append(out, s.Icons...)
}

// ByWord finds a symbol by its word, without regard to case.
func ByWord(word string) (*Symbol, bool) {
	i := slices.IndexFunc(All, func(s Symbol) bool { return strings.EqualFold(s.Word, word) })
	if i < 0 {
		return nil, false
	}
	return &All[i], true
}

// byIcon are the words that say something in the names of icons alone.
var byIcon = func() map[string]string {
	m := map[string]string{}
	for _, s := range All {
		for _, w := range s.Icons {
			m[w] = s.Word
		}
	}
	return m
}()

// FromIcon tells what a picture shows by the words of its file's name; "" where they tell nothing. Of several words the
// one that says most counts: a plain mark only where nothing else is said.
func FromIcon(href string) string {
	if href == "" || strings.HasPrefix(href, "data:") {
		return ""
	}
	if i := strings.IndexAny(href, "?#"); i >= 0 {
		href = href[:i]
	}
	name := strings.ToLower(path.Base(strings.ReplaceAll(href, `\`, "/")))
	name = strings.TrimSuffix(name, path.Ext(name))
	words := strings.FieldsFunc(name, func(r rune) bool { return !unicode.IsLetter(r) })
	found := ""
	for _, w := range append(words, strings.Join(words, "")) {
		s := cmp.Or(byIcon[w], byIcon[strings.TrimSuffix(w, "s")], phrase(w))
		if s != "" && (found == "" || found == "mark" || found == "flag") {
			found = s
		}
	}
	return found
}

// Nearest gives the word that is most like another.
func Nearest(word string) string {
	best, distance := "", 3
	for _, s := range All {
		if d := Edits(strings.ToLower(word), s.Word); d < distance {
			best, distance = s.Word, d
		}
	}
	return best
}

// Edits counts the characters that must be changed, added or taken away (V. I. Levenshtein, 1966).
func Edits(a, b string) int {
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := range len(a) {
		before := row[0]
		row[0] = i + 1
		for j := range len(b) {
			cost := before
			if a[i] != b[j] {
				cost = 1 + min(before, row[j], row[j+1])
			}
			before, row[j+1] = row[j+1], cost
		}
	}
	return row[len(b)]
}
