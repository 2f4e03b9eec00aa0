package unit

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"unicode/utf8"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
	"gyrolith/core/recast"
	"gyrolith/core/schema"
	"gyrolith/core/symbol"
)

// Fitted is data adapted to a profile, with everything that was changed or left out for it.
type Fitted struct {
	Shift  float64 // metres that a position was brought to the unit's step by, at most
	Data   *nav.Dataset
	Ledger nav.Ledger

	there  *There
	source []string // the names of all points in the data, of which none is given to another
}

// There is what a unit shows already and goes on showing.
type There struct {
	Counts [4]int              // items of each kind
	Taken  []TakenName         // names that are given
	Given  map[string][]string // the names that an item of the data, or its parts, have there, by its ID
}

// TakenName is a name that something on the unit has.
type TakenName struct {
	Kind nav.Kind
	Name string
	At   nav.Point
	Fix  bool // it is a point of a route, whose name is a waypoint's where one name is one place
}

// Fit adapts data to what a unit takes. It is the one place that decides what changes; the data stay as they
// are, the result is a copy. The error is that of the context.
func Fit(ctx context.Context, d *nav.Dataset, p *Profile) (*Fitted, error) {
	return FitBeside(ctx, d, p, nil)
}

// FitBeside adapts data to what a unit takes beside what it shows already; nil is nothing.
func FitBeside(ctx context.Context, d *nav.Dataset, p *Profile, there *There) (*Fitted, error) {
	if there == nil {
		there = &There{}
	}
	f := &Fitted{Data: &nav.Dataset{Meta: d.Meta}, there: there}
	out := f.Data
	out.Waypoints = slices.Clone(d.Waypoints)
	for _, r := range d.Routes {
		r.Points = slices.Clone(r.Points)
		out.Routes = append(out.Routes, r)
	}
	out.Tracks = slices.Clone(d.Tracks)
	out.Areas = slices.Clone(d.Areas)
	for _, w := range d.AllWaypoints() {
		if w.Name != "" {
			f.source = append(f.source, w.Name)
		}
	}
	f.attached(p)
	f.drop(p)
	if err := f.recast(ctx, p); err != nil {
		return nil, err
	}
	f.holes(p)
	f.segments(p)
	f.points(p)
	f.limit(p)
	f.dress(p)
	f.strip(p)
	f.name(p)
	return f, ctx.Err()
}

// attached leaves out the files that came with the data, and what only their format understands.
func (f *Fitted) attached(p *Profile) {
	m := &f.Data.Meta
	for _, x := range []struct {
		what nav.Property
		n    int
	}{{"attached files", len(m.Attachments)}, {"details of the file", len(m.Kept)}} {
		if x.n > 0 {
			f.Ledger = append(f.Ledger, nav.Entry{KindWord: "file", What: x.what, Why: p.Name + " does not show it",
				Count: x.n, Loss: true})
		}
	}
	m.Attachments, m.Kept = nil, nil
}

// drop leaves out what has no point, of which a unit can show nothing.
func (f *Fitted) drop(p *Profile) {
	gone := func(kind nav.Kind, name string, points int) bool {
		if points == 0 {
			f.Ledger.Lost(kind, name, nav.Property("empty "+kind.One()), p.Name+" can't show it", 1)
		}
		return points == 0
	}
	d := f.Data
	d.Routes = slices.DeleteFunc(d.Routes, func(r nav.Route) bool { return gone(nav.Routes, r.Name, len(r.Points)) })
	d.Tracks = slices.DeleteFunc(d.Tracks, func(t nav.Track) bool { return gone(nav.Tracks, t.Name, t.Len()) })
	d.Areas = slices.DeleteFunc(d.Areas, func(a nav.Area) bool { return gone(nav.Areas, a.Name, len(a.Outline)) })
	for i := range d.Tracks {
		d.Tracks[i].Segments = slices.DeleteFunc(slices.Clone(d.Tracks[i].Segments),
			func(s nav.Segment) bool { return len(s.Points) == 0 })
	}
}

