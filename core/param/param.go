// Package param says what a parameter of a step, an output or a verb is. Beside the struct that holds the values stands
// one table of its parameters; options of a command line, keys of a recipe, help, completion and reference are made of
// it.
package param

import (
	"errors"
	"fmt"
	"os"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/choose"
	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/symbol"
)

// Param is one parameter, bound to the field that it sets.
type Param struct {
	Name    string
	Short   string   // a single letter that stands for the name; "" is none
	Old     []string // names that it had, which are understood and no longer listed
	Value   string   // the word for its value in help, such as DISTANCE; "" of a switch
	Help    string   // one line
	Default string   // as one would type it; "" where absence means nothing
	Words   []string // that the value may be; nil where it is free
	List    bool     // may be given several times
	Path    Path     // what the value is if it is a path
	Group   string   // the heading that it stands under in help; "" is that of its table
	Local   bool     // of one run of a program: no recipe has it

	set func(*Env, string) error
}

// Path says whether a value is a path.
type Path uint8

// A value is no path, of a file or folder that is read, of one that is written, or of a file if it looks like one.
const (
	NoPath Path = iota
	Read
	Written
	Maybe    // a word, or the path of a .prj or .toml file
	ReadPart // numbers, or the path of a file that is read, with a pattern behind a colon
)

// IsRead says whether a value of the parameter is the path of something that is read.
func (p *Param) IsRead(value string) bool {
	if p.Path == ReadPart {
		_, err := os.Stat(choose.ParseZone(value).Path)
		return err == nil
	}
	lower := strings.ToLower(value)
	return p.Path == Read || p.Path == Maybe && (strings.HasSuffix(lower, ".prj") || strings.HasSuffix(lower, ".toml"))
}

// Switch says whether the parameter has no value but true and false.
func (p *Param) Switch() bool { return p.Value == "" }

// Env is what the reading of a value may depend on.
type Env struct {
	Zone *time.Location // of times that name none; nil is UTC
}

// Table lists the parameters of one struct.
type Table []Param

// Find gives the parameter of a name; nil if the table has none.
func (t Table) Find(name string) *Param {
	i := slices.IndexFunc(t, func(p Param) bool { return p.Name == name || slices.Contains(p.Old, name) })
	if i < 0 {
		return nil
	}
	return &t[i]
}

// Setting is a parameter that was given, with the texts of its values.
type Setting struct {
	Name   string
	Values []string
}

// Error is a fault of a parameter's value, or of how it goes with others.
type Error struct {
	Name string
	Err  error
}

func (e *Error) Error() string { return e.Name + ": " + e.Err.Error() }

// Unwrap gives the error without the name.
func (e *Error) Unwrap() error { return e.Err }

// Errorf makes a fault of a parameter.
func Errorf(name, format string, args ...any) error { return &Error{name, fmt.Errorf(format, args...)} }

// Need makes a fault of a parameter where something does not hold.
func Need(ok bool, name, why string) error {
	if ok {
		return nil
	}
	return Errorf(name, "%s", why)
}

// Reads lists the paths of what settings name for reading.
func (t Table) Reads(settings []Setting) (paths []string) {
	for _, s := range settings {
		p := t.Find(s.Name)
		if p == nil {
			continue
		}
		for _, v := range s.Values {
			switch {
			case !p.IsRead(v):
			case p.Path == ReadPart:
				paths = append(paths, choose.ParseZone(v).Path)
			default:
				paths = append(paths, v)
			}
		}
	}
	return
}

// Set sets the fields of the settings that the table has, in the table's order; the others are left alone.
func (t Table) Set(env *Env, settings []Setting) error {
	if env == nil {
		env = &Env{}
	}
	var faults []error
	for i := range t {
		for _, s := range settings {
			if s.Name != t[i].Name {
				continue
			}
			for _, v := range s.Values {
				if err := t[i].set(env, v); err != nil {
					faults = append(faults, &Error{s.Name, err})
				}
			}
		}
	}
	return errors.Join(faults...)
}

// In puts the parameters that have no heading under one.
func (t Table) In(group string) Table {
	for i := range t {
		if t[i].Group == "" {
			t[i].Group = group
		}
	}
	return t
}

// Without leaves parameters out, for a place where their names mean something else.
func (t Table) Without(names ...string) Table {
	return slices.DeleteFunc(t, func(p Param) bool { return slices.Contains(names, p.Name) })
}

// ForOneRun marks all parameters as local.
func (t Table) ForOneRun() Table {
	for i := range t {
		t[i].Local = true
	}
	return t
}

// Func makes a parameter whose values are read by a function.
func Func(name, value, help string, set func(string) error) Param {
	return Param{Name: name, Value: value, Help: help, set: func(_ *Env, text string) error { return set(text) }}
}

// FuncIn makes a parameter whose values are read by a function that needs to know where.
func FuncIn(name, value, help string, set func(*Env, string) error) Param {
	return Param{Name: name, Value: value, Help: help, set: set}
}

// Text makes a parameter that is any text.
func Text(name string, to *string, value, help string) Param {
	return Func(name, value, help, func(text string) error { *to = text; return nil })
}

// Texts makes a parameter that may be given several times.
func Texts(name string, to *[]string, value, help string) Param {
	p := Func(name, value, help, func(text string) error { *to = append(*to, text); return nil })
	p.List = true
	return p
}

