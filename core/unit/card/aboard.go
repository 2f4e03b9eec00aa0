package card

import (
	"slices"

	"gyrolith/core/identity"
	"gyrolith/core/nav"
)

// Aboard is one thing that was done on the unit since the card was written.
type Aboard struct {
	Kind       nav.Kind `json:"-"`
	Word       string   `json:"kind"`
	Name       string   `json:"name"` // as the unit shows it now, or showed it
	What       Deed     `json:"change"`
	Was        string   `json:"was,omitempty"`     // its name before, where it was renamed
	Metres     float64  `json:"shift_m,omitempty"` // how far it was moved
	Changed    []string `json:"changed,omitempty"` // the other properties that were changed
	Lat        float64  `json:"lat,omitempty"`
	Lon        float64  `json:"lon,omitempty"`
	thing, was int
}

// Deed is what was done aboard.
type Deed string

// The deeds.
const (
	Made    Deed = "made"
	Moved   Deed = "moved"
	Renamed Deed = "renamed"
	Altered Deed = "changed"
	Deleted Deed = "deleted"
)

// Aboard lists what was made, moved, renamed, changed and deleted aboard since the card was written. Without a record
// nothing can be told.
func (o *Occupants) Aboard() (out []Aboard) {
	if len(o.Record) == 0 {
		return nil
	}
	for i := range o.Things {
		if a, yes := o.done(i); yes {
			out = append(out, a)
		}
	}
	for _, i := range o.missing {
		r := &o.Record[i]
		kind, _ := nav.ParseKind(r.Kind)
		out = append(out, Aboard{Kind: kind, Word: r.Kind, Name: r.Name, What: Deleted, Lat: r.Lat, Lon: r.Lon, thing: -1,
			was: i})
	}
	return
}

// done says what was done aboard to one thing.
func (o *Occupants) done(i int) (a Aboard, yes bool) {
	t := &o.Things[i]
	p, _ := t.First()
	a = Aboard{Kind: t.Kind, Word: t.Kind.One(), Name: t.Item.Name, Lat: p.Lat, Lon: p.Lon, thing: i, was: t.record}
	if t.record < 0 {
		a.What = Made
		return a, len(o.Record) > 0
	}
	r := &o.Record[t.record]
	a.Changed = changes(&t.Thing, r.Shown)
	if len(a.Changed) == 0 {
		return a, false
	}
	a.What = Altered
	if slices.Contains(a.Changed, identity.Name) {
		a.What, a.Was = Renamed, r.Name
	}
	if slices.Contains(a.Changed, identity.Position) {
		a.What = Moved
		was := likeness(t.Kind, r.Name, "", r.Lat, r.Lon, 1)
		a.Metres = identity.Apart(&was, &t.Thing)
	}
	a.Changed = slices.DeleteFunc(a.Changed, func(w string) bool { return w == identity.Name || w == identity.Position })
	return a, true
}