// recast turns kinds that the unit does not take into those that it wants them as, and leaves out those that it takes
// in no form.
func (f *Fitted) recast(ctx context.Context, p *Profile) error {
	d := f.Data
	step := recast.Step{}
	for _, kind := range nav.Kinds {
		as, ok := nav.ParseKind(p.Of(kind).As)
		if !ok {
			d.Each(func(k nav.Kind, item *nav.Item) {
				if k == kind {
					f.Ledger.Lost(kind, item.Name, nav.Property(kind.One()), p.Name+" takes no "+kind.String(), 1)
				}
			})
			f.clear(func(k nav.Kind) bool { return k == kind })
			continue
		}
		if as != kind && d.Counts()[kind] > 0 {
			step.To[kind] = &as
		}
	}
	if step.To == [4]*nav.Kind{} {
		return nil
	}
	ledger, err := step.Recast(ctx, d)
	if err != nil {
		return ctx.Err() // or else there was nothing to turn
	}
	for _, e := range ledger {
		if e.What == "kind" {
			e.Asked = false
			if e.Kind == nav.Areas && e.New == "track" {
				e.New = "closed track"
			}
			e.Why = p.Name + " takes no " + e.Kind.String()
		}
		f.Ledger = append(f.Ledger, e)
	}
	// What could not be turned, such as a line that does not close, is told above, and is not for this unit.
	f.clear(func(kind nav.Kind) bool { return step.To[kind] != nil })
	return nil
}

// clear takes away all items of some kinds.
func (f *Fitted) clear(gone func(nav.Kind) bool) {
	d := f.Data
	if gone(nav.Waypoints) {
		d.Waypoints = nil
	}
	if gone(nav.Routes) {
		d.Routes = nil
	}
	if gone(nav.Tracks) {
		d.Tracks = nil
	}
	if gone(nav.Areas) {
		d.Areas = nil
	}
}

// holes closes the holes of areas where the unit shows none.
func (f *Fitted) holes(p *Profile) {
	if p.Areas.Holes == nil || *p.Areas.Holes {
		return
	}
	for i := range f.Data.Areas {
		if a := &f.Data.Areas[i]; len(a.Holes) > 0 {
			f.Ledger.Lost(nav.Areas, a.Name, "holes", p.Name+" has none: they count as closed", len(a.Holes))
			a.Holes = nil
		}
	}
}

// LeftOut is what a ledger calls an item for which the unit has no room.
const LeftOut nav.Property = "left out"

// limit leaves out the items that are more than the unit holds: the last ones in the order of the data, or the oldest.
func (f *Fitted) limit(p *Profile) {
	d := f.Data
	d.Waypoints = limited(f, p, nav.Waypoints, d.Waypoints, func(w *nav.Waypoint) (*nav.Item, int64) {
		return &w.Item,
			w.UnixNano()
	})
	d.Routes = limited(f, p, nav.Routes, d.Routes, func(r *nav.Route) (*nav.Item, int64) { return &r.Item, 0 })
	d.Tracks = limited(f, p, nav.Tracks, d.Tracks, func(t *nav.Track) (*nav.Item, int64) {
		s := t.Segments[len(t.Segments)-1].Points
		return &t.Item, s[len(s)-1].UnixNano()
	})
	d.Areas = limited(f, p, nav.Areas, d.Areas, func(a *nav.Area) (*nav.Item, int64) { return &a.Item, 0 })
}

func limited[T any](f *Fitted, p *Profile, kind nav.Kind, list []T, about func(*T) (*nav.Item, int64)) []T {
	most := p.Of(kind).Most
	if most == 0 || len(list)+f.there.Counts[kind] <= most {
		return list
	}
	most = max(most-f.there.Counts[kind], 0)
	order := make([]int, len(list)) // those that stay come first
	for i := range order {
		order[i] = i
	}
	which := "the last ones are left out"
	if p.Of(kind).Drop == "oldest" {
		which = "the oldest are left out, those without a time first"
		slices.SortStableFunc(order, func(a, b int) int {
			_, s := about(&list[a])
			_, t := about(&list[b])
			return cmp.Compare(t, s)
		})
	}
	besides := ""
	if n := f.there.Counts[kind]; n > 0 {
		besides = fmt.Sprintf(", and already shows %d", n)
	}
	gone := slices.Sorted(slices.Values(order[most:]))
	for _, i := range gone {
		item, _ := about(&list[i])
		f.Ledger.Lost(kind, item.Name, LeftOut, fmt.Sprintf("%s holds %d %s%s; %s", p.Name, p.Of(kind).Most, kind,
			besides, which), 1)
	}
	var out []T
	for i := range list {
		if _, away := slices.BinarySearch(gone, i); !away {
			out = append(out, list[i])
		}
	}
	return out
}

