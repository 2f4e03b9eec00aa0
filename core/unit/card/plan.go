package card

import (
	"context"

	"gyrolith/core/format"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
)

// Plan is what is to be written on a card.
type Plan struct {
	Profile   *unit.Profile
	Meant     *nav.Dataset // what the unit is to show: the data as fitted to it, and what stays on the card
	Ledger    nav.Ledger   // what was changed and left out for it, and what its files could not hold
	Files     []File       // that are written
	Unchanged []File       // that stay as they are
	Gone      []string     // that go off the card
	Things    []Recorded   // the record of what is shown
	Shift     float64      // metres that a position was moved by in fitting, at most
	Beside    *Beside      // what becomes of what the card shows before
	Names     []Naming     // the names that items have on the unit

	formats format.Formats
}

// File is one file of a card, by its path with slashes.
type File struct {
	Path    string
	Content []byte
}

// Make fits data to a unit and works out the files of an empty card in the formats that the profile wants. Source names
// the data's own file, for the names of files that hold many items.
func Make(ctx context.Context, d *nav.Dataset, p *unit.Profile, source string, formats format.Formats) (*Plan, error) {
	if err := p.CheckFormats(formats); err != nil {
		return nil, err
	}
	return (&stowing{there: &Occupants{}, profile: p, source: source, data: d, sources: identity.All(d),
		report: &Beside{}}).plan(ctx, formats)
}

// kindsOf lists the things of one kind, and where they are in the list.
func kindsOf[T any](list []T, kind nav.Kind, of func(*T) *identity.Thing) (out []identity.Thing, at []int) {
	for i := range list {
		if t := of(&list[i]); t.Kind == kind {
			out, at = append(out, *t), append(at, i)
		}
	}
	return
}
