package recipe

import (
	"fmt"
	"io"
	"strconv"
	"strings"

	"gyrolith/core/param"
)

// Printed is a step or an output that is written as a part of a recipe.
type Printed struct {
	Do       string
	Name     param.Setting // of an output: the key and the pattern
	Table    param.Table
	Settings []param.Setting
}

// Of makes the recipe that Print would write, under a name for its faults.
func Of(name string, step, output *Printed) *Recipe {
	r := &Recipe{Path: name, Outputs: []Step{output.step()}}
	if step := step.step(); len(step.Keys) > 0 || step.Do != "convert" {
		r.Steps = []Step{step}
	}
	return r
}

// step gives the settings that the table has and that a recipe can have as keys.
func (p *Printed) step() Step {
	s := Step{Do: p.Do}
	if p.Name.Name != "" {
		s.Keys = append(s.Keys, Key{Name: p.Name.Name, Values: p.Name.Values})
	}
	for _, set := range p.Settings {
		of := p.Table.Find(set.Name)
		if of == nil || of.Local {
			continue
		}
		k := Key{Name: set.Name, Values: set.Values, List: of.List, Switch: of.Switch()}
		if !of.List {
			k.Values = set.Values[len(set.Values)-1:]
		}
		s.Keys = append(s.Keys, k)
	}
	return s
}

// Print writes a step, if it does anything, and an output as a recipe.
func Print(w io.Writer, step, output *Printed) error {
	var b strings.Builder
	r := Of("", step, output)
	for _, s := range r.Steps {
		fmt.Fprintf(&b, "[[step]]\ndo = %s\n%s\n", strconv.Quote(s.Do), s.keys())
	}
	for _, o := range r.Outputs {
		b.WriteString("[[output]]\n")
		if o.Do != "convert" {
			fmt.Fprintf(&b, "do = %s\n", strconv.Quote(o.Do))
		}
		b.WriteString(o.keys())
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// keys writes the keys of a step.
func (s *Step) keys() string {
	var b strings.Builder
	for _, k := range s.Keys {
		switch {
		case k.Switch:
			fmt.Fprintf(&b, "%s = %s\n", k.Name, k.Values[0])
		case k.List:
			quoted := make([]string, len(k.Values))
			for i, v := range k.Values {
				quoted[i] = text(v)
			}
			fmt.Fprintf(&b, "%s = [%s]\n", k.Name, strings.Join(quoted, ", "))
		default:
			fmt.Fprintf(&b, "%s = %s\n", k.Name, text(k.Values[0]))
		}
	}
	return b.String()
}

// text writes a TOML string: literal where it can be, so that what was typed is seen, else quoted.
func text(s string) string {
	if strings.ContainsRune(s, '\\') && !strings.ContainsAny(s, "'\n\r\t") {
		return "'" + s + "'"
	}
	var b strings.Builder
	b.WriteByte('"')
	for _, r := range s {
		switch {
		case r == '"' || r == '\\':
			b.WriteByte('\\')
			b.WriteRune(r)
		case r < ' ' || r == 0x7f:
			fmt.Fprintf(&b, "\\u%04X", r)
		default:
			b.WriteRune(r)
		}
	}
	return b.String() + `"`
}
