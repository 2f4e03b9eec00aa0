package card

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
)

// Returned is a card that came back, as a version of the office's list: what the record says was written is the base,
// and the office's items with what was done aboard are the newer version.
type Returned struct {
	Base, Office, Card *nav.Dataset
	Notes              []string

	ids   map[string]string     // the items' own ids, by those that they have while they are merged
	apart map[string]settlement // items at two places, by kind and name
	unit  string
}

// Settled keeps, in the folder of archives, that a merge has taken the office's place of items that the card has at
// another one, so that the next stow moves them. First says of which, by kind and name.
func (r *Returned) Settled(keep string, first func(kind, name string) bool) error {
	var all settlements
	for key, s := range r.apart {
		if kind, name, _ := strings.Cut(key, "\x00"); first(kind, name) {
			all = append(all, s)
		}
	}
	return keepSettled(keep, r.unit, all)
}

// Return reads a card that came back to the office's list.
func Return(ctx context.Context, office *nav.Dataset, p *unit.Profile, card, keep string, formats format.Formats) (
	*Returned, error) {
	there, err := LookAt(ctx, p, card, keep, formats)
	if err != nil {
		return nil, err
	}
	if len(there.Unreadable) > 0 {
		return nil, fmt.Errorf("%s: %v", card, there.Unreadable[0])
	}
	if len(there.Record) == 0 {
		return nil, advice.Errorf(advice.MergeShown, "%s: the card has no record of what was written on it, and there is no "+
			"copy of one", card)
	}
	r := &returning{there: there, profile: p, office: identity.All(office.Clone()),
		out: &Returned{Base: &nav.Dataset{}, Office: &nav.Dataset{Meta: office.Meta, Rejects: office.Rejects,
			Problems: office.Problems}, Card: &nav.Dataset{}, ids: map[string]string{},
			apart: map[string]settlement{}, unit: p.Name}}
	if there.Copied != "" {
		r.out.Notes = append(r.out.Notes, "the card has lost its record; the copy in "+there.Copied+" was used")
	}
	r.merge(ctx)
	return r.out, ctx.Err()
}

// Settle gives items their own ids again.
func (r *Returned) Settle(d *nav.Dataset) {
	d.Each(func(_ nav.Kind, it *nav.Item) {
		if id, ok := r.ids[it.ID]; ok {
			it.ID = id
		}
	})
}

// returning makes the versions of a card that came back.
type returning struct {
	there   *Occupants
	profile *unit.Profile
	office  []identity.Thing
	left    []string // what is on the card as it was written, and not in the office's list
	out     *Returned
}

func (r *returning) merge(ctx context.Context) {
	b := &stowing{there: r.there, profile: r.profile, sources: r.office, report: &Beside{}, dropped: map[int]bool{}}
	b.pair(ctx)
	apart := map[int]int{} // of an item of the office's: the thing at another place
	for _, a := range b.apart {
		apart[a.source] = a.thing
		t := &r.there.Things[a.thing].Thing
		r.out.apart[a.Word+"\x00"+a.Name] = settlementOf(t, &r.office[a.source])
		b.is(a.source, a.thing)
	}
	met := map[int]bool{} // entries of the record that are items of the office's
	for i := range r.office {
		t := &r.office[i]
		id := "item " + strconv.Itoa(i)
		r.out.ids[id] = t.Item.ID
		t.Item.ID = id
		t.AddTo(r.out.Office)
		if entry, known := b.entry[i]; known {
			met[entry] = true
			r.known(t, entry, b.same[i])
		} else if thing, is := apart[i]; is {
			r.twice(t, &r.there.Things[thing].Thing)
		} else { // it was not on the card, or nobody knows since when
			r.equal(t)
		}
	}
	for i := range r.there.Record {
		if e := &r.there.Record[i]; !met[i] && e.Part == 0 && e.Source.Kind != "" {
			r.forgotten(i)
		}
	}
	if n := len(r.left); n > 0 {
		const few = 5
		list := listed(r.left[:min(n, few)])
		if n > few {
			list = fmt.Sprintf("%s, and %d more", strings.Join(r.left[:few], ", "), n-few)
		}
		r.out.Notes = append(r.out.Notes, "unchanged on the card, and not in the office's list: "+list)
	}
	for i := range r.there.Things {
		t := &r.there.Things[i]
		if _, is := b.of[i]; is || t.record >= 0 && r.there.Record[t.record].Source.Kind != "" {
			continue
		}
		r.add(r.out.Card, r.home(&t.Thing), "", "made "+strconv.Itoa(i))
	}
}

// add adds a copy of a thing under an id.
func (r *returning) add(d *nav.Dataset, t identity.Thing, own, id string) {
	r.out.ids[id] = own
	t.Item.ID = id
	t.AddTo(d)
}

