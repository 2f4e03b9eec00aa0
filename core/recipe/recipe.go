// Package recipe holds the chain of a season's work as data: the steps, their parameters and the outputs, read from a
// TOML file and judged before anything is run; and the runner that does the chain for each of many inputs, with a
// journal.
package recipe

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/pelletier/go-toml/v2"
	"github.com/pelletier/go-toml/v2/unstable"

	"gyrolith/core/advice"
	"gyrolith/core/symbol"
)

// Recipe is a chain of steps with its outputs.
type Recipe struct {
	Path     string
	About    string
	Together bool // all inputs are one dataset
	Values   []Value
	Steps    []Step
	Outputs  []Step
	Source   string
}

// Value is a word that stands for a text, which the command line can set.
type Value struct {
	Name, Text string
	Place
}

// Step is one verb with its parameters.
type Step struct {
	Do   string
	Keys []Key
	Place
}

// Key is a parameter of a step, with one value or several.
type Key struct {
	Name   string
	Values []string
	List   bool
	Switch bool     // it is true or false
	From   []string // the recipe's values that these are made of
	Place
}

// Get finds a parameter's first value.
func (s *Step) Get(name string) (string, bool) {
	for i := range s.Keys {
		if s.Keys[i].Name == name && len(s.Keys[i].Values) > 0 {
			return s.Keys[i].Values[0], true
		}
	}
	return "", false
}

// Place is where something stands in the file.
type Place struct{ Line, Col int }

// Error is what is wrong with a recipe, and where.
type Error struct {
	Path string
	Place
	Msg    string
	Advice advice.Advice
	Err    error // the cause, where there is one
}

// Unwrap gives the cause.
func (f *Error) Unwrap() error { return f.Err }

// Advised gives the advice.
func (f *Error) Advised() advice.Advice { return f.Advice }

func (f *Error) Error() string {
	if f.Line == 0 {
		return fmt.Sprintf("%s: %s", f.Path, f.Msg)
	}
	return fmt.Sprintf("%s:%d:%d: %s", f.Path, f.Line, f.Col, f.Msg)
}

// parser gathers a recipe from the expressions of a TOML document.
type parser struct {
	p    unstable.Parser
	text []byte
	r    *Recipe
	at   string // the table that is open: "", values, step, output
	seen map[string]bool

	line, begun int // the line of the last node, counted from 0, and where it begins
}

// Parse reads a recipe. What it says is judged by Check.
func Parse(path string, text []byte) (*Recipe, error) {
	x := &parser{text: text, r: &Recipe{Path: path, Source: string(text)}, seen: map[string]bool{}}
	if !utf8.Valid(text) {
		return nil, &Error{Path: path, Msg: "is not UTF-8"}
	}
	var whole map[string]any // for what the grammar alone does not see, such as a table that is there twice
	if err := toml.Unmarshal(text, &whole); err != nil {
		f := &Error{Path: path, Msg: err.Error()}
		if d, ok := errors.AsType[*toml.DecodeError](err); ok {
			f.Line, f.Col = d.Position()
			f.Msg = strings.TrimPrefix(d.Error(), "toml: ")
		}
		return nil, f
	}
	x.p.Reset(text)
	for x.p.NextExpression() {
		if err := x.expression(x.p.Expression()); err != nil {
			return nil, err
		}
	}
	if err := x.p.Error(); err != nil {
		return nil, &Error{Path: path, Msg: err.Error()}
	}
	return x.r, nil
}

func (x *parser) fault(at Place, format string, args ...any) error {
	return &Error{Path: x.r.Path, Place: at, Msg: fmt.Sprintf(format, args...)}
}

// place finds where a node stands.
func (x *parser) placeOf(n *unstable.Node) Place {
	if n == nil || n.Raw.Length == 0 {
		return Place{}
	}
	for at := x.begun; at < int(n.Raw.Offset); at++ { // nodes come in their order
		if x.text[at] == '\n' {
			x.line, x.begun = x.line+1, at+1
		}
	}
	if x.begun > int(n.Raw.Offset) { // but for one that is looked at again
		x.line, x.begun = 0, 0
		return x.placeOf(n)
	}
	return Place{x.line + 1, utf8.RuneCount(x.text[x.begun:n.Raw.Offset]) + 1}
}

// keyOf gives the parts of a key and where it begins.
func (x *parser) keyOf(n *unstable.Node) (parts []string, at Place) {
	for it := n.Key(); it.Next(); {
		if k := it.Node(); len(parts) == 0 {
			at = x.placeOf(k)
		}
		parts = append(parts, string(it.Node().Data))
	}
	return
}

