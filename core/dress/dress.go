package dress

import (
	"context"
	"maps"
	"slices"
	"strings"
	"time"

	"gyrolith/core/choose"
	"gyrolith/core/decimal"
	"gyrolith/core/figure"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/region"
	"gyrolith/core/symbol"
)

// Step dresses data by rules. The first rule that matches an item dresses it, and those behind it only where it says
// that it goes on.
type Step struct {
	Rules []Rule
	Path  string         // of a file with further rules, which Open reads
	Zone  *time.Location // in which templates write dates and times; nil is UTC

	Measure measure.System // in which templates write lengths

	AreasPath string     // of a file with areas, which {area} names
	Areas     []nav.Area // nil are those of the data

	Symbols     map[string]string // what symbols of the source are taken for, by what is found
	SymbolsPath string            // of a table of them, which Open reads

	line    Rule // the one rule of a command line, asked before those of the file
	given   []string
	oneKind string        // what was given without a match, for which the data must hold one kind; "" is none
	index   *region.Index // of the areas that {area} names
	several int           // items that lie in several of them

	translated int // symbols, by the table
}

// Outcome is what became of one rule.
type Outcome struct {
	Rule    string `json:"rule"`
	Dressed int    `json:"dressed"`
	Taken   int    `json:"taken,omitempty"`   // it matches these as well, but a rule before it had dressed them
	Named   int    `json:"named,omitempty"`   // items that it matches by name, though not by its other conditions
	Nearest string `json:"nearest,omitempty"` // the name that comes nearest to its pattern, where it matches none
}

// Result is what a step did.
type Result struct {
	Outcomes []Outcome
	Several  int    // items that lie in several areas, all of which are named
	Alike    int    // items that were given a name which another of their kind has too
	Shared   string // such a name
	Nameless int    // items whose name was taken away
	Ledger   nav.Ledger
}

// Dress dresses the data. Whether a rule matches is asked of the items as they came in. When the context ends, the data
// are not to be used.
func (s *Step) Dress(ctx context.Context, d *nav.Dataset) (*Result, error) {
	out := &Result{Outcomes: make([]Outcome, len(s.Rules))}
	s.index, s.several, s.translated = nil, 0, 0
	if err := s.judgeKinds(d); err != nil {
		return nil, err
	}
	s.translate(d, &out.Ledger)
	counts := make([]map[string]int, len(s.Rules))
	regions := make([]*region.Index, len(s.Rules))
	for i := range s.Rules {
		if pattern := strings.ToLower(s.Rules[i].Inside); pattern != "" {
			regions[i] = region.New(d.Areas, func(a *nav.Area) bool { return choose.Glob(pattern, a.Name) })
		}
		out.Outcomes[i].Rule = s.Rules[i].Name
		counts[i] = map[string]int{}
	}
	for n, it := range figure.Items(d) {
		sub := subject{Item: it, step: s}
		if n%1024 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		done := false
		var dressing []int
		for i := range s.Rules {
			r := &s.Rules[i]
			if r.Match.Text != "" && !r.Match.Matches(sub.Kind, sub.Item.Item) {
				continue
			}
			if !r.conditions(&sub, regions[i]) {
				out.Outcomes[i].Named++
				continue
			}
			if done {
				out.Outcomes[i].Taken++
				continue
			}
			dressing = append(dressing, i)
			done = !r.GoesOn
		}
		before := *sub.Item.Item
		for _, i := range dressing {
			out.Outcomes[i].Dressed++
			s.Rules[i].dress(&sub, &before, counts[i], &out.Ledger)
		}
	}
	out.Several = s.several
	out.Alike, out.Shared, out.Nameless = alike(d, out.Ledger)
	for i := range out.Outcomes {
		if o := &out.Outcomes[i]; o.Dressed+o.Taken+o.Named == 0 {
			if near := s.Rules[i].Match.Nearest(d); near != nil {
				o.Nearest = near[0].String()
			}
		}
	}
	return out, nil
}