// known makes the versions of an item of the office's that was on the card.
func (r *returning) known(t *identity.Thing, entry int, things []int) {
	was := &r.there.Record[entry]
	base, card := t.Copy(), t.Copy()
	office := changes(t, was.Meant)
	if len(things) == 0 { // deleted aboard
		r.differ(&base, office, was)
		base.AddTo(r.out.Base)
		return
	}
	if len(things) > 1 || r.parted(entry) {
		r.parts(t, &base, &card, entry, things)
		return
	}
	shown := &r.there.Things[things[0]].Thing
	aboard := changes(shown, was.Shown)
	if slices.Contains(aboard, identity.Position) && slices.Contains(office, identity.Position) {
		own := t.Copy()
		own.Item.ID = r.out.ids[t.Item.ID]
		r.out.apart[t.Kind.One()+"\x00"+t.Item.Name] = settlementOf(shown, &own)
	}
	home := r.home(shown)
	for _, word := range aboard {
		if p := property(word, &card, &home); p != nil && home.Kind == card.Kind {
			p.Take(&card, &home)
		}
	}
	var both []string
	for _, word := range office {
		if slices.Contains(aboard, word) {
			both = append(both, word)
		}
	}
	r.differ(&base, both, was)
	base.AddTo(r.out.Base)
	if home.Kind != card.Kind && len(aboard) > 0 {
		r.out.Notes = append(r.out.Notes, fmt.Sprintf("%s %q was changed aboard, where it is a %s: the change of its line "+
			"is not taken "+
			"back", t.Kind.One(), t.Item.Name, home.Kind.One()))
	}
	card.AddTo(r.out.Card)
}

// parted says whether an item has several parts on the unit.
func (r *returning) parted(entry int) bool {
	next := entry + 1
	return next < len(r.there.Record) && r.there.Record[next].Part > 0
}

// parts handles an item that was parted for the unit: what was done to its parts can only be told.
func (r *returning) parts(t, base, card *identity.Thing, entry int, things []int) {
	for _, i := range things {
		if of := r.there.Things[i].record; of >= 0 && len(changes(&r.there.Things[i].Thing, r.there.Record[of].Shown)) > 0 {
			r.out.Notes = append(r.out.Notes, fmt.Sprintf("%s %q was split for the unit, and its part %q was changed aboard: "+
				"the change is not taken back", t.Kind.One(), t.Item.Name, r.there.Things[i].Item.Name))
		}
	}
	base.AddTo(r.out.Base)
	card.AddTo(r.out.Card)
}

// differ makes properties of the base differ from both versions, as they do though the base's own values are not known
// but for the name and the place.
func (r *returning) differ(base *identity.Thing, words []string, was *Recorded) {
	s := &was.Source
	old := likeness(base.Kind, s.Name, "", s.Lat, s.Lon, 1)
	old.Item.Group = s.Group
	for _, word := range words {
		if p := property(word, base, &old); p != nil {
			p.Take(base, &old)
		}
	}
}

// property finds a property by its word.
func property(word string, things ...*identity.Thing) *identity.Property {
	for _, p := range identity.Properties(things...) {
		if p.Word == word {
			return &p
		}
	}
	return nil
}

// equal makes the versions of an item with which the card has nothing to do: all are the office's.
func (r *returning) equal(t *identity.Thing) {
	base, card := t.Copy(), t.Copy()
	base.AddTo(r.out.Base)
	card.AddTo(r.out.Card)
}

// twice makes the versions of an item that both sides added, at two places: all else is the office's.
func (r *returning) twice(t, shown *identity.Thing) {
	card, home := t.Copy(), r.home(shown)
	for _, word := range []string{identity.Position, identity.Course} {
		if p := property(word, &card, &home); p != nil && home.Kind == card.Kind {
			p.Take(&card, &home)
		}
	}
	card.AddTo(r.out.Card)
}

// forgotten makes the versions of what was on the card and is not the office's any more.
func (r *returning) forgotten(entry int) {
	was := &r.there.Record[entry]
	at := slices.IndexFunc(r.there.Things, func(t Present) bool { return t.record == entry })
	id := "gone " + strconv.Itoa(entry)
	if at < 0 {
		return // both have deleted it
	}
	shown := &r.there.Things[at].Thing
	aboard := changes(shown, was.Shown)
	if len(aboard) == 0 {
		r.left = append(r.left, fmt.Sprintf("%s %q", was.Source.Kind, was.Source.Name))
		return
	}
	card := r.home(shown)
	if !slices.Contains(aboard, identity.Name) {
		card.Item.Name = was.Source.Name
	}
	card.Item.Group = was.Source.Group
	base := card.Copy()
	r.differ(&base, aboard, was)
	r.add(r.out.Base, base, identity.Own(was.Source.ID), id)
	r.add(r.out.Card, card, identity.Own(was.Source.ID), id)
}

// home is a thing of the unit as the office has it: with the neutral words for symbols.
func (r *returning) home(t *identity.Thing) identity.Thing {
	out := t.Copy()
	if word := r.profile.Neutral(out.Item.Style.Symbol); word != "" {
		out.Item.Style.Symbol = word
	}
	out.Item.Kept = nil
	if out.Kind == nav.Routes {
		out.Route.Points = slices.Clone(out.Route.Points)
		for i := range out.Route.Points {
			w := &out.Route.Points[i]
			if word := r.profile.Neutral(w.Style.Symbol); word != "" {
				w.Style.Symbol = word
			}
		}
	}
	return out
}

// String is the deed in a line, such as: moved waypoint "Rock 3".
func (a *Aboard) String() string {
	return strings.TrimSpace(fmt.Sprintf("%s %s %q", a.What, a.Word, a.Name))
}
