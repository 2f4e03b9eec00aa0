package card

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/choose"
	"gyrolith/core/format"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
)

// Mode says what becomes of what a card shows already.
type Mode uint8

// The modes.
const (
	Empty   Mode = iota // there may be nothing
	Add                 // it stays; the same items are updated
	Replace             // it goes
)

// On says on which card data are stowed, and what becomes of what is there.
type On struct {
	Card  string
	Keep  string // the folder of archives and of copies of records
	Mode  Mode
	Drop  []choose.Choice // things that go off the card
	Names *Names          // names that somebody has settled; nil for none

	Prefer  Side     // whose place is right, of items of one name at two places; "" asks
	Restore []string // names of what was deleted aboard and is written again, as patterns

	// Chosen says whether the data would have an item with this name and group if the office had it, so that what they
	// lack is deleted there as well; nil is never.
	Chosen func(nav.Kind, *nav.Item) bool
}

// Thing names one thing of a card.
type Thing struct {
	Kind   nav.Kind `json:"-"`
	Word   string   `json:"kind"`
	Name   string   `json:"name"`
	Aboard Deed     `json:"aboard,omitempty"` // what was done to it aboard since it was written
}

// Beside says what a stow does to what a card shows.
type Beside struct {
	Before                        [4]int // what the unit shows before
	Kept, Updated, Added, Dropped [4]int
	Gone                          []Thing  // what the unit shows no more
	Aboard                        []Aboard // what was done aboard and stays as it is, for merge to bring home
	Open                          []Thing  // of these, what was changed in the data as well
	Stale                         []Thing  // what stays though the data have it no more
	Back                          []Thing  // what was deleted aboard and is written again
	Copied                        string   // the copy of the record that was used, where the card has lost its own
}

// MakeOn fits data to a unit and works out the files of a card on which there may be something already.
func MakeOn(ctx context.Context, d *nav.Dataset, p *unit.Profile, source string, formats format.Formats, on On) (*Plan,
	error) {
	there, err := LookAt(ctx, p, on.Card, on.Keep, formats)
	if err != nil {
		return nil, err
	}
	if err := p.CheckFormats(formats); err != nil {
		return nil, err
	}
	if on.Mode == Add && len(there.Unreadable) > 0 {
		return nil, advice.Errorf(advice.ReplaceUnreadable, "%s: %v, so it can't be kept", on.Card, there.Unreadable[0])
	}
	b := &stowing{On: on, there: there, profile: p, source: source, data: d, sources: identity.All(d),
		report: &Beside{Before: there.Counts(), Copied: there.Copied}}
	if err := b.drop(); err != nil {
		return nil, err
	}
	b.pair(ctx)
	if err := b.settleApart(); err != nil {
		return nil, err
	}
	if err := b.checkRestored(); err != nil {
		return nil, err
	}
	if on.Mode == Empty && len(there.Things)+len(there.Unreadable) > 0 {
		b.leave()
		return nil, &Occupied{Card: on.Card, Beside: *b.report, Unreadable: there.Unreadable}
	}
	return b.plan(ctx, formats)
}

// stowing plans a stow beside what is there.
type stowing struct {
	On
	there   *Occupants
	profile *unit.Profile
	source  string // the data's own file
	data    *nav.Dataset
	sources []identity.Thing
	report  *Beside

	dropped map[int]bool  // things that go by choice
	same    map[int][]int // of a source: the things that are it, part by part
	of      map[int]int   // of a thing: its source
	gone    map[int]bool  // sources whose things were deleted aboard, or are dropped
	fresh   map[int]bool  // sources that the record knows and that have not changed since
	entry   map[int]int   // of a source: its entry of the record
	apart   []Apart       // sources that could be a thing at another place
	cards   map[int]bool  // sources of which the thing on the card stays as it is
	back    map[int]bool  // entries of the record that were deleted aboard and come back
}

