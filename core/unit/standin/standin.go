// Package standin holds the stand-in units: small imitations of navigation units, each with a reader of its own
// that shares no code with the writers, the unit's limits, and its silent habits.
package standin

import (
	"io/fs"
	"slices"

	"gyrolith/core/nav"
)

// Shown is what a unit shows with a card in it.
type Shown struct {
	Unit    string
	Data    *nav.Dataset // what its lists hold, as it holds them
	Limits  map[nav.Kind]int
	Words   map[nav.Kind]string // what the unit calls the kinds, where it has words of its own
	Ignored []Ignored
}

// Ignored is something on the card that the unit passed over. A real one does so without a word.
type Ignored struct{ File, Why string }

// Unit reads a card.
type Unit func(card fs.FS) (*Shown, error)

// Model is a kind of unit that there is a stand-in for.
type Model struct {
	Name string                 // of its profile
	Of   func(version int) Unit // the unit that reads cards up to a version; 0 is the newest
	Line func() *Listener       // its talker input; nil where it has none
	crew crew                   // what a crew can do on it
}

// Models lists the stand-ins.
var Models = []Model{
	{Name: "ridge", Of: func(int) Unit { return Ridge }, crew: ridgeCrew},
	{Name: "keel", Of: KeelOf, Line: func() *Listener { return &Listener{} }, crew: keelCrew},
	{Name: "vane", Of: func(int) Unit { return Vane }, crew: vaneCrew},
}

// Find gives the model of a name; nil where there is none.
func Find(name string) *Model {
	i := slices.IndexFunc(Models, func(m Model) bool { return m.Name == name })
	if i < 0 {
		return nil
	}
	return &Models[i]
}