// conditions asks for all but kind and name. The regions are those that the rule's items are inside of.
func (r *Rule) conditions(s *subject, regions *region.Index) bool {
	for key, want := range r.Field {
		value, ok := nav.Get(s.Item.Item.Fields, key)
		if !ok || !want.holds(value) {
			return false
		}
	}
	st := &s.Item.Item.Style
	if r.Coloured != nil {
		c, w := st.Colour, r.Coloured.Colour
		if s.Kind == nav.Areas && !c.Set {
			c = st.Fill
		}
		if !c.Set || c.R != w.R || c.G != w.G || c.B != w.B {
			return false
		}
	}
	if r.Icon != "" {
		pattern := strings.ToLower(r.Icon)
		if st.Icon == "" || !choose.Glob(pattern, st.Icon) && !choose.Glob(pattern, symbol.FromIcon(st.Icon)) {
			return false
		}
	}
	if r.Above != nil || r.Below != nil {
		low, high, ok := s.heights()
		if !ok || r.Above != nil && low < float64(*r.Above) || r.Below != nil && high > float64(*r.Below) {
			return false
		}
	}
	if r.SymbolIs != "" {
		pattern := strings.ToLower(r.SymbolIs)
		if st.Symbol == "" || !choose.Glob(pattern, st.Symbol) && !choose.Glob(pattern, symbol.Meaning(st.Symbol)) {
			return false
		}
	}
	if r.Size != nil || r.Length != nil {
		size, has := s.Value("size").(float64)
		length, is := s.Value("length").(float64)
		if r.Size != nil && !(has && r.Size.of(size)) || r.Length != nil && !(is && r.Length.of(length)) {
			return false
		}
	}
	return r.Inside == "" || len(s.inside(regions, s.Data.Areas)) > 0
}

// dress gives an item what the rule sets; templates take the values that it had before any rule.
func (r *Rule) dress(s *subject, before *nav.Item, counts map[string]int, l *nav.Ledger) {
	per := ""
	if r.Set.CountBy != nil {
		per = r.Set.CountBy.write(s, before, 0)
	}
	counts[per]++
	fill := func(t *Template) string {
		return strings.TrimSpace(t.write(s, before, counts[per]))
	}
	name := before.Name
	note := func(what nav.Property, old, new string) {
		if old != new {
			if n := len(*l); n == cap(*l) { // very many are copied less often
				*l = slices.Grow(*l, n+1)
			}
			*l = append(*l, nav.Entry{Kind: s.Kind, KindWord: s.Kind.One(), Name: name, What: what, Old: old, New: new,
				Why: r.why(), Count: 1, Asked: true})
		}
	}
	set := func(what nav.Property, to *string, t *Template) {
		if t == nil {
			return
		}
		text := fill(t)
		note(what, *to, text)
		*to = text
	}
	item := s.Item.Item
	set("group", &item.Group, r.Set.Group)
	set("description", &item.Desc, r.Set.Description)
	set("name", &item.Name, r.Set.Name)
	for _, key := range slices.Sorted(maps.Keys(r.Set.Fields)) {
		t := r.Set.Fields[key]
		text := fill(&t)
		old, had := nav.Get(item.Fields, key)
		if text == "" && !had { // nothing to say
			continue
		}
		note(nav.Property("field "+key), old, text)
		setField(item, key, text)
	}
	if x := r.Set.Find; x != nil {
		for _, in := range r.Set.In.of() {
			old := in.get(item)
			if text := x.change(old, *r.Set.ChangeTo); text != old {
				note(in.property, old, text)
				in.set(item, text)
			}
		}
	}
	r.style(s, note)
}

// setField gives an item a field, in the place of the one that it has.
func setField(item *nav.Item, key, text string) {
	fields := append([]nav.Field{}, item.Fields...)
	if _, had := nav.Get(fields, key); !had {
		fields = append(fields, nav.Field{Key: key})
	}
	for i := range fields {
		if fields[i].Key == key {
			fields[i] = nav.Field{Key: key, Value: text}
		}
	}
	item.Fields = fields
}

// why says in a ledger which rule changed something.
func (r *Rule) why() string {
	if r.Name == commandLine {
		return r.Name
	}
	return "rule " + r.Name
}

func (r *Rule) style(s *subject, note func(what nav.Property, old, new string)) {
	st := &s.Item.Item.Style
	if r.Set.Symbol != nil {
		word := r.Set.Symbol.string
		note("symbol", st.Symbol, word)
		st.Symbol = word
		if st.Icon != "" && symbol.FromIcon(st.Icon) != word { // or it would go on showing something else
			note("icon", st.Icon, "")
			st.Icon, st.IconScale = "", 0
		}
	}
	if r.Set.Colour != nil {
		c := r.Set.Colour.Colour
		note("colour", st.Colour.String(), c.String())
		st.Colour = c
		if s.Kind == nav.Areas && st.Fill.Set { // the fill stays as translucent as it was
			c.A = st.Fill.A
			st.Fill = c
		}
	}
	if r.Set.Width != nil {
		pixels := func(v float64) string { return string(decimal.AppendShort(nil, v, 2)) }
		note("width", pixels(st.Width), pixels(float64(*r.Set.Width)))
		st.Width = float64(*r.Set.Width)
	}
}
