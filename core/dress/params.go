package dress

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"time"

	"gyrolith/core/choose"
	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/safefile"
	"gyrolith/core/symbol"
)

// mostRules is the most bytes of a file of rules.
const mostRules = 16 << 20

// Params lists the parameters of the step.
func (s *Step) Params() param.Table {
	set := func(name, value, help string, set func(text []byte) error) param.Param {
		return param.Func(name, value, help, func(text string) error {
			s.given = append(s.given, name)
			return set([]byte(text))
		})
	}
	template := func(to **Template) func([]byte) error {
		return func(text []byte) error { *to = &Template{}; return (*to).UnmarshalText(text) }
	}
	word := set("symbol", "WORD", "set this symbol, a `WORD`", func(text []byte) error {
		s.line.Set.Symbol = new(Word)
		return s.line.Set.Symbol.UnmarshalText(text)
	})
	for _, x := range symbol.All {
		word.Words = append(word.Words, x.Word)
	}
	fields := set("set", "FIELD=TEMPLATE", "set a field, `FIELD=TEMPLATE` such as crew={folder}; repeatable",
		func(text []byte) error {
			key, value, ok := strings.Cut(string(text), "=")
			if !ok || strings.TrimSpace(key) == "" {
				return fmt.Errorf("%q is not FIELD=TEMPLATE, such as crew={folder}", text)
			}
			t, err := ParseTemplate(value)
			if s.line.Set.Fields == nil {
				s.line.Set.Fields = map[string]Template{}
			}
			s.line.Set.Fields[strings.TrimSpace(key)] = t
			return err
		})
	in := set("in", "TEXT", "look for it in this `TEXT` instead: name, description or field:KEY; repeatable",
		func(text []byte) error {
			s.line.Set.In = append(s.line.Set.In, "")
			return s.line.Set.In[len(s.line.Set.In)-1].UnmarshalText(text)
		})
	fields.List, in.List = true, true
	return param.Table{
		param.File("rules", &s.Path, "FILE", "the `FILE` of rules"),
		param.Func("match", "KIND[:GLOB]", "the items to change, `KIND[:GLOB]` such as waypoints:'*rock*'",
			func(text string) error { return s.line.Match.UnmarshalText([]byte(text)) }),
		word,
		set("colour", "COLOUR", "set this `COLOUR`, such as '#c8102e'", func(text []byte) error {
			s.line.Set.Colour = new(Colour)
			return s.line.Set.Colour.UnmarshalText(text)
		}),
		set("width", "PIXELS", "set the width of lines, in `PIXELS`", func(text []byte) error {
			v, _, ok := decimal.Parse(text)
			if !ok {
				return fmt.Errorf("%q is not a number of pixels", text)
			}
			s.line.Set.Width = new(Width)
			*s.line.Set.Width = Width(v)
			return nil
		}),
		param.File("symbols", &s.SymbolsPath, "FILE", "replace symbols by this table, a `FILE` with the columns found and "+
			"symbol; 'gyrolith look --symbols' writes its start"),
		set("rename", "TEMPLATE", "set the name, a `TEMPLATE` such as 'R{number:2}'", template(&s.line.Set.Name)),
		set("regroup", "TEMPLATE", "set the group, a `TEMPLATE` such as 'Hazards/{group}'", template(&s.line.Set.Group)),
		fields,
		param.File("areas", &s.AreasPath, "FILE", "{area} names the area of this `FILE` that holds an item (default: of the "+
			"data)"),
		set("find", "REGEX", "find this `REGEX` (RE2) in names, and change it", func(text []byte) error {
			s.line.Set.Find = new(Search)
			return s.line.Set.Find.UnmarshalText(text)
		}),
		set("change-to", "TEXT", "what is found becomes this `TEXT`; $1 is the first group", func(text []byte) error {
			to := string(text)
			s.line.Set.ChangeTo = &to
			return nil
		}),
		in,
		param.Measures(func(system measure.System) { s.Measure = system }),
	}.In("Dressing")
}

// commandLine is the name of the rule that parameters make.
const commandLine = "as given"

// ofAllKinds are the parameters that take items of every kind where no match says which.
var ofAllKinds = []string{"set", "find", "change-to", "in"}

