// Package standin holds the stand-in units: small imitations of navigation units, each with a reader of its own
// that shares no code with the writers, the unit's limits, and its silent habits.
package standin

import (
	"io/fs"

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

// Units lists the stand-ins by the names of their profiles.
var Units = map[string]Unit{
	"ridge": Ridge,
	"keel":  Keel,
	"vane":  Vane,
}
