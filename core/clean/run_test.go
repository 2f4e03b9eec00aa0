package clean

import (
	"context"

	"gyrolith/core/nav"
)

// run cleans without an end in sight.
func (s *Step) run(d *nav.Dataset) *Result {
	s.List = true
	r, err := s.Clean(context.Background(), d)
	if err != nil {
		panic(err)
	}
	return r
}