// File makes a parameter that is the path of a file that is read.
func File(name string, to *string, value, help string) Param {
	p := Text(name, to, value, help)
	p.Path = Read
	return p
}

// Files makes a parameter that names files or folders that are read.
func Files(name string, to *[]string, value, help string) Param {
	p := Texts(name, to, value, help)
	p.Path = Read
	return p
}

// Switch makes a parameter that is on or off.
func Switch(name string, to *bool, help string) Param {
	return Func(name, "", help, func(text string) (err error) { *to, err = strconv.ParseBool(text); return })
}

// Word makes a parameter that is one of a few words; each names what it is of.
func Word[T ~string](name string, to *T, words []T, value, help string) Param {
	list := make([]string, len(words))
	for i, w := range words {
		list[i] = string(w)
	}
	p := Func(name, value, help, func(text string) error {
		if !slices.Contains(list, text) {
			return fmt.Errorf("%q is not one of %s%s", text, strings.Join(list, ", "), DidYouMean(text, list))
		}
		*to = T(text)
		return nil
	})
	p.Words = list
	return p
}

// DidYouMean points at the word that was probably meant: one that begins alike, or that differs in a letter or two; ""
// where none does.
func DidYouMean(text string, words []string) string {
	best, least := "", min(3, (len(text)+1)/2)
	for _, w := range words {
		off := symbol.Edits(text, w)
		if len(text) > 2 && (strings.HasPrefix(w, text) || strings.HasPrefix(text, w)) {
			off = 0
		}
		if off < least {
			best, least = w, off
		}
	}
	if best == "" {
		return ""
	}
	return fmt.Sprintf("; did you mean %s?", best)
}

// WordsOf makes a parameter that is a comma-separated list of words; fits says which ones there are.
func WordsOf(name string, to *[]string, words []string, fits func(string) bool, value, help string) Param {
	p := Func(name, value, help, func(text string) error {
		for w := range strings.SplitSeq(text, ",") {
			if w = strings.TrimSpace(w); !fits(w) {
				return fmt.Errorf("%q is not one of %s%s", w, strings.Join(words, ", "), DidYouMean(w, words))
			}
			*to = append(*to, w)
		}
		return nil
	})
	p.Words, p.List = words, true
	return p
}

// Count makes a parameter that is a whole number in a range.
func Count(name string, to *int, least, most int, value, help string) Param {
	return Func(name, value, help, func(text string) error {
		n, err := strconv.Atoi(strings.TrimSpace(text))
		switch {
		case err != nil:
			return fmt.Errorf("%q is not a whole number", text)
		case n < least:
			return fmt.Errorf("%d is too small: the minimum is %d", n, least)
		case n > most:
			return fmt.Errorf("%d is too large: the maximum is %d", n, most)
		}
		*to = n
		return nil
	})
}

// quantity makes a parameter that is a number with its measure, above zero.
func quantity[T float64 | time.Duration](parse func(string) (T, error)) func(string, *T, string, string) Param {
	return func(name string, to *T, value, help string) Param {
		return Func(name, value, help, func(text string) error {
			v, err := parse(text)
			if err == nil && v <= 0 {
				err = fmt.Errorf("%s is not greater than zero", text)
			}
			if err == nil {
				*to = v
			}
			return err
		})
	}
}

// Parameters that are quantities with their measure: lengths and heights in metres, speeds in metres per second.
var (
	Length = quantity(measure.ParseLength)
	Speed  = quantity(measure.ParseSpeed)
	Span   = quantity(measure.ParseDuration)
)

// Bearing makes a parameter that is a direction in degrees; nil is none.
func Bearing(name string, to **float64, help string) Param {
	return Func(name, "DEGREES", help, func(text string) error {
		v, _, ok := decimal.Parse([]byte(strings.TrimSuffix(text, "°")))
		if !ok || v < 0 || v > 360 {
			return fmt.Errorf("%q is not a direction from 0 to 360 degrees", text)
		}
		*to = &v
		return nil
	})
}

// SignedLength makes a parameter that is a length in metres, which may be negative.
func SignedLength(name string, to *float64, value, help string) Param {
	return Func(name, value, help, func(text string) (err error) { *to, err = measure.ParseLength(text); return })
}

// SignedSpan makes a parameter that is a span of time, forwards or backwards.
func SignedSpan(name string, to *time.Duration, value, help string) Param {
	return Func(name, value, help, func(text string) (err error) { *to, err = measure.ParseDuration(text); return })
}

// Size makes a parameter that is a number of bytes.
func Size(name string, to *int64, value, help string) Param {
	return Func(name, value, help, func(text string) (err error) { *to, err = measure.ParseSize(text); return })
}

// Moment makes a parameter that is a time or a day.
func Moment(name string, to *time.Time, value, help string) Param {
	return FuncIn(name, value, help, func(env *Env, text string) (err error) {
		*to, err = instant.ParseMoment(text, env.Zone, false)
		return
	})
}

// Choices makes a parameter that chooses items by kind and name.
func Choices(name string, to *[]choose.Choice, help string) Param {
	p := Func(name, "KIND[:GLOB]", help, func(text string) error {
		c, err := choose.Parse(text)
		*to = append(*to, c)
		return err
	})
	p.List = true
	return p
}
