package input

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
)

// heightsParam is what the heights that are read are above.
func (r *Reading) heightsParam() param.Param {
	p := param.Func("heights-above", "WHAT",
		"what the heights that are read are above, `WHAT`: sea, ellipsoid, ground or pressure (default: as the file says)",
		func(word string) error {
			over, ok := nav.ParseVerticalDatum(word)
			if !ok {
				return fmt.Errorf("%q is not one of sea, ellipsoid, ground, pressure", word)
			}
			r.Above = over
			return nil
		})
	p.Words = []string{"sea", "ellipsoid", "ground", "pressure"}
	return p
}

// state states what the heights of data are above; they stay what they are.
func state(over nav.VerticalDatum, d *nav.Dataset) {
	if over == nav.DatumUnstated {
		return
	}
	for p := range d.AllPoints() {
		if p.HasHeight() {
			p.SetHeight(p.Height(), p.HeightPrecision(), over)
		}
	}
}

// withoutNoData takes away the heights that stand for none.
func withoutNoData(d *nav.Dataset, words []string) {
	var none []float64
	for _, w := range words {
		if v, err := strconv.ParseFloat(strings.TrimSpace(w), 64); err == nil {
			none = append(none, v)
		}
	}
	if len(none) == 0 {
		return
	}
	n := 0
	for p := range d.AllPoints() {
		if p.HasHeight() && slices.Contains(none, p.Height()) {
			p.ClearHeight()
			n++
		}
	}
	if n > 0 {
		d.Tell(nav.ProblemHeights, measure.Counted(n, "height", "heights")+" left out: "+
			strings.Join(words, " and ")+" stands for none")
	}
}
