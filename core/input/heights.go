package input

import "gyrolith/core/nav"

// Reference is the word for what heights are above.
type Reference string

// The references that one may state of the heights of a file.
const (
	Sea       Reference = "sea"
	Ellipsoid Reference = "ellipsoid"
	Ground    Reference = "ground"
	Pressure  Reference = "pressure"
)

var references = map[Reference]nav.VerticalDatum{Sea: nav.MeanSeaLevel, Ellipsoid: nav.AboveEllipsoid,
	Ground: nav.AboveGround, Pressure: nav.PressureLevel}

// References lists the words.
func References() []Reference { return []Reference{Sea, Ellipsoid, Ground, Pressure} }

// apply states what the heights of data are above. The heights stay what they are.
func (r Reference) apply(d *nav.Dataset) {
	over, ok := references[r]
	if !ok {
		return
	}
	for p := range d.AllPoints() {
		if p.HasHeight() {
			p.SetHeight(p.Height(), p.HeightPrecision(), over)
		}
	}
}
