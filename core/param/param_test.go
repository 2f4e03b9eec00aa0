package param

import (
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"gyrolith/core/choose"
	"gyrolith/core/nav"
)

// all is one struct with a parameter of every sort.
type all struct {
	text, word, file string
	texts, words     []string
	files            []string
	on               bool
	count            int
	length, speed    float64
	span, shift      time.Duration
	bytes            int64
	at               time.Time
	choices          []choose.Choice
}

func (a *all) params() Table {
	return Table{
		Text("text", &a.text, "TEXT", ""), Texts("texts", &a.texts, "TEXT", ""),
		Word("word", &a.word, []string{"walk", "drive"}, "WORD", ""),
		WordsOf("words", &a.words, []string{"lat", "lon"}, func(w string) bool { return w == "lat" || w == "lon" },
			"WORDS", ""),
		File("file", &a.file, "FILE", ""), Files("files", &a.files, "FILE", ""),
		Switch("on", &a.on, ""), Count("count", &a.count, 2, 9, "N", ""),
		Length("length", &a.length, "DISTANCE", ""), Speed("speed", &a.speed, "SPEED", ""),
		Span("span", &a.span, "SPAN", ""), SignedSpan("shift", &a.shift, "SPAN", ""),
		Size("bytes", &a.bytes, "SIZE", ""), Moment("at", &a.at, "TIME", ""), Choices("choices", &a.choices, ""),
	}
}

func given(pairs ...string) (out []Setting) {
	for i := 0; i < len(pairs); i += 2 {
		out = append(out, Setting{pairs[i], strings.Split(pairs[i+1], "|")})
	}
	return
}

// Values are read with their measures, and land in the field that they are of.
func TestSet(t *testing.T) {
	var a all
	err := a.params().Set(&Env{Zone: time.FixedZone("", 2*3600)}, given("text", "a b", "texts", "x|y", "word", "drive",
		"words", "lat, lon", "file", "a.toml", "files", "a|b", "on", "true", "count", "9",
		"length", "2nm", "speed", "36km/h", "span", "1.5h", "shift", "-30s", "bytes", "2MB", "at", "2026-03-14T05:30",
		"choices", "tracks:*Ferry*|areas"))
	if err != nil {
		t.Fatal(err)
	}
	at := time.Date(2026, 3, 14, 3, 30, 0, 0, time.UTC)
	if a.text != "a b" || !slices.Equal(a.texts, []string{"x", "y"}) || a.word != "drive" ||
		!slices.Equal(a.words, []string{"lat", "lon"}) || a.file != "a.toml" || len(a.files) != 2 || !a.on ||
		a.count != 9 {
		t.Errorf("%+v", a)
	}
	if a.length != 3704 || a.speed != 10 || a.span != 90*time.Minute || a.shift != -30*time.Second || a.bytes < 2e6 ||
		!a.at.Equal(at) {
		t.Errorf("%+v", a)
	}
	if len(a.choices) != 2 || a.choices[0].Pattern != "*ferry*" || !a.choices[1].Kinds[nav.Areas] {
		t.Errorf("choices %+v", a.choices)
	}
}

// A value that can't be is refused with its name and what it may be, and the field stays as it was.
func TestRefusedValues(t *testing.T) {
	for _, c := range []struct{ name, value, want string }{
		{"word", "dri", "word: \"dri\" is not one of walk, drive; did you mean drive?"},
		{"word", "swim", "\"swim\" is not one of walk, drive"},
		{"words", "lat,hight", "\"hight\" is not one of lat, lon"},
		{"count", "1", "1 is too small: the minimum is 2"}, {"count", "10", "10 is too large: the maximum is 9"},
		{"count", "2.5", "\"2.5\" is not a whole number"},
		{"length", "0m", "0m is not greater than zero"}, {"length", "-3km", "not greater than zero"},
		{"length", "5 apples", "length: "}, {"speed", "fast", "speed: "}, {"span", "0s", "not greater than zero"},
		{"shift", "soon", "shift: "}, {"bytes", "much", "bytes: "}, {"at", "noon", "at: "}, {"on", "maybe", "on: "},
		{"choices", "boats", "choices: "},
	} {
		a, untouched := all{count: 5, length: 7, word: "walk"}, all{count: 5, length: 7, word: "walk"}
		err := a.params().Set(nil, given(c.name, c.value))
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s %s: %v, not %q", c.name, c.value, err, c.want)
			continue
		}
		if x, ok := errors.AsType[*Error](err); !ok || x.Name != c.name || strings.HasPrefix(x.Unwrap().Error(), c.name) {
			t.Errorf("%s %s: %#v", c.name, c.value, err)
		}
		if a.count != untouched.count || a.length != untouched.length || a.word != untouched.word {
			t.Errorf("%s %s changed %+v", c.name, c.value, a)
		}
	}
	var a all
	err := a.params().Set(nil, given("count", "1", "length", "x", "text", "kept"))
	if err == nil || strings.Count(err.Error(), "\n") != 1 || a.text != "kept" {
		t.Errorf("two faults: %v", err)
	}
}

// What is read for a parameter is known before any file is: paths, and files that words, zones and patterns name.
func TestReads(t *testing.T) {
	var a all
	system := Text("system", &a.text, "SYSTEM", "")
	system.Path = Maybe
	zone := Text("inside", &a.text, "ZONE", "")
	zone.Path = ReadPart
	area := filepath.Join(t.TempDir(), "area.gpx")
	if err := os.WriteFile(area, []byte("<gpx/>"), 0o600); err != nil {
		t.Fatal(err)
	}
	table := append(a.params(), system, zone)
	got := table.Reads(given("file", "rules.toml", "files", "a|b", "text", "c.toml", "system", "local.PRJ|25832",
		"inside", area+":Bay*|11.2,-47.7,11.4,-47.5", "nothing", "d"))
	if want := []string{"rules.toml", "a", "b", "local.PRJ", area}; !slices.Equal(got, want) {
		t.Errorf("%q, not %q", got, want)
	}
}

// Tables are put together for places that need other parts of them.
func TestTables(t *testing.T) {
	var a all
	table := a.params().In("Reading").Without("word", "words").ForOneRun()
	if table.Find("word") != nil || table.Find("text") == nil || len(table) != len(a.params())-2 {
		t.Errorf("%d parameters", len(table))
	}
	for _, p := range table {
		if p.Group != "Reading" || !p.Local || p.Switch() != (p.Name == "on") {
			t.Errorf("%+v", p)
		}
	}
	if p := table.In("Writing").Find("text"); p.Group != "Reading" {
		t.Errorf("a heading was taken away: %s", p.Group)
	}
}
