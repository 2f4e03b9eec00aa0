package format

import (
	"fmt"

	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// NoteReach notes how many points lie beyond the reach of a coordinate system, and can't be written, and how many
// outside of the area that it is made for.
func NoteReach(l *nav.Ledger, s *crs.System, beyond, outside int) {
	if beyond > 0 {
		*l = append(*l, nav.Entry{KindWord: "point", What: "positions", Why: fmt.Sprintf("out of range for %v", s),
			Count: beyond, Loss: true})
	}
	if outside > 0 {
		*l = append(*l, nav.Entry{KindWord: "point", What: "positions outside of the system's area",
			Why: fmt.Sprintf("%v is meant for %s; they are written anyway, with less accuracy", s, s.Area.Name), Count: outside,
			Loss: true, Asked: true})
	}
}