// drop chooses what goes off the card.
func (b *stowing) drop() error {
	b.dropped = map[int]bool{}
	shown := &nav.Dataset{}
	for i := range b.there.Things {
		b.there.Things[i].AddTo(shown)
	}
	for _, c := range b.Drop {
		found := false
		for i := range b.there.Things {
			if t := &b.there.Things[i]; c.Matches(t.Kind, t.Item) {
				b.dropped[i], found = true, true
			}
		}
		if found {
			continue
		}
		var near []string
		for _, n := range c.Nearest(shown) {
			near = append(near, n.String())
		}
		if len(near) == 0 {
			return advice.About(advice.LookAtUnit, b.Card, "%s: the unit shows no %s", b.Card, c.Text)
		}
		return fmt.Errorf("%s: the unit shows no %s; the nearest: %s", b.Card, c.Text, strings.Join(near, ", "))
	}
	return nil
}

// token marks the items of a source while they are fitted.
func token(source int) string { return "source " + strconv.Itoa(source) }

func sourceIn(token string) int {
	n, err := strconv.Atoi(strings.TrimPrefix(token, "source "))
	if err != nil {
		return -1
	}
	return n
}

// leave notes what would no longer be shown if the data alone were written.
func (b *stowing) leave() {
	for i := range b.there.Things {
		if _, stays := b.of[i]; !stays || b.dropped[i] {
			b.away(i)
		}
	}
}

// away notes a thing that the unit shows no more.
func (b *stowing) away(i int) {
	t := &b.there.Things[i]
	b.report.Dropped[t.Kind]++
	b.report.Gone = append(b.report.Gone, b.named(i))
}

func (b *stowing) named(i int) Thing {
	t := &b.there.Things[i]
	out := Thing{Kind: t.Kind, Word: t.Kind.One(), Name: t.Item.Name}
	if a, done := b.there.done(i); done {
		out.Aboard = a.What
	}
	return out
}

// fate is what becomes of one thing of the card.
type fate uint8

const (
	stays fate = iota
	goes
	updated
)

// fates settles what becomes of each thing, and which sources are written.
func (b *stowing) fates(ctx context.Context) (out []fate, written map[int]bool) {
	out, written = make([]fate, len(b.there.Things)), map[int]bool{}
	for i := range b.sources {
		switch things := b.same[i]; {
		case b.gone[i] && b.Mode == Add, b.cards[i] && b.Mode == Add:
		case b.Mode == Replace || len(things) == 0:
			written[i] = true
		case b.seen(things) && b.fresh[i] && !b.renames(i):
		case b.seen(things) || b.agrees(ctx, i):
			written[i] = true
		default: // changed aboard as well
			switch {
			case !b.fresh[i] && (b.Prefer == DataSide || b.settledBefore(i)):
				written[i] = true
			case !b.fresh[i]:
				b.report.Open = append(b.report.Open, b.named(things[0]))
			}
		}
	}
	for i := range out {
		source, is := b.of[i]
		switch {
		case b.dropped[i]:
			out[i] = goes
		case is && written[source]:
			out[i] = updated
		case b.Mode == Replace:
			out[i] = goes
		}
	}
	return
}

// renames says whether somebody has settled another name for what is on the card.
func (b *stowing) renames(source int) bool {
	name := b.settledFor(source)
	return name != "" && name != b.there.Things[b.same[source][0]].Item.Name
}

// seen says whether nothing was done aboard to things that the record knows.
func (b *stowing) seen(things []int) bool {
	return !slices.ContainsFunc(things, func(i int) bool {
		_, done := b.there.done(i)
		return done && b.there.Things[i].record >= 0
	})
}

// agrees says whether the data have what was done aboard, as after a merge.
func (b *stowing) agrees(ctx context.Context, source int) bool {
	alone := &nav.Dataset{}
	b.sources[source].AddTo(alone)
	fitted := b.fitted(ctx, alone)
	things := b.same[source]
	if len(fitted) != len(things) {
		return false
	}
	for i := range fitted {
		t := &b.there.Things[things[i]]
		for _, word := range changes(&t.Thing, b.there.Record[t.record].Shown) {
			if word != identity.Name && sums(&fitted[i])[word] != sums(&t.Thing)[word] {
				return false
			}
			if word == identity.Name && b.sources[source].Item.Name != t.Item.Name {
				return false
			}
		}
	}
	return true
}

// fitted are the items of data as the unit takes them; none once the context has ended, as the plan then says.
func (b *stowing) fitted(ctx context.Context, d *nav.Dataset) []identity.Thing {
	f, err := unit.Fit(ctx, d, b.profile)
	if err != nil {
		return nil
	}
	return identity.All(f.Data)
}

