package clean

import (
	"fmt"
	"strconv"

	"gyrolith/core/nav"
)

// Rejects makes a waypoint of every removed point, with its fault and number, so that they can be laid over the map.
func (r *Result) Rejects() *nav.Dataset {
	d := &nav.Dataset{}
	d.Meta.Name = "rejects"
	for _, x := range r.Removed {
		w := nav.Waypoint{Point: x.Point}
		w.Name = string(x.Fault)
		w.Desc = x.Kind.One()
		if x.Item != "" {
			w.Desc += fmt.Sprintf(" %q", x.Item)
		}
		w.Fields = append(w.Fields, nav.Field{Key: "fault", Value: string(x.Fault)})
		if x.Item != "" {
			w.Fields = append(w.Fields, nav.Field{Key: "item", Value: x.Item})
		}
		if x.Number > 0 {
			w.Name += " " + strconv.Itoa(x.Number)
			w.Desc += fmt.Sprintf(", point %d", x.Number)
			w.Fields = append(w.Fields, nav.Field{Key: "number", Value: strconv.Itoa(x.Number), Literal: true})
		}
		if x.Off > 0 {
			off := strconv.FormatFloat(x.Off, 'f', 1, 64)
			w.Desc += ", " + off + " m off"
			w.Fields = append(w.Fields, nav.Field{Key: "off_m", Value: off, Literal: true})
		}
		if x.Raw != "" {
			w.Desc += fmt.Sprintf(": %q", x.Raw)
			w.Fields = append(w.Fields, nav.Field{Key: "raw", Value: x.Raw})
		}
		w.Group = string(x.Fault)
		d.Waypoints = append(d.Waypoints, w)
	}
	return d
}
