package table

import (
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/nav"
)

// titledPrefix stands before the title of a column of the source that holds a property of some items only, beside the
// column of that property.
const titledPrefix = "titled:"

// ownTitles gives the titles of the columns that hold properties; nil where all of them are ours. Moved says that times
// are not what the column has, but in UTC.
func (f *found) ownTitles(moved bool) *nav.Titles {
	var out nav.Titles
	for _, word := range []string{"name", "description", "comment", "type", "group", "symbol", "colour", "height",
		"time"} {
		at := f.at[word]
		if len(at) != 1 || at[0] >= len(f.titles) || word == "time" && moved ||
			word == "height" && !headings.InMetres(f.titles[at[0]]) {
			continue
		}
		out.Keep(word, f.titles[at[0]], false)
	}
	if len(out) == 0 {
		return nil
	}
	return &out
}

// titling settles which columns of a table keep the titles of their source.
func titling(d *nav.Dataset, t *sheet, fields []string) *format.Titling {
	if !format.Titled(d) {
		return nil
	}
	title := format.NewTitling(false)
	see := func(r *row) {
		for _, word := range append([]string{"name"}, optional...) {
			if v := r.value(word, t); v != nil && v != "" {
				title.See(word, r.item)
			}
		}
	}
	rows(d, t.Items, func(r *row) error { see(r); return nil }, func(r *run) error {
		for k := range r.points {
			r.point = &r.points[k]
			if see(&r.row); k > 0 {
				break
			}
		}
		return nil
	})
	title.Settle(fields)
	return title
}

// titled gives the property that the source has under a title.
func (r *row) titled(text string, t *sheet) any {
	if r.item != nil && r.item.Titles != nil {
		for _, title := range *r.item.Titles {
			if title.Text == text {
				return r.value(title.Of, t)
			}
		}
	}
	for i := range r.fields {
		if strings.EqualFold(r.fields[i].Key, text) {
			return r.field(r.fields[i].Key, t.keys)
		}
	}
	return nil
}
