// Package dress gives items symbols, colours, names and groups by rule.
package dress

import (
	"bytes"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/pelletier/go-toml/v2"

	"gyrolith/core/advice"
	"gyrolith/core/choose"
	"gyrolith/core/decimal"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/schema"
	"gyrolith/core/symbol"
)

// Rule chooses items and says what they are given. All of its conditions have to hold for it to match. The tags doc
// make its JSON Schema.
type Rule struct {
	Name     string             `toml:"name" doc:"the name of the rule in reports"`
	Match    Match              `toml:"match" doc:"KIND[:GLOB], by name or group, such as waypoints:*rock*"`
	Field    map[string]Compare `toml:"field" doc:"values of fields: a pattern, or a comparison such as <2"`
	Inside   string             `toml:"inside" doc:"a pattern for the names of areas of the data"`
	Above    *Height            `toml:"above" doc:"the least height, such as 100m"`
	Below    *Height            `toml:"below" doc:"the greatest height"`
	Icon     string             `toml:"icon" doc:"a pattern for the URL of the original icon, or its symbol"`
	SymbolIs string             `toml:"symbol-is" doc:"a pattern for the symbol, as the source has it or its word"`
	Size     *Amount            `toml:"size" doc:"of an area, a comparison such as >2ha"`
	Length   *Amount            `toml:"length" doc:"of a line or an outline, a comparison such as <5km"`
	Coloured *Colour            `toml:"coloured" doc:"the original colour, such as #d01c1c"`
	Set      Set                `toml:"set" doc:"what matching items are given"`
	GoesOn   bool               `toml:"goes-on" doc:"later rules apply as well"`
}

// Set is what an item that matches is given. What is absent stays.
type Set struct {
	Symbol      *Word               `toml:"symbol" doc:"a word of 'gyrolith symbols'"`
	Colour      *Colour             `toml:"colour" doc:"such as #c8102e"`
	Width       *Width              `toml:"width" doc:"of lines, in pixels"`
	Group       *Template           `toml:"group" doc:"a template such as Hazards/{group}"`
	Description *Template           `toml:"description" doc:"a template"`
	Name        *Template           `toml:"name" doc:"a template such as R{number:2} {name}"`
	CountBy     *Template           `toml:"count-by" doc:"a template; {number} restarts for each value of it"`
	Find        *Search             `toml:"find" doc:"a regular expression (RE2) to be found in texts of the item"`
	ChangeTo    *string             `toml:"change-to" doc:"what is found becomes this; $1 is the first group"`
	In          Texts               `toml:"in" doc:"where it is looked for: name, description or field:KEY"`
	Fields      map[string]Template `toml:"fields" doc:"fields to set, each a template"`
}

// rules is a file of rules.
type rules struct {
	Rule []Rule `toml:"rule" doc:"the rules, in the order in which they are tried"`
}

// Schema is the JSON Schema of files of rules.
func Schema() map[string]any { return schema.Of("Gyrolith rules", rules{}) }

func (s *Set) empty() bool {
	return s.Symbol == nil && s.Colour == nil && s.Width == nil && s.Group == nil && s.Description == nil &&
		s.Name == nil && s.Find == nil && len(s.Fields) == 0
}

// Parse reads a file of rules. An error says the line and what is wrong there.
func Parse(path string, text []byte) ([]Rule, error) {
	var file rules
	err := toml.NewDecoder(bytes.NewReader(text)).DisallowUnknownFields().Decode(&file)
	if x, ok := errors.AsType[*toml.StrictMissingError](err); ok {
		e := x.Errors[0]
		line, col := e.Position()
		return nil, fmt.Errorf("%s:%d:%d: a rule has no key %q; %s", path, line, col, e.Key()[len(e.Key())-1], keyHelp)
	}
	if x, ok := errors.AsType[*toml.DecodeError](err); ok {
		line, col := x.Position()
		return nil, fmt.Errorf("%s:%d:%d: %s", path, line, col, strings.TrimPrefix(x.Error(), "toml: "))
	}
	if err != nil {
		return nil, fmt.Errorf("%s: %v", path, err)
	}
	if len(file.Rule) == 0 {
		return nil, fmt.Errorf("%s: contains no rule; a rule begins with [[rule]]", path)
	}
	lines := headings(text)
	for i := range file.Rule {
		r := &file.Rule[i]
		if r.Name == "" {
			r.Name = strconv.Itoa(i + 1)
		}
		if err := r.Check(); err != nil {
			line := 0
			if i < len(lines) {
				line = lines[i]
			}
			return nil, fmt.Errorf("%s:%d: rule %s: %v", path, line, r.Name, err)
		}
	}
	return file.Rule, nil
}