func (x *parser) expression(n *unstable.Node) error {
	parts, at := x.keyOf(n)
	name := strings.Join(parts, ".")
	switch n.Kind {
	case unstable.Table:
		if name != "values" {
			return x.fault(at, "there is no table [%s]; a recipe has [values], [[step]] and [[output]]", name)
		}
		x.at = name
		return nil
	case unstable.ArrayTable:
		switch name {
		case "step":
			x.r.Steps = append(x.r.Steps, Step{Place: at})
		case "output":
			x.r.Outputs = append(x.r.Outputs, Step{Do: "convert", Place: at})
		default:
			return x.fault(at, "there is no table [[%s]]; a recipe has [values], [[step]] and [[output]]", name)
		}
		x.at = name
		return nil
	case unstable.KeyValue:
		return x.keyValue(name, at, n.Value())
	}
	return nil
}

func (x *parser) keyValue(name string, at Place, v *unstable.Node) error {
	k := Key{Name: name, Place: at}
	switch v.Kind {
	case unstable.Array:
		k.List = true
		for it := v.Children(); it.Next(); {
			if it.Node().Kind == unstable.Comment {
				continue
			}
			text, ok := scalar(it.Node())
			if !ok {
				return x.fault(at, "%s must be a list of texts and numbers", name)
			}
			k.Values = append(k.Values, text)
		}
	default:
		text, ok := scalar(v)
		if !ok {
			return x.fault(at, "%s must be a text, a number, true or false, or a list", name)
		}
		k.Values = []string{text}
	}
	one := func() (string, error) {
		if k.List || len(k.Values) != 1 {
			return "", x.fault(at, "%s has one value", name)
		}
		return k.Values[0], nil
	}
	switch x.at {
	case "":
		text, err := one()
		if err != nil {
			return err
		}
		switch name {
		case "about":
			x.r.About = text
		case "together":
			if text != "true" && text != "false" {
				return x.fault(at, "together must be true or false")
			}
			x.r.Together = text == "true"
		default:
			return x.fault(at, "there is no key %q; a recipe has about and together, then [values], [[step]] and "+
				"[[output]]%s", name, near(name, []string{"about", "together"}))
		}
	case "values":
		text, err := one()
		if err != nil {
			return err
		}
		x.r.Values = append(x.r.Values, Value{name, text, at})
	default:
		steps := &x.r.Steps
		if x.at == "output" {
			steps = &x.r.Outputs
		}
		s := &(*steps)[len(*steps)-1]
		if name == "do" {
			text, err := one()
			if err != nil {
				return err
			}
			s.Do, s.Place = text, at
			return nil
		}
		s.Keys = append(s.Keys, k)
	}
	return nil
}

// scalar gives a value as an option has it.
func scalar(n *unstable.Node) (string, bool) {
	switch n.Kind {
	case unstable.String, unstable.LocalDate, unstable.LocalTime, unstable.LocalDateTime, unstable.DateTime:
		return string(n.Data), true
	case unstable.Integer, unstable.Float:
		return strings.ReplaceAll(string(n.Data), "_", ""), true
	case unstable.Bool:
		return strconv.FormatBool(n.Data[0] == 't'), true
	}
	return "", false
}

// near points at the word that was probably meant.
func near(word string, words []string) string {
	best, least := "", 3
	for _, w := range words {
		if d := symbol.Edits(word, w); d < least || strings.HasPrefix(w, word) && len(word) > 2 && best == "" {
			best, least = w, d
		}
	}
	if best == "" {
		return ""
	}
	return fmt.Sprintf("; did you mean %s?", best)
}

// Set gives values the texts of the command line, each NAME=TEXT.
func (r *Recipe) Set(pairs []string) error {
	for _, p := range pairs {
		name, text, ok := strings.Cut(p, "=")
		i := slices.IndexFunc(r.Values, func(v Value) bool { return v.Name == name })
		switch {
		case !ok:
			return fmt.Errorf("%q has no =: write NAME=TEXT", p)
		case i < 0:
			var names []string
			for _, v := range r.Values {
				names = append(names, v.Name)
			}
			if len(names) == 0 {
				return fmt.Errorf("%s has no values to set", r.Path)
			}
			return fmt.Errorf("%s has no value %q; it has %s%s", r.Path, name, strings.Join(names, ", "), near(name, names))
		}
		r.Values[i].Text = text
	}
	return nil
}
