package holds

import (
	"maps"

	"gyrolith/core/advice"
	"gyrolith/core/nav"
)

// Declaration says what a format holds.
type Declaration struct {
	Noun    string         // how one calls what is written, such as "a Keel card"
	Holds   Places         // what is not there is not held
	Missing map[Place]Held // why nothing of a place is held, where that can be said better
	Datums  []nav.VerticalDatum
	Rounds  Rounds
	Trims   bool // readers drop blanks at the ends of texts
}

// Without leaves properties of a place out.
func (c *Declaration) Without(at Place, list ...Property) *Declaration {
	out := *c
	out.Holds = maps.Clone(c.Holds)
	out.Holds[at] = c.Holds[at].But(list...)
	return &out
}

// Places are the parts of a declaration.
type Places map[Place]*Part

// Part is what is held of one place. The zero value holds nothing but positions.
type Part struct {
	whole Set               // held without any condition
	terms map[Property]Held // of the others, where there is more to say than that they are not held
}

// Held says how a property is held where it isn't simply.
type Held struct {
	Partly   bool                  // in part: what is not, the writer tells
	Why      string                // it is not held, or when it is; "" is "NOUN can't store it"
	Keys     func(*nav.Field) bool // the fields that are held; the others are lost
	KeyWords string                // which fields those are
	Text     Text                  // the limits of a text
	Advice   advice.Code
}

// Text is what a text may be.
type Text struct {
	Most    int    // letters; 0 is any number
	Letters string // which ones, such as "printable ASCII"; "" is any
}

// Rounds are the steps to which numbers are written; zero is as exact as they are.
type Rounds struct {
	Position, Height, Time Step
}

// Step is the size of a rounding.
type Step struct {
	Size     float64 // degrees, metres or seconds
	Standard bool    // the format's own standard has no finer one
	Words    string  // such as "a thousandth of a minute"
}

// Everything holds all that there can be at a place, but for what only other formats understand.
func Everything(at Place) *Part { return &Part{whole: Of(at) &^ (1 << Details)} }

// Only holds some properties.
func Only(list ...Property) *Part { return &Part{whole: SetOf(list...)} }

// But leaves some properties out.
func (p *Part) But(list ...Property) *Part {
	return &Part{whole: p.whole &^ SetOf(list...), terms: p.terms}
}

// And holds some properties more.
func (p *Part) And(list ...Property) *Part {
	return &Part{whole: p.whole | SetOf(list...), terms: p.terms}
}

// With says of a property how it is held.
func (p *Part) With(property Property, h Held) *Part {
	out := &Part{whole: p.whole &^ (1 << property), terms: map[Property]Held{property: h}}
	if h.Text != (Text{}) { // within those limits, and the writer tells what is beyond
		out.whole |= 1 << property
	}
	for k, v := range p.terms {
		if k != property {
			out.terms[k] = v
		}
	}
	return out
}

// Set lists what is held without any condition.
func (p *Part) Set() Set { return p.whole }

// Terms says what else is known of how a property is held.
func (p *Part) Terms(property Property) (Held, bool) {
	h, ok := p.terms[property]
	return h, ok
}

// Describes is the declaration of a file's title and description alone.
func Describes() *Part { return Only(Title, Description) }