const keyHelp = "it has name, match, field, inside, above, below, icon, symbol-is, size, length, coloured and " +
	"goes-on, and in [rule.set] symbol, colour, width, group, description, name, count-by, find, change-to, in and fields"

// headings gives the lines at which rules begin.
func headings(text []byte) (out []int) {
	n := 0
	for line := range strings.Lines(string(text)) {
		n++
		if strings.HasPrefix(strings.ReplaceAll(strings.TrimSpace(line), " ", ""), "[[rule]]") {
			out = append(out, n)
		}
	}
	return
}

// Check finds rules that make no sense.
func (r *Rule) Check() error {
	switch {
	case r.Match.Text == "" && len(r.Field) == 0 && r.Inside == "" && r.Above == nil && r.Below == nil && r.Icon == "" &&
		r.SymbolIs == "" && r.Size == nil && r.Length == nil && r.Coloured == nil:
		return errors.New("it has no condition; match = \"all\" matches everything")
	case r.Set.ChangeTo != nil && r.Set.Find == nil:
		return errors.New("change-to needs find, to say what is changed")
	case r.Set.Find != nil && r.Set.ChangeTo == nil:
		return errors.New("find needs change-to, the text that is put in place; an empty one takes away what is found")
	case len(r.Set.In) > 0 && r.Set.Find == nil:
		return errors.New("in says where find looks, and nothing is to be found")
	case r.Set.empty():
		return errors.New("it sets nothing")
	case r.Set.Width != nil && !(*r.Set.Width > 0 && *r.Set.Width <= 100):
		return fmt.Errorf("%v is not a valid line width: use 0.1 to 100 pixels", *r.Set.Width)
	}
	if r.Set.Find != nil {
		if err := r.Set.Find.checks(*r.Set.ChangeTo); err != nil {
			return err
		}
	}
	for _, p := range []string{r.Inside, r.Icon, r.SymbolIs} {
		if _, err := choose.Parse("all:" + p); err != nil {
			return err
		}
	}
	return nil
}

// Match chooses items by kind, name and group.
type Match struct{ choose.Choice }

// UnmarshalText reads KIND[:GLOB].
func (m *Match) UnmarshalText(text []byte) (err error) {
	m.Choice, err = choose.Parse(string(text))
	return
}

// Height is a height in metres.
type Height float64

// UnmarshalText reads a height with its measure.
func (h *Height) UnmarshalText(text []byte) error {
	v, err := measure.ParseLength(string(text))
	*h = Height(v)
	return err
}

// Colour is #rrggbb.
type Colour struct{ nav.Colour }

// UnmarshalText reads a colour.
func (c *Colour) UnmarshalText(text []byte) error {
	v, ok := nav.ParseColour(string(text))
	if !ok {
		return fmt.Errorf("%q is not a colour: write it as #c8102e", text)
	}
	c.Colour = v
	return nil
}

// Width is the width of a line in pixels.
type Width float64

// Word is a neutral symbol word.
type Word struct{ string }

// UnmarshalText reads a symbol word.
func (w *Word) UnmarshalText(text []byte) error {
	s, ok := symbol.ByWord(string(text))
	if ok {
		w.string = s.Word
		return nil
	}
	if near := symbol.Nearest(string(text)); near != "" {
		return fmt.Errorf("there is no symbol %q; did you mean %q?", text, near)
	}
	return advice.Errorf(advice.ListSymbols, "there is no symbol %q", text)
}

// Search is a regular expression.
type Search struct{ *regexp.Regexp }

// UnmarshalText reads a regular expression.
func (x *Search) UnmarshalText(text []byte) (err error) {
	if x.Regexp, err = regexp.Compile(string(text)); err != nil {
		return fmt.Errorf("%q is not a regular expression: %s", text, strings.TrimPrefix(err.Error(),
			"error parsing regexp: "))
	}
	return nil
}

// groupRef is the number or name of a group in the text that is put in place; $$ is a dollar sign.
var groupRef = regexp.MustCompile(`\$\$|\$(\d+)|\$\{?(\w+)\}?`)

