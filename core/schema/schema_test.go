package schema

import (
	"encoding/json"
	"reflect"
	"testing"
)

type inner struct {
	Case string `toml:"case" words:"upper lower" doc:"the case"`
}

type file struct {
	Name   string           `toml:"name"`
	Size   *int             `toml:"size"`
	Kinds  []string         `toml:"kinds" words:"routes tracks"`
	Inner  map[string]inner `toml:"inner"`
	Secret string           `toml:"-"`
}

func TestOf(t *testing.T) {
	raw, err := json.Marshal(Of("A file", file{}))
	if err != nil {
		t.Fatal(err)
	}
	var got, want any
	const text = `{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "A file", "type": "object",
		"additionalProperties": false, "properties": {"name": {"type": "string"}, "size": {"type": "integer"},
		"kinds": {"type": "array", "items": {"type": "string", "enum": ["routes", "tracks"]}},
		"inner": {"type": "object", "additionalProperties": {"type": "object", "additionalProperties": false,
		"properties": {"case": {"type": "string", "enum": ["upper", "lower"], "description": "the case"}}}}}}`
	if json.Unmarshal(raw, &got) != nil || json.Unmarshal([]byte(text), &want) != nil {
		t.Fatalf("no JSON: %s", raw)
	}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("%s", raw)
	}
}

func TestWrong(t *testing.T) {
	if key, value, words := Wrong(&file{Kinds: []string{"tracks", "areas"}}); key != "kinds" || value != "areas" ||
		len(words) != 2 {
		t.Errorf("%q %q %v", key, value, words)
	}
	if key, _, _ := Wrong(&inner{}); key != "" {
		t.Errorf("an absent word is wrong: %q", key)
	}
	if got := Words(inner{}, "case"); !reflect.DeepEqual(got, []string{"upper", "lower"}) {
		t.Errorf("%v", got)
	}
}
