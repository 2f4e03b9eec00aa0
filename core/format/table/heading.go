package table

import (
	"slices"
	"strings"

	"gyrolith/core/format/headings"
	"gyrolith/core/pattern"
)

// measureCell is a cell of a row that says in which measure or form the columns are.
var measureCell = pattern.New(
	`(?i)^[\[(]?\s*(?:m|ft|feet|km|nm|kn|kts?|m/s|km/h|(?:°|deg|degrees) ?[nsewo]?|grad|rad|gon|dd|ddm|dms|` +
		`utc|local|m\.? ?ü\.? ?[mn]\.?[nh]?\.?|m ?a?msl|m ?nhn|a?msl|hh:mm(?::ss)?|yyyy-mm-dd|dd\.mm\.yyyy|` +
		`decimal(?: degrees)?|wgs ?84|%|-)\s*[\])]?$`,
)

// measureRow says whether a row holds nothing but measures.
func measureRow(cells []string) bool {
	some := false
	for _, c := range cells {
		if c = strings.TrimSpace(c); c == "" {
			continue
		}
		if !measureCell.MatchString(c) {
			return false
		}
		some = true
	}
	return some
}

// headingOf gives the titles of a table whose header was found at a row, and the last row of the header. A word in the
// row above stands over titles that say nothing by themselves, and measures stand in rows of their own below.
func headingOf(rows [][]string, at int) (titles []string, last int) {
	titles, last = slices.Clone(rows[at]), at
	for up := at - 1; up >= max(at-2, 0); up-- {
		if slices.ContainsFunc(rows[up], numeric) {
			break
		}
		for i, above := range rows[up] {
			above = strings.TrimSpace(above)
			for len(titles) <= i {
				titles = append(titles, "")
			}
			below := strings.TrimSpace(titles[i])
			if _, known := headings.Of(below); known || above == "" {
				continue
			}
			if _, known := headings.Of(above); known || below == "" && filled(rows[up]) > 1 {
				titles[i] = withMeasure(above, below)
			}
		}
	}
	for last+1 < len(rows) && last < at+2 && measureRow(rows[last+1]) {
		last++
		for i, below := range rows[last] {
			if i < len(titles) && strings.TrimSpace(below) != "" && strings.TrimSpace(titles[i]) != "" {
				titles[i] = withMeasure(strings.TrimSpace(titles[i]), strings.TrimSpace(below))
			}
		}
	}
	return
}

// filled counts the cells of a row that are not blank.
func filled(cells []string) (n int) {
	for _, c := range cells {
		if strings.TrimSpace(c) != "" {
			n++
		}
	}
	return
}

// withMeasure puts what stands below a title in brackets behind it.
func withMeasure(title, below string) string {
	if below == "" {
		return title
	}
	return title + " (" + strings.Trim(below, "[]()") + ")"
}
