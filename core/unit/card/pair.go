package card

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"gyrolith/core/choose"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
)

// pair finds the things that are sources: by the record, and what the record does not know by name and place.
func (b *stowing) pair(ctx context.Context) {
	b.same, b.of, b.gone, b.fresh, b.entry = map[int][]int{}, map[int]int{}, map[int]bool{}, map[int]bool{}, map[int]int{}
	b.cards, b.back = map[int]bool{}, map[int]bool{}
	entry := map[int]int{} // of an entry of the record: the thing
	for i := range b.there.Things {
		if r := b.there.Things[i].record; r >= 0 {
			entry[r] = i
		}
	}
	for _, kind := range nav.Kinds {
		var mine, theirs []identity.Thing
		var at, of []int
		for i := range b.sources {
			if b.sources[i].Kind == kind {
				t := b.sources[i].Copy()
				t.Item.ID = wherever(b.source, identity.Of(&t))
				mine, at = append(mine, t), append(at, i)
			}
		}
		for i := range b.there.Record {
			if r := &b.there.Record[i]; r.Source.Kind == kind.One() && r.Part == 0 {
				s := &r.Source
				theirs, of = append(theirs, likeness(kind, s.Name, wherever(s.File, s.ID), s.Lat, s.Lon, s.Points)), append(of, i)
			}
		}
		m := identity.Match(mine, theirs, 0)
		for i, j := range m.First {
			if j >= 0 {
				b.take(at[i], of[j], entry)
			}
		}
	}
	b.unrecorded(ctx)
}

// wherever is an identity that holds in all files: of a feature the one in its own.
func wherever(file, id string) string {
	if identity.Local(id) {
		return id + " of " + file
	}
	return id
}

// take gives a source the things that were made of it, all its parts.
func (b *stowing) take(source, of int, entry map[int]int) {
	first := &b.there.Record[of]
	deleted := false
	for i := of; i < len(b.there.Record); i++ {
		r := &b.there.Record[i]
		if i > of && (r.Part == 0 || r.Source != first.Source) {
			break
		}
		deleted = deleted || slices.Contains(b.there.missing, i)
		if at, shown := entry[i]; shown {
			b.same[source] = append(b.same[source], at)
			b.of[at] = source
			if b.dropped[at] {
				b.gone[source] = true
			}
		}
	}
	if deleted || len(b.same[source]) > 0 {
		b.entry[source] = of
		b.fresh[source] = len(changes(&b.sources[source], first.Meant)) == 0
		b.gone[source] = b.gone[source] || len(b.same[source]) == 0
	}
	if deleted && b.restores(first) {
		b.back[of] = true
		delete(b.gone, source)
		b.report.Back = append(b.report.Back, Thing{Kind: b.sources[source].Kind, Word: first.Kind, Name: first.Name,
			Aboard: Deleted})
	}
}

// restores says whether what was deleted aboard is asked for again.
func (b *stowing) restores(r *Recorded) bool {
	return slices.ContainsFunc(b.Restore, func(pattern string) bool {
		pattern = strings.ToLower(pattern)
		return choose.Glob(pattern, r.Name) || choose.Glob(pattern, r.Source.Name)
	})
}

// checkRestored refuses names of which nothing was deleted aboard.
func (b *stowing) checkRestored() error {
	for _, pattern := range b.Restore {
		if !slices.ContainsFunc(b.report.Back, func(t Thing) bool { return choose.Glob(strings.ToLower(pattern), t.Name) }) {
			return fmt.Errorf("%s: nothing that was deleted aboard and that the data have is called %q", b.Card, pattern)
		}
	}
	return nil
}

// unrecorded finds the sources among what the record does not know: things with the name that a source has, or would
// have on the unit. At its place such a thing is the source. Elsewhere it is a candidate, if nothing else has the name
// on either side, and somebody has to settle which place is right.
func (b *stowing) unrecorded(ctx context.Context) {
	names := b.shownNames(ctx)
	type candidate struct {
		source, thing int
		metres        float64
	}
	var near []candidate
	ofSource, ofThing := map[int][]int{}, map[int][]int{} // candidates at other places
	byName := map[string][]int{}
	key := func(kind nav.Kind, name string) string { return kind.One() + "\x00" + name }
	for i := range b.there.Things {
		if t := &b.there.Things[i]; t.record < 0 || b.there.Record[t.record].Source.Kind == "" {
			byName[key(t.Kind, t.Item.Name)] = append(byName[key(t.Kind, t.Item.Name)], i)
		}
	}
	margin := b.profile.Margin()
	for i := range b.sources {
		for _, j := range b.ofNames(names[i], byName, key) {
			if d := identity.Apart(&b.sources[i], &b.there.Things[j].Thing); d <= margin {
				near = append(near, candidate{i, j, d})
			} else {
				ofSource[i], ofThing[j] = append(ofSource[i], j), append(ofThing[j], i)
			}
		}
	}
	slices.SortStableFunc(near, func(x, y candidate) int { return cmp.Compare(x.metres, y.metres) })
	for _, c := range near {
		if _, taken := b.of[c.thing]; !taken && b.same[c.source] == nil {
			b.is(c.source, c.thing)
		}
	}
	for i := range b.sources {
		if b.same[i] != nil || len(ofSource[i]) != 1 {
			continue
		}
		j := ofSource[i][0]
		others := slices.DeleteFunc(slices.Clone(ofThing[j]), func(k int) bool { return b.same[k] != nil })
		if _, taken := b.of[j]; !taken && len(others) == 1 {
			b.apart = append(b.apart, apartOf(&b.sources[i], &b.there.Things[j].Thing, i, j))
		}
	}
}

// shownName is a name that a source has, or would have on the unit as a thing of a kind.
type shownName struct {
	kind nav.Kind
	name string
}

// shownNames gives them, of the sources that the record doesn't know.
func (b *stowing) shownNames(ctx context.Context) map[int][]shownName {
	left, out := &nav.Dataset{}, map[int][]shownName{}
	for i := range b.sources {
		if _, known := b.entry[i]; !known && b.same[i] == nil && !b.gone[i] {
			t := b.sources[i].Copy()
			t.Item.ID = token(i)
			t.AddTo(left)
		}
	}
	fitted := b.fitted(ctx, left)
	for k := range fitted {
		t := &fitted[k]
		i := sourceIn(t.Item.ID)
		if i < 0 {
			continue
		}
		out[i] = append(out[i], shownName{t.Kind, t.Item.Name}, shownName{t.Kind, b.sources[i].Item.Name})
	}
	return out
}

// ofNames lists the things of some names, each once.
func (b *stowing) ofNames(names []shownName, byName map[string][]int, key func(nav.Kind, string) string) (out []int) {
	for _, n := range names {
		for _, j := range byName[key(n.kind, n.name)] {
			if n.name != "" && !slices.Contains(out, j) {
				out = append(out, j)
			}
		}
	}
	return
}

// is notes that a thing that the record does not know is a source.
func (b *stowing) is(source, thing int) {
	b.same[source] = append(b.same[source], thing)
	b.of[thing] = source
	if b.dropped[thing] {
		b.gone[source] = true
	}
}