// dress brings symbols and colours to the nearest that the unit knows.
func (f *Fitted) dress(p *Profile) {
	each := func(kind nav.Kind, item *nav.Item, name string) {
		st := &item.Style
		if word := st.Symbol; word != "" && len(p.Symbols) > 0 && p.ShowsA("symbol") {
			if st.Symbol = p.symbol(word); st.Symbol != word {
				why := p.Name + " has its own symbols"
				if symbol.Meaning(word) == "" {
					why = p.Name + " has no such symbol"
				}
				f.Ledger.Changed(kind, name, "symbol", word, cmp.Or(st.Symbol, "plain mark"), why)
			}
		}
		for _, x := range []struct {
			what nav.Property
			of   *nav.Colour
		}{{"colour", &st.Colour}, {"fill colour", &st.Fill}} {
			if !x.of.Set || len(p.Colours) == 0 || !p.ShowsA("colour") {
				continue
			}
			c := p.colour(*x.of)
			if x.of == &st.Fill {
				c.A = x.of.A // what lies below shows through as it did
			}
			if c != *x.of {
				f.Ledger.Changed(kind, name, x.what, x.of.String(), c.String(), p.Name+" has only similar colours")
				*x.of = c
			}
		}
	}
	f.Data.Each(func(kind nav.Kind, item *nav.Item) { each(kind, item, item.Name) })
	for i := range f.Data.Routes {
		r := &f.Data.Routes[i]
		for j := range r.Points {
			each(nav.Routes, &r.Points[j].Item, r.Name)
		}
	}
}

// symbol gives the unit's own word for a symbol, or for the nearest broader one that it knows.
func (p *Profile) symbol(word string) string {
	for _, own := range p.Symbols {
		if own == word {
			return own // it is the unit's own word already
		}
	}
	for w := symbol.Meaning(word); w != ""; w = symbol.Like(w) {
		if own := p.Symbols[w]; own != "" {
			return own
		}
	}
	return p.Symbols["default"]
}

// Shown is an item of a card as the unit shows it, with the unit's own symbols; what it was read from is left alone.
func (p *Profile) Shown(t identity.Thing) identity.Thing {
	if len(p.Symbols) == 0 || !p.ShowsA("symbol") {
		return t
	}
	out := t.Copy()
	own := func(st *nav.Style) {
		if st.Symbol != "" {
			st.Symbol = p.symbol(st.Symbol)
		}
	}
	own(&out.Item.Style)
	if out.Kind == nav.Routes {
		out.Route.Points = slices.Clone(out.Route.Points)
		for i := range out.Route.Points {
			own(&out.Route.Points[i].Style)
		}
	}
	return out
}

// Neutral gives the neutral word for a symbol of the unit's; "" for one that is not one of them, or stands for several.
func (p *Profile) Neutral(own string) string {
	if _, neutral := symbol.ByWord(own); neutral || own == "" {
		return ""
	}
	found := ""
	for _, word := range slices.Sorted(maps.Keys(p.Symbols)) {
		if p.Symbols[word] == own && word != "default" {
			if found != "" && symbol.Like(word) == found {
				continue // the broader word is the right one
			}
			found = word
		}
	}
	return found
}

// colour gives the nearest colour that the unit shows, by the weighted distance of T. Riemersma (Colour metric, 1999),
// which comes near to how different colours look.
func (p *Profile) colour(c nav.Colour) nav.Colour {
	best, distance := c, math.Inf(1)
	for _, text := range p.Colours {
		o, _ := nav.ParseColour(text)
		mean := (float64(c.R) + float64(o.R)) / 2
		r, g, b := float64(c.R)-float64(o.R), float64(c.G)-float64(o.G), float64(c.B)-float64(o.B)
		if d := (2+mean/256)*r*r + 4*g*g + (2+(255-mean)/256)*b*b; d < distance {
			best, distance = o, d
		}
	}
	return best
}

