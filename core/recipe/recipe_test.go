package recipe

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"gyrolith/core/chain/kit"
	"gyrolith/core/clean"
	"gyrolith/core/param"
)

var tools = kit.New(time.Unix(0, 0), "", nil)

const good = `about = "a day"   # what it is
[values]
season = "2026"
year = 2026

[[step]]
do = "clean"
also = ["heights", "stops"]
smooth = true
take = ["tracks", "waypoints:R*"]

[[step]]
do = "elevate"
terrain = "grids-{season}"

[[output]]
file = "{season}/{folder}/{name}.gpx"
`

func checked(t *testing.T, text string) (*Recipe, error) {
	t.Helper()
	r, err := Parse("day.toml", []byte(text))
	if err != nil {
		return nil, err
	}
	base := t.TempDir()
	os.Mkdir(filepath.Join(base, "grids-2026"), 0o777)
	_, err = r.Chain(tools, base)
	return r, err
}

func TestGood(t *testing.T) {
	r, err := checked(t, good)
	if err != nil {
		t.Fatal(err)
	}
	base := t.TempDir()
	os.Mkdir(filepath.Join(base, "grids-2026"), 0o777)
	c, err := r.Chain(tools, base)
	if err != nil {
		t.Fatal(err)
	}
	cleaning, heights := c.Stages[0].Step.(*clean.Step), c.Stages[1].Step.(interface{ Params() param.Table })
	if r.About != "a day" || !slices.Contains(cleaning.Faults, clean.Heights) ||
		!slices.Contains(cleaning.Faults, clean.Stops) ||
		!cleaning.Smooth || len(c.Stages[0].Take.Take) != 2 || heights.Params().Find("terrain") == nil {
		t.Errorf("%+v", r)
	}
	if c.Ends[0].Name != "2026/{folder}/{name}.gpx" || c.Ends[0].Verb != "convert" {
		t.Errorf("%+v", c.Ends[0])
	}
	files, err := r.Files(tools, base, c)
	if err != nil || len(files) != 1 || files[0] != filepath.Join(base, "grids-2026") {
		t.Errorf("the files that it uses are %v (%v)", files, err)
	}
	for _, s := range Shipped() {
		if s.About == "" {
			t.Errorf("%s says nothing about itself", s.Path)
		}
	}
}

// What is wrong is told with its line and column, and the word that was probably meant.
func TestFaults(t *testing.T) {
	for _, c := range []struct{ from, to, want string }{
		{`do = "clean"`, `do = "cleen"`,
			`day.toml:7:1: there is no step "cleen"; there are clean, convert, dress, elevate, lay, overlay, recast; ` +
				`did you mean clean?`},
		{"smooth =", "smoth =", `day.toml:9:1: clean has no key "smoth"; did you mean smooth?`},
		{"smooth = true", `smooth = "much"`, "day.toml:9:1: smooth must be true or false"},
		{"[[output]]", "[[outputs]]", "day.toml:16:3: there is no table [[outputs]]"},
		{"about =", "abuot =", `day.toml:1:1: there is no key "abuot"`},
		{"{season}/{folder}", "{saeson}/{folder}", `day.toml:17:1: file: {saeson} is unknown`},
		{"file =", "fiel =", `convert has no key "fiel"; did you mean file?`},
		{"[[output]]\nfile = \"{season}/{folder}/{name}.gpx\"\n", "", "day.toml: has no [[output]]"},
		{`season = "2026"`, `name = "x"`, `the value "name" has a reserved name`},
		{`"grids-{season}"`, `"grids`, "day.toml:14:"},
		{`also = ["heights", "stops"]`, `also = { a = 1 }`, "day.toml:8:1: also must be a text"},
		{"smooth = true", "also = \"x\"", "already defined"},
		{"smooth = true", "spike-over = \"8\"", `day.toml:9:1: spike-over: "8" has no unit`},
		{"smooth = true", "json = true", `day.toml:9:1: clean has no key "json"`},
		{"grids-{season}", "grid-{season}", "there is no such file or folder"},
		{`do = "elevate"`, `do = "recast"`, `day.toml:14:1: recast has no key "terrain"`},
		{".gpx\"", ".nonsense\"", "day.toml:16:3: the name 2026/{folder}/{name}.nonsense doesn't give a format"},
		{"about = \"a day\"", "together = \"yes\"", "together must be true or false"},
	} {
		if _, err := checked(t, strings.Replace(good, c.from, c.to, 1)); err == nil ||
			!strings.Contains(err.Error(), c.want) {
			t.Errorf("%q in place of %q: %v, want %q", c.to, c.from, err, c.want)
		}
	}
	r, _ := Parse("day.toml", []byte(good))
	if err := r.Set([]string{"saeson=2027"}); err == nil ||
		!strings.Contains(err.Error(), "it has season, year; did you mean season?") {
		t.Errorf("%v", err)
	}
	if err := r.Set([]string{"season=2027"}); err != nil || r.Values[0].Text != "2027" {
		t.Errorf("%v %v", err, r.Values)
	}
}

