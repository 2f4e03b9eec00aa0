package layer

import (
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
)

// settleTitles decides what the columns of properties are called in layers that share a table.
func settleTitles(layers []*Layer, exact bool) {
	t := format.NewTitling(exact)
	var fields []string
	seen := map[string]bool{}
	for _, l := range layers {
		l.walk(true, func(f *raw) error {
			l.properties(f, func(a attribute) {
				if a.value != "" {
					t.See(a.key, f.item)
				}
			})
			if f.item.Titles.Of("height") != nil && l.HasZ && l.Geometry == Points {
				t.See("height", f.item)
			}
			l.ofFields(f.fields, func(a attribute) {
				if !seen[a.key] {
					seen[a.key] = true
					fields = append(fields, a.key)
				}
			})
			return nil
		})
	}
	t.Settle(fields)
	for _, l := range layers {
		l.title = t
	}
}

// titled gives attributes under the titles that their source has.
func (l *Layer) titled(f *raw, give func(attribute)) func(attribute) {
	if l.HasZ && l.Geometry == Points { // where heights need no column of ours
		if t, p := f.item.Titles.Of("height"), &f.parts[0][0]; t != nil && p.HasHeight() {
			give(attribute{t.Text, string(p.AppendHeight(nil)), measure})
		}
	}
	return func(a attribute) {
		t := f.item.Titles.Of(a.key)
		if t == nil || a.sort >= field {
			give(a)
			return
		}
		as := attribute{t.Text, a.value, a.sort}
		if t.Number && decimal.IsNumber(a.value) {
			as.sort = number
		}
		if l.title.Of(a.key) != nil {
			give(as)
			return
		}
		give(a)
		if a.value != "" && l.title.Stands(t) && !l.hasField(f, t.Text) {
			give(as)
		}
	}
}

// hasField says whether a feature has a field that is called so, which goes before a column of a property.
func (l *Layer) hasField(f *raw, key string) bool {
	for i := range f.fields {
		if strings.EqualFold(f.fields[i].Key, key) {
			return true
		}
	}
	return false
}
