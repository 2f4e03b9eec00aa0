package card

import (
	"fmt"
	"slices"
	"strings"

	"gyrolith/core/identity"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
)

// Naming is the name that an item has on the unit.
type Naming struct {
	Kind  nav.Kind
	Group string
	Name  string // in the data
	Given string // on the unit
	At    nav.Point
}

// Names are names that somebody has settled.
type Names struct {
	list map[settledKey]string
}

// settledKey is the item that a settled name is for. An empty group or kind is any.
type settledKey struct{ kind, group, name string }

// Settle gives items of a name a name on the unit; an empty kind or group is any.
func (n *Names) Settle(kind, group, name, given string) {
	if n.list == nil {
		n.list = map[settledKey]string{}
	}
	n.list[settledKey{kind, group, name}] = given
}

// Given finds the name that was settled for an item; "" for none.
func (n *Names) of(t *identity.Thing) string {
	if n == nil {
		return ""
	}
	for _, k := range []settledKey{{t.Kind.One(), t.Item.Group, t.Item.Name}, {t.Kind.One(), "", t.Item.Name},
		{"", t.Item.Group, t.Item.Name}, {"", "", t.Item.Name}} {
		if given := n.list[k]; given != "" {
			return given
		}
	}
	return ""
}

// Check finds a name that the unit can't show, or that two items would have.
func (n *Names) Check(p *unit.Profile) error {
	had := map[settledKey]settledKey{}
	for key, given := range n.list {
		kind, _ := nav.ParseKind(key.kind)
		if err := p.TakesName(kind, given); err != nil {
			return fmt.Errorf("%q can't be named %q: %w", key.name, given, err)
		}
		at := settledKey{kind: key.kind, name: strings.ToLower(given)}
		if other, twice := had[at]; twice && p.TextOf(kind).Unique != "none" {
			names := []string{key.name, other.name}
			slices.Sort(names)
			return fmt.Errorf("%q and %q would both be named %q", names[0], names[1], given)
		}
		had[at] = key
	}
	return nil
}

// namings lists the names of all entries that items of the data have.
func (b *stowing) namings(entries []entry) (out []Naming) {
	for i := range entries {
		if e := &entries[i]; e.source >= 0 {
			t := &b.sources[e.source]
			p, _ := t.First()
			out = append(out, Naming{t.Kind, t.Item.Group, t.Item.Name, e.Item.Name, p})
		}
	}
	return
}