func TestNames(t *testing.T) {
	in := func(rel string) Input { return Input{Path: rel, Rel: rel, Number: 7} }
	for pattern, want := range map[string]string{"{folder}/{name}-{number}.gpx": "day1/run/walk-7.gpx",
		"{name}.gpx": "walk.gpx", "../{name}.gpx": "walk.gpx", "/etc/{name}": "etc/walk",
		`..\..\{name}`: "walk", `a\..\..\{name}`: "walk",
		`C:\x`: "C/x"} {
		x := in("day1/run/walk.kml")
		if got := x.Fill(pattern); got != want {
			t.Errorf("%s is %s, want %s", pattern, got, want)
		}
	}
	r, err := Parse("day.toml", []byte("[[output]]\nfile = \"{folder}/{name}.gpx\"\n"))
	if err != nil {
		t.Fatal(err)
	}
	c, err := r.Chain(tools, "")
	if err != nil {
		t.Fatal(err)
	}
	if err := r.CheckNames(c, []Input{in("a/walk.gpx"), in("b/walk.gpx")}); err != nil {
		t.Error(err)
	}
	// Two inputs, one output: also where only the case differs, since a card may not tell them apart.
	for _, pair := range [][2]string{{"a/walk.gpx", "a/walk.kml"}, {"a/walk.gpx", "a/WALK.gpx"}} {
		if err := r.CheckNames(c, []Input{in(pair[0]), in(pair[1])}); err == nil ||
			!strings.Contains(err.Error(), "day.toml:2:1: "+pair[0]+" and "+pair[1]+" would both write") {
			t.Errorf("%v: %v", pair, err)
		}
	}
	r.Together = true
	if err := r.CheckNames(c, []Input{in("a")}); err == nil ||
		!strings.Contains(err.Error(), "takes all inputs together") {
		t.Errorf("together: %v", err)
	}
}

func TestGather(t *testing.T) {
	dir := t.TempDir()
	for _, name := range []string{"b/two.gpx", "a/one.gpx", "a/notes.txt", ".hidden/x.gpx", "a/.y.gpx", "out/old.gpx"} {
		os.MkdirAll(filepath.Join(dir, filepath.Dir(name)), 0o777)
		os.WriteFile(filepath.Join(dir, name), nil, 0o666)
	}
	isData := func(name string) bool { return strings.HasSuffix(name, ".gpx") }
	inputs, skipped, err := Gather([]string{dir}, filepath.Join(dir, "out"), isData)
	if err != nil || len(inputs) != 2 || inputs[0].Rel != "a/one.gpx" || inputs[1].Number != 2 || len(skipped) != 1 {
		t.Errorf("%v, %v skipped, %v", inputs, skipped, err)
	}
	if _, _, err := Gather([]string{filepath.Join(dir, "a/one.gpx"), filepath.Join(dir, "a")}, "", isData); err == nil ||
		!strings.Contains(err.Error(), "the same name") {
		t.Errorf("a file twice: %v", err)
	}
	if _, _, err := Gather([]string{filepath.Join(dir, "none")}, "", isData); err == nil {
		t.Error("what is not there is gathered")
	}
}

