// Package schema describes the TOML files of users by JSON Schema (draft 2020-12), for editors that complete and check
// them, and checks texts that may only be certain words. Both come from the tags of the structs that the files are
// read into: doc is what a key means, words are the only values of a text.
package schema

import (
	"encoding"
	"encoding/json"
	"reflect"
	"slices"
	"strings"
)

// Draft is the version of JSON Schema.
const Draft = "https://json-schema.org/draft/2020-12/schema"

// Answers gives the schema of what is printed as JSON: one of several sorts of answers, each by its zero value.
func Answers(title string, all ...any) map[string]any {
	var of []any
	for _, v := range all {
		one := answer(reflect.TypeOf(v))
		if p, ok := one["properties"].(map[string]any); ok && p["settings"] == nil { // what files of settings gave
			p["settings"] = answer(reflect.TypeFor[[]string]())
		}
		of = append(of, one)
	}
	out := map[string]any{"anyOf": of}
	if len(of) == 1 {
		out = of[0].(map[string]any)
	}
	out["$schema"], out["title"] = Draft, title
	return out
}

var (
	plainText = reflect.TypeFor[encoding.TextMarshaler]()
	ownJSON   = reflect.TypeFor[json.Marshaler]()
)

// answer describes a type as encoding/json writes it. Keys that are left out where they say nothing are not required.
func answer(t reflect.Type) map[string]any {
	switch {
	case t.Kind() == reflect.Pointer:
		return answer(t.Elem())
	case t.Implements(plainText), reflect.PointerTo(t).Implements(plainText):
		return map[string]any{"type": "string"}
	case t.Implements(ownJSON), reflect.PointerTo(t).Implements(ownJSON), t.Kind() == reflect.Interface:
		return map[string]any{}
	}
	switch t.Kind() {
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	case reflect.Float32, reflect.Float64:
		return map[string]any{"type": "number"}
	case reflect.String:
		return map[string]any{"type": "string"}
	case reflect.Slice, reflect.Array:
		return map[string]any{"type": "array", "items": answer(t.Elem())}
	case reflect.Map:
		return map[string]any{"type": "object", "additionalProperties": answer(t.Elem())}
	case reflect.Struct:
		properties, required := map[string]any{}, []string{}
		members(t, properties, &required)
		out := map[string]any{"type": "object", "additionalProperties": false, "properties": properties}
		if len(required) > 0 {
			out["required"] = required
		}
		return out
	}
	return map[string]any{"type": "integer"}
}

// members lists the keys of a struct, those of structs that it embeds among them.
func members(t reflect.Type, properties map[string]any, required *[]string) {
	for f := range t.Fields() {
		name, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		switch {
		case name == "-" || !f.Anonymous && !f.IsExported():
		case f.Anonymous && name == "":
			inner := f.Type
			optional := inner.Kind() == reflect.Pointer // nil says nothing
			if optional {
				inner = inner.Elem()
			}
			var own []string
			members(inner, properties, &own)
			if !optional {
				*required = append(*required, own...)
			}
		default:
			properties[name] = answer(f.Type)
			if !strings.Contains(options, "omit") && !slices.Contains(*required, name) {
				*required = append(*required, name)
			}
		}
	}
}

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
