// Package unit prepares cards for navigation units: what a unit can take is its profile, one place fits data to
// it, and a card is written so that nothing on it is lost and read back as the unit would read it.
package unit

import (
	"bytes"
	"embed"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/pelletier/go-toml/v2"

	"gyrolith/core/nav"
)

//go:embed profiles/*.toml
var shipped embed.FS

// Profile is what a unit can take.
type Profile struct {
	Name       string   `toml:"name"`
	Title      string   `toml:"title"`
	StandIn    bool     `toml:"stand-in"`
	Resolution float64  `toml:"resolution"` // degrees; 0 is as fine as the data
	Shows      []string `toml:"shows"`
	Text       Text     `toml:"text"`
	Waypoints  Kind     `toml:"waypoints"`
	Routes     Kind     `toml:"routes"`
	Tracks     Kind     `toml:"tracks"`
	Areas      Kind     `toml:"areas"`

	Source string `toml:"-"` // the profile as it is written
}

// Text says how names may look.
type Text struct {
	Length     int    `toml:"length"`     // most characters; 0 is any number
	Characters string `toml:"characters"` // allowed ones, with ranges such as A-Z; "" is all
}

// Kind says what becomes of one kind of item.
type Kind struct {
	As     string `toml:"as"` // the kind that it is written as; "" where the unit does not take it
	Format string `toml:"format"`
	Folder string `toml:"folder"`
	File   string `toml:"file"`   // a pattern: {source} makes one file, {name} one for each item
	Most   int    `toml:"most"`   // items; 0 is any number
	Points int    `toml:"points"` // in one item; 0 is any number
}

// Of gives what the profile says of a kind.
func (p *Profile) Of(k nav.Kind) *Kind {
	return [...]*Kind{&p.Waypoints, &p.Routes, &p.Tracks, &p.Areas}[k]
}

// ShowsA says whether the unit shows a property of items.
func (p *Profile) ShowsA(word string) bool { return slices.Contains(p.Shows, word) }

// The properties that a unit may show besides positions and names.
var properties = []string{"symbol", "description", "heights", "times", "colour", "group"}

// Parse reads a profile. An error says the line and what is wrong there.
func Parse(path string, text []byte) (*Profile, error) {
	p := &Profile{Source: string(text)}
	err := toml.NewDecoder(bytes.NewReader(text)).DisallowUnknownFields().Decode(p)
	if x, ok := errors.AsType[*toml.StrictMissingError](err); ok {
		e := x.Errors[0]
		line, col := e.Position()
		return nil, fmt.Errorf("%s:%d:%d: a profile has no key %q", path, line, col, strings.Join(e.Key(), "."))
	}
	if x, ok := errors.AsType[*toml.DecodeError](err); ok {
		line, col := x.Position()
		return nil, fmt.Errorf("%s:%d:%d: %s", path, line, col, strings.TrimPrefix(x.Error(), "toml: "))
	}
	if err != nil {
		return nil, fmt.Errorf("%s: %v", path, err)
	}
	return p, p.check(path)
}

func (p *Profile) check(path string) error {
	fault := func(text string, args ...any) error { return fmt.Errorf("%s: %s", path, fmt.Sprintf(text, args...)) }
	if p.Name == "" {
		return fault("the profile has no name")
	}
	for _, s := range p.Shows {
		if !slices.Contains(properties, s) {
			return fault("shows: there is no property %q; there are %s", s, strings.Join(properties, ", "))
		}
	}
	for _, kind := range nav.Kinds {
		k := p.Of(kind)
		if k.As == "" {
			continue
		}
		as, ok := nav.ParseKind(k.As)
		if !ok {
			return fault("[%s] as: %q is no kind of item", kind, k.As)
		}
		target := p.Of(as)
		if as != kind && target.As != as.String() {
			return fault("[%s] as: the unit takes no %s either", kind, as)
		}
		if as == kind && (k.Format == "" || k.File == "") {
			return fault("[%s]: a format and a file are needed", kind)
		}
	}
	return nil
}

// Shipped lists the profiles that come with the program.
func Shipped() []*Profile {
	entries, err := shipped.ReadDir("profiles")
	if err != nil {
		panic(err) // the folder is part of the program
	}
	var out []*Profile
	for _, e := range entries {
		text, err := shipped.ReadFile("profiles/" + e.Name())
		if err != nil {
			panic(err)
		}
		p, err := Parse(e.Name(), text)
		if err != nil {
			panic(err)
		}
		out = append(out, p)
	}
	return out
}

// Find finds a profile by its name.
func Find(name string) (*Profile, error) {
	var names []string
	for _, p := range Shipped() {
		if p.Name == strings.ToLower(name) {
			return p, nil
		}
		names = append(names, p.Name)
	}
	return nil, fmt.Errorf("there is no unit %q; there are %s", name, strings.Join(names, ", "))
}