// plan works out the files.
func (b *stowing) plan(ctx context.Context, formats format.Formats) (*Plan, error) {
	fates, written := b.fates(ctx)
	beside := &unit.There{Given: map[string][]string{}}
	for i, f := range fates {
		t := &b.there.Things[i]
		switch f {
		case stays:
			beside.Counts[t.Kind]++
			beside.Taken = append(beside.Taken, taken(&t.Thing)...)
		case updated:
			key := token(b.of[i])
			if name := b.name(i); name != "" {
				beside.Given[key] = append(beside.Given[key], name)
			}
			beside.Taken = append(beside.Taken, taken(&t.Thing)[1:]...)
		}
	}
	b.settled(beside)
	part := &nav.Dataset{Meta: b.data.Meta}
	for i := range b.sources {
		if written[i] {
			t := b.sources[i].Copy()
			t.Item.ID = token(i)
			t.AddTo(part)
		}
	}
	fitted, err := unit.FitBeside(ctx, part, b.profile, beside)
	if err != nil {
		return nil, err
	}
	plan := &Plan{Profile: b.profile, Ledger: fitted.Ledger, Shift: fitted.Shift, formats: formats, Beside: b.report,
		Meant: &nav.Dataset{Meta: fitted.Data.Meta}}
	l := &layout{plan: plan, source: b.source, there: b.there, mode: b.Mode, entries: b.entries(fates, fitted.Data)}
	plan.Names = b.namings(l.entries)
	for i := range l.entries {
		if !l.entries[i].kept {
			l.entries[i].Item.ID = "" // which marked it while it was fitted
		}
	}
	l.place()
	if err := l.write(ctx); err != nil {
		return nil, err
	}
	if err := l.record(ctx, b); err != nil {
		return nil, err
	}
	for i, f := range fates {
		if f == goes {
			b.away(i)
		}
	}
	if b.Mode == Add {
		b.report.Stale = b.stale(fates)
		unseen := b.unseen()
		for _, i := range unseen { // what was deleted aboard stays on record, for merge to bring home
			plan.Things = append(plan.Things, b.there.Record[i])
		}
		b.report.Aboard = slices.DeleteFunc(b.there.Aboard(), func(a Aboard) bool {
			return a.thing >= 0 && fates[a.thing] != stays || a.thing < 0 && !slices.Contains(unseen, a.was)
		})
	}
	b.count(l.entries)
	plan.Gone = l.gone()
	return plan, nil
}

// office says whether the data are the list of which a card was written: the file of that name, or one that has most of
// what the record has of it. Only that can say by not having an item that the item is gone.
func (b *stowing) office(file string) bool {
	if file == b.source {
		return true
	}
	all, found := 0, 0
	known := map[int]bool{}
	for _, entry := range b.entry {
		known[entry] = true
	}
	for i := range b.there.Record {
		if r := &b.there.Record[i]; r.Source.File == file && r.Part == 0 {
			all++
			if known[i] {
				found++
			}
		}
	}
	return 2*found > all
}

// unseen lists the entries of the record that were deleted aboard and that the office may still have.
func (b *stowing) unseen() (out []int) {
	known := map[int]bool{}
	for _, entry := range b.entry {
		known[entry] = true
	}
	for _, i := range b.there.missing {
		s := &b.there.Record[i].Source
		kind, _ := nav.ParseKind(s.Kind)
		lacked := b.Chosen != nil && b.office(s.File) && b.Chosen(kind, &nav.Item{Name: s.Name, Group: s.Group})
		if !b.back[i] && (known[i] || !lacked) {
			out = append(out, i)
		}
	}
	return
}

// name is the name that a thing has on the unit and keeps: that of the record, or the one that was given aboard if the
// data have taken it over; "" where the data have another name for it than they had.
func (b *stowing) name(i int) string {
	t := &b.there.Things[i]
	name := b.sources[b.of[i]].Item.Name
	switch {
	case t.record < 0 || name == t.Item.Name:
		if unit.NewNamer(b.profile.TextOf(t.Kind)).Plain(t.Item.Name) != t.Item.Name {
			return "" // the unit shows it otherwise
		}
		return t.Item.Name
	case name == b.there.Record[t.record].Source.Name:
		return b.there.Record[t.record].Name
	}
	return ""
}

