package dress

import "gyrolith/core/nav"

// alike counts the items of which a rule made the name one that another of their kind has, though the two could be told
// apart before, and gives one of these names; and those whose name it took away.
func alike(d *nav.Dataset, l nav.Ledger) (count int, name string, nameless int) {
	type named struct {
		kind nav.Kind
		name string
	}
	type renamed struct {
		count int
		were  map[string]bool
	}
	became, bearers := map[named]*renamed{}, map[named]int{}
	for i := range l {
		e := &l[i]
		switch to := (named{e.Kind, e.New}); {
		case e.What != nav.PropertyName:
		case e.New == "":
			nameless++
		default:
			if became[to] == nil {
				became[to] = &renamed{were: map[string]bool{}}
			}
			became[to].count++
			became[to].were[e.Old] = true
		}
	}
	d.Each(func(kind nav.Kind, it *nav.Item) { bearers[named{kind, it.Name}]++ })
	for to, r := range became {
		if now := bearers[to]; now > 1 && (len(r.were) > 1 || now > r.count) { // none where a later rule changed them again
			if count += min(r.count, now); name == "" || to.name < name {
				name = to.name
			}
		}
	}
	return count, name, nameless
}
