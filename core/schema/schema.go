// Package schema describes the TOML files of users by JSON Schema (draft 2020-12), for editors that complete and check
// them, and checks texts that may only be certain words. Both come from the tags of the structs that the files are
// read into: doc is what a key means, words are the only values of a text.
package schema

import (
	"encoding"
	"reflect"
	"strings"
)

// Draft is the version of JSON Schema.
const Draft = "https://json-schema.org/draft/2020-12/schema"

// Of gives the schema of files that are read into a value.
func Of(title string, v any) map[string]any {
	out := node(reflect.TypeOf(v), "")
	out["$schema"], out["title"] = Draft, title
	return out
}

var textual = reflect.TypeFor[encoding.TextUnmarshaler]()

func node(t reflect.Type, words string) map[string]any {
	if t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	if reflect.PointerTo(t).Implements(textual) {
		return map[string]any{"type": "string"}
	}
	switch t.Kind() {
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	case reflect.Int, reflect.Int64:
		return map[string]any{"type": "integer"}
	case reflect.Float64:
		return map[string]any{"type": "number"}
	case reflect.Slice:
		return map[string]any{"type": "array", "items": node(t.Elem(), words)}
	case reflect.Map:
		return map[string]any{"type": "object", "additionalProperties": node(t.Elem(), words)}
	case reflect.Struct:
		properties := map[string]any{}
		for f := range t.Fields() {
			key := f.Tag.Get("toml")
			if key == "" || key == "-" {
				continue
			}
			one := node(f.Type, f.Tag.Get("words"))
			if doc := f.Tag.Get("doc"); doc != "" {
				one["description"] = doc
			}
			properties[key] = one
		}
		return map[string]any{"type": "object", "additionalProperties": false, "properties": properties}
	}
	out := map[string]any{"type": "string"}
	if words != "" {
		out["enum"] = strings.Fields(words)
	}
	return out
}

// Words lists the words that the text of a key may be.
func Words(v any, key string) []string {
	for f := range reflect.TypeOf(v).Fields() {
		if f.Tag.Get("toml") == key {
			return strings.Fields(f.Tag.Get("words"))
		}
	}
	return nil
}

// Wrong finds the first text of a struct that is none of its words; an empty one says nothing. The key is empty where
// all are right.
func Wrong(v any) (key, value string, words []string) {
	s := reflect.ValueOf(v).Elem()
	for f := range s.Type().Fields() {
		words := strings.Fields(f.Tag.Get("words"))
		if len(words) == 0 {
			continue
		}
		field := s.FieldByIndex(f.Index)
		texts := []string{}
		switch x := field.Interface().(type) {
		case string:
			texts = append(texts, x)
		case []string:
			texts = x
		}
	next:
		for _, text := range texts {
			for _, w := range words {
				if text == w || text == "" {
					continue next
				}
			}
			return f.Tag.Get("toml"), text, words
		}
	}
	return "", "", nil
}