// Every input is in one share exactly, and shares are of about one size.
func TestShares(t *testing.T) {
	sizes := [16]int{}
	for i := range 4000 {
		in := &Input{Rel: fmt.Sprintf("day%d/walk%d.gpx", i%30, i)}
		found := 0
		for part := range 16 {
			if (Share{part + 1, 16}).Has(in) {
				sizes[part]++
				found++
			}
		}
		if found != 1 {
			t.Fatalf("%s is in %d shares", in.Rel, found)
		}
	}
	for part, n := range sizes {
		if n < 180 || n > 320 {
			t.Errorf("share %d has %d of 4000", part+1, n)
		}
	}
	for _, text := range []string{"", "3", "0/4", "5/4", "a/b", "-1/2"} {
		if s, err := ParseShare(text); err == nil {
			t.Errorf("%q is %v", text, s)
		}
	}
}

// A journal whose last line was cut off by a crash is read up to there, and goes on from there.
func TestJournal(t *testing.T) {
	path := filepath.Join(t.TempDir(), "journal.jsonl")
	j, err := OpenJournal(path)
	if err != nil {
		t.Fatal(err)
	}
	j.Add(&Entry{Run: &Head{Recipe: "r", Share: "1/1", Inputs: 2}})
	j.Add(&Entry{Input: "a", Recipe: "r", Status: Done, Outputs: map[string]string{"a.gpx": "1"}})
	j.Close()
	whole, _ := os.ReadFile(path)
	os.WriteFile(path, append(whole, `{"input":"b","sta`...), 0o666)
	if j, err = OpenJournal(path); err != nil || len(j.all("a")) != 1 || len(j.all("b")) != 0 {
		t.Fatalf("%v", err)
	}
	j.Add(&Entry{Input: "b", Recipe: "r", Status: Refused, Why: "no"})
	j.Close()
	text, _ := os.ReadFile(path)
	if !bytes.HasPrefix(text, whole) || bytes.Count(text, []byte("\n")) != 3 {
		t.Errorf("%s", text)
	}
	os.WriteFile(path, append([]byte("nonsense\n"), whole...), 0o666)
	if _, err := OpenJournal(path); err == nil ||
		!strings.Contains(err.Error(), "journal.jsonl:1: is not a journal line") {
		t.Errorf("%v", err)
	}
}

