package format

import "gyrolith/core/nav"

// Mixed tells of a feature whose geometries are of several kinds that it becomes several items.
func Mixed(d *nav.Dataset, line int, kinds ...bool) {
	n := 0
	for _, has := range kinds {
		if has {
			n++
		}
	}
	if n > 1 {
		d.Note(nav.ProblemLines, "a feature with geometries of several kinds makes an item of each kind", line, 0).Info = true
	}
}
