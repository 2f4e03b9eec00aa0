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

// Print writes a step, if it does anything, and an output as a recipe.
func Print(w io.Writer, step, output *Printed) error {
	var b strings.Builder
	if keys := step.keys(); keys != "" || step.Do != "convert" {
		fmt.Fprintf(&b, "[[step]]\ndo = %s\n%s\n", strconv.Quote(step.Do), keys)
	}
	b.WriteString("[[output]]\n")
	if output.Do != "convert" {
		fmt.Fprintf(&b, "do = %s\n", strconv.Quote(output.Do))
	}
	fmt.Fprintf(&b, "%s = %s\n%s", output.Name.Name, strconv.Quote(output.Name.Values[0]), output.keys())
	_, err := io.WriteString(w, b.String())
	return err
}

// keys writes the settings that the table has and that a recipe can have.
func (p *Printed) keys() string {
	var b strings.Builder
	for _, s := range p.Settings {
		of := p.Table.Find(s.Name)
		if of == nil || of.Local {
			continue
		}
		switch {
		case of.Switch():
			fmt.Fprintf(&b, "%s = %s\n", s.Name, s.Values[len(s.Values)-1])
		case of.List:
			quoted := make([]string, len(s.Values))
			for i, v := range s.Values {
				quoted[i] = text(v)
			}
			fmt.Fprintf(&b, "%s = [%s]\n", s.Name, strings.Join(quoted, ", "))
		default:
			fmt.Fprintf(&b, "%s = %s\n", s.Name, text(s.Values[len(s.Values)-1]))
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