// checks finds groups that the expression doesn't have.
func (x *Search) checks(to string) error {
	for _, m := range groupRef.FindAllStringSubmatch(to, -1) {
		name := m[1] + m[2]
		n, err := strconv.Atoi(name)
		if m[0] != "$$" && (err == nil && n > x.NumSubexp() || err != nil && x.SubexpIndex(name) < 0) {
			return fmt.Errorf("change-to: %s stands for a group that %q doesn't have: put its part in brackets, or write $$ "+
				"for a dollar sign", m[0], x)
		}
	}
	return nil
}

// change puts a text in place of what is found. A number of a group ends at its last digit.
func (x *Search) change(text, to string) string {
	return x.ReplaceAllString(text, groupRef.ReplaceAllStringFunc(to, func(ref string) string {
		if n := strings.TrimPrefix(ref, "$"); strings.Trim(n, "0123456789") == "" {
			return "${" + n + "}"
		}
		return ref
	}))
}

// Texts are those texts of an item that are searched; none is its name.
type Texts []Text

// Text is a text of an item: its name, its description, or a field.
type Text string

// UnmarshalText reads the word of a text.
func (t *Text) UnmarshalText(text []byte) error {
	*t = Text(text)
	if key, field := strings.CutPrefix(string(text), "field:"); field && key != "" || *t == "name" || *t == "description" {
		return nil
	}
	return fmt.Errorf("%q is not one of name, description and field:KEY", text)
}

// place is where a text of an item is.
type place struct {
	property nav.Property
	get      func(*nav.Item) string
	set      func(*nav.Item, string)
}

func (t Texts) of() (out []place) {
	if len(t) == 0 {
		t = Texts{"name"}
	}
	for _, x := range t {
		key, field := strings.CutPrefix(string(x), "field:")
		switch {
		case field:
			out = append(out, place{nav.Property("field " + key), func(it *nav.Item) string {
				v, _ := nav.Get(it.Fields, key)
				return v
			}, func(it *nav.Item, text string) { setField(it, key, text) }})
		case x == "description":
			out = append(out, place{"description", func(it *nav.Item) string { return it.Desc },
				func(it *nav.Item, text string) { it.Desc = text }})
		default:
			out = append(out, place{"name", func(it *nav.Item) string { return it.Name },
				func(it *nav.Item, text string) { it.Name = text }})
		}
	}
	return
}

// Amount is what a length or a size must be: a quantity with < > <= or >= before it.
type Amount struct{ Compare }

// UnmarshalText reads a comparison with a quantity, whose measure says of what.
func (a *Amount) UnmarshalText(text []byte) error {
	s := strings.TrimSpace(string(text))
	rest := strings.TrimLeft(s, "<>=")
	a.sign = s[:len(s)-len(rest)]
	if !slices.Contains([]string{"<", ">", "<=", ">="}, a.sign) {
		return fmt.Errorf("%q is not a comparison: write < > <= or >= and a quantity, such as >2ha or <5km", text)
	}
	var err error
	if a.number, err = measure.ParseLength(rest); err == nil {
		return nil
	}
	if a.number, err = measure.ParseArea(rest); err != nil {
		return fmt.Errorf("%q is neither a length such as 5km nor the size of an area such as 2ha", rest)
	}
	return nil
}

// Compare is what the value of a field must be: a pattern, or a number with < > <= or >= before it.
type Compare struct {
	sign    string
	number  float64
	pattern string
}

// UnmarshalText reads a comparison.
func (c *Compare) UnmarshalText(text []byte) error {
	s := strings.TrimSpace(string(text))
	for _, sign := range []string{"<=", ">=", "<", ">"} {
		rest, ok := strings.CutPrefix(s, sign)
		if !ok {
			continue
		}
		v, _, isNumber := decimal.Parse([]byte(strings.TrimSpace(rest)))
		if !isNumber {
			return fmt.Errorf("%s must be followed by a number, not %q", sign, rest)
		}
		c.sign, c.number = sign, v
		return nil
	}
	choice, err := choose.Parse("all:" + s)
	c.pattern = choice.Pattern
	return err
}

func (c *Compare) holds(value string) bool {
	if c.sign == "" {
		return choose.Glob(c.pattern, value)
	}
	v, _, ok := decimal.Parse([]byte(value))
	return ok && c.of(v)
}

// of says whether a number compares so.
func (c *Compare) of(v float64) bool {
	switch c.sign {
	case "<":
		return v < c.number
	case ">":
		return v > c.number
	case "<=":
		return v <= c.number
	}
	return v >= c.number
}