// judgeKinds refuses to give items of several kinds one name or look unasked.
func (s *Step) judgeKinds(d *nav.Dataset) error {
	var kinds []string
	for kind, n := range d.Counts() {
		if n > 0 {
			kinds = append(kinds, nav.Kind(kind).String())
		}
	}
	if s.oneKind == "" || len(kinds) < 2 {
		return nil
	}
	last := len(kinds) - 1
	return param.Errorf(s.oneKind, "the data have %s and %s: say with match which of them, such as %s",
		strings.Join(kinds[:last], ", "), kinds[last], kinds[0])
}

// ErrNoRules says that nothing is to be dressed.
var ErrNoRules = errors.New("no rules given: name a file of rules, or items to match with what to set")

// Check puts the rule of the line before the others, and finds parameters that make no sense.
func (s *Step) Check() error {
	switch {
	case len(s.given) > 0 || s.line.Match.Text != "":
		s.line.Name = commandLine
		at := "match"
		if s.line.Match.Text == "" {
			at = s.given[0]
			s.line.Match.Choice, _ = choose.Parse("all")
			if i := slices.IndexFunc(s.given, func(name string) bool { return !slices.Contains(ofAllKinds, name) }); i >= 0 {
				s.oneKind = s.given[i]
			}
		}
		if err := s.line.Check(); err != nil {
			return &param.Error{Name: at, Err: err}
		}
		s.Rules = append([]Rule{s.line}, s.Rules...)
		s.line = Rule{}
	case s.Path == "" && len(s.Rules) == 0 && s.SymbolsPath == "" && s.Symbols == nil:
		return &param.Error{Name: "rules", Err: ErrNoRules}
	}
	s.given = nil
	return nil
}

// Open reads the files of rules, of symbols and of areas.
func (s *Step) Open(ctx context.Context, r *input.Reading) error {
	if s.AreasPath != "" {
		in, err := r.Beside().Load(ctx, s.AreasPath)
		if err != nil {
			return err
		}
		if s.Areas = in.Data.Areas; len(s.Areas) == 0 {
			return &format.Error{Path: s.AreasPath, Msg: "has no area"}
		}
	}
	if s.SymbolsPath != "" {
		if err := s.readSymbols(); err != nil {
			return err
		}
	}
	if s.Path == "" {
		return nil
	}
	f, err := os.Open(s.Path)
	if err != nil {
		return safefile.CannotRead(s.Path, "file", err)
	}
	defer f.Close()
	text, err := io.ReadAll(io.LimitReader(f, mostRules+1))
	if err == nil && len(text) > mostRules {
		err = errors.New("is larger than 16 MiB, which is too large for rules")
	}
	if err != nil {
		return fmt.Errorf("%s: %w", s.Path, err)
	}
	rules, err := Parse(s.Path, text)
	if err != nil {
		return &Error{err}
	}
	s.Rules = append(s.Rules, rules...)
	return nil
}

// Error is what is wrong with a file of rules, with its place.
type Error struct{ Err error }

func (f *Error) Error() string { return f.Err.Error() }

// Unwrap gives the error itself.
func (f *Error) Unwrap() error { return f.Err }

// InZone sets the zone in which templates write dates and times.
func (s *Step) InZone(zone *time.Location) { s.Zone = zone }

// Close has nothing to close.
func (s *Step) Close() {}

// Apply dresses the data and reports it. The detail of the report is a *Result.
func (s *Step) Apply(ctx context.Context, d *nav.Dataset) (*nav.Report, error) {
	result, err := s.Dress(ctx, d)
	if err != nil {
		return nil, err
	}
	r := &nav.Report{Ledger: result.Ledger, Detail: result}
	dressed, idle := 0, 0
	for _, o := range result.Outcomes {
		dressed += o.Dressed
		if o.Dressed == 0 {
			idle++
		}
	}
	r.Count("dressed", dressed)
	r.Count("symbols replaced by the table", s.translated)
	r.Count("in several areas, of which all are named", s.several)
	r.Count("with a name now that another has too", result.Alike)
	r.Count("without a name now", result.Nameless)
	if idle == 1 {
		r.Findings = append(r.Findings, "1 rule matched nothing")
	} else if idle > 1 {
		r.Findings = append(r.Findings, fmt.Sprintf("%d rules matched nothing", idle))
	}
	return r, nil
}