// strip takes away what the unit does not show, so that what is meant can be compared with what it shows.
func (f *Fitted) strip(p *Profile) {
	lost := map[string]int{}
	strip := func(item *nav.Item) {
		note := func(word string, has bool, clear func()) {
			if has && !p.ShowsA(word) {
				lost[word]++
				clear()
			}
		}
		note("symbol", item.Style.Symbol != "", func() { item.Style.Symbol = "" })
		note("description", item.Desc != "", func() { item.Desc = "" })
		note("group", item.Group != "", func() { item.Group = "" })
		st := nav.Style{Symbol: item.Style.Symbol}
		note("colour", item.Style != st, func() { item.Style = st })
		if p.ShowsA("colour") { // a colour is all that it shows of a style
			item.Style = nav.Style{Symbol: item.Style.Symbol, Colour: item.Style.Colour, Fill: item.Style.Fill}
		}
		item.Fields = f.fields(item, p, lost)
		if len(item.Kept)+len(item.Links) > 0 || item.Comment != "" || item.Source != "" || item.Type != "" {
			lost["further details"]++
		}
		item.Kept, item.Links = nil, nil
		item.Comment, item.Source, item.Type, item.Number = "", "", "", ""
	}
	f.Data.Each(func(_ nav.Kind, item *nav.Item) { strip(item) })
	for i := range f.Data.Routes {
		for j := range f.Data.Routes[i].Points {
			strip(&f.Data.Routes[i].Points[j].Item)
		}
	}
	for i := range f.Data.Tracks {
		t := &f.Data.Tracks[i]
		t.Segments = slices.Clone(t.Segments)
		for j := range t.Segments {
			s := &t.Segments[j]
			lost["values of single points"] += s.Detailed()
			*s = nav.Segment{Points: s.Points}
		}
	}
	f.plain(p, lost)
	details := []string{"further details", "values of single points"}
	for _, word := range append(details, schema.Words(Profile{}, "shows")...) {
		if lost[word] > 0 {
			f.Ledger = append(f.Ledger, nav.Entry{KindWord: "item", What: nav.Property(word), Why: p.Name +
				" does not show it", Count: lost[word], Loss: true})
		}
	}
}

// fields keeps the fields of an item that the unit shows: a depth, and the limits of an area. Where the profile is a
// table those stay that have a column.
func (f *Fitted) fields(item *nav.Item, p *Profile, lost map[string]int) (kept []nav.Field) {
	columns := map[string]bool{}
	if p.Table != nil {
		for _, c := range p.Table.Columns {
			columns[c.Holds] = true
		}
	}
	other := false
	for _, x := range item.Fields {
		word := ""
		switch x.Key {
		case "depth":
			word = "depth"
		case nav.FieldFloor, nav.FieldCeiling, nav.FieldFrom, nav.FieldUntil:
			word = "limits"
		}
		switch {
		case word != "" && p.ShowsA(word) || columns["field:"+x.Key] || columns[x.Key]:
			kept = append(kept, x)
		case word != "":
			lost[word]++
		default:
			other = true
		}
	}
	if other {
		lost["further details"]++
	}
	return
}

// plain takes heights and times away where the unit shows none, and brings positions and heights to its steps.
func (f *Fitted) plain(p *Profile, lost map[string]int) {
	stepped, moved, far := 0, 0, 0.0
	strange := map[nav.VerticalDatum]int{}
	change := func(q *nav.Point) {
		if by := step(q, p.Resolution); by > 0 {
			moved++
			far = max(far, by)
		}
		switch over := q.VerticalDatum(); {
		case !q.HasHeight():
		case !p.ShowsA("heights"):
			lost["heights"]++
			q.ClearHeight()
		case !p.showsHeightsAbove(over):
			strange[over]++
			q.ClearHeight()
		}
		if q.HasTime() && !p.ShowsA("times") {
			lost["times"]++
			q.ClearTime()
		}
		if q.HasHeight() && p.HeightStep > 0 {
			h := math.Round(q.Height()/p.HeightStep) * p.HeightStep
			if math.Abs(h-q.Height()) > 1e-6 {
				stepped++
			}
			q.SetHeight(h, decimal.PrecisionOf(1), q.VerticalDatum())
		}
	}
	if p.ShowsA("heights") && p.ShowsA("times") && p.HeightStep == 0 && p.Resolution == 0 && len(p.HeightsOver) == 0 {
		return
	}
	d := f.Data
	for i := range d.Tracks { // lines and rings are the source's
		for j := range d.Tracks[i].Segments {
			s := &d.Tracks[i].Segments[j]
			s.Points = slices.Clone(s.Points)
		}
	}
	for i := range d.Areas {
		a := &d.Areas[i]
		a.Outline, a.Holes = slices.Clone(a.Outline), slices.Clone(a.Holes)
		for j := range a.Holes {
			a.Holes[j] = slices.Clone(a.Holes[j])
		}
	}
	for q := range d.AllPoints() {
		change(q)
	}
	if p.Resolution > 0 {
		for _, w := range d.AllWaypoints() {
			w.Exact = ""
		}
	}
	for over := range nav.Datums {
		if n := strange[over]; n > 0 {
			f.Ledger = append(f.Ledger, nav.Entry{KindWord: "point", What: "heights", Count: n, Loss: true,
				Why: fmt.Sprintf("above %s, and %s shows heights above %s", over, p.Name, strings.Join(p.HeightsOver, " and "))})
		}
	}
	f.Shift = far
	if moved > 0 {
		shift := fmt.Sprintf("up to %.2f m off", far)
		if far < 0.01 {
			shift = "less than 1 cm off"
		}
		f.Ledger = append(f.Ledger, nav.Entry{KindWord: "point", What: "positions", Old: "as in the data",
			New: shift, Why: fmt.Sprintf("%s has steps of %s°", p.Name,
				decimal.AppendShort(nil, p.Resolution, 12)),
			Count: moved})
	}
	if stepped > 0 {
		f.Ledger = append(f.Ledger, nav.Entry{KindWord: "point", What: "heights", Old: "as in the data",
			New: fmt.Sprintf("to steps of %s m", decimal.AppendShort(nil, p.HeightStep, 4)),
			Why: p.Name + " has no finer ones", Count: stepped})
	}
}

