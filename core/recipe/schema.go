package recipe

import (
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/input"
	"gyrolith/core/param"
	"gyrolith/core/schema"
)

// Schema is the JSON Schema (draft 2020-12) of recipes, made from the tables of the kit's steps and outputs, for
// editors that complete and check TOML by one.
func Schema(kit *chain.Kit) map[string]any {
	reading := kit.NewReading().Params()
	var steps, outputs []any
	for _, v := range kit.Steps {
		steps = append(steps, part(v.Name, append(reading, kit.NewStage(v.Name).Params()...), nil, true))
	}
	for _, v := range kit.Outputs {
		end, key := kit.NewEnd(v.Name)
		if x, ok := end.Output.(interface{ ReadLike(*input.Reading) }); ok {
			x.ReadLike(kit.NewReading())
		}
		name := param.Text(key, new(string), "NAME",
			"the name of the output; words in braces, such as {name}, are filled in from the input")
		outputs = append(outputs, part(v.Name, append(end.Params(), name), []string{key}, v.Name != "convert"))
	}
	return map[string]any{
		"$schema": schema.Draft, "title": "Gyrolith recipe", "type": "object",
		"additionalProperties": false, "required": []string{"output"},
		"properties": map[string]any{
			"about":    described("what the recipe does, in one line"),
			"together": map[string]any{"type": "boolean", "description": "treat all inputs as one"},
			"values": map[string]any{"type": "object", "description": "values for words in braces, which can be set when the " +
				"recipe is run",
				"additionalProperties": map[string]any{"type": []string{"string", "number", "boolean"}}},
			"step":   map[string]any{"type": "array", "items": map[string]any{"anyOf": steps}},
			"output": map[string]any{"type": "array", "minItems": 1, "items": map[string]any{"anyOf": outputs}},
		},
	}
}

func described(about string) map[string]any {
	return map[string]any{"type": "string", "description": about}
}

// part is the schema of a step or an output. The verb of an output may be left out where it is the usual one.
func part(verb string, table param.Table, required []string, named bool) map[string]any {
	properties := map[string]any{"do": map[string]any{"const": verb}}
	for i := range table {
		p := &table[i]
		if p.Local {
			continue
		}
		about := strings.ReplaceAll(p.Help, "`", "")
		one := map[string]any{"type": []string{"string", "number"}}
		switch {
		case p.Switch():
			one = map[string]any{"type": []string{"boolean", "string"}}
		case len(p.Words) > 0 && p.Path == param.NoPath && !p.List:
			// Besides the words a value may hold, in braces, a value of the recipe.
			one = map[string]any{"anyOf": []any{map[string]any{"enum": p.Words}, map[string]any{"type": "string"}}}
		}
		if p.List {
			one = map[string]any{"anyOf": []any{one, map[string]any{"type": "array", "items": one}}}
		}
		one["description"] = about
		properties[p.Name] = one
	}
	if named {
		required = append(required, "do")
	}
	out := map[string]any{"type": "object", "title": verb, "additionalProperties": false, "properties": properties}
	if len(required) > 0 {
		out["required"] = required
	}
	return out
}
