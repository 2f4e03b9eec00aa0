// Package symbol knows the neutral words for what a waypoint's symbol shows, and recognises them in the icons of
// planning files.
package symbol

import (
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
	Icons []string // words in the names of icons that show it, besides its own
}

// All lists the symbols by realm.
var All = []Symbol{
	{"mark", Everywhere, "a general mark", []string{"pin", "pushpin", "placemark", "dot", "point", "marker",
		"circle"}},
	{"flag", Everywhere, "a flag", []string{"banner"}},
	{"start", Everywhere, "where it begins", []string{"go", "begin"}},
	{"finish", Everywhere, "where it ends", []string{"end", "stop", "goal", "chequered"}},
	{"hazard", Everywhere, "a hazard of any kind", []string{"danger", "caution", "warning", "alert", "skull",
		"attention"}},
	{"closed", Everywhere, "no entry", []string{"forbidden", "prohibited", "noentry"}},
	{"question", Everywhere, "to be checked", []string{"unknown", "query"}},
	{"meeting-point", Everywhere, "where parties meet", []string{"rendezvous", "assembly"}},
	{"first-aid", Everywhere, "first aid", []string{"hospital", "firstaid", "medical"}},
	{"fuel", Everywhere, "fuel", []string{"petrol", "gas", "fillingstation", "diesel"}},
	{"water", Everywhere, "drinking water", []string{"tap", "drinkingwater"}},
	{"depot", Everywhere, "stores left for later", []string{"cache", "store", "supplies"}},
	{"camera", Everywhere, "a place where a picture was taken or is to be taken", []string{"photo", "picture"}},

	{"summit", Land, "a summit", []string{"peak", "mountain", "top"}},
	{"saddle", Land, "a saddle or pass", []string{"pass", "col"}},
	{"cairn", Land, "a cairn", []string{"stoneman"}},
	{"survey-mark", Land, "a survey mark or triangulation point", []string{"trig", "benchmark", "triangulation"}},
	{"plot", Land, "a survey plot", []string{"transect", "quadrat"}},
	{"sample", Land, "where a sample was taken", []string{"specimen"}},
	{"nest", Land, "a nest or colony", []string{"colony", "bird"}},
	{"hut", Land, "a hut or house", []string{"house", "cabin", "lodge", "home", "building"}},
	{"shelter", Land, "a shelter", []string{"bothy", "refuge"}},
	{"camp", Land, "a place to camp", []string{"campground", "tent", "campsite", "bivouac"}},
	{"spring", Land, "a spring or well", []string{"well", "source"}},
	{"lake", Land, "a lake or tarn", []string{"tarn", "pond"}},
	{"waterfall", Land, "a waterfall", []string{"falls"}},
	{"ford", Land, "a ford", nil},
	{"bridge", Land, "a bridge", []string{"footbridge"}},
	{"gate", Land, "a gate or stile", []string{"stile"}},
	{"junction", Land, "where ways meet", []string{"crossroads", "signpost", "fork"}},
	{"trailhead", Land, "where a path begins", []string{"hiker", "hiking", "trail"}},
	{"parking", Land, "a car park", []string{"car", "park"}},
	{"viewpoint", Land, "a view", []string{"view", "scenic", "lookout", "binoculars"}},
	{"cave", Land, "a cave", []string{"cavern"}},

	{"rock", Sea, "a rock near the surface", []string{"rocks", "stone", "reef", "head"}},
	{"rock-awash", Sea, "a rock awash", []string{"awash"}},
	{"wreck", Sea, "a wreck", []string{"shipwreck", "sunken"}},
	{"shoal", Sea, "shallow water", []string{"shallow", "sandbank", "bank"}},
	{"overfalls", Sea, "overfalls or a tide race", []string{"tiderace", "race", "rapids"}},
	{"kelp", Sea, "kelp or weed", []string{"weed"}},
	{"sounding", Sea, "a sounding", []string{"depth"}},
	{"anchorage", Sea, "an anchorage", []string{"anchor"}},
	{"mooring", Sea, "a mooring", []string{"bollard"}},
	{"landing", Sea, "a landing place", []string{"beach", "ashore"}},
	{"jetty", Sea, "a jetty or quay", []string{"pier", "quay", "wharf", "dock"}},
	{"slipway", Sea, "a slipway", []string{"ramp", "launch", "boatramp"}},
	{"harbour", Sea, "a harbour or marina", []string{"marina", "port", "harbor", "sailing"}},
	{"buoy", Sea, "a buoy", []string{"buoys"}},
	{"beacon", Sea, "a beacon or leading mark", []string{"daymark", "leading"}},
	{"light", Sea, "a light", []string{"lighthouse"}},
	{"fishing", Sea, "fishing gear or grounds", []string{"fish", "pots", "net"}},
	{"diving", Sea, "a place to dive", []string{"diver", "snorkel"}},

	{"airfield", Air, "an airfield", []string{"airport", "airports", "aerodrome", "aircraft", "plane"}},
	{"airstrip", Air, "a strip without services", []string{"strip", "runway"}},
	{"helipad", Air, "a place for helicopters", []string{"heliport", "helicopter"}},
	{"water-landing", Air, "where floatplanes come down", []string{"seaplane", "floatplane"}},
	{"reporting-point", Air, "a reporting point", []string{"fix", "triangle"}},
	{"radio-beacon", Air, "a radio beacon", []string{"navaid", "radio"}},
	{"obstacle", Air, "an obstacle to flying", []string{"obstruction", "tower", "chimney"}},
	{"mast", Air, "a mast", []string{"antenna", "aerial"}},
	{"cable", Air, "a cable or line across", []string{"wire", "powerline"}},
	{"wind-turbine", Air, "a wind turbine", []string{"turbine", "windmill"}},
	{"drop-zone", Air, "where things or people are dropped", []string{"dropzone", "parachute"}},
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

// ByWord finds a symbol by its word, without regard to case.
func ByWord(word string) (*Symbol, bool) {
	i := slices.IndexFunc(All, func(s Symbol) bool { return strings.EqualFold(s.Word, word) })
	if i < 0 {
		return nil, false
	}
	return &All[i], true
}

var byIcon = func() map[string]string {
	m := map[string]string{}
	for _, s := range All {
		for _, w := range append([]string{strings.ReplaceAll(s.Word, "-", "")}, s.Icons...) {
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
		s := byIcon[w]
		if s == "" {
			s = byIcon[strings.TrimSuffix(w, "s")]
		}
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