// showsHeightsAbove says whether the unit's heights can be above this.
func (p *Profile) showsHeightsAbove(over nav.VerticalDatum) bool {
	return len(p.HeightsOver) == 0 || slices.Contains(p.HeightsOver, over.Word())
}

// step brings a position to the nearest multiple of a step in degrees, and says by how many metres, near enough; 0
// degrees is no step.
func step(q *nav.Point, degrees float64) (by float64) {
	if degrees == 0 {
		return 0
	}
	lat, lon := math.Round(q.Lat/degrees)*degrees, nav.WrapLon(math.Round(q.Lon/degrees)*degrees)
	if lat > 90 || lat < -90 { // a pole that is no multiple of the step
		return 0
	}
	const nothing = 1e-11 // degrees: a micrometre
	moved := math.Abs(lat-q.Lat) > nothing || math.Abs(lon-q.Lon) > nothing
	if moved {
		by = geodesy.EquatorDegree * math.Hypot(lat-q.Lat, nav.WrapLon(lon-q.Lon)*math.Cos(lat*math.Pi/180))
		decimals := min(max(int(math.Ceil(-math.Log10(degrees)-1e-9)), 0), 12)
		q.Lat, q.Lon, q.LatPrecision, q.LonPrecision = lat, lon, decimal.PrecisionOf(decimals), decimal.PrecisionOf(decimals)
	}
	return by
}

// group brings the names of folders to the unit's characters.
func (f *Fitted) group(kind nav.Kind, item *nav.Item, p *Profile) {
	if item.Group == "" || p.Text.Characters == "" {
		return
	}
	old := item.Group
	parts := strings.Split(old, "/")
	for i := range parts {
		parts[i] = spelled(&p.Text, parts[i])
	}
	if item.Group = strings.Join(parts, "/"); item.Group != old {
		f.Ledger.Changed(kind, item.Name, "group", old, item.Group, "the letters that "+p.Name+" can show")
	}
}

// note brings a description to the unit's characters and length.
func (f *Fitted) note(kind nav.Kind, item *nav.Item, p *Profile) {
	if item.Desc == "" || p.Text.Note == 0 && p.Text.NoteCharacters == "" {
		return
	}
	old := item.Desc
	if p.Text.NoteCharacters != "" {
		item.Desc = spelled(&Text{Characters: p.Text.NoteCharacters, Accents: p.Text.Accents}, old)
	}
	if most := p.Text.Note; most > 0 && utf8.RuneCountInString(item.Desc) > most {
		runes := []rune(item.Desc)
		item.Desc = string(runes[:most])
		f.Ledger = append(f.Ledger, nav.Entry{Kind: kind, KindWord: kind.One(), Name: item.Name, What: "description",
			Why: fmt.Sprintf("cut to the %d characters that %s accepts", most, p.Name), Count: 1, Loss: true})
		return
	}
	if item.Desc != old {
		f.Ledger.Changed(kind, item.Name, "description", old, item.Desc, "the letters that "+p.Name+" can show")
	}
}
