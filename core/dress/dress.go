package dress

import (
	"context"
	"maps"
	"slices"
	"strings"
	"time"

	"gyrolith/core/choose"
	"gyrolith/core/decimal"
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

	line  Rule // the one rule of a command line, asked before those of the file
	given []string
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
	Ledger   nav.Ledger
}

// subject is an item under the rules.
type subject struct {
	kind nav.Kind
	item *nav.Item
	data *nav.Dataset
	at   int
	zone *time.Location

	measure measure.System
}

// Dress dresses the data. Whether a rule matches is asked of the items as they came in. When the context ends, the data
// are not to be used.
func (s *Step) Dress(ctx context.Context, d *nav.Dataset) (*Result, error) {
	out := &Result{Outcomes: make([]Outcome, len(s.Rules))}
	counts := make([]map[string]int, len(s.Rules))
	regions := make([]*region.Index, len(s.Rules))
	for i := range s.Rules {
		if pattern := strings.ToLower(s.Rules[i].Inside); pattern != "" {
			regions[i] = region.New(d.Areas, func(a *nav.Area) bool { return choose.Glob(pattern, a.Name) })
		}
		out.Outcomes[i].Rule = s.Rules[i].Name
		counts[i] = map[string]int{}
	}
	for n, sub := range s.subjects(d) {
		if n%1024 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		done := false
		var dressing []int
		for i := range s.Rules {
			r := &s.Rules[i]
			if r.Match.Text != "" && !r.Match.Matches(sub.kind, sub.item) {
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
		before := *sub.item
		for _, i := range dressing {
			out.Outcomes[i].Dressed++
			s.Rules[i].dress(&sub, &before, counts[i], &out.Ledger)
		}
	}
	for i := range out.Outcomes {
		if o := &out.Outcomes[i]; o.Dressed+o.Taken+o.Named == 0 {
			if near := s.Rules[i].Match.Nearest(d); near != nil {
				o.Nearest = near[0].String()
			}
		}
	}
	return out, nil
}

func (s *Step) subjects(d *nav.Dataset) (out []subject) {
	zone := s.Zone
	if zone == nil {
		zone = time.UTC
	}
	var counts [4]int
	d.Each(func(kind nav.Kind, item *nav.Item) {
		out = append(out, subject{kind, item, d, counts[kind], zone, s.Measure})
		counts[kind]++
	})
	return
}

// conditions asks for all but kind and name. The regions are those that the rule's items are inside of.
func (r *Rule) conditions(s *subject, regions *region.Index) bool {
	for key, want := range r.Field {
		value, ok := nav.Get(s.item.Fields, key)
		if !ok || !want.holds(value) {
			return false
		}
	}
	st := &s.item.Style
	if r.Coloured != nil {
		c, w := st.Colour, r.Coloured.Colour
		if s.kind == nav.Areas && !c.Set {
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
	return r.Inside == "" || s.inside(regions)
}

// points visits the positions of an item.
func (s *subject) points(visit func(*nav.Point)) {
	d := &nav.Dataset{}
	switch s.kind {
	case nav.Waypoints:
		d.Waypoints = s.data.Waypoints[s.at : s.at+1]
	case nav.Routes:
		d.Routes = s.data.Routes[s.at : s.at+1]
	case nav.Tracks:
		d.Tracks = s.data.Tracks[s.at : s.at+1]
	case nav.Areas:
		d.Areas = s.data.Areas[s.at : s.at+1]
	}
	for p := range d.AllPoints() {
		visit(p)
	}
}

// heights gives the range of an item's heights.
func (s *subject) heights() (low, high float64, ok bool) {
	s.points(func(p *nav.Point) {
		if !p.HasHeight() {
			return
		}
		h := p.Height()
		if !ok {
			low, high, ok = h, h, true
		}
		low, high = min(low, h), max(high, h)
	})
	return
}

// height is the lowest of an item's heights in metres, to be written; "" where there is none.
func (s *subject) height() string {
	low, _, ok := s.heights()
	if !ok {
		return ""
	}
	return string(decimal.AppendShort(nil, low, 1))
}

// summary adds the item up.
func (s *subject) summary() nav.Summary {
	switch s.kind {
	case nav.Waypoints:
		return s.data.Waypoints[s.at].Summary()
	case nav.Routes:
		return s.data.Routes[s.at].Summary()
	case nav.Tracks:
		return s.data.Tracks[s.at].Summary()
	}
	return s.data.Areas[s.at].Summary()
}

// begun is the date, or the time of day, of an item's first time, in the zone; "" where there is none.
func (s *subject) begun(what string) string {
	sum := s.summary()
	if sum.Times == 0 {
		return ""
	}
	if what == "date" {
		return sum.First.Time().In(s.zone).Format(time.DateOnly)
	}
	return sum.First.Time().In(s.zone).Format("15:04:05")
}

// inside says whether every point of an item is inside one of the regions other than itself, between its floor and its
// ceiling.
func (s *subject) inside(regions *region.Index) bool {
	limits := map[int]*nav.Limits{}
	in := func(i int, p *nav.Point) bool {
		l := limits[i]
		if l == nil {
			of, _ := s.data.Areas[i].Limits()
			l = &of
			limits[i] = l
		}
		return l.Hold(p)
	}
	var holding []int
	first := true
	s.points(func(p *nav.Point) {
		if first {
			regions.Holding(p.Lat, p.Lon, func(i int) bool {
				if in(i, p) {
					holding = append(holding, i)
				}
				return true
			})
			first = false
		} else {
			holding = slices.DeleteFunc(holding, func(i int) bool { return !regions.Holds(i, p.Lat, p.Lon) || !in(i, p) })
		}
	})
	return slices.ContainsFunc(holding, func(i int) bool { return s.kind != nav.Areas || i != s.at })
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
			*l = append(*l, nav.Entry{Kind: s.kind, KindWord: s.kind.One(), Name: name, What: what, Old: old, New: new,
				Why: "rule " + r.Name, Count: 1, Asked: true})
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
	item := s.item
	set("group", &item.Group, r.Set.Group)
	set("description", &item.Desc, r.Set.Description)
	set("name", &item.Name, r.Set.Name)
	for _, key := range slices.Sorted(maps.Keys(r.Set.Fields)) {
		t := r.Set.Fields[key]
		text := fill(&t)
		old, had := nav.Get(item.Fields, key)
		note(nav.Property("field "+key), old, text)
		fields := append([]nav.Field{}, item.Fields...)
		if !had {
			fields = append(fields, nav.Field{Key: key})
		}
		for i := range fields {
			if fields[i].Key == key {
				fields[i] = nav.Field{Key: key, Value: text}
			}
		}
		item.Fields = fields
	}
	r.style(s, note)
}

func (r *Rule) style(s *subject, note func(what nav.Property, old, new string)) {
	st := &s.item.Style
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
		if s.kind == nav.Areas && st.Fill.Set { // the fill stays as translucent as it was
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