func TestMerge(t *testing.T) {
	dir := t.TempDir()
	write := func(name, share, recipe string, inputs int, entries ...*Entry) string {
		j, _ := OpenJournal(filepath.Join(dir, name))
		j.Add(&Entry{Run: &Head{Recipe: recipe, Share: share, Inputs: inputs}})
		for _, e := range entries {
			e.Recipe = recipe
			j.Add(e)
		}
		j.Close()
		return filepath.Join(dir, name)
	}
	one, other := write("1", "1/2", "r", 1, &Entry{Input: "b", Status: Done}),
		write("2", "2/2", "r", 1, &Entry{Input: "a", Status: Refused, Why: "no"})
	j, err := Merge([]string{other, one})
	if err != nil {
		t.Fatal(err)
	}
	var merged []string
	j.Entries(func(e *Entry) error { merged = append(merged, e.Input); return nil })
	if strings.Join(merged, ",") != "a,b" || j.Head.Inputs != 2 {
		t.Fatalf("%v %+v", merged, j.Head)
	}
	for want, paths := range map[string][]string{
		"journals of 2/2 are missing": {one}, "as is": {one, one},
		"belongs to another recipe": {one, write("3", "2/2", "other", 0)}, "share of 3": {one, write("4", "2/3", "r", 0)},
		"has 0 of its 5 inputs": {one, write("5", "2/2", "r", 5)}, "not a run's journal": {filepath.Join(dir, "gone")},
	} {
		if _, err := Merge(paths); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	// What was only begun is not done.
	if _, err := Merge([]string{one, write("7", "2/2", "r", 1, &Entry{Input: "x", Status: writing})}); err == nil ||
		!strings.Contains(err.Error(), "has 0 of its 1") {
		t.Errorf("%v", err)
	}
}

func FuzzRecipe(f *testing.F) {
	f.Add([]byte(good))
	for _, r := range Shipped() {
		f.Add([]byte(r.Source))
	}
	f.Add([]byte("a.b.c = [[1,2],{x=1}]\n[[step]]\ndo=1979-05-27\n"))
	f.Fuzz(func(t *testing.T, text []byte) {
		r, err := Parse("x", text)
		if err != nil {
			return
		}
		c, err := r.Chain(tools, "")
		if err != nil {
			return
		}
		r.CheckNames(c, []Input{{Rel: "a/b.gpx"}, {Rel: "c.gpx"}})
	})
}

// A recipe of tens of thousands of steps is a mistake, or meant to do harm.
func TestTooManySteps(t *testing.T) {
	r, err := Parse("many.toml", []byte(strings.Repeat("[[step]]\ndo = \"clean\"\n",
		20_000)+"[[output]]\nfile = \"x.gpx\"\n"))
	if err == nil {
		_, err = r.Chain(kit.New(time.Now(), "", nil), "")
	}
	if err == nil || !strings.Contains(err.Error(), "has 20000 steps or outputs, more than 1000") {
		t.Errorf("%v", err)
	}
}

// The schema knows every key that the recipes which ship have, and the words of a parameter.
func TestSchema(t *testing.T) {
	raw, err := json.Marshal(Schema(kit.New(time.Now(), "", nil)))
	if err != nil {
		t.Fatal(err)
	}
	type part struct {
		Title      string                     `json:"title"`
		Properties map[string]json.RawMessage `json:"properties"`
	}
	type list struct {
		Items struct {
			AnyOf []part `json:"anyOf"`
		} `json:"items"`
	}
	var schema struct {
		Properties struct {
			Step   list `json:"step"`
			Output list `json:"output"`
		} `json:"properties"`
	}
	if err := json.Unmarshal(raw, &schema); err != nil {
		t.Fatal(err)
	}
	known := func(l *list, s *Step) {
		i := slices.IndexFunc(l.Items.AnyOf, func(p part) bool { return p.Title == s.Do })
		if i < 0 {
			t.Errorf("the schema has no %s", s.Do)
			return
		}
		for _, k := range s.Keys {
			if l.Items.AnyOf[i].Properties[k.Name] == nil {
				t.Errorf("the schema of %s has no key %s", s.Do, k.Name)
			}
		}
	}
	for _, r := range Shipped() {
		for i := range r.Steps {
			known(&schema.Properties.Step, &r.Steps[i])
		}
		for i := range r.Outputs {
			known(&schema.Properties.Output, &r.Outputs[i])
		}
	}
	if !strings.Contains(string(raw), `"enum":["points","items"]`) {
		t.Error("the schema has no words of parameters")
	}
}

// What a recipe names and is not there is found for what it is.
func TestCausesStay(t *testing.T) {
	if _, _, err := Gather([]string{"gone.gpx"}, "", func(string) bool { return true }); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("an input: %v", err)
	}
	tools := kit.New(time.Now(), "", nil)
	r, err := Parse("r.toml", []byte("[[step]]\ndo = \"elevate\"\nterrain = [\"gone\"]\n\n[[output]]\nfile = \"x.gpx\"\n"))
	if err != nil {
		t.Fatal(err)
	}
	_, err = r.Open(t.Context(), tools, ".")
	if !errors.Is(err, fs.ErrNotExist) || !strings.Contains(err.Error(), "r.toml:3:1") {
		t.Errorf("terrain: %v", err)
	}
}
