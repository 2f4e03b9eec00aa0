package words

import (
	"strings"
	"time"

	"gyrolith/core/inspect"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// LookAnswer is what look answers as JSON.
type LookAnswer struct {
	Files []*inspect.File `json:"files"`
}

// LookJSON is the answer of look: one object with a list of files.
func LookJSON(views []*inspect.View, zone *time.Location) LookAnswer {
	files := []*inspect.File{}
	for _, v := range views {
		files = append(files, v.JSON(zone))
	}
	return LookAnswer{files}
}

// Marks are the pictures of the kinds in the tree.
var Marks = [...]string{"•", "↝", "~", "▱"}

// HeightRange says from where to where heights reach.
func HeightRange(s nav.Summary, m measure.System) string {
	if s.Heights == 0 {
		return ""
	}
	low, high := m.Height(s.Low), m.Height(s.High)
	if low == high {
		return low
	}
	number, name, _ := strings.Cut(low, " ")
	if _, other, _ := strings.Cut(high, " "); other == name {
		low = number
	}
	return low + "–" + high
}
