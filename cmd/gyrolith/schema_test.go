package main

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

// judge holds a value against a JSON Schema, as far as ours go, and says what contradicts it.
func judge(schema map[string]any, v any, at string) string {
	if sorts, ok := schema["anyOf"].([]any); ok {
		var all []string
		for _, one := range sorts {
			why := judge(one.(map[string]any), v, at)
			if why == "" {
				return ""
			}
			all = append(all, why)
		}
		return strings.Join(all, "; or ")
	}
	wrong := func(want string) string { return fmt.Sprintf("%s is %T, want %s", at, v, want) }
	switch schema["type"] {
	case "object":
		o, ok := v.(map[string]any)
		if !ok {
			return wrong("an object")
		}
		properties, _ := schema["properties"].(map[string]any)
		required, _ := schema["required"].([]any)
		for _, key := range required {
			if _, has := o[key.(string)]; !has {
				return at + " has no " + key.(string)
			}
		}
		for key, value := range o {
			of, known := properties[key].(map[string]any)
			if !known {
				if of, known = schema["additionalProperties"].(map[string]any); !known {
					return at + " has an unknown " + key
				}
			}
			if why := judge(of, value, at+"."+key); why != "" {
				return why
			}
		}
	case "array":
		list, ok := v.([]any)
		if !ok {
			return wrong("a list")
		}
		for i, x := range list {
			if why := judge(schema["items"].(map[string]any), x, fmt.Sprintf("%s[%d]", at, i)); why != "" {
				return why
			}
		}
	case "string":
		if _, ok := v.(string); !ok {
			return wrong("a text")
		}
	case "number":
		if _, ok := v.(float64); !ok {
			return wrong("a number")
		}
	case "integer":
		if n, ok := v.(float64); !ok || n != float64(int64(n)) {
			return wrong("a whole number")
		}
	case "boolean":
		if _, ok := v.(bool); !ok {
			return wrong("true or false")
		}
	}
	return ""
}

// What every verb prints with --json is what schema says of it; errors are JSON, too.
func TestAnswersFitTheirSchemas(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx", "counting.txt", "briefing.txt", "rules.toml")
	f.putTerrain()
	f.put("card/.here", "")
	f.put("a.csv", "name,lat,lon\nA,-47.6,11.3\nB,-47.61,11.31\n")
	f.put("b.csv", "name,lat,lon\nA,-47.6,11.3\nB,-47.62,11.31\nC,-47.63,11.32\n")
	tried := map[string]bool{}
	for _, line := range [][]string{
		{"look", "planning.kmz"}, {"look", "planning.kmz", "walk.gpx"}, {"look", "."}, {"look", "planning.kmz", "--symbols"},
		{"convert", "planning.kmz", "-o", "x.gpx"}, {"convert", "a.csv", "b.csv", "-o", "out/{name}.gpx"},
		{"clean", "walk.gpx", "-o", "clean.gpx"},
		{"elevate", "walk.gpx", "--terrain", "terrain", "-o", "high.gpx"},
		{"recast", "planning.kmz", "--take", "tracks", "--tracks-to", "routes", "-o", "routes.gpx"},
		{"dress", "planning.kmz", "--rules", "rules.toml", "-o", "dressed.kmz"},
		{"overlay", "union", "planning.kmz", "-o", "union.kml"},
		{"lay", "rings", "--datum", "47.6 S 11.3 E", "--radius", "1nm", "-o", "rings.kml"},
		{"legs", "counting.txt", "--speed", "95kn", "--depart", "2026-03-14T17:00Z", "--hazards", "planning.kmz", "-o",
			"legs.csv"},
		{"compare", "a.csv", "b.csv"}, {"compare", "walk.gpx", "clean.gpx", "--in-time"},
		{"merge", "a.csv", "b.csv", "-o", "merged.csv"},
		{"tally", "walk.gpx"}, {"tally", "walk.gpx", "--areas", "planning.kmz", "-o", "visits.csv"},
		{"when", "06:20", "--along", "walk.gpx"}, {"when", "--every", "1h", "--along", "walk.gpx", "-o", "log.xlsx"},
		{"near", "Rock 9", "planning.kmz", "-o", "near.csv"},
		{"where", "47.6 S 11.3 E", "--crs", "utm", "--sun", "2026-03-14"}, {"where", "a.csv", "-o", "where.csv"},
		{"draw", "planning.kmz", "-o", "map.png"},
		{"run", "archive-day", "walk.gpx", "--into", "ready"}, {"run", "--status", "--into", "ready"},
		{"settings"}, {"formats"}, {"formats", "gpx"}, {"symbols", "rock"}, {"crs", "32732"}, {"recipes"}, {"units"},
		{"units", "ridge"},
		{"stow", "planning.kmz", "--unit", "ridge", "--card", "card"}, {"stow", "--card", "card", "--verify"},
		{"boot", "--unit", "ridge", "--card", "card"}, {"unstow", "--card", "card", "-o", "card.zip"},
		{"unstow", "--card", "card", "--restore", "card.zip"},
	} {
		r := f.run(append(line, "--json")...)
		var v any
		if err := json.Unmarshal([]byte(r.out), &v); err != nil {
			t.Errorf("%v: %v\n%s%s", line, err, r.out, r.err)
			continue
		}
		var schema map[string]any
		if err := json.Unmarshal([]byte(f.must("schema", line[0]).out), &schema); err != nil {
			t.Fatal(err)
		}
		if why := judge(schema, v, line[0]); why != "" {
			t.Errorf("%v: %s", line, why)
		}
		tried[line[0]] = true
		for _, word := range line {
			if o, ok := v.(map[string]any); ok && slices.Contains([]string{"legs.csv", "visits.csv", "log.xlsx", "near.csv",
				"where.csv"}, word) && fmt.Sprint(o["written"]) != "["+word+"]" {
				t.Errorf("%v: written %v", line, o["written"])
			}
		}
	}
	all := f.run("schema", "none").err
	for word := range strings.SplitSeq(strings.TrimSpace(all[strings.Index(all, "one of ")+len("one of "):]), ", ") {
		if !tried[word] && !slices.Contains([]string{"recipe", "rules", "profile", "send"}, word) {
			t.Errorf("schema %s: no answer was held against it", word)
		}
	}

	r := f.run("look", "none.gpx", "--json")
	var e struct {
		Status int
		Errors []string
	}
	if err := json.Unmarshal([]byte(r.err), &e); err != nil || e.Status != 1 || len(e.Errors) != 1 ||
		!strings.Contains(e.Errors[0], "none.gpx") {
		t.Errorf("%v %+v: %s", err, e, r.err)
	}
	if _, err := os.Stat(filepath.Join(f.dir, "none.gpx")); err == nil {
		t.Error("a file was made")
	}
}
