// Package merge makes one list of two versions of it: with the version that both come from, what either side added,
// moved, renamed, changed or deleted is taken, and what both changed is a conflict; without it, what either has is
// taken.
package merge

import (
	"context"
	"fmt"

	"gyrolith/core/identity"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// Prefer says which of two values is taken where both sides changed a property.
type Prefer string

// The preferences.
const (
	None   Prefer = ""      // the first is taken, and the conflict stands
	First  Prefer = "first" // the first settles it
	Second Prefer = "second"
	Newer  Prefer = "newer" // that of the later item, by its time or a field
)

// Options say how versions are merged.
type Options struct {
	Prefer  Prefer
	NewerBy string // the field that tells how new an item is; "" is the item's own time

	// Within is how many metres apart positions may be that are the same, such as those that a format rounded.
	Within float64
}

// Change is one thing that a side did, or a conflict.
type Change struct {
	Kind     nav.Kind `json:"-"`
	Word     string   `json:"kind"`
	Name     string   `json:"name,omitempty"`
	Property string   `json:"property,omitempty"`
	Base     string   `json:"base,omitempty"`
	First    string   `json:"first,omitempty"`
	Second   string   `json:"second,omitempty"`
	Side     string   `json:"by,omitempty"`      // first or second
	Settled  string   `json:"taken,omitempty"`   // of a conflict that is settled: first or second
	Metres   float64  `json:"shift_m,omitempty"` // of a move

	// of a conflict: the items' own times, or what the field says that tells how new they are
	FirstTime  string `json:"first_time,omitempty"`
	SecondTime string `json:"second_time,omitempty"`
}

// Report says what a merge did.
type Report struct {
	Added     []Change `json:"added"`
	Removed   []Change `json:"removed"`
	Moved     []Change `json:"moved"`
	Changed   []Change `json:"changed"`
	Conflicts []Change `json:"conflicts"`
	Ambiguous []Change `json:"ambiguous"` // items that could be any of several, and stay as they are on both sides
	NotHeld   []string `json:"not_held"`  // properties that no item of a side has, so that it can't have deleted them
	Same      int      `json:"same"`      // items that are the same on both sides

	Other *nav.Dataset `json:"-"` // the versions that were not taken, of items in conflict
}

// Open counts the conflicts that nothing settles.
func (r *Report) Open() (n int) {
	for i := range r.Conflicts {
		if r.Conflicts[i].Settled == "" {
			n++
		}
	}
	return
}

// Merge merges two versions; base is the one that both come from, nil where there is none. The versions stay as they
// are. What describes the file is the first's; items that the second added stand behind those of the first. The error
// is that of the context.
func Merge(ctx context.Context, base, first, second *nav.Dataset, opt Options) (*nav.Dataset, *Report, error) {
	m := &merging{opt: opt, report: &Report{Other: &nav.Dataset{}}, more: &nav.Dataset{}}
	m.more.Meta.Attachments = second.Meta.Attachments
	out := &nav.Dataset{Meta: first.Meta, Rejects: first.Rejects, Problems: first.Problems}
	for _, kind := range nav.Kinds {
		if err := m.kind(ctx, out, base, first, second, kind); err != nil {
			return nil, nil, err
		}
	}
	if m.more.Counts() != [4]int{} {
		out.Merge(m.more)
	}
	return out, m.report, nil
}

// merging is a merge that is being made.
type merging struct {
	opt    Options
	report *Report
	more   *nav.Dataset          // what the second side added
	says   [2]identity.PointsSay // what the lines of each side say of their points, of the kind that is merged
}

// versions are those of one item; nil where a side has none.
type versions struct{ base, first, second *identity.Thing }

func (m *merging) kind(ctx context.Context, out, base, first, second *nav.Dataset, kind nav.Kind) error {
	a, b := identity.Things(first, kind), identity.Things(second, kind)
	var c []identity.Thing
	if base != nil {
		c = identity.Things(base, kind)
	}
	items := m.match(c, a, b)
	missing := [2]map[string]bool{}
	m.says = [2]identity.PointsSay{all, all}
	if base != nil {
		missing = [2]map[string]bool{
			m.notHeld(kind, items, a, "first", func(v *versions) *identity.Thing { return v.first }),
			m.notHeld(kind, items, b, "second", func(v *versions) *identity.Thing { return v.second }),
		}
		m.ofPoints(kind, c, a, b)
	}
	for i := range items {
		if err := ctx.Err(); err != nil {
			return err
		}
		v := &items[i]
		one := m.item(v, base != nil, missing)
		switch {
		case one == nil:
		case v.first == nil && v.base == nil:
			one.AddTo(m.more)
		default:
			one.AddTo(out)
		}
	}
	return nil
}

// match finds the versions of each item, in the order of the first list, then of what is in the base alone, and then of
// the second.
func (m *merging) match(base, first, second []identity.Thing) (items []versions) {
	at := func(list []identity.Thing, i int) *identity.Thing {
		if i < 0 {
			return nil
		}
		return &list[i]
	}
	toFirst, toSecond := identity.Match(base, first, m.opt.Within), identity.Match(base, second, m.opt.Within)
	m.ambiguous(base, toFirst)
	m.ambiguous(base, toSecond)
	unmatched := func(inBase []int) (free []int) {
		for i, b := range inBase {
			if b < 0 {
				free = append(free, i)
			}
		}
		return
	}
	freeFirst, freeSecond := unmatched(toFirst.Second), unmatched(toSecond.Second)
	pick := func(list []identity.Thing, which []int) (out []identity.Thing) {
		for _, i := range which {
			out = append(out, list[i])
		}
		return
	}
	own := pick(first, freeFirst)
	met := identity.MatchUnrelated(own, pick(second, freeSecond), m.opt.Within)
	m.ambiguous(own, met)
	partner := make([]int, len(first)) // in the second list
	for i := range partner {
		partner[i] = -1
	}
	taken := make([]bool, len(second))
	for i, f := range freeFirst {
		if j := met.First[i]; j >= 0 {
			partner[f] = freeSecond[j]
			taken[freeSecond[j]] = true
		}
	}
	for i := range first {
		v := versions{first: &first[i]}
		if b := toFirst.Second[i]; b >= 0 {
			v.base, v.second = &base[b], at(second, toSecond.First[b])
		} else {
			v.second = at(second, partner[i])
		}
		items = append(items, v)
	}
	for i := range base {
		if toFirst.First[i] < 0 {
			items = append(items, versions{&base[i], nil, at(second, toSecond.First[i])})
		}
	}
	for _, j := range freeSecond {
		if !taken[j] {
			items = append(items, versions{second: &second[j]})
		}
	}
	return
}

// ambiguous notes the items that could be any of several.
func (m *merging) ambiguous(list []identity.Thing, met *identity.Matching) {
	for _, i := range met.Ambiguous[0] {
		t := &list[i]
		m.report.Ambiguous = append(m.report.Ambiguous, Change{Kind: t.Kind, Word: t.Kind.One(), Name: t.Item.Name})
	}
}

// notHeld lists the properties that some items of the base have and no item of a side: those that its format or unit
// has no place for. It can't be told from their deletion, which nobody does for all items.
func (m *merging) notHeld(kind nav.Kind, items []versions, side []identity.Thing, which string,
	of func(*versions) *identity.Thing) map[string]bool {
	has, out := identity.Said(side), map[string]bool{"id": true, "details": true}
	for i := range items {
		if items[i].base == nil || of(&items[i]) == nil {
			continue
		}
		for _, p := range identity.Properties(items[i].base) {
			if !has[p.Word] && !out[p.Word] {
				out[p.Word] = true
				m.report.NotHeld = append(m.report.NotHeld, fmt.Sprintf("%s of %s (%s)", p.Word, kind, which))
			}
		}
	}
	return out
}

// all is all that points can say.
const all = identity.Heights | identity.Times | identity.Values | identity.Items

// ofPoints finds what the points of the base say and those of no line of a side: what its format has no place for.
func (m *merging) ofPoints(kind nav.Kind, base, first, second []identity.Thing) {
	if kind == nav.Waypoints {
		return
	}
	had, _ := identity.Says(base...)
	for i, side := range [2][]identity.Thing{first, second} {
		has, _ := identity.Says(side...)
		m.says[i] = all &^ (had &^ has)
		for k, word := range [...]string{"heights", "times", "values", "names"} { // in the order of what points say
			if len(side) > 0 && m.says[i]&(1<<k) == 0 {
				m.report.NotHeld = append(m.report.NotHeld, fmt.Sprintf("%s of the points of %s (%s)", word, kind,
					[2]Prefer{First, Second}[i]))
			}
		}
	}
}

// sameAs says whether a side left a property as the base has it, as far as the side can hold it.
func (m *merging) sameAs(base, t *identity.Thing, p *identity.Property, side int) bool {
	if p.Word != identity.Course || base == nil || t == nil || p.Get(base) == p.Get(t) {
		return m.same(p, base, t)
	}
	both := m.says[side]
	had, high := identity.Says(*base)
	if has, _ := identity.Says(*t); had&^has&identity.Heights != 0 && !high { // layers have heights at all points or none
		both &^= identity.Heights
	}
	return identity.SameLine(base, t, m.opt.Within, both)
}

// fullest takes the line of that version which says most of its points, of versions that are the same.
func fullest(out *identity.Thing, p *identity.Property, v *versions) {
	said, _ := identity.Says(*out)
	for _, t := range []*identity.Thing{v.second, v.base} {
		if t == nil {
			continue
		}
		if more, _ := identity.Says(*t); more&^said != 0 && said&^more == 0 {
			p.Take(out, t)
			said = more
		}
	}
}

// item makes one item of its versions; nil where it is deleted.
func (m *merging) item(v *versions, three bool, missing [2]map[string]bool) *identity.Thing {
	switch {
	case v.first != nil && v.second != nil:
		return m.join(v, three && v.base != nil, missing)
	case v.base == nil && v.first != nil:
		if three {
			m.note(&m.report.Added, v.first, Change{Side: string(First)})
		}
		return v.first
	case v.base == nil:
		m.note(&m.report.Added, v.second, Change{Side: string(Second)})
		return v.second
	case v.first == nil && v.second == nil:
		m.note(&m.report.Removed, v.base, Change{Side: "both"})
		return nil
	}
	return m.deleted(v, missing)
}

// deleted settles an item that one side deleted: if the other left it alone it goes, else it stays, and is a conflict.
func (m *merging) deleted(v *versions, missing [2]map[string]bool) *identity.Thing {
	left, by, other, side := v.first, Second, First, 0
	if left == nil {
		left, by, other, side = v.second, First, Second, 1
	}
	changed := ""
	for _, p := range identity.Properties(v.base, left) {
		if p.Word != "id" && !m.sameAs(v.base, left, &p, side) && !(missing[side][p.Word] && p.Get(left) == "") {
			changed = p.Word
			break
		}
	}
	if changed == "" {
		m.note(&m.report.Removed, left, Change{Side: string(by)})
		return nil
	}
	c := Change{Property: changed, First: "deleted", Second: "deleted"}
	if by == First {
		c.Second = "changed"
	} else {
		c.First = "changed"
	}
	keep := true
	switch m.opt.Prefer {
	case First, Second:
		c.Settled = string(m.opt.Prefer)
		keep = m.opt.Prefer == other
	}
	m.note(&m.report.Conflicts, left, c)
	if !keep {
		left.AddTo(m.report.Other)
		return nil
	}
	return left
}

// join makes one item of two versions, property by property.
func (m *merging) join(v *versions, three bool, missing [2]map[string]bool) *identity.Thing {
	out := v.first.Copy()
	same := true
	var left [2]bool // the sides of which something was not taken
	for _, p := range identity.Properties(v.base, v.first, v.second) {
		first, second := p.Get(v.first), p.Get(v.second)
		if m.same(&p, v.first, v.second) {
			if first == "" && three && missing[0][p.Word] && missing[1][p.Word] { // neither side can store it
				p.Take(&out, v.base)
			}
			continue
		}
		isID := p.Word == "id"
		var changed [2]bool
		if three {
			changed = [2]bool{!m.sameAs(v.base, v.first, &p, 0) && !(missing[0][p.Word] && first == ""),
				!m.sameAs(v.base, v.second, &p, 1) && !(missing[1][p.Word] && second == "")}
		} else {
			changed = [2]bool{first != "", second != ""} // what one side alone has is taken
		}
		switch {
		case isID || p.Word == "details": // the first's own stays
			if first == "" {
				p.Take(&out, v.second)
			}
		case !changed[0] && !changed[1]: // a side can't store it
			if first == "" {
				p.Take(&out, v.second)
			}
			if p.Word == identity.Course && v.base != nil {
				fullest(&out, &p, v)
			}
		case !changed[0]:
			same = false
			p.Take(&out, v.second)
			m.changed(v, &p, Second)
		case !changed[1]:
			same = false
			if three {
				m.changed(v, &p, First)
			}
		default:
			same = false
			if m.settle(v, &p, &out) == Second {
				left[0] = true
			} else {
				left[1] = true
			}
		}
	}
	if same {
		m.report.Same++
	}
	for i, t := range [2]*identity.Thing{v.first, v.second} {
		if left[i] {
			t.AddTo(m.report.Other)
		}
	}
	return &out
}

// same says whether two versions have the same value of a property: positions within the distance are the same.
func (m *merging) same(p *identity.Property, a, b *identity.Thing) bool {
	if p.Get(a) == p.Get(b) {
		return true
	}
	if a == nil || b == nil {
		return false
	}
	switch p.Word {
	case identity.Position:
		return identity.Apart(a, b) <= m.opt.Within
	case identity.Course:
		return identity.SameLine(a, b, m.opt.Within, all)
	}
	return false
}

// changed notes what a side alone changed.
func (m *merging) changed(v *versions, p *identity.Property, by Prefer) {
	c := Change{Property: p.Word, Base: p.Show(v.base), First: p.Show(v.first), Second: p.Show(v.second),
		Side: string(by)}
	if p.Word == identity.Position {
		from := v.base
		if from == nil {
			from = v.first
		}
		to := v.second
		if by == First {
			to = v.first
		}
		c.Metres = identity.Apart(from, to)
		m.note(&m.report.Moved, v.first, c)
		return
	}
	m.note(&m.report.Changed, v.first, c)
}

// settle takes one of two values that both sides changed, and notes the conflict. It says whose was taken.
func (m *merging) settle(v *versions, p *identity.Property, out *identity.Thing) Prefer {
	c := Change{Property: p.Word, Base: p.Show(v.base), First: p.Show(v.first), Second: p.Show(v.second)}
	if p.Word == identity.Position {
		c.Metres = identity.Apart(v.first, v.second)
	}
	c.FirstTime, c.SecondTime = m.date(v.first), m.date(v.second)
	taken := m.opt.Prefer
	if taken == Newer {
		taken = m.newer(v)
	}
	c.Settled = string(taken)
	m.note(&m.report.Conflicts, v.first, c)
	if taken == Second {
		p.Take(out, v.second)
	}
	return taken
}

// date is how new a version is, as a text; "" where that is not known.
func (m *merging) date(t *identity.Thing) string {
	if m.opt.NewerBy != "" {
		text, _ := nav.Get(t.Item.Fields, m.opt.NewerBy)
		return text
	}
	if _, last, ok := t.Times(); ok {
		return string(instant.Append(nil, last, instant.Seconds))
	}
	return ""
}

// newer says which version of an item is the later one; None where that can't be told.
func (m *merging) newer(v *versions) Prefer {
	at := func(t *identity.Thing) (int64, bool) {
		if m.opt.NewerBy == "" {
			_, last, ok := t.Times()
			return last, ok
		}
		text, _ := nav.Get(t.Item.Fields, m.opt.NewerBy)
		moment, err := instant.ParseMoment(text, nil, false)
		return moment.UnixNano(), err == nil
	}
	first, ok := at(v.first)
	second, ok2 := at(v.second)
	switch {
	case !ok && !ok2 || ok && ok2 && first == second:
		return None
	case !ok2 || ok && first > second:
		return First
	}
	return Second
}

func (m *merging) note(list *[]Change, t *identity.Thing, c Change) {
	c.Kind, c.Word, c.Name = t.Kind, t.Kind.One(), t.Item.Name
	*list = append(*list, c)
}
