package kml

import (
	"bytes"
	"encoding/xml"
	"slices"
	"strings"

	"github.com/go-json-experiment/json/jsontext"

	"gyrolith/core/decimal"
	"gyrolith/core/nav"
)

// schemas are where the schemas of a document are kept: they give the fields of placemarks their types (9.8).
const schemas = "Document"

// schema reads the types of the fields of a schema, and keeps it.
func (r *reader) schema() error {
	text, used, err := r.Capture(nil)
	if err != nil {
		return err
	}
	id, types, ours := readSchema(text)
	r.types["#"+id] = types
	if ours {
		return nil
	}
	k := nav.Kept{Format: "kml", Where: schemas, Text: text}
	for _, u := range used {
		k.Spaces = append(k.Spaces, nav.Space(u))
	}
	r.data.Meta.Kept = append(r.data.Meta.Kept, k)
	return nil
}

// pointSchema is the id of the schema of the values of points.
const pointSchema = "points"

// typed is where it is kept which fields of a placemark are of a schema: the address of the schema and their names, a
// line each.
const typed = "SchemaData"

// schemaData reads fields of a schema.
func (r *reader) schemaData(e *extension) error {
	url := r.AttrString("schemaUrl")
	list := url
	err := r.Children(func(local string) error {
		if local != "SimpleData" {
			return r.Skip()
		}
		f := nav.Field{Key: r.AttrString("name")}
		text, err := r.Leaf()
		f.Value = r.String(text)
		e.fields = append(e.fields, f)
		list += "\n" + f.Key
		return err
	})
	if url != "" {
		e.kept = append(e.kept, nav.Kept{Format: "kml", Where: typed, Text: list})
	}
	return err
}

// numberTypes are the types of the schema's fields that are no texts (16.10).
var numberTypes = []string{"int", "uint", "short", "ushort", "float", "double", "bool"}

// readSchema gives the id of a kept schema and the types of its fields, and says whether it is ours, made anew.
func readSchema(text string) (id string, types map[string]string, ours bool) {
	types, ours = map[string]string{}, true
	in := xml.NewDecoder(strings.NewReader(text))
	in.Strict = false
	for {
		token, err := in.Token()
		if err != nil {
			return id, types, ours && id == pointSchema
		}
		if text, ok := token.(xml.CharData); ok && len(bytes.TrimSpace(text)) > 0 {
			ours = false
		}
		start, ok := token.(xml.StartElement)
		if !ok {
			continue
		}
		attrs := map[string]string{}
		for _, a := range start.Attr {
			attrs[a.Name.Local] = a.Value
			known := a.Name.Local == "id" || a.Name.Local == "name" || a.Name.Local == "type"
			ours = ours && (known || a.Name.Space == "xmlns" || a.Name.Local == "xmlns")
		}
		switch start.Name.Local {
		case "Schema":
			id = attrs["id"]
		case "SimpleField", "SimpleArrayField":
			types[attrs["name"]] = attrs["type"]
		}
		ours = ours && (start.Name.Local == "Schema" || start.Name.Local == "SimpleArrayField")
	}
}

// typedFields gives the address of the schema and the fields that a kept list names.
func typedFields(k nav.Kept) (url string, keys []string) {
	url, rest, _ := strings.Cut(k.Text, "\n")
	return url, strings.Split(rest, "\n")
}

// resolveTypes marks the fields that a schema says to be numbers and truth values.
func (r *reader) resolveTypes() {
	if len(r.types) == 0 {
		return
	}
	r.data.Each(func(_ nav.Kind, it *nav.Item) {
		for _, k := range it.Kept {
			if k.Format != "kml" || k.Where != typed {
				continue
			}
			url, keys := typedFields(k)
			for i := range it.Fields {
				f := &it.Fields[i]
				f.Literal = f.Literal || slices.Contains(keys, f.Key) && isLiteral(r.types[url][f.Key], f.Value)
			}
		}
	})
}

// isLiteral says whether a value of a type is a number or a truth value.
func isLiteral(typ, value string) bool {
	if !slices.Contains(numberTypes, typ) {
		return false
	}
	if decimal.IsNumber(value) {
		return true
	}
	if !jsontext.Value(value).IsValid() {
		return false
	}
	kind := jsontext.Value(value).Kind()
	return kind == '0' || kind == 't' || kind == 'f'
}