// stale lists things that stay though the data that they were made of have them no more.
func (b *stowing) stale(fates []fate) (out []Thing) {
	for i := range b.there.Things {
		t := &b.there.Things[i]
		if _, is := b.of[i]; is || fates[i] != stays || t.record < 0 || b.Chosen == nil {
			continue
		}
		s := &b.there.Record[t.record].Source
		kind, ok := nav.ParseKind(s.Kind)
		if ok && s.File == b.source && b.Chosen(kind, &nav.Item{Name: s.Name, Group: s.Group}) {
			out = append(out, b.named(i))
		}
	}
	return
}

// settledFor is the name that somebody has settled for a source: under the name that it has, or had when the card was
// written and nothing else has now; "" for none.
func (b *stowing) settledFor(source int) string {
	t := b.sources[source]
	name := b.Names.of(&t)
	if entry, known := b.entry[source]; known && name == "" {
		was := &b.there.Record[entry].Source
		t.Item = &nav.Item{Name: was.Name, Group: was.Group}
		given := b.Names.of(&t)
		if given != was.Name && !slices.ContainsFunc(b.sources, func(o identity.Thing) bool {
			return o.Kind == t.Kind && o.Item.Name == was.Name
		}) {
			name = given
		}
	}
	return name
}

// settled takes over the names that somebody has settled.
func (b *stowing) settled(beside *unit.There) {
	for i := range b.sources {
		if name := b.settledFor(i); name != "" {
			beside.Given[token(i)] = []string{name}
		}
	}
}

// taken lists the names that a thing has, those of a route's points too.
func taken(t *identity.Thing) (out []unit.TakenName) {
	p, _ := t.First()
	out = []unit.TakenName{{Kind: t.Kind, Name: t.Item.Name, At: p}}
	if t.Kind == nav.Routes {
		for i := range t.Route.Points {
			w := &t.Route.Points[i]
			out = append(out, unit.TakenName{Kind: nav.Waypoints, Name: w.Name, At: w.Point, Fix: true})
		}
	}
	return
}

// entries lists what the unit is to show: what stays and what is updated in the order of the card, then what is new.
func (b *stowing) entries(fates []fate, fitted *nav.Dataset) (out []entry) {
	all := identity.All(fitted)
	parts := map[string][]int{}
	for i := range all {
		parts[all[i].Item.ID] = append(parts[all[i].Item.ID], i)
	}
	used, next := map[int]bool{}, map[string]int{}
	for _, kind := range nav.Kinds {
		for i, f := range fates {
			t := &b.there.Things[i]
			switch {
			case t.Kind != kind || f == goes:
			case f == stays:
				out = append(out, entry{b.profile.Shown(t.Thing), t.File, -1, 0, i, true})
			default:
				key := token(b.of[i])
				n := next[key]
				next[key]++
				if n >= len(parts[key]) || all[parts[key][n]].Kind != kind {
					b.away(i) // the item has fewer parts than it had
					continue
				}
				used[parts[key][n]] = true
				e := entry{all[parts[key][n]], t.File, b.of[i], n, i, false}
				if b.Mode == Replace {
					e.file = ""
				}
				out = append(out, e)
			}
		}
		part := map[string]int{}
		for i := range all {
			key := all[i].Item.ID
			if !used[i] && all[i].Kind == kind {
				out = append(out, entry{all[i], "", sourceIn(key), part[key], -1, false})
			}
			part[key]++
		}
	}
	return
}

// count counts what becomes of things, by kind. What is written and is as it was counts as kept.
func (b *stowing) count(entries []entry) {
	for i := range entries {
		switch e := &entries[i]; {
		case e.there < 0:
			b.report.Added[e.Kind]++
		case e.kept || maps.Equal(sums(&e.Thing), sums(&b.there.Things[e.there].Thing)):
			b.report.Kept[e.Kind]++
		default:
			b.report.Updated[e.Kind]++
		}
	}
}

// gone lists the files of the unit that are not planned.
func (l *layout) gone() (out []string) {
	planned := map[string]bool{}
	for _, f := range l.plan.all() {
		planned[strings.ToUpper(f.Path)] = true
	}
	for _, f := range l.there.files {
		if !planned[strings.ToUpper(f.Path)] {
			out = append(out, f.Path)
		}
	}
	slices.Sort(out)
	return
}
